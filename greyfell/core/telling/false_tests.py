"""What is tried at benches and is no test, and what to do instead: said when a line of the jotter
speaks of it. Common practice.
"""

import re

from msgspec import Struct


class NoTest(Struct, frozen=True):
    """One thing that tells nothing: the words that speak of it, and what to do instead."""

    words: re.Pattern[str]
    sentence: str


NO_TESTS = (
    NoTest(
        re.compile(r"\bmagnet\b", re.I),
        "A magnet swept over a coil tells nothing of its turns: read ohms, then a ratio.",
    ),
    NoTest(
        re.compile(r"\b(arc|spark)(s|ed|ing)?\b", re.I),
        "The length of an arc is no voltmeter, and drawing one can kill: a ratio at a few volts "
        "gives the volts.",
    ),
    NoTest(
        re.compile(r"\bpart (no|number)|\btype number\b", re.I),
        "A part number alone says nothing that a maker did not print elsewhere: the plate's volts, "
        "hertz and amps do.",
    ),
    NoTest(
        re.compile(r"\b(hum|buzz)(s|es|ed|ming|zing)?\b", re.I),
        "Humming is what sound iron does, and what shorted turns do: watts and inductance tell "
        "them apart.",
    ),
    NoTest(
        re.compile(r"\b(top|bottom|upper|lower) (coil|winding)\b", re.I),
        "Where a coil sits is a clue, no test: keep it at the clues, and read ohms.",
    ),
)


def no_test(text: str) -> str:
    """What to say of words that speak of no test; empty where they do not."""
    return next((t.sentence for t in NO_TESTS if t.words.search(text)), "")
