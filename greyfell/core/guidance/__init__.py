"""Guidance: what to do next, and in which words.

Everything here takes an identification."""
