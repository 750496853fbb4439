"""Families of pieces: one module a family, with all that is believed, drawn, said and barred of it.

The truth side keeps its own idea of them.
"""
