"""Where a reading falls: the usual range, the reading as a mark on it, and one sentence."""

import math
from typing import Any

from msgspec import Struct

from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.fault import FAULTS, Fault
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.screening import HIGH_RANGE_OHMS
from greyfell.core.telling.words import Mood, role_words, with_article

LEAST, MOST = 0.01, 100e6
"""Ends of the ohms scale that bands are drawn on, Ω, logarithmic."""
MUST_BE_OPEN = (HIGH_RANGE_OHMS, MOST)
"""Where insulation should read, Ω."""
IRON_OHMS = 0.5
"""Up to this a lead that is the core reads to it, Ω. Common practice."""
WHOLE = 0.995
"""From this share a stretch of a winding counts as all of it."""
USUAL = 0.8
"""From this chance of its role a reading is called usual for it."""

Range = tuple[float, float] | None


class Band(Struct, frozen=True):
    """A reading on its scale: points, value with probes off (infinite for open), usual range, mood
    and sentence; `limit` is what the reading may err by.
    """

    reading: Any
    points: tuple[str, str]
    ohms: float
    limit: float
    usual: Range
    mood: Mood
    sentence: str
    slip: str = ""

    @property
    def open_between(self) -> bool:
        """Whether it reads open between two leads, as separate windings must."""
        return math.isinf(self.ohms) and "core" not in self.points

    @property
    def shown(self) -> str:
        """The figure as it is read out."""
        if math.isinf(self.ohms):
            return "OL"
        if self.ohms <= self.limit:
            return f"< {engineering(max(self.ohms, 0.0) + self.limit, 'Ω', 2)}"
        return engineering(self.ohms, "Ω")


class _Said(Struct, frozen=True):
    """What is said of a reading."""

    usual: Range
    mood: Mood
    sentence: str
    slip: str = ""


def bands(ident: Identification) -> list[Band]:
    """One band for every ohms reading that stands, in the order of the record."""
    expected = _expected(ident)
    out = []
    for r in ident.record.standing:
        if not r.of_wire:
            continue
        points = r.ohms_between
        read = ohms_of(r)
        said = _say(r, points, read.ohms, ident, expected)
        out.append(
            Band(
                reading=r,
                points=points,
                ohms=read.ohms,
                limit=read.limit,
                usual=said.usual,
                mood=said.mood,
                sentence=said.sentence,
                slip=said.slip,
            )
        )
    return out


def _expected(ident: Identification) -> dict[int, tuple[float, float]]:
    """Per winding, the ohms that all other evidence lets expect (95 %), from the leading
    hypothesis.
    """
    solution = ident.belief.solution
    out: dict[int, tuple[float, float]] = {}
    for j, row in enumerate(solution.rows if solution is not None else ()):
        if solution is not None and row.kind == "ohms":
            mean, sd = solution.predicted(ident.belief.index, j)
            out[row.coils[0]] = (math.exp(mean - 1.96 * sd), math.exp(mean + 1.96 * sd))
    return out


def _say(
    r: Any,
    points: tuple[str, str],
    ohms: float,
    ident: Identification,
    expected: dict[int, tuple[float, float]],
) -> _Said:
    """What is to be said of one reading: a fault first, then open, the core, a winding."""
    fault = next((f for f in ident.faults if r.id in f.readings and f.severity != "note"), None)
    if fault is not None:
        return _of_fault(fault, points, ident, expected)
    topology = ident.topology
    ends = [x for x in points if x not in topology.iron]
    if math.isinf(ohms):
        return _open(r, ends, ident)
    if not ends:
        return _Said((LEAST, IRON_OHMS), "quiet", "this lead is the core")
    i = topology.coil_of(ends[0])
    if i is None:
        return _Said(None, "quiet", "not yet placed")
    return _of_winding(i, points, ohms, ident, expected.get(i))


def _of_fault(
    fault: Fault,
    points: tuple[str, str],
    ident: Identification,
    expected: dict[int, tuple[float, float]],
) -> _Said:
    kind = FAULTS[fault.code]
    usual: Range = MUST_BE_OPEN if kind.must_be_open else None
    if fault.code == "ohms-out-of-band":
        lead = points[1] if points[0] in ("core", "earth") else points[0]
        i = ident.topology.coil_of(lead)
        usual = None if i is None else expected.get(i)
    mood: Mood = "stop" if fault.severity == "stop" else "caution"
    return _Said(usual, mood, kind.beside, fault.sentence)


def _of_winding(
    i: int, points: tuple[str, str], ohms: float, ident: Identification, expected: Range
) -> _Said:
    """A finite reading along winding i, or from it to the core that it meets."""
    winding, iron = ident.windings[i], ident.topology.iron
    coil = winding.coil
    bonded = "core" in coil.positions
    x, y = ("core" if bonded and p in iron else p for p in points)
    share = coil.fraction_between(x, y)
    usual = _scaled(expected, share)
    if not coil.resolved:
        return _Said(usual, "caution", "continuity only: finer than this meter tells")
    words = role_words(winding.role, ident.family, ident.record.supply.volts)
    if share is not None and share < WHOLE:
        return _Said(usual, "sound", f"{100 * share:.0f} % of the {words}")
    if iron & set(points):
        words += ", returning through the core"
    fits = usual is None or usual[0] * 0.9 <= max(ohms, LEAST) <= usual[1] * 1.1
    settled = winding.sure > USUAL and fits
    text = f"usual for {with_article(words)}" if settled else f"perhaps {with_article(words)}"
    return _Said(usual, "sound" if fits else "caution", text)


def _open(r: Any, ends: list[str], ident: Identification) -> _Said:
    """An open reading: to the core, within one winding, or between two."""
    if len(ends) == 1:
        return _open_to_core(r, ident.topology.core_proved)
    if len(ends) == 2 and ident.topology.winding_spanned((ends[0], ends[1])) is not None:
        return _Said(None, "caution", "open within one winding: low range?")
    return _Said(MUST_BE_OPEN, "sound", "separate, as it should be")


def _open_to_core(r: Any, proved: bool) -> _Said:
    if r.range_ohms is None:
        return _Said(MUST_BE_OPEN, "caution", "open, but the range is not noted: weak evidence")
    over = engineering(r.range_ohms, "Ω")
    if r.range_ohms < HIGH_RANGE_OHMS:
        return _Said(MUST_BE_OPEN, "caution", f"open on {over} says little: use the highest range")
    if not proved:
        return _Said(MUST_BE_OPEN, "caution", f"open on {over}, core not proved")
    return _Said(MUST_BE_OPEN, "sound", f"open on {over}, core proved")


def _scaled(usual: Range, share: float | None) -> Range:
    if usual is None or share is None:
        return usual
    return usual[0] * share, usual[1] * share
