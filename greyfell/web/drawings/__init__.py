"""Drawings: a core result becomes placed shapes (plain numbers); one macro writes any of them as
SVG.
"""
