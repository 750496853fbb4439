"""Where a reading falls: the usual range, the reading as a mark on it, and one sentence."""

import math
from dataclasses import dataclass, replace
from typing import Any, Literal

from greyfell.core.identify import Identification
from greyfell.core.instruments import ohms_of
from greyfell.core.quantity import engineering
from greyfell.core.record import Transformer
from greyfell.core.screening import HIGH_RANGE_OHMS

Mood = Literal["sound", "caution", "stop", "quiet"]
LEAST, MOST = 0.01, 100e6
"""Ends of the ohms scale that bands are drawn on, Ω, logarithmic."""


@dataclass(frozen=True)
class Band:
    """A reading on its scale: points, value with probes off (infinite for open), usual range, mood
    and sentence.
    """

    reading: Any
    points: tuple[str, str]
    ohms: float
    usual: tuple[float, float] | None
    mood: Mood
    sentence: str
    slip: str = ""
    limit: float = 0.0

    @property
    def shown(self) -> str:
        """The figure as it is read out."""
        if math.isinf(self.ohms):
            return "OL"
        if self.ohms <= self.limit:
            return f"< {engineering(max(self.ohms, 0.0) + self.limit, 'Ω', 2)}"
        return engineering(self.ohms, "Ω")


def bands(record: Transformer, ident: Identification) -> list[Band]:
    """One band for every ohms reading that stands, in the order of the record."""
    expected = _expected(ident)
    out = []
    for r in record.standing:
        if r.kind in ("resistance", "dc_drop"):
            points = r.between if r.kind == "resistance" else r.across
            read = ohms_of(r)
            out.append(
                replace(_band(r, points, read.ohms, record, ident, expected), limit=read.limit)
            )
    return out


def _expected(ident: Identification) -> dict[int, tuple[float, float]]:
    """Per winding, the ohms that all other evidence lets expect (95 %), from the leading
    hypothesis.
    """
    solution = ident.belief.solution
    out: dict[int, tuple[float, float]] = {}
    if solution is None:
        return out
    for j, row in enumerate(solution.rows):
        if row.kind == "ohms":
            mean, sd = solution.predicted(ident.belief.index, j)
            out[row.coils[0]] = (math.exp(mean - 1.96 * sd), math.exp(mean + 1.96 * sd))
    return out


def _band(
    r: Any,
    points: tuple[str, str],
    ohms: float,
    record: Transformer,
    ident: Identification,
    expected: dict[int, tuple[float, float]],
) -> Band:
    for fault in ident.faults:
        if r.id in fault.readings and fault.severity in ("stop", "caution"):
            usual = (
                (HIGH_RANGE_OHMS, MOST)
                if fault.code in ("shorted-to-core", "insulation-low", "windings-shorted")
                else None
            )
            if fault.code == "ohms-out-of-band":
                i = ident.topology.coil_of(
                    points[0] if points[0] not in ("core", "earth") else points[1]
                )
                usual = expected.get(i) if i is not None else None
            mood: Mood = "stop" if fault.severity == "stop" else "caution"
            return Band(r, points, ohms, usual, mood, _short(fault.code), fault.sentence)
    core = {"core", "earth", *ident.topology.core_leads}
    ends = [x for x in points if x not in core]
    places = {ident.topology.coil_of(x) for x in ends}
    if math.isinf(ohms):
        return _open(r, points, ends, places, ident)
    if not ends or (len(ends) == 1 and ends[0] in ident.topology.core_leads):
        return Band(r, points, ohms, (LEAST, 0.5), "quiet", "this lead is the core")
    i = next(iter(places))
    if i is None:
        return Band(r, points, ohms, None, "quiet", "not yet placed")
    winding = ident.windings[i]
    share = winding.coil.fraction_between(
        *(("core" if x in core and "core" in winding.coil.positions else x) for x in points)
    )
    if not winding.coil.resolved:
        return Band(
            r,
            points,
            ohms,
            _scaled(expected.get(i), share),
            "caution",
            "continuity only: finer than this meter tells",
        )
    words = role_words(winding.role, ident.family, record.supply.volts)
    usual = _scaled(expected.get(i), share)
    if share is not None and share < 0.995:
        return Band(r, points, ohms, usual, "sound", f"{100 * share:.0f} % of the {words}")
    if len(ends) == 1:
        words += ", returning through the core"
    fits = usual is None or usual[0] * 0.9 <= max(ohms, LEAST) <= usual[1] * 1.1
    text = (
        f"usual for {_article(words)}"
        if winding.sure > 0.8 and fits
        else f"perhaps {_article(words)}"
    )
    return Band(r, points, ohms, usual, "sound" if fits else "caution", text)


def _open(
    r: Any, points: tuple[str, str], ends: list[str], places: set[int | None], ident: Identification
) -> Band:
    usual = (HIGH_RANGE_OHMS, MOST)
    if len(ends) == 1:
        if r.range_ohms is None:
            return Band(
                r,
                points,
                math.inf,
                usual,
                "caution",
                "open, but the range is not noted: weak evidence",
            )
        if r.range_ohms < HIGH_RANGE_OHMS:
            return Band(
                r,
                points,
                math.inf,
                usual,
                "caution",
                f"open on {engineering(r.range_ohms, 'Ω')} says little: use the highest range",
            )
        proved = "core proved" if ident.topology.core_proved else "core not proved"
        mood: Mood = "sound" if ident.topology.core_proved else "caution"
        return Band(
            r, points, math.inf, usual, mood, f"open on {engineering(r.range_ohms, 'Ω')}, {proved}"
        )
    if len(places) == 1 and None not in places:
        return Band(r, points, math.inf, None, "caution", "open within one winding: low range?")
    return Band(r, points, math.inf, usual, "sound", "separate, as it should be")


def _scaled(usual: tuple[float, float] | None, share: float | None) -> tuple[float, float] | None:
    if usual is None or share is None:
        return usual
    return usual[0] * share, usual[1] * share


def _short(code: str) -> str:
    return {
        "shorted-to-core": "conducts to the core: stop",
        "windings-shorted": "separate windings conduct: stop",
        "insulation-low": "leaks: must read open",
        "open-winding": "open: this winding is broken",
        "inconsistent-readings": "does not add up with the others",
        "ohms-out-of-band": "unlikely: is that a slip?",
    }.get(code, code.replace("-", " "))


def role_words(role: str, family: str, supply_volts: float) -> str:
    """A role in the field's words."""
    kind = {"microwave": "oven ", "sign": "sign "}.get(
        family, "mains " if role == "primary" else ""
    )
    return {
        "primary": f"{supply_volts:g} V {kind}primary"
        if family != "variable"
        else "variable autotransformer",
        "primary-half": "half of a dual primary",
        "hv-secondary": "HV winding",
        "lv-secondary": "low-voltage secondary",
        "filament": "heater winding",
        "bias": "bias winding",
        "choke": "choke",
        "screen": "screen",
    }.get(role, "winding")


def _article(words: str) -> str:
    return f"{'an' if words[0].lower() in 'aeiou' or words.startswith('HV') else 'a'} {words}"
