"""Once it is powered: bench, row, limiter, load and what they do together."""

from collections.abc import Iterator

from greyfell.core.danger.scene import Scene
from greyfell.core.danger.told import (
    BENCH,
    CAUTION,
    HAND,
    NOTE,
    POWER,
    STOP,
    TOUCH,
    DangerRule,
    Facts,
)
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.touch import stores_hazard

LIVE_ACTS = ("first power", "no load", "shorted", "live volts", "set-up", "loading", "sweep")
REACTORS = ("choke", "reactor", "ballast")
LIMITS = ("lamp", "ballast", "choke", "reactor", "resistor", "capacitor")
"""Elements of a row that limit ahead of the piece."""
VARIAC_WORDS = ("variac", "variable transformer", "auto-?transformer", "dial transformer")
"""How words begin of what varies volts and isolates nothing."""


def _live(s: Scene) -> bool:
    return s.act.startswith(LIVE_ACTS) or s.setup is not None


def _welder(s: Scene) -> bool:
    return s.is_kind("crank welder") or s.may_be("welder")


def _stored(s: Scene) -> Iterator[Facts]:
    """A reservoir that holds what stops a heart."""
    for e in s.row.rig.elements if s.row is not None else ():
        farads = e.figures.get("farads")
        if e.kind.key not in ("reservoir", "capacitor") or not isinstance(farads, int | float):
            continue
        at = [a for a in s.row.joints if a.joint.after == e.id] if s.row is not None else []
        if s.row is not None and e.kind.key == "reservoir":
            at = [s.row.load]
        volts = max((a.peak_volts for a in at), default=0.0)
        joules = 0.5 * farads * volts**2
        if stores_hazard(volts, joules):
            yield {"joules": engineering(joules, "J"), "volts": engineering(volts, "V")}


def _overfluxed(s: Scene) -> bool:
    return s.row is not None and s.row.flux_ratio > MOST_FLUX


def _bonded_bridge(s: Scene) -> bool:
    e = s.row.rig.rectified if s.row is not None else None
    bridge = e is not None and e.figures.get("rectifier") == "bridge"
    return bridge and s.row is not None and s.row.rig.piece.bond != "none"


def _dimmer(s: Scene) -> bool:
    return s.bench_has("dimmer")


RULES = (
    DangerRule(
        code="mains-on",
        ids=("H01",),
        near=HAND,
        severity=CAUTION,
        condition="anything is connected or read cold",
        headline="Plug out, in sight, in your own hand.",
        reason="A switch may open one pole, or another hand may close it.",
        instead="Plug out and beside the meter before every touch.",
        when=lambda s: bool(s.act) and not s.act.startswith(LIVE_ACTS),
    ),
    DangerRule(
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
    DangerRule(
        code="rectified-core",
        ids=("H15", "H98"),
        near=POWER,
        severity=STOP,
        condition="a bridge on a winding bonded to the iron",
        headline="A bridge makes this core an output.",
        reason="One end of the winding is the iron: a bridge puts full volts on it, or shorts.",
        instead="Half-wave or a doubler, whose one side is the iron's.",
        when=_bonded_bridge,
    ),
    DangerRule(
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
    DangerRule(
        code="over-flux",
        ids=("H41", "H84"),
        near=POWER,
        severity=STOP,
        condition="more than 110 % of rated volts per hertz",
        headline="Beyond its volts per hertz.",
        reason="Iron saturates, the primary's amps are its ohms' alone, insulation overheats.",
        instead="At most 110 % of the plate's volts per hertz; boosting is damage, not output.",
        when=_overfluxed,
    ),
    DangerRule(
        code="output-capacitor",
        ids=("H42", "H89"),
        near=POWER,
        severity=CAUTION,
        condition="a capacitor stands in the row",
        headline="A capacitor holds, and may ring.",
        reason="It keeps its peak after power, and with leakage reactance it raises the volts.",
        instead="Bleeder across it; X_C well away from X_L; one with the plan “series capacitor”.",
        when=lambda s: s.row_has("capacitor", "reservoir") or s.bench_has("capacitor"),
    ),
    DangerRule(
        code="stored",
        ids=("H97",),
        near=HAND,
        severity=CAUTION,
        condition="a capacitor holds what is a hazard by NFPA 70E: 0.25 J from 100 V, 100 J below",
        headline="It keeps {joules} at {volts}.",
        reason="After power is off that charge still kills or burns.",
        instead="Bleeder, wait, stick, meter, clip; in this order, each time.",
        source="NFPA 70E art. 360, from memory",
        when=_stored,
    ),
    DangerRule(
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
    DangerRule(
        code="open-variac",
        ids=("H45", "H44"),
        near=TOUCH,
        severity=CAUTION,
        condition="a variable autotransformer",
        headline="Its track and brush are mains: never open.",
        reason="Bare copper under the brush stands at the line while it is plugged in.",
        instead="Plug out before its cover; fuse the brush at its own amps.",
        when=lambda s: s.may_be("variable") or s.bench_has("variac") or s.row_has("variac"),
    ),
    DangerRule(
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
    DangerRule(
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
    DangerRule(
        code="dimmer",
        ids=("H66",),
        near=POWER,
        severity=STOP,
        condition="a dimmer ahead of a transformer",
        headline="A dimmer saturates it.",
        reason="A misfire is direct current through the primary: limited by its ohms alone.",
        instead="A variac.",
        when=_dimmer,
    ),
    DangerRule(
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
    DangerRule(
        code="control-winding",
        ids=("H90",),
        near=POWER,
        severity=STOP,
        condition="a saturable reactor",
        headline="Its control winding makes kilovolts.",
        reason="Open, many turns see the working winding's volts by their ratio.",
        instead="Two cores opposed; the control side never opened under power.",
        when=lambda s: s.looks("saturable", "control winding", "magnetic amplifier"),
    ),
    DangerRule(
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
    DangerRule(
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
    DangerRule(
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
)
"""What power does through bench and row."""
