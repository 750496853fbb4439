"""Belief: what a piece is and how sure that is; every conclusion a distribution, never a single
guess.

Takes a present record; judges nothing.
"""
