"""What is fed, and from what: demands on the way of the line to the piece."""

from collections.abc import Iterable, Sequence

from greyfell.core.bench.demand import COMMON, LOW_VOLTS, Bench, Demand, Facts
from greyfell.core.bench.graph import (
    WALL_EARTH,
    WALL_LINE,
    WALL_NEUTRAL,
    is_kind,
)
from greyfell.core.bench.open_windings import Stands
from greyfell.core.figures.limits import LIVE_VOLTS, TOUCH_VOLTS
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering


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
    if bench.setup.from_line and not bench.proper:
        yield {"ends": "–".join(bench.setup.fed)}


def _half_on_line(bench: Bench) -> Iterable[Facts]:
    pair = frozenset(bench.setup.fed)
    volts = bench.needs.volts_of(bench.setup.fed)
    low_region = volts is not None and not high_region(volts)
    if bench.live and pair in bench.needs.half and not low_region:
        yield {"ends": "–".join(bench.setup.fed)}


def _low_too_high(bench: Bench) -> Iterable[Facts]:
    """An isolated source of more than a low drive into what does not take the line."""
    for e in bench.setup.of("source"):
        volts = e.figures.get("volts")
        if e.isolated and volts is not None and volts > LOW_VOLTS and not bench.proper:
            yield {"volts": engineering(volts, "V"), "at": e.id}


def _unknown_source(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of("source"):
        if "volts" not in e.figures:
            yield {"what": e.name, "at": e.id}


def _not_isolated(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of("source"):
        if not e.isolated:
            yield {"what": e.name, "at": e.id}


def _heater_fed(bench: Bench) -> Iterable[Facts]:
    """An oven's heater winding driven with alternating volts, however few."""
    pair = frozenset(bench.setup.fed)
    for w in bench.needs.windings:
        if w.heater and pair <= w.points and not bench.proper:
            yield {"ends": w.name, "volts": _told(_most(bench))}


def _most(bench: Bench) -> float | None:
    """The most volts that stand on any winding besides the fed one; None where nobody knows."""
    found = [s.volts for s in bench.open_ends]
    return None if None in found else max((v for v in found if v is not None), default=0.0)


def _told(volts: float | None) -> str:
    return "unknown volts" if volts is None else engineering(volts, "V")


def _open_ends(bench: Bench) -> Iterable[Facts]:
    """A winding that stands above what may be touched while another is fed, with a bare end, or
    with nobody having said that no hand comes near.
    """
    for s in bench.open_ends:
        if s.volts is not None and s.volts <= TOUCH_VOLTS:
            continue
        bare = bench.bare(s.winding)
        if bare or not bench.setup.hands_off:
            what = f"cover {', '.join(bare)}" if bare else ""
            said = "" if bench.setup.hands_off else "say that no hand comes near it (hands off)"
            todo = " and ".join(x for x in (what, said) if x)
            yield {**_facts(bench, s), "todo": todo, "at": next(iter(s.winding.ends), "")}


def _facts(bench: Bench, s: Stands) -> Facts:
    lower = "what its volts allow, once they are known"
    if s.volts and bench.drive:
        lower = f"{engineering(LIVE_VOLTS * bench.drive / s.volts, 'V')}"
    return {
        "fed": "–".join(bench.setup.fed),
        "drive": _told(bench.drive),
        "ends": s.winding.name,
        "volts": _told(s.volts),
        "lower": lower,
    }


NAMED = "While {fed} is fed with {drive}, {ends} is at up to {volts}"
"""How an open winding is named, with the volts that stand on it."""


def named(bench: Bench) -> Iterable[tuple[str, str]]:
    """Every open winding above 30 V, in a sentence with the lower drive that keeps it below, and
    the end it is at.
    """
    for s in bench.open_ends:
        if s.volts is None or s.volts > LIVE_VOLTS:
            facts = _facts(bench, s)
            sentence = f"{NAMED}: live to the touch; at most {{lower}} keeps it below 30 V."
            yield sentence.format(**facts), next(iter(s.winding.ends), "")


ROWS: Sequence[Demand] = (
    Demand(
        code="short",
        headline="A short between line and neutral.",
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
        headline="An earthed clip on the line.",
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
        headline="The line on the wrong winding.",
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
        headline="The whole line on one half.",
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
        headline="No low drive: too many volts.",
        sentence=(
            f"{{volts}} into it is no low drive: at most {LOW_VOLTS:g} V; more goes on the mains "
            "winding alone, behind a limiter."
        ),
        source=COMMON,
        wanting=_low_too_high,
        ids=("H83",),
    ),
    Demand(
        code="not-isolated",
        headline="The source is not isolated.",
        sentence=(
            "{what} is not isolated: a few volts behind a variac float at the line's. A low drive "
            "comes from a transformer with two windings."
        ),
        source=COMMON,
        wanting=_not_isolated,
        ids=("H43",),
    ),
    Demand(
        code="source-unknown",
        headline="The source's volts are not said.",
        sentence="Nobody said what volts {what} gives: until then it counts as the mains.",
        source=COMMON,
        wanting=_unknown_source,
        ids=("H83",),
    ),
    Demand(
        code="heater-fed",
        headline="A heater winding is fed.",
        sentence=(
            "{ends} is an oven's heater winding of a few turns: fed, it puts up to {volts} on the "
            "others. It is never fed; milliohms by a direct current tell it."
        ),
        source=COMMON,
        wanting=_heater_fed,
        ids=("H83", "H34"),
    ),
    Demand(
        code="open-ends",
        headline="Open windings stand live.",
        sentence=f"{NAMED}: {{todo}}, or drive at most {{lower}}.",
        source="IEC 61010-1, IEC 61140",
        wanting=_open_ends,
        ids=("H34", "H35", "H83"),
    ),
)
"""Demands, the gravest first."""
