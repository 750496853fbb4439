"""What is earthed, covered and touched by a meter: demands at the piece."""

from collections.abc import Iterable, Sequence
from typing import Any

from greyfell.core.bench.demand import COMMON, Bench, Demand, Facts
from greyfell.core.bench.graph import is_kind
from greyfell.core.bench.open_windings import shorted_pairs
from greyfell.core.evidence.record import Meter
from greyfell.core.figures.limits import MAINS_RISE, TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.metering import MARGIN, NO_MAINS
from greyfell.core.judgement.rating import HAND_HELD_VOLTS, rating


def _bond(bench: Bench) -> Iterable[Facts]:
    """The core is earthed wherever it can be reached, and always where it returns HV."""
    if bench.earthed or not (bench.needs.bond or bench.live):
        return
    if bench.needs.no_core and not bench.needs.bond:
        return
    how = "is not wired to earth" if bench.setup.earthed else "has no earth: the socket has none"
    why = (
        "it returns a high voltage, or was made to be earthed"
        if bench.needs.bond
        else "a first fault would put the line on it"
    )
    yield {"how": how, "why": why, "at": "core"}


def _no_core(bench: Bench) -> Iterable[Facts]:
    """A ring or a potted block has no core to earth: then every output end is covered."""
    if not bench.live or bench.earthed or bench.needs.bond or not bench.needs.no_core:
        return
    fed = {frozenset(bench.setup.fed)}
    ends = [x for w in bench.needs.windings if not fed & {frozenset(w.ends)} for x in w.ends]
    left = sorted(set(ends) - set(bench.setup.covered) - set(bench.setup.fed))
    if left:
        yield {"why": bench.needs.no_core, "leads": ", ".join(left), "at": left[0]}


def _output_short(bench: Bench) -> Iterable[Facts]:
    """Two points of one winding joined outside: through an ammeter, or both to earth."""
    if not bench.live:
        return
    voltmeters = is_kind("none")
    for w, (one, two) in shorted_pairs(bench.needs.windings):
        if {one, two} <= bench.needs.iron or {one, two} == set(bench.setup.fed):
            continue
        if bench.comes(one, two, voltmeters):
            across = [m for m in bench.setup.meters if m.reads == "amps" and {*m.at} & {one, two}]
            how = across[0].name if across else "earth at both"
            yield {
                "ends": f"{one}–{two}",
                "winding": w.name,
                "how": how,
                "at": across[0].id if across else one,
            }
            return


def _clip_on_output(bench: Bench) -> Iterable[Facts]:
    """An earthed instrument on a winding that the line does not reach."""
    outputs = {x for w in bench.needs.windings for x in w.ends} - set(bench.setup.fed)
    if not bench.setup.from_line:
        outputs |= set(bench.setup.fed)
    for m in bench.setup.meters:
        point = m.at[1]
        if m.earthed and point in outputs and point not in bench.needs.iron:
            yield {"what": m.name, "point": point, "at": m.id}


def _held_on_live(bench: Bench) -> Iterable[Facts]:
    """A probe held by hand on an open winding that stands above what may be touched."""
    fed = frozenset(bench.setup.fed)
    for s in bench.open_ends:
        if s.volts is not None and s.volts <= TOUCH_VOLTS:
            continue
        for m in bench.setup.meters:
            on = set(m.at) & set(s.winding.ends) - bench.needs.high
            if m.held == "hand" and on and frozenset(m.at) != fed:
                yield {"what": m.name, "ends": "–".join(m.at), "at": m.id}


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
        return max(MAINS_RISE * bench.needs.supply_volts, bench.needs.volts_of(pair) or 0.0)
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
        headline="The core is not earthed.",
        sentence="The core {how}: {why}. Put a lug on bare iron, to protective earth.",
        source="IEC 60335-1 cl. 27.5; IEC 61140",
        wanting=_bond,
        ids=("H10", "H54", "H69", "H80"),
    ),
    Demand(
        code="no-core",
        headline="Bare ends, and no core to earth.",
        sentence=(
            "It has no core that can be reached for an earth ({why}): every output end is covered "
            "instead; {leads} is not."
        ),
        source="IEC 61140; common practice",
        wanting=_no_core,
        ids=("H54",),
    ),
    Demand(
        code="output-short",
        headline="An output is shorted.",
        sentence=(
            "{ends} of {winding} are joined by {how}: the winding is shorted with the line on the "
            "piece. An ammeter stands in series; one end alone may be earthed."
        ),
        source=COMMON,
        wanting=_output_short,
        ids=("H39", "H60"),
    ),
    Demand(
        code="clip-on-output",
        headline="An earthed clip on an output.",
        sentence=(
            "The clip of {what} joins {point} to earth: what floated is isolated no more, and the "
            "other end is live to it. Use two probes and their difference instead."
        ),
        source=COMMON,
        wanting=_clip_on_output,
        ids=("H32", "H13"),
    ),
    Demand(
        code="bare-ends",
        headline="Bare ends within reach.",
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
        headline="A meter where high voltage may be.",
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
        headline="A hand where high voltage may be.",
        sentence=(
            "{what} is held by hand on {ends}, where high voltage may stand: no hand is near it."
        ),
        source=COMMON,
        wanting=_held_live,
        ids=("H40", "H68"),
    ),
    Demand(
        code="held-on-live",
        headline="A probe held on live metal.",
        sentence=(
            "{what} is held by hand on {ends}, which is above what may be touched: clip it on "
            "before power."
        ),
        source="IEC 61140; common practice",
        wanting=_held_on_live,
        ids=("H40", "H29"),
    ),
    Demand(
        code="meter-volts",
        headline="More volts than the meter is for.",
        sentence="{what} on {ends}: up to {volts} there, above eight tenths of its {rated}.",
        source="IEC 61010-2-033, from memory",
        wanting=_meter_volts,
        ids=("H12",),
    ),
    Demand(
        code="meter-category",
        headline="A meter that is not for the mains.",
        sentence="{what} is {category}: on the mains at least CAT II.",
        source="IEC 61010-2-033, from memory",
        wanting=_meter_category,
        ids=("H12",),
    ),
    Demand(
        code="meter-unknown",
        headline="A meter that cannot be judged.",
        sentence="{what} on {ends} cannot be judged: the {why}.",
        source=COMMON,
        wanting=_meter_unknown,
        ids=("H12",),
    ),
)
"""Demands, the gravest first."""
