"""Where the mains stands, and where it would stand by a fault."""

from collections.abc import Iterable

from greyfell.core.belief.found import Winding
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.faults import MAY_BE_MAINS
from greyfell.core.judgement.hazards.rule import Facts, HazardRule, Seen, ends_and_volts
from greyfell.core.judgement.high import may_be_high

TOUCH_VOLTS = 50.0
"""Conventional touch voltage limit, AC. REF-H, IEC 61140 and IEC 60364-4-41."""
OTHER_MAINS = 0.25
"""From this chance a piece is said to be made for other mains. House rule."""


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
    """One tapped winding and no other: an autotransformer."""
    whole = [w for w in seen.belief.windings if not w.coil.broken]
    if len(whole) == 1 and seen.belief.windings[0].coil.taps:
        yield {}


def reaches_touch(w: Winding) -> bool:
    """Whether a winding that is neither the mains' nor HV may put out more than may be touched."""
    high = w.volts is not None and w.volts.high > TOUCH_VOLTS
    return high and not w.on_mains and not may_be_high(w)


def _above_touch(seen: Seen) -> Iterable[Facts]:
    for w in seen.belief.windings:
        if w.volts is not None and reaches_touch(w):
            value = f"Up to {engineering(w.volts.high, 'V')}"
            if w.volts.value > TOUCH_VOLTS:
                value = engineering(w.volts.value, "V")
            yield {**ends_and_volts(w), "value": value}


def _supply(seen: Seen) -> Facts:
    return {"supply": f"{seen.record.supply.volts:g} V"}


def _other_mains(seen: Seen) -> Iterable[Facts]:
    if seen.belief.other_region > OTHER_MAINS:
        yield _supply(seen)


def _primary(seen: Seen) -> Iterable[Facts]:
    if any(w.on_mains for w in seen.belief.windings):
        yield _supply(seen)


RULES = (
    HazardRule(
        code="core-at-mains",
        rank=0,
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
        rank=1,
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
        rank=30,
        condition="one tapped winding and no other",
        cleared="a second winding, open to the first",
        headline="No isolation.",
        what="One tapped winding is an autotransformer:",
        instead="every point of it may be live to earth, whatever its volts to each other.",
        source="common practice; IEC 61558-2-13",
        when=_one_winding,
    ),
    HazardRule(
        code="above-touch",
        rank=40,
        condition="a winding may put out more than 50 V",
        cleared="its volts known to stay at or below 50 V",
        headline="{value} can kill.",
        what="{ends} puts out {volts}: above the 50 V touch limit (IEC 61140).",
        instead="",
        source="IEC 61140, IEC 60364-4-41",
        when=_above_touch,
    ),
    HazardRule(
        code="other-mains",
        rank=50,
        condition="made for other mains than the bench's by more than one chance in four",
        cleared="a plate, or volts per turn",
        headline="Made for other mains?",
        what="The ohms suggest a piece made for another mains voltage than {supply}:",
        instead="on this supply it would saturate or run far from its volts.",
        source="REF-M-02; expectations of the trade, common practice",
        when=_other_mains,
    ),
    HazardRule(
        code="mains",
        rank=60,
        condition="a winding is likeliest one that carries the mains",
        cleared="no winding that takes the mains",
        headline="Mains on the primary.",
        what="The primary carries {supply} mains when powered.",
        instead=("A residual-current device does not protect anyone touching an isolated winding."),
        source="IEC 60364-4-41",
        when=_primary,
    ),
)
