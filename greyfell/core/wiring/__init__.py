"""Wiring: readings across leads become windings with taps, joints, leaks and contradictions.

Only ohms and what can be seen decide here; what a winding is for is belief."""
