"""What the digits of a ratio are worth: one digit of a short figure is a share of the result, and
two digits are seldom enough. Digits as typed; half a unit of the last digit, rectangular.
"""

from greyfell.core.evidence.record import Reading
from greyfell.core.figures.notation import percent

FEW = 2
"""A figure of so many digits and fewer is told of."""
FIELDS = ("driven_volts", "sensed_volts", "turn_volts")


def digits_worth(reading: Reading) -> str:
    """What is said of a ratio with a figure of few digits; empty of every other reading.

    >>> from greyfell.core.evidence.kinds.ratio import Ratio
    >>> digits_worth(Ratio(driven=("A", "B"), driven_volts=12.0, sensed=("C", "D"),
    ...                    sensed_volts=1.3, typed={"driven_volts": "12.0", "sensed_volts": "1.3"}))
    '1.3 has two digits: worth 4 % either way. Read it to three.'
    """
    typed = reading.typed or {}
    for name in FIELDS:
        value = getattr(reading, name, None)
        if value is None:
            continue
        text = typed.get(name) or f"{value:g}"
        digits = [c for c in text.partition("e")[0] if c.isdigit()]
        count = len("".join(digits).lstrip("0"))
        if 0 < count <= FEW and value:
            share = 0.5 / float("".join(digits).lstrip("0"))
            words = "two digits" if count == FEW else "one digit"
            said = f"worth {percent(share)} either way. Read it to three."
            return f"{text} has {words}: {said}"
    return ""
