"""A state sheet: every position of a switch box with the volts expected between every two points,
to print, to type back, and each compared.
"""

import itertools
from collections.abc import Mapping, Sequence

from msgspec import Struct

from greyfell.core.errors import FieldError

WITHIN = 0.12
"""Read over expected: mains wander and regulation. House rule."""
NOUGHT = 5.0
"""Volts that a meter may show where none are expected: ghosts. Common practice."""


UNPROVED = "the halves' polarity is not read: joined the wrong way they are a short"


class OutputState(Struct, frozen=True, kw_only=True):
    """One position: what is switched how, whether it may be, and the volts between every two points
    (None where they float).
    """

    name: str
    volts: Mapping[tuple[str, str], float | None]
    refused: str = ""


def halves_states(volts: float, *, proved: bool) -> list[OutputState]:
    """Two windings of so many volts each behind a switch of two positions: both in series, both in
    parallel, and off; what must not be is told with its reason. V. Kirchhoff.

    >>> [s.volts[("L", "N")] for s in halves_states(115.0, proved=True)]
    [0.0, 230.0, 115.0]
    """
    pairs = list(itertools.combinations(("L", "N", "case", "earth"), 2))
    why = "" if proved else UNPROVED

    def at(out: float) -> dict[tuple[str, str], float | None]:
        found: dict[tuple[str, str], float | None] = dict.fromkeys(pairs)
        found["L", "N"] = out
        found["case", "earth"] = 0.0
        return found

    return [
        OutputState(name="off", volts=at(0.0)),
        OutputState(name="in series", volts=at(2 * volts), refused=why),
        OutputState(name="in parallel", volts=at(volts), refused=why),
    ]


def single_states(volts: float) -> list[OutputState]:
    """One winding behind a switch: off, and on. V.

    >>> [s.volts[("L", "N")] for s in single_states(230.0)]
    [0.0, 230.0]
    """
    series = halves_states(volts / 2, proved=True)
    return [series[0], OutputState(name="on", volts=series[1].volts)]


class StateCompared(Struct, frozen=True, kw_only=True):
    """One figure of the sheet: position, pair, expected and read, and what that says."""

    state: str
    pair: tuple[str, str]
    expected: float | None
    read: float
    holds: bool
    words: str


def compared(
    states: Sequence[OutputState], read: Mapping[tuple[str, str, str], float]
) -> list[StateCompared]:
    """What was read beside what the sheet expects; only what was read. Raises FieldError for a
    position or a pair that the sheet has not, for volts that are none.
    """
    known = {s.name: s for s in states}
    out = []
    for (name, one, two), value in read.items():
        state = known.get(name)
        pair = (one, two)
        if state is None or pair not in state.volts:
            raise FieldError("state", f"The sheet has no {name}, {one} to {two}.")
        if value < 0 or value > 1000:
            raise FieldError("volts", "Volts of a sheet lie between 0 and 1000.")
        out.append(_compare(state, pair, value))
    return out


def _compare(state: OutputState, pair: tuple[str, str], value: float) -> StateCompared:
    expected = state.volts[pair]
    if expected is None:
        return _said(state, pair, value, holds=True, words="floats: a ghost of any size is none")
    if expected == 0.0:
        holds = value <= NOUGHT
        words = "nothing there, as it should be" if holds else "live where nothing should be: stop"
        return _said(state, pair, value, holds=holds, words=words)
    holds = abs(value / expected - 1) <= WITHIN
    words = "as expected" if holds else _why(value / expected)
    return _said(state, pair, value, holds=holds, words=words)


def _why(ratio: float) -> str:
    """The slip that a wrong figure looks like."""
    if ratio < 0.05:
        return "nought: the halves oppose each other, or a lead is open; off at once"
    if 0.4 < ratio < 0.6:
        return "half: one half alone, or parallel where series was meant"
    if 1.8 < ratio < 2.2:
        return "twice: series where parallel was meant; off at once"
    return "none of the usual slips: off, and the wiring read again"


def _said(
    state: OutputState, pair: tuple[str, str], value: float, *, holds: bool, words: str
) -> StateCompared:
    return StateCompared(
        state=state.name,
        pair=pair,
        expected=state.volts[pair],
        read=value,
        holds=holds,
        words=words,
    )
