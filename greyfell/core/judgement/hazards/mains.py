"""Where the mains stands, and where it would stand by a fault."""

from collections.abc import Iterable

from greyfell.core.belief.found import Winding
from greyfell.core.belief.priors import SMALL_ROLES
from greyfell.core.circuit.fed import fed_whole
from greyfell.core.figures.limits import LIVE_VOLTS, MAINS_RISE, TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.hazards.rule import Facts, HazardRule, Seen, ends_and_volts
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.isolating import (
    autotransformer,
    like_mains,
    safety_marked,
    taps_of_mains,
)
from greyfell.core.judgement.leaks import MAY_BE_MAINS
from greyfell.core.judgement.made_for import other_mains

OTHER_MAINS = 0.25
"""From this chance a piece is said to be made for other mains. House rule."""


OUTPUT_DOUBT = 0.05
"""From this chance of being an output a winding that likelier carries the mains is told as one: of
two like windings either may be fed. House rule."""
BURNING_AMPS = 200.0
"""Above this a short melts a ring or a tool in the hand. House rule, common practice."""
OVERSIZED = 4.0
"""A breaker of so many times the volt-amperes lets a piece burn before it trips. House rule."""
STEPS_UP, LOW_SIDE_VOLTS = 2.0, 60.0
"""A reading that drove less than the second and found more than the first of these times as much
shows a piece fed backwards. House rule."""


HOW = {"shorted-to-core": "conducts", "windings-shorted": "conducts", "insulation-low": "leaks"}
"""Faults by which the mains may come where it must not, and how it gets there."""


def _touches(seen: Seen, *, core: bool) -> Iterable[Facts]:
    """The gravest fault by which a winding that may carry the mains meets the iron, or another
    winding; a leak counts where it stops the piece.
    """
    for fault in seen.faults:
        how = HOW.get(fault.code)
        grave = fault.severity == "stop" or fault.code in ("shorted-to-core", "windings-shorted")
        if how is None or not grave or fault.severity == "note":
            continue
        found = (seen.belief.winding_of(x) for x in fault.leads if x != "core")
        windings = [w for w in found if w is not None]
        mains = any(w.mains_chance >= MAY_BE_MAINS for w in windings)
        if ("core" in fault.leads) is core and (mains or not windings):
            ends = "–".join(x for x in fault.leads if x != "core")
            yield {"ends": ends, "how": how, **_supply(seen)}
            return


def _mains_on_iron(seen: Seen) -> Iterable[Facts]:
    return _touches(seen, core=True)


def _mains_on_secondary(seen: Seen) -> Iterable[Facts]:
    return _touches(seen, core=False)


def _one_winding(seen: Seen) -> Iterable[Facts]:
    """A piece that isolates nothing: an autotransformer by its plate, its windings or its kind."""
    why = autotransformer(seen.record, seen.belief)
    if why:
        yield {"why": why}


def _tapped(seen: Seen) -> Iterable[Facts]:
    """A tap of the winding that takes the mains, beside others that may isolate."""
    if autotransformer(seen.record, seen.belief):
        return
    for w, taps in taps_of_mains(seen.belief):
        yield {"ends": w.name, "taps": ", ".join(taps)}


def _unmarked(seen: Seen) -> Iterable[Facts]:
    """An output at mains-like volts without the mark of a safety isolating transformer."""
    if autotransformer(seen.record, seen.belief) or safety_marked(seen.record):
        return
    for w in like_mains(seen.record, seen.belief):
        yield ends_and_volts(w)


def most_volts(w: Winding) -> float:
    """The most an output may put out: the top of its range on mains a tenth high; nought for HV and
    where nothing is known. IEC 60038.

    A winding that may be the mains' or an output counts as an output: what it puts out is not
    excluded.
    """
    if w.volts is None or may_be_high(w) or not may_put_out(w):
        return 0.0
    return MAINS_RISE * w.volts.high


def may_put_out(w: Winding) -> bool:
    """Whether a winding may be an output: likeliest none of the mains', or one with some chance."""
    chance = sum(w.roles.get(role, 0.0) for role in SMALL_ROLES)
    return not w.on_mains or chance >= OUTPUT_DOUBT


def reaches_touch(w: Winding) -> bool:
    """Whether a winding that is neither the mains' nor HV may put out more than may be touched."""
    return most_volts(w) > TOUCH_VOLTS


def _above_touch(seen: Seen) -> Iterable[Facts]:
    for w in seen.belief.windings:
        if w.volts is not None and reaches_touch(w):
            value = f"Up to {engineering(most_volts(w), 'V')}"
            if w.volts.value > TOUCH_VOLTS:
                value = engineering(w.volts.value, "V")
            yield {**ends_and_volts(w), "value": value}


def _accessible(seen: Seen) -> Iterable[Facts]:
    for w in seen.belief.windings:
        if LIVE_VOLTS < most_volts(w) <= TOUCH_VOLTS:
            yield {**ends_and_volts(w), "most": engineering(most_volts(w), "V")}


def _burns(seen: Seen) -> Iterable[Facts]:
    """Outputs whose copper alone would let hundreds of amps pass."""
    primary = fed_whole(seen.record, seen.belief)
    for w in seen.belief.windings:
        amps = short_amps(w, primary)
        if amps > BURNING_AMPS:
            yield {**ends_and_volts(w), "amps": engineering(amps, "A")}


def short_amps(w: Winding, primary: Winding | None) -> float:
    """The most amps into a short of a winding, by the ohms on record: V2 / (R2 + R1 (V2/V1)²).

    Ohm's law; leakage, which lowers it, is left out. Nought where nothing is known. REF-T-09.
    """
    if primary is None or w.volts is None or w.id == primary.id or w.coil.broken or may_be_high(w):
        return 0.0
    if primary.volts is None or not may_put_out(w) or not w.coil.readings:
        return 0.0
    ratio = w.volts.value / primary.volts.value
    ohms = w.coil.ohms.value + primary.coil.ohms.value * ratio**2
    return w.volts.value / max(ohms, 1e-4)


def _breaker(seen: Seen) -> Iterable[Facts]:
    """A breaker far above what the piece bears."""
    supply, whole = seen.record.supply, seen.belief.voltamperes
    if whole is None or supply.breaker_amps is None:
        return
    if supply.breaker_amps * supply.volts > OVERSIZED * whole.high:
        fuse = engineering(1.5 * whole.value / supply.volts, "A")
        yield {"breaker": engineering(supply.breaker_amps, "A"), "fuse": fuse}


def _backwards(seen: Seen) -> Iterable[Facts]:
    """A reading that itself drove one winding and found far more on another."""
    for r in seen.record.standing:
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


def _supply(seen: Seen) -> Facts:
    return {"supply": f"{seen.record.supply.volts:g} V"}


def _other_mains(seen: Seen) -> Iterable[Facts]:
    if other_mains(seen.record, seen.belief) > OTHER_MAINS:
        yield _supply(seen)


def _primary(seen: Seen) -> Iterable[Facts]:
    if any(w.on_mains for w in seen.belief.windings):
        yield _supply(seen)


RULES = (
    HazardRule(
        code="core-at-mains",
        condition="a winding that may carry the mains conducts or leaks to the core",
        cleared="a better reading of the pair that stopped it",
        headline="The iron would stand at mains.",
        what="{ends} {how} to the core: with the plug in, {supply} would stand on the iron.",
        instead="Power nothing. A touch of the iron would be a touch of the line.",
        source="common practice; IEC 61140",
        when=_mains_on_iron,
    ),
    HazardRule(
        code="mains-on-output",
        condition="a winding that may carry the mains conducts or leaks to another",
        cleared="a better reading of the pair that stopped it",
        headline="An output would stand at mains.",
        what="{ends}: one {how} to the other; with the plug in, outputs would stand at {supply}.",
        instead="Power nothing. Any output lead would be a touch of the line.",
        source="common practice; IEC 61558-1",
        when=_mains_on_secondary,
    ),
    HazardRule(
        code="no-isolation",
        condition="an autotransformer by its plate or its windings, or a variable transformer",
        cleared="a second winding, open to the first, and a plate that does not say otherwise",
        headline="No isolation.",
        what="This is one winding for both sides ({why}):",
        instead="every point of it may be live to earth, whatever the volts between two of them.",
        source="common practice; IEC 61558-2-13",
        when=_one_winding,
    ),
    HazardRule(
        code="no-isolation",
        condition="the winding that takes the mains has taps",
        cleared="never: a tap is the mains winding itself",
        headline="A tap isolates nothing.",
        what="{taps} is a tap of {ends}, which takes the mains: no isolation from it.",
        instead="Insulate it as a mains lead; only a winding of its own may be an output.",
        source="common practice; IEC 61558-1",
        when=_tapped,
    ),
    HazardRule(
        code="no-safety-isolation",
        condition="an output at mains-like volts, and no mark of a safety isolating transformer",
        cleared="the mark of IEC 61558-2-4 or -6 on the plate, and nothing rewound since",
        headline="No safety isolation.",
        what=(
            "{ends} puts out {volts}, and no plate says “safety isolating” (IEC 61558-2-4): it "
            "counts as basic insulation at best, however well it reads."
        ),
        instead="Nobody relies on it: earth, fuse and residual-current device as on the mains.",
        source="IEC 61558-2-4; common practice",
        when=_unmarked,
    ),
    HazardRule(
        code="above-touch",
        condition="a winding may put out more than 50 V",
        cleared="its volts known to stay at or below 50 V",
        headline="{value} can kill.",
        what="{ends} puts out {volts}: above the 50 V touch limit (IEC 61140).",
        instead="",
        source="IEC 61140, IEC 60364-4-41",
        when=_above_touch,
    ),
    HazardRule(
        code="above-30",
        condition="a winding may put out more than 30 V and no more than 50 V",
        cleared="its volts known to stay at or below 30 V with the mains a tenth high",
        headline="Live when touched.",
        what=(
            "{ends} puts out {volts}, up to {most} on high mains: above 30 V accessible metal "
            "counts as live (IEC 61010-1), above 25 V extra-low voltage wants a cover."
        ),
        instead="No bare ends, no wet hands.",
        source="IEC 61010-1, IEC 60364-4-41 cl. 414.4.5, IEC 60038",
        when=_accessible,
    ),
    HazardRule(
        code="back-fed",
        condition="a reading drove a few volts into one winding and found more on another",
        cleared="never: a piece steps up where it is fed from its low side",
        headline="Fed backwards it steps up.",
        what="{driven} driven with {given} put {volts} on {ends}: fed from the low side,",
        instead="every other winding and the primary's plug is live. Cover all of them.",
        source="REF-T-01; common practice",
        when=_backwards,
    ),
    HazardRule(
        code="burns",
        condition="the copper of an output lets more than 200 A pass into a short",
        cleared="ohms or volts that let less pass",
        headline="Amps that burn.",
        what="{ends} may pass up to {amps} into a short by its ohms:",
        instead="no rings, no watch, no loose tools near it; molten metal flies.",
        source="Ohm's law; common practice",
        when=_burns,
    ),
    HazardRule(
        code="other-mains",
        condition="made for other mains than the bench's by more than one chance in four",
        cleared="a plate, or volts per turn",
        headline="Made for other mains?",
        what="What is on record suggests a piece made for another mains voltage than {supply}:",
        instead="on this supply it would saturate or run far from its volts.",
        source="REF-M-02; expectations of the trade, common practice",
        when=_other_mains,
    ),
    HazardRule(
        code="breaker",
        condition="a breaker of more than four times the piece's volt-amperes",
        cleared="a fuse to suit, or a smaller breaker",
        headline="The breaker does not protect it.",
        what="A breaker of {breaker} trips long after this piece burns:",
        instead="fuse its primary at about {fuse}, slow-blow.",
        source="common practice; IEC 61558-1",
        when=_breaker,
    ),
    HazardRule(
        code="mains",
        condition="a winding is likeliest one that carries the mains",
        cleared="no winding that takes the mains",
        headline="Mains on the primary.",
        what="The primary carries {supply} mains when powered.",
        instead=("A residual-current device does not protect anyone touching an isolated winding."),
        source="IEC 60364-4-41",
        when=_primary,
    ),
)
