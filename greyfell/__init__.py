"""Greyfell: what a salvaged transformer is, whether it is sound, and the next safe step."""

import os

__version__ = "0.5.0"

# The matrices here have tens of rows: threads for large ones only cost processor time at the start.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
