"""What strikes with the plug pulled: charge and current that stay."""

from collections.abc import Iterable

from greyfell.core.dangers.rule import CAUTION, HAND, POWER, STOP, TOUCH, Facts, Rule, piece
from greyfell.core.judgement.charge import ferroresonant, may_hold_charge
from greyfell.core.judgement.gates import salvaged
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.links import bridged_link

KICKS = 0.3
"""From this chance of a choke its kick is named. House rule."""


def _charged(ident: Identification) -> bool:
    """A capacitor may be near, and nobody said that it is empty or none."""
    return may_hold_charge(ident.record, ident.belief) and not salvaged(ident)


def _capacitor(ident: Identification) -> Iterable[Facts]:
    if may_hold_charge(ident.record, ident.belief):
        yield {}


def _rings(ident: Identification) -> Iterable[Facts]:
    if ferroresonant(ident.record, ident.belief):
        yield {}


def _kick(ident: Identification) -> Iterable[Facts]:
    if ident.windings and ident.families.get("choke", 0.0) > KICKS:
        yield {}


def _bridged(ident: Identification) -> Iterable[Facts]:
    words = bridged_link(ident.record)
    if words:
        yield {"words": words}


HELD = (
    Rule(
        code="capacitor-first",
        ids=("H03", "H02", "H04", "H05"),
        near=HAND,
        severity=STOP,
        condition="a capacitor may hold a charge, and nothing says that it is empty",
        cleared="the gate of the capacitor passed, or said that there is none",
        headline="First the capacitor, before any ohm.",
        reason="Its bleeder may have failed: kilovolts stand there for days.",
        instead="Resistor string, wait, meter, wait again, clip left on; or say there is none.",
        when=piece(_charged),
    ),
    Rule(
        code="not-metered",
        ids=("H05",),
        near=HAND,
        severity=STOP,
        condition="a capacitor is said to be emptied, and no volts were read afterwards",
        cleared="its volts read after it was emptied",
        headline="Emptied is not measured.",
        reason="A short may miss a terminal, and what stood there comes back within minutes.",
        instead="The meter over it, wait a minute, the meter again; the volts go on record.",
        when=lambda scene: scene.unmetered,
    ),
)
"""Charge that may be there now."""
RULES = (
    Rule(
        code="bridged-link",
        ids=("H93",),
        near=POWER,
        severity=CAUTION,
        condition="words on record tell of a bridged thermal link",
        cleared="the link replaced like for like, and said so in the same place",
        headline="Thermal link bridged.",
        reason="The record says “{words}”: nothing opens any more when the winding overheats.",
        instead=(
            "Find why the link blew; replace it like for like, the same °C and amps, before any "
            "power."
        ),
        source="IEC 60691; common practice",
        when=piece(_bridged),
    ),
    Rule(
        code="capacitor",
        ids=("H02",),
        near=TOUCH,
        severity=CAUTION,
        condition="an oven transformer by five chances in a hundred, or a capacitor spoken of",
        cleared="another family settled, and no capacitor on plate or among the parts",
        headline="Capacitor may hold charge.",
        reason="A capacitor stays charged, whatever its age.",
        instead=(
            "Discharge it through a resistor, then short it, then measure, before touching "
            "anything."
        ),
        source="common practice",
        when=piece(_capacitor),
    ),
    Rule(
        code="tuned",
        ids=("H42", "H89"),
        near=POWER,
        severity=CAUTION,
        condition="a ferroresonant part by five chances in a hundred, or one by its own words",
        cleared="another kind settled, and no word of a constant voltage on record",
        headline="A tuned winding rings at hundreds of volts.",
        reason=(
            "A ferroresonant part keeps one winding in resonance with its capacitor: while it is "
            "fed, more stands there than any ratio at a low drive tells, 400 to 700 V are usual, "
            "and it stays charged afterwards."
        ),
        instead=(
            "Keep that winding and its capacitor covered, discharge it before every touch, and "
            "read the outputs only with its own capacitor on."
        ),
        source="IEEE Std 449, from memory; common practice",
        when=piece(_rings),
    ),
    Rule(
        code="kick",
        ids=("H36",),
        near=TOUCH,
        severity=CAUTION,
        condition="a choke by more than three chances in ten",
        cleared="another family settled",
        headline="It kicks when opened.",
        reason=(
            "A choke keeps its current going: opening a DC circuit through it makes a spark and "
            "up to kilovolts at its ends."
        ),
        instead="Ramp down before you open, and keep hands off both ends.",
        source="v = L di/dt; common practice",
        when=piece(_kick),
    ),
)
"""What stays, and what comes back."""
