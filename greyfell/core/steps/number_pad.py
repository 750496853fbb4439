"""What a step asks of a number pad: the units it may be read in, words in place of a figure."""

from msgspec import Struct

from greyfell.core.steps.step import Step


class Pad(Struct, frozen=True, kw_only=True):
    """The keys of one step: each unit as it is shown and as it is typed, and words that stand for a
    whole reading.
    """

    units: tuple[tuple[str, str], ...] = ()
    words: tuple[tuple[str, str], ...] = ()


OPEN = ("OL", "OL")
VOLTS = (("V", "V"), ("mV", "mV"))
PADS = {
    "resistance": Pad(units=(("Ω", ""), ("kΩ", "k"), ("MΩ", "M")), words=(OPEN,)),
    "insulation": Pad(units=(("MΩ", "M"), ("GΩ", "G"), ("kΩ", "k")), words=(OPEN,)),
    "core_proof": Pad(units=(("Ω", ""), ("kΩ", "k"))),
    "dc_drop": Pad(units=(*VOLTS, ("µV", "uV"))),
    "inductance": Pad(units=(("H", "H"), ("mH", "mH"), ("µH", "uH"))),
    "ratio": Pad(units=VOLTS),
    "polarity": Pad(units=VOLTS),
    "test_turn": Pad(units=VOLTS),
    "no_load": Pad(units=(("A", "A"), ("mA", "mA"), ("W", "W"))),
    "lamp": Pad(words=(("dark", "dark"), ("dim", "dim"), ("bright", "bright"))),
}
"""The pad of every kind of reading that a step may ask for."""


def pad_of(step: Step) -> Pad | None:
    """The pad of a step; None where it asks for no reading."""
    return PADS.get(step.kind) if step.jotter else None


def line_of(step: Step, begins: str, figure: str, suffix: str) -> str:
    """The line of the jotter that the pad gives.

    >>> from greyfell.core.steps.step import PROOF
    >>> line_of(PROOF.of(), "", "0.1", "")
    'proof 0.1'
    """
    start = begins.strip() or step.jotter.strip()
    return f"{start} {figure.strip()}{suffix}"
