"""What a row says of itself, from the wall to the work, as it is solved; a stop forbids it."""

import math
from collections.abc import Callable, Iterable, Iterator
from typing import TYPE_CHECKING

from greyfell.core.chain.building import core_of
from greyfell.core.chain.over_rating import volts_over
from greyfell.core.chain.sight import FORBIDDEN, Sight, capacitors, charges
from greyfell.core.chain.solving import Solved
from greyfell.core.dangers.row_look import RowLook
from greyfell.core.dangers.rule import CAUTION, HAND, NOTE, POWER, STOP, Danger, Facts, Found, Rule
from greyfell.core.figures.limits import CREST, MAINS_RISE, MOST_FLUX, SOON_SECONDS, TOUCH_VOLTS
from greyfell.core.figures.notation import begun, engineering
from greyfell.core.figures.touch import hazard_class, stores_hazard

if TYPE_CHECKING:
    from greyfell.core.dangers.scene import Scene

NEAR_RESONANCE = 0.08
"""A rise of the open volts by this share through a winding's own capacitance is said."""
TIMES_BREAKER = 10.0
"""Amps shorted above so many times the breaker's count as limited by nothing."""


def row(look: Callable[[Sight], Found]) -> "Callable[[Scene | RowLook], Found]":
    """A condition on the row alone: it stands nowhere where no row is told."""

    def when(scene: "Scene | RowLook") -> Found:
        return False if scene.sight is None else look(scene.sight)

    return when


def _bridged(s: Sight) -> Iterable[Facts]:
    e = s.rig.rectified
    if e is not None and e.figures["rectifier"] == "bridge" and s.rig.piece.bond != "none":
        yield {"bond": s.rig.piece.bond}


def _resonant(s: Sight) -> Iterable[Facts]:
    for e, xc, xl in capacitors(s.rig):
        if FORBIDDEN[0] <= xc / xl <= FORBIDDEN[1]:
            yield {"what": begun(e.name), "ratio": f"{xc / xl:.2f}"}


def _jumping(s: Sight) -> Iterable[Facts]:
    """A capacitor ahead of iron that nothing loads, below its unsaturated reactance."""
    law = core_of(s.rig.piece)
    steep = max(law.straight, 1e-3) * law.peak_amps / law.flux
    magnetising = s.omega / steep
    for e, xc, _ in capacitors(s.rig):
        if e in s.rig.ahead and s.open and xc < magnetising:
            yield {"what": e.name, "ohms": engineering(magnetising, "Ω")}


def _beyond(s: Sight) -> Iterable[Facts]:
    for b in s.beyond:
        if b.at != "supply":
            yield {
                "name": begun(b.name),
                "what": b.what,
                "has": engineering(b.has, b.unit),
                "bears": engineering(b.bears, b.unit),
                "fails": b.fails,
            }


def _trips(s: Sight) -> Iterable[Facts]:
    for b in s.beyond:
        if b.at == "supply":
            yield {"amps": engineering(b.has, "A")}


def _saturating(s: Sight) -> Iterable[Facts]:
    if s.solved.flux_ratio > MOST_FLUX:
        yield {"flux": f"{s.solved.flux_ratio:.2f}"}


def _over_fed(s: Sight) -> Found:
    """Whether more stands on its primary than its volts per hertz bear, and the core follows it;
    what a rectifier does to a core is another danger.
    """
    rig = s.rig
    rated = rig.piece.get("volts") / rig.piece.get("hertz")
    given = s.solved.after("primary").volts / rig.supply.told("hertz")
    return min(given / rated, s.solved.flux_ratio) > MOST_FLUX


def _shunts(s: Sight) -> Iterable[Facts]:
    if s.rig.piece.figures.get("shunt_volts") and s.solved.leak_ratio > 1.0:
        yield {"times": f"{s.solved.leak_ratio:.2f}"}


def _peaky(s: Sight) -> Iterable[Facts]:
    out = s.solved.after("piece")
    if s.solved.run is not None and out.volts > TOUCH_VOLTS and out.peak_volts > CREST * out.volts:
        yield {"peak": engineering(out.peak_volts, "V"), "rms": engineering(out.volts, "V")}


def _limiting(s: Sight) -> Iterable[Facts]:
    """Which element holds most of the volts with the output shorted."""
    short = s.shorted
    if short is None:
        return
    held = {e.name: volts_over(short, e.id) for e in s.rig.ahead}
    held["the piece itself"] = short.after("primary").volts
    name, volts = max(held.items(), key=lambda x: x[1])
    yield {
        "name": begun(name),
        "volts": engineering(volts, "V"),
        "amps": engineering(short.line.amps, "A"),
    }


def _unlimited(s: Sight) -> Iterable[Facts]:
    short, breaker = s.shorted, s.rig.supply.get("breaker_amps")
    if short is not None and breaker is not None and short.line.amps > TIMES_BREAKER * breaker:
        yield {"amps": engineering(short.line.amps, "A"), "breaker": engineering(breaker, "A")}


def _unguarded(s: Sight) -> Iterable[Facts]:
    if s.rig.supply.get("breaker_amps") is None:
        yield {}


def _lethal(s: Sight) -> Iterable[Facts]:
    named = []
    for at in s.solved.joints[1:]:
        if at.joint.after == "primary" and s.rig.ahead:
            continue
        volts = MAINS_RISE * max(at.volts, at.peak_volts / math.sqrt(2))
        if hazard_class(volts, None).startswith("lethal"):
            named.append(f"{at.joint.name} ({engineering(volts, 'V')})")
    if named:
        yield {"where": ", ".join(dict.fromkeys(named))}


def _charged(s: Sight) -> Iterable[Facts]:
    for name, volts, joules, seconds in charges(s.solved):
        if volts > TOUCH_VOLTS and (seconds is None or seconds > SOON_SECONDS):
            how = "for ever: nothing empties it"
            if seconds is not None:
                how = f"for {engineering(seconds, 's')}"
            yield {
                "name": begun(name),
                "volts": engineering(volts, "V"),
                "joules": engineering(joules, "J"),
                "how": how,
            }


def _bled(s: Sight) -> Iterable[Facts]:
    for name, volts, joules, seconds in charges(s.solved):
        if volts > TOUCH_VOLTS and seconds is not None and seconds <= SOON_SECONDS:
            yield {
                "name": begun(name),
                "joules": engineering(joules, "J"),
                "seconds": engineering(seconds, "s"),
            }


def _raised(s: Sight) -> Iterable[Facts]:
    """Open volts raised by the winding's own capacitance with its leakage."""
    m = s.rig.piece
    n = m.get("ratio")
    rise = s.omega**2 * m.get("leakage_henries") * n**2 * m.get("winding_farads")
    if rise > NEAR_RESONANCE:
        share = rise / max(1 - rise, 1e-3)
        yield {"share": f"{share:.0%}" if rise < 1 else "many times"}


def _stored(s: "Scene | RowLook") -> Iterator[Facts]:
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


ROWS: tuple[Rule, ...] = (
    Rule(
        code="bridge-on-bonded",
        ids=("H15", "H98"),
        near=POWER,
        severity=STOP,
        condition="a bridge behind a winding that is bonded to the core",
        cleared="another rectifier, or a winding that floats",
        headline="Bridge on a bonded winding.",
        reason="A bridge shorts a winding whose {bond} is bonded to the core through the earth.",
        instead="Half-wave, a doubler, or a centre tap to the core work.",
        source="planner dc_supply; common practice",
        when=row(_bridged),
    ),
    Rule(
        code="resonance",
        ids=("H42",),
        near=POWER,
        severity=STOP,
        condition="a capacitor in series between half and twice the loop's reactance",
        cleared="a smaller or much larger capacitor",
        headline="Near resonance.",
        reason="{what} has {ratio} times the reactance of the loop's coils: it multiplies volts.",
        instead="Keep above twice, or take it out.",
        source="REF-B-04",
        when=row(_resonant),
    ),
    Rule(
        code="ferroresonance",
        ids=("H89",),
        near=POWER,
        severity=STOP,
        condition="a capacitor ahead of iron that nothing loads, below its reactance",
        cleared="a load that stays, or a smaller capacitor",
        headline="Iron may jump.",
        reason="Unloaded, {what} lies below the iron's own {ohms}: it jumps into resonance.",
        instead="Load it first, or take a smaller capacitor.",
        source="REF-B-04; common practice",
        when=row(_jumping),
    ),
    Rule(
        code="over-flux",
        ids=("H41", "H84"),
        near=POWER,
        severity=STOP,
        condition="more than 110 % of the rated volts per hertz on its primary",
        cleared="less volts, or more hertz",
        headline="Beyond its volts per hertz.",
        reason="Iron saturates, the primary's amps are its ohms' alone, insulation overheats.",
        instead="At most 110 % of the plate's volts per hertz; boosting is damage, not output.",
        source="REF-M-02",
        when=row(_over_fed),
    ),
    Rule(
        code="beyond-rating",
        ids=("H23", "H28"),
        near=POWER,
        severity=CAUTION,
        condition="a figure above what an element, or the piece, is rated for",
        cleared="less volts or amps there",
        headline="Beyond its rating.",
        reason="{name} has {has} ({what}) and bears {bears}: damage, no use.",
        instead="What fails: {fails}.",
        source="the ratings given; IEC 60038",
        when=row(_beyond),
    ),
    Rule(
        code="trips",
        ids=("H92",),
        near=POWER,
        severity=CAUTION,
        condition="more from the wall than its breaker holds",
        cleared="a limiter, or less load",
        headline="The breaker trips.",
        reason="{amps} from the wall: the breaker trips by its curve.",
        instead="The planner `breaker` says when.",
        source="IEC 60898-1",
        when=row(_trips),
    ),
    Rule(
        code="nothing-limits",
        ids=("H39",),
        near=POWER,
        severity=CAUTION,
        condition="a shorted output draws many times the breaker's amps",
        cleared="a limiter ahead of the piece",
        headline="Nothing limits it.",
        reason="With its output shorted {amps} flow through a breaker of {breaker}.",
        instead="Put a limiter ahead of it.",
        source="common practice",
        when=row(_unlimited),
    ),
    Rule(
        code="no-breaker",
        ids=("H20",),
        near=POWER,
        severity=CAUTION,
        condition="no breaker or fuse is told",
        cleared="its amps given",
        headline="No breaker told.",
        reason="No breaker or fuse stands in this rig.",
        instead="Give it: what it bears decides what a failure does.",
        source="common practice",
        when=row(_unguarded),
    ),
    Rule(
        code="lethal",
        ids=("H68", "H29"),
        near=POWER,
        severity=CAUTION,
        condition="a joint above what may be touched",
        cleared="nothing: covered, earthed, interlocked",
        headline="Lethal joints.",
        reason="Lethal to touch: {where}.",
        instead="Covered and apart, the core bonded, nobody near, one hand at the switch.",
        source="IEC 61140, IEC 60479-1",
        when=row(_lethal),
    ),
    Rule(
        code="charged",
        ids=("H97", "H42"),
        near=POWER,
        severity=CAUTION,
        condition="a capacitor that stays above 50 V longer than a minute",
        cleared="a bleeder that empties it",
        headline="Stays charged.",
        reason="{name} stays at up to {volts} ({joules}) {how}.",
        instead="Bleeder, volts seen to fall, stick, then a short that stays.",
        source="R-T2, REF-R-06",
        when=row(_charged),
    ),
    Rule(
        code="saturates",
        ids=("H41", "H84"),
        near=POWER,
        severity=CAUTION,
        condition="flux a tenth above the rated",
        cleared="less volts, or more hertz",
        headline="The core saturates.",
        reason="Flux is {flux} times the rated: current comes in peaks and the iron heats.",
        instead="Less volts; behind a limiter the peaks land on the insulation.",
        source="REF-M-02",
        when=row(_saturating),
    ),
    Rule(
        code="peaky",
        near=POWER,
        severity=CAUTION,
        condition="a crest factor above 1.6 out of the piece",
        cleared="less volts ahead, or no limiter ahead of saturated iron",
        headline="Short high peaks.",
        reason="Out of it come peaks of {peak} on {rms} RMS: the peak breaks insulation.",
        instead="A meter does not show it.",
        source="common practice",
        when=row(_peaky),
    ),
    Rule(
        code="shunts-saturate",
        near=POWER,
        severity=NOTE,
        condition="leakage flux above what the shunts carry",
        cleared="less amps",
        headline="The shunts saturate.",
        reason="Leakage flux is {times} times what the shunts carry.",
        instead="More flows than a test at low volts foretells.",
        source="REF-T-17",
        when=row(_shunts),
    ),
    Rule(
        code="raised",
        near=POWER,
        severity=NOTE,
        condition="the winding's own capacitance raises its open volts",
        cleared="a load, or shorter leads",
        headline="Open volts rise.",
        reason="Its own capacitance with its leakage raises the open volts by about {share}.",
        instead="Longer leads raise them more.",
        source="REF-T-15",
        when=row(_raised),
    ),
    Rule(
        code="limits",
        near=POWER,
        severity=NOTE,
        condition="always, where its short settles",
        headline="What limits.",
        reason="{name} limits: shorted, it holds {volts} and {amps} flow from the wall.",
        instead="",
        source="solved",
        when=row(_limiting),
    ),
    Rule(
        code="bled",
        near=POWER,
        severity=NOTE,
        condition="a charge that is let go within a minute",
        headline="Let go.",
        reason="{name} lets its {joules} go in {seconds} through what stands across it.",
        instead="A bleeder fails open: it proves nothing.",
        source="REF-R-06",
        when=row(_bled),
    ),
)
"""Everything a rig says of itself, the gravest first."""
RULES = (
    *ROWS,
    Rule(
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
    Rule(
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
)
"""The same, and what is said of what it stores."""


def spoken(solved: Solved) -> list[Danger]:
    """Everything that stands on a rig by itself, the gravest first."""
    scene = RowLook(row=solved)
    return [danger for rule in ROWS for danger in rule.tell(scene)]


def as_warning(danger: Danger) -> dict[str, str]:
    """A warning of a rig, in its public form."""
    return {"code": danger.code, "severity": danger.severity, "sentence": danger.sentence}
