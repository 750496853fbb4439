"""When something was read, said or changed, and which of two came later.

Nothing is judged by its place in a list: what was entered last need not have been read last. A time
that nobody noted, or that two have in common, settles nothing: whoever asks takes the worse of the
two. Nothing here reads a clock.
"""

import math
import re
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any, TypeVar

SITTING = timedelta(hours=12)
"""Readings no further apart were taken at one sitting: nothing changed between them by itself.
House rule."""
STALE = timedelta(days=366)
"""A bond and an insulation older than this are read again before first power: strands corrode,
insulation takes up damp. Common practice; portable tools are tested once a year."""
SLACK = timedelta(hours=1)
"""Clocks differ by less; a time further ahead of now is a time to come. House rule."""
_DIGITS = re.compile(r"(\d+)")


T = TypeVar("T")


def moment(at: str | None) -> datetime | None:
    """A time as it was written, as a moment; None where none was noted.

    >>> moment("2026-05-02T10:12:00+01:00").hour, moment(None)
    (10, None)
    """
    return None if at is None else datetime.fromisoformat(at)


def after(one: str | None, other: str | None) -> bool:
    """Whether one time is surely later than another: both are noted, and differ.

    >>> after("2026-05-02T10:12:00+01:00", "2026-05-02T10:12:00+02:00")
    True
    >>> after("2026-05-02T10:12:00+01:00", None)
    False
    """
    first, second = moment(one), moment(other)
    return first is not None and second is not None and first > second


def in_order(some: Iterable[T]) -> list[T]:
    """Things in the order of their times, those without one first; of one time by their ids.

    The same whatever order they were entered in.
    """
    return sorted(some, key=_place)


def _place(thing: Any) -> tuple[float, list[tuple[int, str]]]:
    when = moment(thing.at)
    return (-math.inf if when is None else when.timestamp(), _counted(thing.id or repr(thing)))


def _counted(name: str) -> list[tuple[int, str]]:
    """An id so that r9 comes before r10."""
    parts = _DIGITS.split(name)
    return [(int(x), "") if x.isdigit() else (-1, x) for x in parts]


def within_sitting(one: str | None, other: str | None) -> bool:
    """Whether two times lie within one sitting; an unknown one may.

    >>> within_sitting("2026-05-02T10:00:00+00:00", "2026-05-02T22:00:01+00:00")
    False
    """
    first, second = moment(one), moment(other)
    return first is None or second is None or abs(first - second) <= SITTING


def to_come(at: str | None, now: datetime) -> bool:
    """Whether a time lies ahead of now by more than clocks differ."""
    when = moment(at)
    return when is not None and when > now + SLACK


def stale(at: str | None, now: datetime) -> bool:
    """Whether what was read at a time is older than a year, or of no known age."""
    when = moment(at)
    return when is None or when < now - STALE
