"""What limits, switches and guards: demands on what stands between wall and piece."""

from collections.abc import Iterable, Sequence

from greyfell.core.bench.demand import COMMON, Bench, Demand, Facts
from greyfell.core.bench.graph import (
    WALL_LINE,
    WALL_NEUTRAL,
    is_kind,
)
from greyfell.core.bench.piece_on_bench import Needs
from greyfell.core.bench.setup import LIMITERS, NEUTRAL
from greyfell.core.figures.limits import FUSES
from greyfell.core.figures.notation import engineering

TRIP_AMPS = 0.03
"""A residual-current device for people trips at no more. IEC 60364-4-41 cl. 415.1."""
TOO_LARGE = 10.0
"""A breaker of so many times the piece's own amps protects the cable in the wall and nothing
else. The issue of first power; house rule."""
LIMITS = 5.0
"""A limiter that lets more than so many times the piece's own amps pass into a short limits
nothing: a lamp of five times its volt-amperes is the largest in use. Common practice."""
BALLAST_FUSE = 1.25
"""A ballast bears so many times its rated amps until a fuse opens. Common practice."""
FUSE_SHARE = 1.5
"""A slow fuse for a piece: so many times its rated amps. Common practice, IEC 61558-1."""
"""Amps that fuses are sold in. IEC 60127-2, from memory."""
SECTION_AMPS = ((0.5, 3.0), (0.75, 6.0), (1.0, 10.0), (1.5, 16.0), (2.5, 25.0), (4.0, 32.0))
"""mm² of a cord, and the amps it bears. IEC 60335-1 table 11."""


def _no_limiter(bench: Bench) -> Iterable[Facts]:
    if bench.live and not bench.setup.of(*LIMITERS):
        variac = bench.setup.of("variac")
        more = " A variac is none: its output is as stiff as the line." if variac else ""
        yield {"more": more, "at": variac[0].id if variac else ""}


def _limiter_not_in_line(bench: Bench) -> Iterable[Facts]:
    """The line comes to the piece past the limiter: it stands in the neutral, or may."""
    limiters = bench.setup.of(*LIMITERS)
    if not bench.live or not limiters:
        return
    limits = is_kind(*LIMITERS)
    for lead in bench.setup.fed:
        if bench.comes(WALL_LINE, lead, limits):
            how = "is bridged" if any(e.bridged for e in limiters) else "stands in the neutral"
            if bench.setup.plug == "reversible" and how == "stands in the neutral":
                how = "stands in the neutral with the plug the other way"
            yield {"what": limiters[0].name, "how": how, "at": limiters[0].id}
            return


def _no_switch(bench: Bench) -> Iterable[Facts]:
    if bench.live and not bench.setup.of("switch"):
        yield {}


def _one_pole(bench: Bench) -> Iterable[Facts]:
    """With every switch open, line or neutral still comes to the piece."""
    switches = bench.setup.of("switch")
    if not bench.live or not switches:
        return
    opened = is_kind("switch")
    reached = any(
        bench.comes(wall, lead, opened)
        for wall in (WALL_LINE, WALL_NEUTRAL)
        for lead in bench.setup.fed
    )
    if reached:
        yield {"what": switches[0].name, "at": switches[0].id}


def _out_of_reach(bench: Bench) -> Iterable[Facts]:
    switches = bench.setup.of("switch")
    if bench.live and switches and not any(e.reach for e in switches):
        yield {"what": switches[0].name, "at": switches[0].id}


def _no_rcd(bench: Bench) -> Iterable[Facts]:
    """A conductor comes to the piece past every residual-current device."""
    if not bench.live:
        return
    device = is_kind("residual-current-device")
    passed = any(
        bench.comes(wall, lead, device)
        for wall in (WALL_LINE, WALL_NEUTRAL)
        for lead in bench.setup.fed
    )
    if passed:
        held = bench.setup.of("residual-current-device")
        yield {"at": held[0].id if held else ""}


def _rcd_behind_source(bench: Bench) -> Iterable[Facts]:
    """A residual-current device behind an isolating source: nothing comes back past it."""
    sources = [n for n, e in enumerate(bench.setup.chain) if e.kind == "source" and e.isolated]
    for n, e in enumerate(bench.setup.chain):
        if e.kind == "residual-current-device" and sources and n > sources[0]:
            yield {"what": e.name, "at": e.id}


def _late_rcd(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of("residual-current-device"):
        trips = e.figures.get("trip_amps")
        if bench.live and trips is not None and trips > TRIP_AMPS:
            yield {"what": e.name, "amps": engineering(trips, "A"), "at": e.id}


def _blind_rcd(bench: Bench) -> Iterable[Facts]:
    """A device of type AC where something rectifies."""
    if not bench.setup.of("diode"):
        return
    for e in bench.setup.of("residual-current-device"):
        if e.rcd_type == "AC":
            yield {"what": e.name, "at": e.id}


def _no_fuse(bench: Bench) -> Iterable[Facts]:
    if not bench.live:
        return
    guard = is_kind("fuse", "breaker")
    passed = (bench.comes(WALL_LINE, lead, guard) for lead in bench.setup.fed)
    if any(passed):
        yield {}


def _fuse_in_neutral(bench: Bench) -> Iterable[Facts]:
    """A fuse in the neutral: blown, it leaves the piece at the line."""
    for e in bench.setup.of("fuse"):
        if bench.live and e.where == NEUTRAL:
            yield {"what": e.name, "at": e.id}


def _ahead_of_switch(bench: Bench) -> Iterable[Facts]:
    """A limiter or a dial ahead of every switch: with the switch off it is still live."""
    chain = bench.setup.chain
    first = next((n for n, e in enumerate(chain) if e.kind == "switch"), None)
    if not bench.live or first is None:
        return
    for e in chain[:first]:
        if e.kind in (*LIMITERS, "variac"):
            yield {"what": e.name, "at": e.id}


def _limiter_too_large(bench: Bench) -> Iterable[Facts]:
    """A limiter that lets many times the piece's own amps pass limits nothing."""
    own = bench.needs.amps
    each = [(e, bench.amps_of(e)) for e in bench.limiting]
    if not bench.live or own is None or not each:
        return
    e, least = min(each, key=lambda x: x[1])
    if least > LIMITS * own.high:
        yield {
            "what": e.name,
            "amps": engineering(least, "A"),
            "own": engineering(own.value, "A"),
            "at": e.id,
        }


def _ballast_amps(bench: Bench) -> Iterable[Facts]:
    """A ballast that passes more than it is rated for, with no fuse that opens before it cooks."""
    guards = [e.figures["amps"] for e in bench.setup.of("fuse", "breaker") if "amps" in e.figures]
    for e in bench.setup.of("ballast"):
        short, rated = e.figures.get("short_amps"), e.figures.get("rated_amps")
        if rated is None:
            continue
        working = bench.needs.amps.value if bench.needs.amps is not None else 0.0
        passes = max(short or 0.0, min(working, short or working))
        guarded = bool(guards) and min(guards) <= BALLAST_FUSE * rated
        if passes > BALLAST_FUSE * rated and not guarded:
            yield {
                "what": e.name,
                "amps": engineering(passes, "A"),
                "rated": engineering(rated, "A"),
                "at": e.id,
            }


def _guard_unknown(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of("fuse", "breaker"):
        if bench.live and "amps" not in e.figures:
            yield {"what": e.name, "at": e.id}


def fuse_for(needs: Needs) -> float | None:
    """The fuse that protects the piece and still starts it: slow, half above its rated amps and
    above what it draws idle. A. Common practice.
    """
    if needs.amps is None:
        return None
    wanted = max(FUSE_SHARE * needs.amps.value, FUSE_SHARE * (needs.idle_amps or 0.0))
    return next((x for x in FUSES if x >= wanted), FUSES[-1])


def _breaker_too_large(bench: Bench) -> Iterable[Facts]:
    """The smallest protection is many times the piece's own amps, and no lamp keeps it down."""
    guards = [e for e in bench.setup.of("fuse", "breaker") if "amps" in e.figures]
    own = bench.needs.amps
    if not bench.live or not guards or own is None:
        return
    least = min(guards, key=lambda e: e.figures["amps"])
    size = fuse_for(bench.needs)
    if least.figures["amps"] >= TOO_LARGE * own.high and size is not None:
        yield {
            "what": least.name,
            "amps": engineering(least.figures["amps"], "A"),
            "own": engineering(own.value, "A"),
            "fuse": engineering(size, "A"),
            "at": least.id,
        }


def _variac_brush(bench: Bench) -> Iterable[Facts]:
    """Behind a variac no fuse of its brush's amps."""
    for n, e in enumerate(bench.setup.chain):
        brush = e.figures.get("brush_amps")
        if e.kind != "variac" or brush is None:
            continue
        behind = bench.setup.chain[n + 1 :]
        fused = any(
            x.kind in ("fuse", "breaker") and x.figures.get("amps", 1e9) <= brush for x in behind
        )
        if not fused:
            yield {"what": e.name, "amps": engineering(brush, "A"), "at": e.id}


def _dial_either_way(bench: Bench) -> Iterable[Facts]:
    """A variac behind a plug that goes in both ways."""
    if bench.setup.plug == "reversible":
        for e in bench.setup.of("variac"):
            yield {"what": e.name, "at": e.id}


def _refused(bench: Bench) -> Iterable[Facts]:
    for e in bench.setup.of(*REFUSED):
        why = REFUSED[e.kind]
        yield {"what": e.name, "why": why, "at": e.id}


REFUSED = {
    "capacitor": "with idle iron it jumps into ferroresonance",
    "dimmer": "one half-wave fault saturates everything behind it",
    "diode": "direct current saturates the iron, and its amps are then the copper's alone",
}
"""Kinds that do not belong ahead of a transformer, and why."""
RATED = {
    "lamp": ("volts", "volts"),
    "heater": ("volts", "volts"),
    "switch": ("volts", "volts"),
    "variac": ("line_volts", "volts"),
    "wattmeter": ("volts", "volts"),
}
"""The figure of a kind that must bear the supply's volts."""
CARRIES = ("switch", "residual-current-device", "wattmeter", "ammeter")
"""Kinds whose amps must bear the loop's with the piece shorted."""
NAMED = 0.85
"""Mains of the same region differ so much by name: 110 to 127 V, 200 to 250 V. IEC 60038."""


def _under_volts(bench: Bench) -> Iterable[Facts]:
    supply = bench.needs.supply_volts
    for e in bench.setup.chain if bench.live else ():
        key, _ = RATED.get(e.kind, ("", ""))
        bears = e.figures.get(key)
        if bears is not None and bears < NAMED * supply:
            yield {"what": e.name, "bears": engineering(bears, "V"), "at": e.id}


def _under_amps(bench: Bench) -> Iterable[Facts]:
    wanted = bench.loop_amps
    for e in bench.setup.of(*CARRIES):
        bears = e.figures.get("amps")
        if bears is not None and bears < wanted:
            yield {
                "what": e.name,
                "bears": engineering(bears, "A"),
                "wanted": engineering(wanted, "A"),
                "at": e.id,
            }


def _thin_lead(bench: Bench) -> Iterable[Facts]:
    guards = [e.figures["amps"] for e in bench.setup.of("fuse", "breaker") if "amps" in e.figures]
    if not guards:
        return
    for e in bench.setup.of("lead"):
        mm2 = e.figures.get("mm2", 0.0)
        bears = max((amps for size, amps in SECTION_AMPS if size <= mm2), default=0.0)
        if bears < min(guards):
            yield {
                "what": e.name,
                "bears": engineering(bears, "A"),
                "guard": engineering(min(guards), "A"),
                "at": e.id,
            }


ROWS: Sequence[Demand] = (
    Demand(
        code="no-limiter",
        headline="No limiter in the line.",
        sentence=(
            "No limiter: nothing stands between the line and a short in the piece.{more} A lamp, "
            "in the line."
        ),
        source=COMMON,
        wanting=_no_limiter,
        ids=("H11", "H39", "H43"),
    ),
    Demand(
        code="limiter-not-in-line",
        headline="The limiter is not in the line.",
        sentence=(
            "{what} {how}: the winding then stands at line potential, and a fault to the core goes "
            "round it. In the line conductor, proved so."
        ),
        source="IEC 60364-4-41; common practice",
        wanting=_limiter_not_in_line,
        ids=("H81", "H91"),
    ),
    Demand(
        code="limiter-too-large",
        headline="The limiter is too large.",
        sentence=(
            "{what} lets {amps} pass into a short, and the piece's own amps are {own}: that limits "
            "nothing. Take a lamp of at most five times its volt-amperes."
        ),
        source=COMMON,
        wanting=_limiter_too_large,
        ids=("H39", "H76"),
    ),
    Demand(
        code="ballast-amps",
        headline="The ballast passes more than it bears.",
        sentence=(
            "{what} passes {amps} and is rated for {rated}: it cooks, and shorted it is the full "
            "mains. Fuse it at its own amps, or take a larger one."
        ),
        source=COMMON,
        wanting=_ballast_amps,
        ids=("H99",),
    ),
    Demand(
        code="ahead-of-switch",
        headline="Something stands ahead of the switch.",
        sentence=(
            "{what} stands ahead of the switch: with the switch off its terminals are still live. "
            "The switch comes first."
        ),
        source=COMMON,
        wanting=_ahead_of_switch,
        ids=("H01",),
    ),
    Demand(
        code="no-switch",
        headline="No switch: a plug is none.",
        sentence=(
            "No switch: a plug is none, it arcs and wants two hands. A two-pole switch "
            "in reach of one."
        ),
        source=COMMON,
        wanting=_no_switch,
        ids=("H22",),
    ),
    Demand(
        code="one-pole",
        headline="It opens one conductor only.",
        sentence="{what} opens one conductor: the other stays on the piece. Two poles.",
        source="IEC 60364-5-53, from memory",
        wanting=_one_pole,
        ids=("H81", "H59"),
    ),
    Demand(
        code="out-of-reach",
        headline="The switch is out of reach.",
        sentence=(
            "{what} is not in reach of one hand: put it where you stand, away from the piece."
        ),
        source=COMMON,
        wanting=_out_of_reach,
        ids=("H22",),
    ),
    Demand(
        code="no-rcd",
        headline="No residual-current device ahead.",
        sentence=(
            "No residual-current device ahead of both conductors, 30 mA. It guards the line side "
            "only, nobody behind an isolated winding."
        ),
        source="IEC 60364-4-41 cl. 415.1",
        wanting=_no_rcd,
        ids=("H33",),
    ),
    Demand(
        code="rcd-behind-source",
        headline="The residual-current device never trips there.",
        sentence=(
            "{what} stands behind the isolating source: no current comes back past it, so that it "
            "never trips. Ahead of the source it guards the wall's side."
        ),
        source="IEC 60364-4-41",
        wanting=_rcd_behind_source,
        ids=("H33",),
    ),
    Demand(
        code="late-rcd",
        headline="The residual-current device trips too late.",
        sentence="{what} trips at {amps}: for people it trips at no more than 30 mA.",
        source="IEC 60364-4-41 cl. 415.1",
        wanting=_late_rcd,
    ),
    Demand(
        code="blind-rcd",
        headline="Direct current blinds the residual-current device.",
        sentence=(
            "{what} is of type AC and something rectifies here: direct current blinds it. Type A."
        ),
        source="IEC 60364-5-53, from memory",
        wanting=_blind_rcd,
    ),
    Demand(
        code="no-fuse",
        headline="No fuse or breaker in the line.",
        sentence="No fuse or breaker in the line on the bench's own side.",
        source="IEC 60364-4-43, from memory",
        wanting=_no_fuse,
        ids=("H20",),
    ),
    Demand(
        code="fuse-in-neutral",
        headline="A fuse stands in the neutral.",
        sentence=(
            "{what} stands in the neutral: blown, it leaves the whole piece at the line. Put it in "
            "the line conductor."
        ),
        source="IEC 60364-4-43, from memory",
        wanting=_fuse_in_neutral,
        ids=("H81",),
    ),
    Demand(
        code="guard-unknown",
        headline="Nobody knows what the fuse protects.",
        sentence="The amps of {what} are not said: nobody knows what it protects.",
        source=COMMON,
        wanting=_guard_unknown,
        ids=("H47",),
    ),
    Demand(
        code="breaker-too-large",
        headline="The breaker does not protect the piece.",
        sentence=(
            "{what}, {amps}, is ten times the piece's own {own} and more: it protects the "
            "wall's cable. A slow fuse of {fuse} protects the piece and still starts it."
        ),
        source=COMMON,
        wanting=_breaker_too_large,
        ids=("H76",),
    ),
    Demand(
        code="brush-fuse",
        headline="The brush has no fuse of its own.",
        sentence=(
            "Behind {what} a fast fuse of at most {amps}: the line's fuse never sees the brush's "
            "overload."
        ),
        source=COMMON,
        wanting=_variac_brush,
        ids=("H44",),
    ),
    Demand(
        code="dial-not-zero",
        headline="Live at dial zero.",
        sentence=(
            "{what} behind a plug that goes in both ways: turned, its outputs stand at the line at "
            "dial zero. A plug of one way, or its line proved."
        ),
        source=COMMON,
        wanting=_dial_either_way,
        ids=("H91",),
    ),
    Demand(
        code="refused-element",
        headline="Not ahead of a transformer.",
        sentence="{what} does not belong ahead of a transformer: {why}.",
        source=COMMON,
        wanting=_refused,
        ids=("H66", "H89"),
    ),
    Demand(
        code="under-volts",
        headline="Made for fewer volts than the supply.",
        sentence="{what} is made for {bears}, less than the supply.",
        source=COMMON,
        wanting=_under_volts,
    ),
    Demand(
        code="under-amps",
        headline="It bears fewer amps than pass.",
        sentence="{what} bears {bears}; {wanted} pass with the piece shorted.",
        source=COMMON,
        wanting=_under_amps,
        ids=("H23",),
    ),
    Demand(
        code="thin-lead",
        headline="A lead thinner than its fuse.",
        sentence=(
            "{what} bears {bears} and its fuse lets {guard} pass: a thicker lead, or a "
            "smaller fuse."
        ),
        source="IEC 60335-1 table 11",
        wanting=_thin_lead,
        ids=("H28",),
    ),
)
"""Demands, the gravest first."""
