"""Where the mains stands, and where it would stand by a fault."""

from collections.abc import Iterable

from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.dangers.ends import ends_and_volts
from greyfell.core.dangers.rule import CAUTION, POWER, STOP, Facts, Rule, piece
from greyfell.core.figures.limits import LIVE_VOLTS, TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.isolating import (
    autotransformer,
    like_mains,
    safety_marked,
    taps_of_mains,
)
from greyfell.core.judgement.leaks import MAY_BE_MAINS
from greyfell.core.judgement.put_out import BURNING_AMPS, most_volts, reaches_touch, short_amps
from greyfell.core.judgement.rated_mains import other_mains

OTHER_MAINS = 0.25
"""From this chance a piece is said to be made for other mains. House rule."""
OVERSIZED = 4.0
"""A breaker of so many times the volt-amperes lets a piece burn before it trips. House rule."""
STEPS_UP, LOW_SIDE_VOLTS = 2.0, 60.0
"""A reading that drove less than the second and found more than the first of these times as much
shows a piece fed backwards. House rule."""
HOW = {"shorted-to-core": "conducts", "windings-shorted": "conducts", "insulation-low": "leaks"}
"""Faults by which the mains may come where it must not, and how it gets there."""


def _touches(ident: Identification, *, core: bool) -> Iterable[Facts]:
    """The gravest fault by which a winding that may carry the mains meets the iron, or another
    winding; a leak counts where it stops the piece.
    """
    for fault in ident.faults:
        how = HOW.get(fault.code)
        grave = fault.severity == "stop" or fault.code in ("shorted-to-core", "windings-shorted")
        if how is None or not grave or fault.severity == "note":
            continue
        found = (ident.belief.winding_of(x) for x in fault.leads if x != "core")
        windings = [w for w in found if w is not None]
        mains = any(w.mains_chance >= MAY_BE_MAINS for w in windings)
        if ("core" in fault.leads) is core and (mains or not windings):
            ends = "–".join(x for x in fault.leads if x != "core")
            yield {"ends": ends, "how": how, **_supply(ident)}
            return


def _mains_on_iron(ident: Identification) -> Iterable[Facts]:
    return _touches(ident, core=True)


def _mains_on_secondary(ident: Identification) -> Iterable[Facts]:
    return _touches(ident, core=False)


def _one_winding(ident: Identification) -> Iterable[Facts]:
    """A piece that isolates nothing: an autotransformer by its plate, its windings or its kind."""
    why = autotransformer(ident.record, ident.belief)
    if why:
        yield {"why": why}


def _tapped(ident: Identification) -> Iterable[Facts]:
    """A tap of the winding that takes the mains, beside others that may isolate."""
    if autotransformer(ident.record, ident.belief):
        return
    for w, taps in taps_of_mains(ident.belief):
        yield {"ends": w.name, "taps": ", ".join(taps)}


def _unmarked(ident: Identification) -> Iterable[Facts]:
    """An output at mains-like volts without the mark of a safety isolating transformer."""
    if autotransformer(ident.record, ident.belief) or safety_marked(ident.record):
        return
    for w in like_mains(ident.record, ident.belief):
        yield ends_and_volts(w)


def _above_touch(ident: Identification) -> Iterable[Facts]:
    for w in ident.windings:
        if w.volts is not None and reaches_touch(w):
            value = f"Up to {engineering(most_volts(w), 'V')}"
            if w.volts.value > TOUCH_VOLTS:
                value = engineering(w.volts.value, "V")
            yield {**ends_and_volts(w), "value": value}


def _accessible(ident: Identification) -> Iterable[Facts]:
    for w in ident.windings:
        if LIVE_VOLTS < most_volts(w) <= TOUCH_VOLTS:
            yield {**ends_and_volts(w), "most": engineering(most_volts(w), "V")}


def _burns(ident: Identification) -> Iterable[Facts]:
    """Outputs whose copper alone would let hundreds of amps pass."""
    primary = fed_whole(ident.record, ident.belief)
    for w in ident.windings:
        amps = short_amps(w, primary)
        if amps > BURNING_AMPS:
            yield {**ends_and_volts(w), "amps": engineering(amps, "A")}


def _breaker(ident: Identification) -> Iterable[Facts]:
    """A breaker far above what the piece bears."""
    supply, whole = ident.record.supply, ident.belief.voltamperes
    if whole is None or supply.breaker_amps is None:
        return
    if supply.breaker_amps * supply.volts > OVERSIZED * whole.high:
        fuse = engineering(1.5 * whole.value / supply.volts, "A")
        yield {"breaker": engineering(supply.breaker_amps, "A"), "fuse": fuse}


def _backwards(ident: Identification) -> Iterable[Facts]:
    """A reading that itself drove one winding and found far more on another."""
    for r in ident.record.standing:
        if r.kind != "ratio":
            continue
        stepped = r.sensed_volts > LIVE_VOLTS and r.sensed_volts > STEPS_UP * r.driven_volts
        if stepped and r.driven_volts < LOW_SIDE_VOLTS:
            yield {
                "driven": "–".join(r.driven),
                "ends": "–".join(r.sensed),
                "given": engineering(r.driven_volts, "V"),
                "volts": engineering(r.sensed_volts, "V"),
            }


def _supply(ident: Identification) -> Facts:
    return {"supply": f"{ident.record.supply.volts:g} V"}


def _other_mains(ident: Identification) -> Iterable[Facts]:
    if other_mains(ident.record, ident.belief) > OTHER_MAINS:
        yield _supply(ident)


def _primary(ident: Identification) -> Iterable[Facts]:
    if any(w.on_mains for w in ident.windings):
        yield _supply(ident)


BY_FAULT = (
    Rule(
        code="core-at-mains",
        ids=("H11",),
        near=POWER,
        severity=STOP,
        condition="a winding that may carry the mains conducts or leaks to the core",
        cleared="a better reading of the pair that stopped it",
        headline="The iron would stand at mains.",
        reason="{ends} {how} to the core: with the plug in, {supply} would stand on the iron.",
        instead="Power nothing. A touch of the iron would be a touch of the line.",
        source="common practice; IEC 61140",
        when=piece(_mains_on_iron),
    ),
    Rule(
        code="mains-on-output",
        ids=("H34",),
        near=POWER,
        severity=STOP,
        condition="a winding that may carry the mains conducts or leaks to another",
        cleared="a better reading of the pair that stopped it",
        headline="An output would stand at mains.",
        reason="{ends}: one {how} to the other; with the plug in, outputs would stand at {supply}.",
        instead="Power nothing. Any output lead would be a touch of the line.",
        source="common practice; IEC 61558-1",
        when=piece(_mains_on_secondary),
    ),
)
"""Where the mains stands by a fault."""
RULES = (
    Rule(
        code="no-isolation",
        ids=("H43",),
        near=POWER,
        severity=CAUTION,
        condition="an autotransformer by its plate or its windings, or a variable transformer",
        cleared="a second winding, open to the first, and a plate that does not say otherwise",
        headline="No isolation.",
        reason="This is one winding for both sides ({why}).",
        instead="Every point of it may be live to earth, whatever the volts between two of them.",
        source="common practice; IEC 61558-2-13",
        when=piece(_one_winding),
    ),
    Rule(
        code="no-isolation",
        ids=("H43",),
        near=POWER,
        severity=CAUTION,
        condition="the winding that takes the mains has taps",
        cleared="never: a tap is the mains winding itself",
        headline="A tap isolates nothing.",
        reason="{taps} is a tap of {ends}, which takes the mains: no isolation from it.",
        instead="Insulate it as a mains lead; only a winding of its own may be an output.",
        source="common practice; IEC 61558-1",
        when=piece(_tapped),
    ),
    Rule(
        code="no-safety-isolation",
        ids=("H58",),
        near=POWER,
        severity=CAUTION,
        condition="an output at mains-like volts, and no mark of a safety isolating transformer",
        cleared="the mark of IEC 61558-2-4 or -6 on the plate, and nothing rewound since",
        headline="No safety isolation.",
        reason=(
            "{ends} puts out {volts}, and no plate says “safety isolating” (IEC 61558-2-4): it "
            "counts as basic insulation at best, however well it reads."
        ),
        instead="Nobody relies on it: earth, fuse and residual-current device as on the mains.",
        source="IEC 61558-2-4; common practice",
        when=piece(_unmarked),
    ),
    Rule(
        code="back-fed",
        ids=("H83",),
        near=POWER,
        severity=CAUTION,
        condition="a reading drove a few volts into one winding and found more on another",
        cleared="never: a piece steps up where it is fed from its low side",
        headline="Fed backwards it steps up.",
        reason="{driven} driven with {given} put {volts} on {ends}.",
        instead=(
            "Fed from the low side, every other winding and the primary's plug is live: cover all "
            "of them."
        ),
        source="REF-T-01; common practice",
        when=piece(_backwards),
    ),
    Rule(
        code="above-touch",
        ids=("H29",),
        near=POWER,
        severity=CAUTION,
        condition="a winding may put out more than 50 V",
        cleared="its volts known to stay at or below 50 V",
        headline="{value} can kill.",
        reason="{ends} puts out {volts}: above the 50 V touch limit (IEC 61140).",
        instead="Its ends covered; clips on before power, off after.",
        source="IEC 61140, IEC 60364-4-41",
        when=piece(_above_touch),
    ),
    Rule(
        code="above-30",
        ids=("H29",),
        near=POWER,
        severity=CAUTION,
        condition="a winding may put out more than 30 V and no more than 50 V",
        cleared="its volts known to stay at or below 30 V with the mains a tenth high",
        headline="Live when touched.",
        reason=(
            "{ends} puts out {volts}, up to {most} on high mains: above 30 V accessible metal "
            "counts as live (IEC 61010-1), above 25 V extra-low voltage wants a cover."
        ),
        instead="No bare ends, no wet hands.",
        source="IEC 61010-1, IEC 60364-4-41 cl. 414.4.5, IEC 60038",
        when=piece(_accessible),
    ),
    Rule(
        code="burns",
        ids=("H19", "H50"),
        near=POWER,
        severity=CAUTION,
        condition="the copper of an output lets more than 200 A pass into a short",
        cleared="ohms or volts that let less pass",
        headline="Amps that burn.",
        reason="{ends} may pass up to {amps} into a short by its ohms: molten metal flies.",
        instead="No rings, no watch, no loose tools near it.",
        source="Ohm's law; common practice",
        when=piece(_burns),
    ),
    Rule(
        code="other-mains",
        ids=("H84",),
        near=POWER,
        severity=CAUTION,
        condition="made for other mains than the bench's by more than one chance in four",
        cleared="a plate, or volts per turn",
        headline="Made for other mains?",
        reason="What is on record suggests a piece made for another mains voltage than {supply}.",
        instead="On this supply it would saturate or run far from its volts.",
        source="REF-M-02; expectations of the trade, common practice",
        when=piece(_other_mains),
    ),
    Rule(
        code="mains",
        ids=("H33",),
        near=POWER,
        severity=CAUTION,
        condition="a winding is likeliest one that carries the mains",
        cleared="no winding that takes the mains",
        headline="Mains on the primary.",
        reason="The primary carries {supply} mains when powered.",
        instead="A residual-current device does not protect anyone touching an isolated winding.",
        source="IEC 60364-4-41",
        when=piece(_primary),
    ),
    Rule(
        code="breaker",
        ids=("H47", "H76"),
        near=POWER,
        severity=CAUTION,
        condition="a breaker of more than four times the piece's volt-amperes",
        cleared="a fuse to suit, or a smaller breaker",
        headline="The breaker does not protect it.",
        reason="A breaker of {breaker} trips long after this piece burns.",
        instead="Fuse its primary at about {fuse}, slow-blow.",
        source="common practice; IEC 61558-1",
        when=piece(_breaker),
    ),
)
"""Where it stands in a sound piece, and what outputs do."""
