"""From what on a reading shows iron and turns between two points, not wire."""

SHOWN_OHMS = 3.0
"""From this reactance on, two points have iron and turns between them, not wire. House rule."""
SHOWN_SHARE = 0.001
"""Volts sensed below this share of the driven may be picked up. House rule."""
LIMITS_TO_SD = 2.4
"""The limits of two figures of a ratio, added, over the standard deviation of its logarithm:
triangular, JCGM 100:2008 4.3.9."""
