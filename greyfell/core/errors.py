"""The one exception family: which field, and a sentence for the person at the bench."""

import math
from collections.abc import Iterator
from contextlib import contextmanager


class FieldError(ValueError):
    """A value that cannot be used: which field, and a sentence for the person at the bench."""

    def __init__(self, field: str, sentence: str):
        super().__init__(field, sentence)
        self.field, self.sentence = field, sentence

    def __str__(self) -> str:
        return self.sentence


class Missing(FieldError):
    """What was asked for is not here: a piece, a page of it, a planner."""


def _finite(value: float) -> bool:
    """Whether a number can be reckoned with at all."""
    try:
        return math.isfinite(value)
    except OverflowError:
        return False


LEAST_FIGURE = 1e-15
"""No figure that is given is nearer to nought. House rule: far below any meter's last place."""


def told_from_nought(field: str, words: str, value: float) -> None:
    """Raises FieldError naming `field` where a figure, in whichever unit, is nearer to nought than
    any meter tells.
    """
    if 0 < abs(value) < LEAST_FIGURE:
        raise FieldError(field, f"{words} is nearer to nought than any meter tells; give 0.")


def within(
    field: str,
    value: float,
    *,
    above: float | None = None,
    at_least: float | None = None,
    at_most: float | None = None,
    unit: str = "",
) -> float:
    """Return `value` where it is a finite number inside the limits given.

    Raises FieldError naming `field`; NaN and infinities are refused too.

    >>> within("ohms", 3.0, above=0, unit="Ω")
    3.0
    >>> within("ohms", -3.0, above=0, unit="Ω")
    Traceback (most recent call last):
    greyfell.core.errors.FieldError: Ohms must be above 0 Ω; -3 Ω was given.
    """
    name = field.rsplit(".", 1)[-1].replace("_", " ").capitalize()
    unit = f" {unit}" if unit else ""
    if isinstance(value, bool) or not isinstance(value, int | float) or not _finite(value):
        raise FieldError(
            field,
            f"{name} must be a finite number{' in' + unit if unit else ''}; {str(value)[:40]} was "
            "given.",
        )
    for bad, words, limit in (
        (above is not None and value <= above, "above", above),
        (at_least is not None and value < at_least, "at least", at_least),
        (at_most is not None and value > at_most, "at most", at_most),
    ):
        if bad:
            raise FieldError(
                field, f"{name} must be {words} {limit:g}{unit}; {value:g}{unit} was given."
            )
    return float(value)


TOO_FAR = (
    "These figures are too far apart to be reckoned with: look at the largest and the smallest of "
    "them once more."
)


@contextmanager
def reckoned(field: str) -> Iterator[None]:
    """What is worked out of somebody's figures: a number beyond all bounds, or a division by
    nought, is told as a FieldError of `field`, never as a fault of the program.

    >>> with reckoned("given"):
    ...     1e200 ** 2
    Traceback (most recent call last):
    greyfell.core.errors.FieldError: These figures are too far apart to be reckoned with: look at \
the largest and the smallest of them once more.
    """
    try:
        yield
    except ArithmeticError as error:
        raise FieldError(field, TOO_FAR) from error
