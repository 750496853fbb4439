"""What is earthed, covered and touched by a meter: demands at the piece."""

from collections.abc import Iterable, Sequence
from typing import Any

from greyfell.core.evidence.record import Meter
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.metering import MARGIN, NO_MAINS
from greyfell.core.judgement.rating import HAND_HELD_VOLTS, rating
from greyfell.core.rig.bench import COMMON, Bench, Demand, Facts
from greyfell.core.rig.graph import (
    WALL_EARTH,
)


def _bond(bench: Bench) -> Iterable[Facts]:
    iron = bench.needs.iron
    bonded = any(bench.comes(WALL_EARTH, point) for point in iron)
    if bench.needs.bond and not bonded:
        how = (
            "is not wired to earth" if bench.setup.earthed else "has no earth: the socket has none"
        )
        yield {"how": how, "at": "core"}


def _bare(bench: Bench) -> Iterable[Facts]:
    used = {*bench.setup.covered, *bench.setup.earth}
    clipped = {x for m in bench.setup.meters if m.held == "clips" for x in m.at}
    left = sorted(bench.needs.ends - used - set(bench.setup.fed) - (clipped - bench.needs.high))
    if left:
        yield {"leads": ", ".join(left), "at": left[0]}


def _voltmeters(bench: Bench) -> list[tuple[Any, float | None, float | None]]:
    """Each voltmeter with its rating and the most volts where it stands."""
    out = []
    for m in bench.setup.meters:
        if m.reads == "volts":
            rated = rating(Meter(id="m", max_volts_ac=m.volts)) if m.volts else None
            out.append((m, rated, _volts_at(bench, m.at)))
    return out


def _volts_at(bench: Bench, pair: tuple[str, str]) -> float | None:
    """The most volts a meter may see: of a winding, or the line's where the pair lies on the feed;
    a low source drives all of it down.
    """
    if frozenset(pair) == frozenset(bench.setup.fed):
        drives = [e.figures.get("volts") for e in bench.setup.of("source") if e.isolated]
        if drives and drives[0] is not None:
            return drives[0]
        return max(bench.needs.supply_volts * 1.1, bench.needs.volts_of(pair) or 0.0)
    if not bench.live:
        return _stepped(bench, pair)
    return bench.needs.volts_of(pair)


def _stepped(bench: Bench, pair: tuple[str, str]) -> float | None:
    """Volts of a pair while a low source drives another, by their volts on the line."""
    drive = next((e.figures.get("volts") for e in bench.setup.of("source")), None)
    whole, volts = bench.needs.volts_of(bench.setup.fed), bench.needs.volts_of(pair)
    if drive is None or not whole or volts is None:
        return None
    return drive * volts / whole * 1.2


def _meter_unknown(bench: Bench) -> Iterable[Facts]:
    for m, rated, volts in _voltmeters(bench):
        if volts is None:
            yield {"what": m.name, "ends": "–".join(m.at), "why": "volts are not known", "at": m.id}
        elif rated is None:
            why = "meter's volts are not known"
            yield {"what": m.name, "ends": "–".join(m.at), "why": why, "at": m.id}


def _meter_volts(bench: Bench) -> Iterable[Facts]:
    for m, rated, volts in _voltmeters(bench):
        if rated is not None and volts is not None and volts > MARGIN * rated:
            yield {
                "what": m.name,
                "ends": "–".join(m.at),
                "volts": engineering(volts, "V"),
                "rated": engineering(rated, "V"),
                "at": m.id,
            }


def _meter_category(bench: Bench) -> Iterable[Facts]:
    for m in bench.setup.meters:
        if bench.live and m.category in NO_MAINS:
            yield {"what": m.name, "category": m.category or "", "at": m.id}


def _held_live(bench: Bench) -> Iterable[Facts]:
    """A probe held by hand where HV may be."""
    for m in bench.setup.meters:
        if bench.live and m.held == "hand" and set(m.at) & bench.needs.high:
            yield {"what": m.name, "ends": "–".join(m.at), "at": m.id}


def _clipped_high(bench: Bench) -> Iterable[Facts]:
    """Any ordinary meter on a winding that may be HV, with the line on the primary."""
    for m in bench.setup.meters:
        high = set(m.at) & bench.needs.high
        if bench.live and high and frozenset(m.at) not in bench.needs.fed:
            volts = bench.needs.volts_of(m.at)
            if volts is None or volts > MARGIN * HAND_HELD_VOLTS:
                yield {"what": m.name, "ends": "–".join(m.at), "at": m.id}


ROWS: Sequence[Demand] = (
    Demand(
        code="no-bond",
        sentence=(
            "The core {how}: it returns a high voltage, or was made to be earthed. A lug on bare "
            "iron, to protective earth."
        ),
        source="IEC 60335-1 cl. 27.5",
        wanting=_bond,
        ids=("H10", "H69", "H80"),
    ),
    Demand(
        code="bare-ends",
        sentence=(
            "{leads} not covered: every end that is not clipped is insulated, apart and fixed "
            "before power."
        ),
        source=COMMON,
        wanting=_bare,
        ids=("H20", "H34", "H35"),
    ),
    Demand(
        code="meter-on-high",
        sentence=(
            "{what} on {ends}: no meter touches what may be high voltage. Drive it low and "
            "multiply, or read the primary in reverse drive."
        ),
        source=COMMON,
        wanting=_clipped_high,
        ids=("H12", "H13", "H38"),
    ),
    Demand(
        code="held-on-high",
        sentence=(
            "{what} is held by hand on {ends}, where high voltage may stand: no hand is near it."
        ),
        source=COMMON,
        wanting=_held_live,
        ids=("H40", "H68"),
    ),
    Demand(
        code="meter-volts",
        sentence="{what} on {ends}: up to {volts} there, above eight tenths of its {rated}.",
        source="IEC 61010-2-033, from memory",
        wanting=_meter_volts,
        ids=("H12",),
    ),
    Demand(
        code="meter-category",
        sentence="{what} is {category}: on the mains at least CAT II.",
        source="IEC 61010-2-033, from memory",
        wanting=_meter_category,
        ids=("H12",),
    ),
    Demand(
        code="meter-unknown",
        sentence="{what} on {ends} cannot be judged: the {why}.",
        source=COMMON,
        wanting=_meter_unknown,
        ids=("H12",),
    ),
)
"""Demands, the gravest first."""
