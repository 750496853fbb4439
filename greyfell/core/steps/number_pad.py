"""What a step asks of a number pad: the units it may be read in, words in place of a figure."""

from greyfell.core.evidence.kinds.reading import Pad
from greyfell.core.steps.step import Step


def pad_of(step: Step) -> Pad | None:
    """The pad of a step; None where it asks for no reading."""
    return step.reading.pad if step.jotter and step.reading is not None else None


def line_of(step: Step, begins: str, figure: str, suffix: str) -> str:
    """The line of the jotter that the pad gives.

    >>> from greyfell.core.steps.step import PROOF
    >>> line_of(PROOF.of(), "", "0.1", "")
    'proof 0.1'
    """
    start = begins.strip() or step.jotter.strip()
    return f"{start} {figure.strip()}{suffix}"
