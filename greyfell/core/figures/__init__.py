"""Figures: a value with its range, how figures are written and read, constants and tables with one
place each.

Nothing here knows of records or transformers; everything else may use it.
"""
