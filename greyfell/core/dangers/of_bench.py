"""What power does through a bench: everything that is wrong on it, and what its parts do."""

from collections.abc import Callable, Iterator

from greyfell.core.bench.demand import Demand
from greyfell.core.bench.demands import DEMANDS
from greyfell.core.dangers.rule import (
    BENCH,
    CAUTION,
    NOTE,
    POWER,
    STOP,
    TOUCH,
    Facts,
    Rule,
)
from greyfell.core.dangers.scene import Scene
from greyfell.core.judgement.metering import meter_rules

LIVE_ACTS = ("first power", "no load", "shorted", "live volts", "set-up", "loading", "sweep")
REACTORS = ("choke", "reactor", "ballast")
LIMITS = ("lamp", "ballast", "choke", "reactor", "resistor", "capacitor")
"""Elements of a row that limit ahead of the piece."""
VARIAC_WORDS = ("variac", "variable transformer", "auto-?transformer", "dial transformer")
"""How words begin of what varies volts and isolates nothing."""


def _of_demand(demand: Demand) -> Rule:
    """A demand as a danger: it stops wherever it is found wanting."""
    return Rule(
        code=demand.code,
        ids=demand.ids,
        near=POWER,
        severity=STOP,
        condition="a demand on a bench that is not met",
        headline=demand.headline,
        reason="{sentence}",
        source=demand.source,
        when=_wanting(demand.code),
    )


def _wanting(code: str) -> Callable[[Scene], Iterator[Facts]]:
    """Every sentence that a demand's code is told in on the bench of a scene."""

    def when(scene: Scene) -> Iterator[Facts]:
        for wrong in scene.wrongs:
            if wrong.code == code:
                yield {"sentence": wrong.sentence}

    return when


def _live(s: Scene) -> bool:
    return s.act.startswith(LIVE_ACTS) or s.setup is not None


def _welder(s: Scene) -> bool:
    return s.is_kind("crank welder")


def _beyond_meter(scene: Scene) -> Iterator[Facts]:
    """Meters that must not touch a pair of this piece."""
    for meter in meter_rules(scene.ident) if scene.ident is not None else ():
        if meter.allowed is False:
            ends = "–".join(meter.points)
            yield {"meter": meter.meter, "ends": ends, "sentence": meter.sentence}


WRONG = tuple(_of_demand(demand) for demand in DEMANDS)
"""Everything that may be wrong on a bench."""
RULES = (
    Rule(
        code="first-hv",
        ids=("H16", "H12"),
        near=POWER,
        severity=CAUTION,
        condition="high voltage is not ruled out, and power comes next",
        headline="First high voltage: stick, bleeder, distance.",
        reason="No meter goes on it; what stays charged or arcs is met by hand otherwise.",
        instead="Covered, apart, from a distance; off, wait, stick, only then a hand.",
        when=lambda s: s.high and (_live(s) or s.row is not None),
    ),
    Rule(
        code="scope-earth",
        ids=("H13", "H32"),
        near=POWER,
        severity=CAUTION,
        condition="a meter with earth is on the bench",
        headline="An earthed clip joins its point to earth.",
        reason="On the line it is a short; on a floating output it ends the isolation.",
        instead="Two probes, one inverted and added; no clip. Rated divider on kilovolts.",
        when=lambda s: s.setup is not None and any(m.earthed for m in s.setup.meters),
    ),
    Rule(
        code="variac-isolates-nothing",
        ids=("H43",),
        near=TOUCH,
        severity=CAUTION,
        condition="a variac feeds it, or words tell of one",
        headline="A variac isolates nothing.",
        reason="One winding carries both sides: at any setting its output may stand at the line.",
        instead="An isolating transformer ahead of it, or no hand near what it feeds.",
        source="IEC 61558-2-14, from memory",
        when=lambda s: s.row_has("variac") or s.bench_has("variac") or s.looks(*VARIAC_WORDS),
    ),
    Rule(
        code="open-variac",
        ids=("H45", "H44"),
        near=TOUCH,
        severity=CAUTION,
        condition="a variable autotransformer",
        headline="Its track and brush are mains: never open.",
        reason="Bare copper under the brush stands at the line while it is plugged in.",
        instead="Plug out before its cover; fuse the brush at its own amps.",
        when=lambda s: s.may_be("isolates_nothing") or s.bench_has("variac") or s.row_has("variac"),
    ),
    Rule(
        code="hot-reactor",
        ids=("H64",),
        near=POWER,
        severity=NOTE,
        condition="a choke, reactor or ballast limits",
        headline="A reactor warms too.",
        reason="Its copper and iron lose a few per cent of what it limits: tens of watts.",
        instead="Its rise by hot ohms; room round it.",
        when=lambda s: s.row_has(*REACTORS) or s.bench_has(*REACTORS),
    ),
    Rule(
        code="idle-winding",
        ids=("H65", "H83"),
        near=POWER,
        severity=CAUTION,
        condition="a welder, or a piece fed on its low side",
        headline="The winding not in use steps up.",
        reason="Left open it stands at its ratio times what is fed, on bare studs.",
        instead="Cover it, or short it knowingly where the plan says so.",
        when=lambda s: _welder(s) or s.act == "reverse ratio",
    ),
    Rule(
        code="moving-iron",
        ids=("H67",),
        near=POWER,
        severity=CAUTION,
        condition="a welder with moving iron, a sliding choke",
        headline="Loose iron jumps and pinches.",
        reason="Under load shunt and slide are pulled with tens of newtons, and hammer.",
        instead="Locked by its screw before power; fingers out.",
        when=lambda s: _welder(s) or s.looks("sliding", "crank"),
    ),
    Rule(
        code="limiter-fails",
        ids=("H99",),
        near=POWER,
        severity=CAUTION,
        condition="something limits ahead of the piece",
        headline="A shorted limiter is the full line.",
        reason="Lamp, heater and ballast fail to a short as well as open.",
        instead="A fuse for the working current behind it.",
        when=lambda s: (
            s.bench_has("lamp", "heater", "ballast")
            or (s.row is not None and any(e.kind.key in LIMITS for e in s.row.rig.ahead))
        ),
    ),
    Rule(
        code="reversed-plug",
        ids=("H91", "H11", "H81"),
        near=POWER,
        severity=CAUTION,
        condition="a plug that goes in both ways",
        headline="Turned round, everything is at the line.",
        reason="A limiter or a variac's common in the neutral leaves all behind it live.",
        instead="Fixed plug, or its line proved for this session; two-pole switch.",
        when=lambda s: s.setup is not None and s.setup.plug == "reversible",
    ),
    Rule(
        code="implant",
        ids=("H61",),
        near=BENCH,
        severity=NOTE,
        condition="no piece is told; else its notes say it",
        headline="No implant, no open wound.",
        reason="Microamps matter to both.",
        instead="Somebody else does this.",
        when=lambda s: s.ident is None,
    ),
    Rule(
        code="meter-never",
        ids=("H12",),
        near=POWER,
        severity=CAUTION,
        condition="a meter on record that must not touch a winding",
        headline="{meter} never on {ends}.",
        reason="{sentence}",
        when=_beyond_meter,
    ),
)
"""What power does through bench and piece."""
