"""Bench instruments that type for you: reading only. Nothing sent from here can put power on
anything.
"""
