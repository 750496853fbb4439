"""Greyfell: what a salvaged transformer is, whether it is sound, and the next safe step."""

__version__ = "0.1.0"
