"""What strikes with the plug pulled: charge and current that stay."""

from collections.abc import Iterable

from greyfell.core.judgement.charge import ferroresonant, may_hold_charge
from greyfell.core.judgement.hazards.rule import Facts, HazardRule, Seen
from greyfell.core.judgement.links import bridged_link

KICKS = 0.3
"""From this chance of a choke its kick is named. House rule."""


def _capacitor(seen: Seen) -> Iterable[Facts]:
    if may_hold_charge(seen.record, seen.belief):
        yield {}


def _rings(seen: Seen) -> Iterable[Facts]:
    if ferroresonant(seen.record, seen.belief):
        yield {}


def _kick(seen: Seen) -> Iterable[Facts]:
    if seen.belief.windings and seen.family("choke") > KICKS:
        yield {}


def _bridged(seen: Seen) -> Iterable[Facts]:
    words = bridged_link(seen.record)
    if words:
        yield {"words": words}


RULES = (
    HazardRule(
        code="bridged-link",
        condition="words on record tell of a bridged thermal link",
        cleared="the link replaced like for like, and said so in the same place",
        headline="Thermal link bridged.",
        what="The record says “{words}”: nothing opens any more when the winding overheats.",
        instead=(
            "Find why the link blew; replace it like for like, the same °C and amps, before any "
            "power."
        ),
        source="IEC 60691; common practice",
        when=_bridged,
    ),
    HazardRule(
        code="capacitor",
        condition="an oven transformer by five chances in a hundred, or a capacitor spoken of",
        cleared="another family settled, and no capacitor on plate or among the parts",
        headline="Capacitor may hold charge.",
        what="A capacitor stays charged, whatever its age:",
        instead=(
            "discharge it through a resistor, then short it, then measure, before touching "
            "anything."
        ),
        source="common practice",
        when=_capacitor,
    ),
    HazardRule(
        code="tuned",
        condition="a ferroresonant part by five chances in a hundred, or one by its own words",
        cleared="another kind settled, and no word of a constant voltage on record",
        headline="A tuned winding rings at hundreds of volts.",
        what=(
            "A ferroresonant part keeps one winding in resonance with its capacitor: while it is "
            "fed, more stands there than any ratio at a low drive tells, 400 to 700 V are usual, "
            "and it stays charged afterwards."
        ),
        instead=(
            "Keep that winding and its capacitor covered, discharge it before every touch, and "
            "read the outputs only with its own capacitor on."
        ),
        source="IEEE Std 449, from memory; common practice",
        when=_rings,
    ),
    HazardRule(
        code="kick",
        condition="a choke by more than three chances in ten",
        cleared="another family settled",
        headline="It kicks when opened.",
        what=(
            "A choke keeps its current going: opening a DC circuit through it makes a spark and "
            "up to kilovolts at its ends."
        ),
        instead="Ramp down before you open, and keep hands off both ends.",
        source="v = L di/dt; common practice",
        when=_kick,
    ),
)
