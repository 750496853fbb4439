"""Iron that is no mains iron: what looks like a familiar part and is made for other work."""

from collections.abc import Iterable

from greyfell.core.dangers.looked import Looked
from greyfell.core.dangers.rule import CAUTION, POWER, STOP, TOUCH, Facts, Rule, piece
from greyfell.core.families.registry import family_of
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.rated_mains import odd_iron

FERRITE_DOUBT = 0.02
"""From this chance of an inverter oven's ferrite it is named: on the mains it is a short. House
rule."""


def _ferrite(ident: Identification) -> Iterable[Facts]:
    core = ident.record.core
    mass = core.mass_kg if core is not None else None
    called = family_of(ident.record.declared_family)
    least = called.lightest_kg if called is not None else None
    if mass is not None and least is not None and mass < least:
        yield {"why": f"Called an oven part, and {mass:g} kg:"}
    elif ident.belief.kind("inverter") >= FERRITE_DOUBT:
        yield {"why": "A winding of some ohms beside two of milliohms:"}


def _light(ident: Identification) -> Iterable[Facts]:
    """Iron far too light for what its windings would be on the mains."""
    for what, factor in odd_iron(ident.belief):
        yield {"what": what, "factor": f"{factor:.0f}"}


def _never(looked: Looked) -> Iterable[Facts]:
    """Kinds that never go on the mains."""
    return _kinds(looked, never=True)


def _other_way(looked: Looked) -> Iterable[Facts]:
    """Kinds that may, and must not be fed the wrong way round."""
    return _kinds(looked, never=False)


def _kinds(looked: Looked, *, never: bool) -> Iterable[Facts]:
    for known in looked.known:
        if known.kind.never is never:
            yield {"what": known.sentence, "backwards": known.kind.backwards}


RULES = (
    Rule(
        code="never-on-mains",
        ids=("H87", "H88"),
        near=POWER,
        severity=STOP,
        condition="plate, look or ohms name a kind that is never fed from the mains",
        cleared="the word or reading that named it corrected",
        headline="Never on the mains.",
        reason="{what}",
        instead="{backwards}",
        source="common practice",
        when=_never,
    ),
    Rule(
        code="wrong-way-round",
        ids=("H83",),
        near=POWER,
        severity=CAUTION,
        condition="plate, look or ohms name a kind that is dangerous fed the wrong way round",
        cleared="the word or reading that named it corrected",
        headline="Not the wrong way round.",
        reason="{what}",
        instead="{backwards}",
        source="common practice",
        when=_other_way,
    ),
    Rule(
        code="ferrite",
        ids=("H88",),
        near=POWER,
        severity=STOP,
        condition="an inverter oven's transformer by mass or by its windings",
        cleared="a laminated core, or another family settled",
        headline="May be ferrite.",
        reason="{why} that is how the ferrite transformer of an inverter oven looks.",
        instead="It never goes on the mains; its HV winding puts out kilovolts in its oven.",
        source="common practice",
        when=piece(_ferrite),
    ),
    Rule(
        code="odd-iron",
        ids=("H84",),
        near=POWER,
        severity=STOP,
        condition="iron more than five times off what the windings would have on the mains",
        cleared="mass and section measured again, or a plate",
        headline="No mains iron?",
        reason="The {what} is {factor} times off what these windings would have on the mains.",
        instead="Ferrite and 400 Hz iron look so, and burn on it. Nothing live.",
        source="REF-M-02, REF-M-05; factor house rule",
        when=piece(_light),
    ),
    Rule(
        code="asbestos-board",
        ids=("H63",),
        near=TOUCH,
        severity=STOP,
        condition="a welder by its words, or words of asbestos",
        cleared="the board tested, and the words corrected",
        headline="Board of an old welder: asbestos?",
        reason="Friable board between its coils sheds fibres at every touch.",
        instead="Stop: no grinding, no brushing; have it tested, or leave it closed.",
        when=lambda looked: looked.is_kind("crank welder") or looked.looks("asbestos"),
    ),
    Rule(
        code="control-winding",
        ids=("H90",),
        near=POWER,
        severity=STOP,
        condition="a saturable reactor by its words",
        cleared="the words corrected",
        headline="Its control winding makes kilovolts.",
        reason="Open, many turns see the working winding's volts by their ratio.",
        instead="Two cores opposed; the control side never opened under power.",
        when=lambda looked: looked.looks("saturable", "control winding", "magnetic amplifier"),
    ),
)
"""Kinds that are not fed like others."""
