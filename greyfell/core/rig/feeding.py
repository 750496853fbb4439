"""What is fed, and from what: demands on the way of the line to the piece."""

from collections.abc import Iterable, Sequence

from greyfell.core.figures.notation import engineering
from greyfell.core.rig.bench import COMMON, Bench, Demand, Facts
from greyfell.core.rig.graph import (
    WALL_EARTH,
    WALL_LINE,
    WALL_NEUTRAL,
    is_kind,
)

LOW_VOLTS = 60.0
"""What is driven into an HV side, or into a low one with HV on the core, has no more volts.
Common practice."""


def _short(bench: Bench) -> Iterable[Facts]:
    """Line meets neutral beside the piece, through an ammeter or a wire."""
    voltmeters = is_kind("none")
    if bench.comes(WALL_LINE, WALL_NEUTRAL, voltmeters):
        across = [m for m in bench.setup.meters if m.reads == "amps"]
        name = across[0].name if across else "a wire"
        yield {"what": name, "at": across[0].id if across else ""}


def _earth_on_line(bench: Bench) -> Iterable[Facts]:
    """Earth meets line or neutral behind the wall: a clip, an earthed instrument, a bond."""
    voltmeters = is_kind("none")
    for wall in (WALL_LINE, WALL_NEUTRAL):
        if bench.comes(wall, WALL_EARTH, voltmeters):
            clip = next((m for m in bench.setup.meters if m.earthed), None)
            yield {
                "what": f"The clip of {clip.name}" if clip else "An earth wire",
                "at": clip.id if clip else "",
            }
            return


def _wrong_winding(bench: Bench) -> Iterable[Facts]:
    pair = frozenset(bench.setup.fed)
    if not bench.live or pair in bench.needs.fed or pair in bench.needs.half:
        return
    yield {"ends": "–".join(bench.setup.fed)}


def _half_on_line(bench: Bench) -> Iterable[Facts]:
    pair = frozenset(bench.setup.fed)
    volts = bench.needs.volts_of(bench.setup.fed)
    low_region = volts is not None and volts < 150.0
    if bench.live and pair in bench.needs.half and not low_region:
        yield {"ends": "–".join(bench.setup.fed)}


def _low_too_high(bench: Bench) -> Iterable[Facts]:
    """An isolated source drives another winding than the primary, or a primary with HV about."""
    for e in bench.setup.of("source"):
        volts = e.figures.get("volts")
        if e.isolated and volts is not None and volts > LOW_VOLTS:
            yield {"volts": engineering(volts, "V"), "at": e.id}


def _not_isolated(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of("source"):
        if not e.isolated:
            yield {"what": e.name, "at": e.id}


ROWS: Sequence[Demand] = (
    Demand(
        code="short",
        sentence=(
            "Line meets neutral through {what}: an ammeter is a short across a pair; it stands in "
            "series, in one conductor."
        ),
        source="IEC 61010-2-033, from memory",
        wanting=_short,
        ids=("H60", "H39"),
    ),
    Demand(
        code="earth-on-line",
        sentence=(
            "{what} joins earth to the line: on a circuit of the mains no earthed clip, two probes "
            "and their difference instead."
        ),
        source=COMMON,
        wanting=_earth_on_line,
        ids=("H32", "H13"),
    ),
    Demand(
        code="wrong-winding",
        sentence=(
            "{ends} is not known to take the line: fed by mistake, it puts many times its volts on "
            "the others."
        ),
        source=COMMON,
        wanting=_wrong_winding,
        ids=("H11", "H34", "H83"),
    ),
    Demand(
        code="half-on-line",
        sentence=(
            "{ends} is one half: the whole line on it is twice the flux. Both in series, polarity "
            "read."
        ),
        source=COMMON,
        wanting=_half_on_line,
        ids=("H85",),
    ),
    Demand(
        code="reverse-too-high",
        sentence=f"{{volts}} into it is no low drive: at most {LOW_VOLTS:g} V.",
        source=COMMON,
        wanting=_low_too_high,
        ids=("H83",),
    ),
    Demand(
        code="not-isolated",
        sentence=(
            "{what} is not isolated: a few volts behind a variac float at the line's. A low drive "
            "comes from a transformer with two windings."
        ),
        source=COMMON,
        wanting=_not_isolated,
        ids=("H43",),
    ),
)
"""Demands, the gravest first."""
