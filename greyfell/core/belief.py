"""What identification believes while faults are judged, and what a fault is."""

from dataclasses import dataclass
from typing import Literal

from greyfell.core.family import Hypothesis
from greyfell.core.voltages import Solution

Severity = Literal["note", "caution", "stop"]


@dataclass(frozen=True)
class Fault:
    """A fault the readings show: code and severity of the format, leads, readings, and a sentence
    with what to check.
    """

    code: str
    severity: Severity
    leads: tuple[str, ...]
    readings: tuple[str, ...]
    sentence: str


@dataclass(frozen=True)
class Belief:
    """What identification believes while faults are judged: the leading hypothesis and roles with
    probabilities.
    """

    best: Hypothesis | None
    index: int
    roles: tuple[dict[str, float], ...]
    solution: Solution | None
    outliers: tuple[tuple[int, float], ...]
