"""What is said at every live station besides the danger strip: dangers of the act itself, of the
bench and of what people believe, each with its condition, its reason and what to do instead.
"""

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.dangers.looked import Looked
from greyfell.core.dangers.rule import NOTE, POWER, Danger, Facts, Rule, piece
from greyfell.core.families.registry import has
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.mains import high_region
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import high_ruled_out, may_be_high, share_to_earth
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.put_out import BURNING_AMPS, most_volts, short_amps

MAINS_LIKE = (90.0, 270.0)
"""An output of such volts may feed what is made for some mains: it is taken for isolation. House
rule."""


def _always(_ident: Identification) -> bool:
    return True


def _high(ident: Identification) -> bool:
    return not high_ruled_out(ident.belief)


def _share(ident: Identification) -> list[Facts]:
    """What of the high voltage stands to earth, where it is not ruled out."""
    return [{"share": share_to_earth(ident.belief)}] if _high(ident) else []


def _sign(ident: Identification) -> bool:
    named = (ident.family, ident.record.declared_family)
    return any(has(key, "ground_fault_unit") for key in named)


def _outputs(ident: Identification) -> list[Winding]:
    fed = fed_windings(ident)
    return [w for w in ident.windings if w not in fed and not may_be_high(w)]


def _mains_like(ident: Identification) -> bool:
    """An output of some mains' volts."""
    low, high = MAINS_LIKE
    return any(w.volts is not None and low <= w.volts.value <= high for w in _outputs(ident))


def _floating(ident: Identification) -> bool:
    """An output above what may be touched that is not bonded to the iron."""
    return any(most_volts(w) > TOUCH_VOLTS and w.coil.bond is None for w in _outputs(ident))


def _tapped_high(ident: Identification) -> bool:
    """An HV winding with a tap, or bonded in its middle: its half is what people measure."""
    return any(may_be_high(w) and (w.coil.taps or w.coil.bond) for w in ident.windings)


def _burning(ident: Identification) -> bool:
    primary = fed_whole(ident.record, ident.belief)
    return any(short_amps(w, primary) > BURNING_AMPS for w in ident.windings)


def _by_ohms_alone(ident: Identification) -> bool:
    """No insulation test is on record."""
    return not any(r.proof_volts for r in ident.record.standing)


def _other_region(ident: Identification) -> bool:
    """One side of the other region's mains: a step-up or step-down converter."""
    low, high = MAINS_LIKE
    here = high_region(ident.record.supply.volts)
    volts = (w.volts.value for w in _outputs(ident) if w.volts is not None)
    return any(low <= v <= high and high_region(v) is not here for v in volts)


RULES = (
    Rule(
        code="no-hand-near",
        ids=("H40", "H35"),
        near=POWER,
        severity=NOTE,
        condition="high voltage is not ruled out",
        headline="No hand near an arc.",
        reason="An oven's HV passes amps into a body; nothing limits it. Jig, distance, switch.",
        when=piece(_high),
        source="IEC 60479-1",
    ),
    Rule(
        code="one-terminal",
        ids=("H68", "H86"),
        near=POWER,
        severity=NOTE,
        condition="high voltage is not ruled out",
        headline="One terminal kills as two do.",
        reason="{share} of the output stands to earth: far above what lets go of a hand.",
        when=piece(_share),
        source="IEC 60479-1",
    ),
    Rule(
        code="half-and-whole",
        ids=("H38",),
        near=POWER,
        severity=NOTE,
        condition="an HV winding with a tap or bonded to the iron",
        headline="End to end is twice the half.",
        reason="A meter made for a half dies on the whole: one half to the tap, leads covered.",
        when=piece(_tapped_high),
    ),
    Rule(
        code="trip-unit",
        ids=("H70",),
        near=POWER,
        severity=NOTE,
        condition="a sign transformer",
        headline="A trip is never bypassed.",
        reason="A sign's ground-fault unit trips for a cause: the arc it hides burns walls.",
        when=piece(_sign),
    ),
    Rule(
        code="implants",
        ids=("H61",),
        near=POWER,
        severity=NOTE,
        condition="always",
        headline="No implant, no open wound near it.",
        reason="Microamps matter to both: somebody else does this, or nobody.",
        when=piece(_always),
        source="IEC 60479-1, from memory",
    ),
    Rule(
        code="not-alone",
        ids=("H56", "H29"),
        near=POWER,
        severity=NOTE,
        condition="always",
        headline="Not alone.",
        reason="Somebody near who knows the switch, and no hand that has to reach past it.",
        when=piece(_always),
    ),
    Rule(
        code="two-points",
        ids=("H29", "H07"),
        near=POWER,
        severity=NOTE,
        condition="an output above 50 V",
        headline="Two points at once kill.",
        reason="Isolated or not: one point, one hand; clips before power, off after.",
        when=piece(_floating),
        source="IEC 61140",
    ),
    Rule(
        code="cold-lamp",
        ids=("H82",),
        near=POWER,
        severity=NOTE,
        condition="always",
        headline="A cold lamp is no lamp.",
        reason="For a tenth of a second it passes twelve to sixteen times its amps.",
        when=piece(_always),
        source="REF-B-06",
    ),
    Rule(
        code="ohms-see-little",
        ids=("H57", "H25"),
        near=POWER,
        severity=NOTE,
        condition="no insulation test on record",
        headline="Ohms see neither insulation nor turns.",
        reason="A hand meter's few volts prove no barrier: 500 V does; watts and soak show turns.",
        when=piece(_by_ohms_alone),
        source="IEC 61558-1 cl. 18, from memory",
    ),
    Rule(
        code="first-fault",
        ids=("H30",),
        near=POWER,
        severity=NOTE,
        condition="an output above 50 V that floats",
        headline="The first earth fault shows nothing.",
        reason="A floating output is lost in silence: leakage is tested again, or watched.",
        when=piece(_floating),
        source="IEC 60364-4-41 cl. 413",
    ),
    Rule(
        code="no-earth-on-output",
        ids=("H31", "H32"),
        near=POWER,
        severity=NOTE,
        condition="an output of some mains' volts",
        headline="No pole of it to neutral or clip.",
        reason="Tied to a pole or to an earthed instrument it isolates no more.",
        when=piece(_mains_like),
        source="IEC 60364-4-41 cl. 413",
    ),
    Rule(
        code="two-poles-behind",
        ids=("H59",),
        near=POWER,
        severity=NOTE,
        condition="an output of some mains' volts",
        headline="Behind it both poles are switched.",
        reason="One pole of a floating output leaves the other live to the next fault.",
        when=piece(_mains_like),
        source="IEC 60364-5-53, from memory",
    ),
    Rule(
        code="converter",
        ids=("H58",),
        near=POWER,
        severity=NOTE,
        condition="an output of the other region's mains",
        headline="A converter may isolate little or nothing.",
        reason="Many are one winding, others insulated for basics: ohms, 500 V, then the mark.",
        when=piece(_other_region),
        source="IEC 61558-2-4, from memory",
    ),
    Rule(
        code="hot-cable",
        ids=("H21", "H19", "H50"),
        near=POWER,
        severity=NOTE,
        condition="an output that lets more than 200 A pass",
        headline="Cables melt before fuses blow.",
        reason="Amps beyond a cable's duty are for seconds: feel it with the plug out, rest.",
        when=piece(_burning),
    ),
)
"""Every note, the nearest to the hand first."""


def live_notes(ident: Identification) -> list[Danger]:
    """What is said of this piece wherever it is fed from the line."""
    looked = Looked(ident=ident)
    return [danger for rule in RULES for danger in rule.tell(looked)]
