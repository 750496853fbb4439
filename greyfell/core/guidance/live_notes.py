"""What is said at every live station besides the danger strip: dangers of the act itself, of the
bench and of what people believe, each with its condition, its reason and what to do instead.
"""

from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.fed import fed_whole
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.mains import high_region
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.hazards.mains import BURNING_AMPS, most_volts, short_amps
from greyfell.core.judgement.high import high_ruled_out, may_be_high, share_to_earth
from greyfell.core.judgement.identification import Identification

MAINS_LIKE = (90.0, 270.0)
"""An output of such volts may feed what is made for some mains: it is taken for isolation. House
rule."""


class LiveNote(Struct, frozen=True, kw_only=True):
    """One sentence at the act: its code, headline, reason and what instead, the hazards of the
    catalogue it meets, when it stands, and its source.
    """

    code: str
    headline: str
    reason: str
    ids: tuple[str, ...]
    condition: str
    when: Callable[[Identification], bool]
    source: str = "common practice"

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "headline": self.headline, "sentence": self.reason}


def _always(_ident: Identification) -> bool:
    return True


def _high(ident: Identification) -> bool:
    return not high_ruled_out(ident.belief)


def _sign(ident: Identification) -> bool:
    return ident.family == "sign" or ident.record.declared_family == "sign"


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
    return not any(r.kind == "insulation" for r in ident.record.standing)


def _other_region(ident: Identification) -> bool:
    """One side of the other region's mains: a step-up or step-down converter."""
    low, high = MAINS_LIKE
    here = high_region(ident.record.supply.volts)
    volts = (w.volts.value for w in _outputs(ident) if w.volts is not None)
    return any(low <= v <= high and high_region(v) is not here for v in volts)


NOTES: Sequence[LiveNote] = (
    LiveNote(
        code="no-hand-near",
        headline="No hand near an arc.",
        reason="An oven's HV passes amps into a body; nothing limits it. Jig, distance, switch.",
        ids=("H40", "H35"),
        condition="high voltage is not ruled out",
        when=_high,
        source="IEC 60479-1",
    ),
    LiveNote(
        code="one-terminal",
        headline="One terminal kills as two do.",
        reason="{share} of the output stands to earth: far above what lets go of a hand.",
        ids=("H68", "H86"),
        condition="high voltage is not ruled out",
        when=_high,
        source="IEC 60479-1",
    ),
    LiveNote(
        code="half-and-whole",
        headline="End to end is twice the half.",
        reason="A meter made for a half dies on the whole: one half to the tap, leads covered.",
        ids=("H38",),
        condition="an HV winding with a tap or bonded to the iron",
        when=_tapped_high,
    ),
    LiveNote(
        code="trip-unit",
        headline="A trip is never bypassed.",
        reason="A sign's ground-fault unit trips for a cause: the arc it hides burns walls.",
        ids=("H70",),
        condition="a sign transformer",
        when=_sign,
    ),
    LiveNote(
        code="implants",
        headline="No implant, no open wound near it.",
        reason="Microamps matter to both: somebody else does this, or nobody.",
        ids=("H61",),
        condition="always",
        when=_always,
        source="IEC 60479-1, from memory",
    ),
    LiveNote(
        code="not-alone",
        headline="Not alone.",
        reason="Somebody near who knows the switch, and no hand that has to reach past it.",
        ids=("H56", "H29"),
        condition="always",
        when=_always,
    ),
    LiveNote(
        code="two-points",
        headline="Two points at once kill.",
        reason="Isolated or not: one point, one hand; clips before power, off after.",
        ids=("H29", "H07"),
        condition="an output above 50 V",
        when=_floating,
        source="IEC 61140",
    ),
    LiveNote(
        code="cold-lamp",
        headline="A cold lamp is no lamp.",
        reason="For a tenth of a second it passes twelve to sixteen times its amps.",
        ids=("H82",),
        condition="always",
        when=_always,
        source="REF-B-06",
    ),
    LiveNote(
        code="ohms-see-little",
        headline="Ohms see neither insulation nor turns.",
        reason="A hand meter's few volts prove no barrier: 500 V does; watts and soak show turns.",
        ids=("H57", "H25"),
        condition="no insulation test on record",
        when=_by_ohms_alone,
        source="IEC 61558-1 cl. 18, from memory",
    ),
    LiveNote(
        code="first-fault",
        headline="The first earth fault shows nothing.",
        reason="A floating output is lost in silence: leakage is tested again, or watched.",
        ids=("H30",),
        condition="an output above 50 V that floats",
        when=_floating,
        source="IEC 60364-4-41 cl. 413",
    ),
    LiveNote(
        code="no-earth-on-output",
        headline="No pole of it to neutral or clip.",
        reason="Tied to a pole or to an earthed instrument it isolates no more.",
        ids=("H31", "H32"),
        condition="an output of some mains' volts",
        when=_mains_like,
        source="IEC 60364-4-41 cl. 413",
    ),
    LiveNote(
        code="two-poles-behind",
        headline="Behind it both poles are switched.",
        reason="One pole of a floating output leaves the other live to the next fault.",
        ids=("H59",),
        condition="an output of some mains' volts",
        when=_mains_like,
        source="IEC 60364-5-53, from memory",
    ),
    LiveNote(
        code="converter",
        headline="A converter may isolate little or nothing.",
        reason="Many are one winding, others insulated for basics: ohms, 500 V, then the mark.",
        ids=("H58",),
        condition="an output of the other region's mains",
        when=_other_region,
        source="IEC 61558-2-4, from memory",
    ),
    LiveNote(
        code="hot-cable",
        headline="Cables melt before fuses blow.",
        reason="Amps beyond a cable's duty are for seconds: feel it with the plug out, rest.",
        ids=("H21", "H19", "H50"),
        condition="an output that lets more than 200 A pass",
        when=_burning,
    ),
)
"""Every note, the nearest to the hand first."""


def live_notes(ident: Identification) -> list[LiveNote]:
    """What is said of this piece wherever it is fed from the line."""
    share = share_to_earth(ident.belief)
    told = (note for note in NOTES if note.when(ident))
    return [replace(note, reason=note.reason.format(share=share)) for note in told]
