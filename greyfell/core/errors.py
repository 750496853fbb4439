"""The one exception family: which field, and a sentence for the person at the bench."""

import math


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
