"""Every line that a step begins is one that the jotter understands once its figure is typed."""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import Hand, read_line
from greyfell.core.steps import step as steps
from greyfell.core.steps.step import Words

TYPED = {
    "ins ": "500V OL",
    "500V ": "OL",
    "proof ": "0.1",
    "dc 10A ": "0.42V",
    "dc 1A ": "12mV",
    "L 100Hz ": "1.27H",
    "5 turns ": "0.9V",
    "lamp 100W ": "dark",
    "short C-D ": "24V 2.1A 30W",
}
"""What is typed after such an end of a line; volts after two pairs, else ohms."""
FILL = {"a": "A", "b": "B", "c": "C", "d": "D", "lead": "A", "mate": "core", "typed": "A-core"}
FILL |= {"watts": "100"}
BEGUN = {
    name: words.jotter.format(**FILL)
    for name, words in vars(steps).items()
    if isinstance(words, Words) and words.jotter
}


@pytest.mark.parametrize(("name", "begun"), BEGUN.items())
def test_a_line_that_a_step_begins_is_understood_with_its_figure(name, begun):
    """The figure typed behind it and nothing else; without it nothing is stored."""
    typed = next((v for k, v in TYPED.items() if begun.endswith(k)), None)
    typed = typed or ("4.2V" if ">" in begun else "1.3")
    hand = Hand(dial=None, zero=None, last="")
    reading = read_line(begun + typed, list("ABCD"), 230.0, hand).reading

    assert reading["kind"] == getattr(steps, name).kind
    with pytest.raises(FieldError):
        read_line(begun, list("ABCD"), 230.0, hand)
