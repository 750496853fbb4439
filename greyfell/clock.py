"""The one clock of page, command line and store. What a record says of age and of times to come is
worked out by it; the core has none, and a test sets this one.
"""

from datetime import UTC, datetime


def moment() -> datetime:
    """This moment, with its zone."""
    return datetime.now(UTC)
