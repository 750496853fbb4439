"""Iron that is no mains iron: what looks like a familiar part and is made for other work."""

from collections.abc import Iterable

from greyfell.core.judgement.hazards.rule import Facts, HazardRule, Seen
from greyfell.core.judgement.kinds import kinds_of
from greyfell.core.judgement.made_for import odd_iron

FERRITE_DOUBT = 0.02
"""From this chance of an inverter oven's ferrite it is named: on the mains it is a short. House
rule."""
LIGHTEST_OVEN_KG = 1.5
"""An oven's transformer of laminated iron has 2.5 kg and more; half a kilogram is an inverter's.
Common practice, M-T4."""


def _ferrite(seen: Seen) -> Iterable[Facts]:
    core = seen.record.core
    mass = core.mass_kg if core is not None else None
    light = mass is not None and mass < LIGHTEST_OVEN_KG
    if light and seen.record.declared_family == "microwave":
        yield {"why": f"Called an oven part, and {mass:g} kg:"}
    elif seen.belief.kind("inverter") >= FERRITE_DOUBT:
        yield {"why": "A winding of some ohms beside two of milliohms:"}


def _light(seen: Seen) -> Iterable[Facts]:
    """Iron far too light for what its windings would be on the mains."""
    for what, factor in odd_iron(seen.belief):
        yield {"what": what, "factor": f"{factor:.0f}"}


def _never(seen: Seen) -> Iterable[Facts]:
    """Kinds that never go on the mains."""
    return _kinds(seen, never=True)


def _other_way(seen: Seen) -> Iterable[Facts]:
    """Kinds that may, and must not be fed the wrong way round."""
    return _kinds(seen, never=False)


def _kinds(seen: Seen, *, never: bool) -> Iterable[Facts]:
    for known in kinds_of(seen.record, seen.belief):
        if known.kind.never is never:
            yield {"what": known.sentence, "backwards": known.kind.backwards}


RULES = (
    HazardRule(
        code="never-on-mains",
        condition="plate, look or ohms name a kind that is never fed from the mains",
        cleared="the word or reading that named it corrected",
        headline="Never on the mains.",
        what="{what}",
        instead="{backwards}",
        source="common practice",
        when=_never,
    ),
    HazardRule(
        code="wrong-way-round",
        condition="plate, look or ohms name a kind that is dangerous fed the wrong way round",
        cleared="the word or reading that named it corrected",
        headline="Not the wrong way round.",
        what="{what}",
        instead="{backwards}",
        source="common practice",
        when=_other_way,
    ),
    HazardRule(
        code="ferrite",
        condition="an inverter oven's transformer by mass or by its windings",
        cleared="a laminated core, or another family settled",
        headline="May be ferrite.",
        what="{why} that is how the ferrite transformer of an inverter oven looks.",
        instead="It never goes on the mains; its HV winding puts out kilovolts in its oven.",
        source="common practice",
        when=_ferrite,
    ),
    HazardRule(
        code="odd-iron",
        condition="iron more than five times off what the windings would have on the mains",
        cleared="mass and section measured again, or a plate",
        headline="No mains iron?",
        what="The {what} is {factor} times off what these windings would have on the mains:",
        instead="ferrite and 400 Hz iron look so, and burn on it. Nothing live.",
        source="REF-M-02, REF-M-05; factor house rule",
        when=_light,
    ),
)
