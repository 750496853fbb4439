"""The job itself: physics, inference and judgement. No interface, no database, no files, no
clock.
"""

CORE_VERSION = "14"
"""Raised whenever a conclusion could change for the same record; cached conclusions carry it."""
