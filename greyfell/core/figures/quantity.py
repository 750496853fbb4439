"""Figures and what they rest on: a value, its range, its basis."""

from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError, within


class Quantity(Struct, frozen=True):
    """A figure with its range and what it rests on. SI units; low and high bound a 95 % interval
    unless said otherwise.

    Raises FieldError where a number is not finite or the value lies outside its own range.

    >>> Quantity(2100.0, 2050.0, 2150.0, ("ratio r7",)).halfwidth
    50.0
    """

    value: float
    low: float
    high: float
    basis: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        for name in ("value", "low", "high"):
            within(name, getattr(self, name))
        slack = 1e-9 * max(abs(self.low), abs(self.high))
        if not self.low - slack <= self.value <= self.high + slack:
            raise FieldError(
                "value",
                (
                    f"A value must lie inside its range; {self.value:g} in {self.low:g} … "
                    f"{self.high:g} was given."
                ),
            )

    @property
    def halfwidth(self) -> float:
        """Half the range, in the value's own unit. JCGM 100:2008 2.3.5.

        >>> Quantity(5.0, 4.0, 6.0).halfwidth
        1.0
        """
        return (self.high - self.low) / 2

    @property
    def relative(self) -> float:
        """Half the range over the value; 0 for a value of 0. JCGM 100:2008 5.1.6.

        >>> Quantity(5.0, 4.0, 6.0).relative
        0.2
        """
        return self.halfwidth / abs(self.value) if self.value else 0.0

    def as_json(self) -> dict[str, Any]:
        """The public form: value, low, high, basis."""
        return {"value": self.value, "low": self.low, "high": self.high, "basis": list(self.basis)}


def exact(value: float, *basis: str) -> Quantity:
    """A figure taken as it was given: no range of its own."""
    return Quantity(value, value, value, basis)


def from_json(field: str, given: Any) -> Quantity:
    """An uncertain input: a number, or {value, low, high}. Raises FieldError naming `field`."""
    if isinstance(given, dict):
        try:
            value, low, high = given["value"], given["low"], given["high"]
        except KeyError as missing:
            raise FieldError(
                field, f"{field} needs value, low and high; {missing} is missing."
            ) from None
        for part, number in (("value", value), ("low", low), ("high", high)):
            within(f"{field}.{part}", number)
        if not low <= value <= high:
            raise FieldError(
                field,
                f"{field} must lie inside its range; {value:g} in {low:g} … {high:g} was given.",
            )
        return Quantity(float(value), float(low), float(high), ("given",))
    return exact(within(field, given), "given")


def corners(function: Any, *inputs: Quantity) -> Quantity:
    """Carry ranges through a function that is monotonic in each input: its value, and the least and
    most at the corners.

    Limits are combined as limits (worst case), not as standard deviations. JCGM 100:2008 4.3.7
    calls such limits rectangular; the corners bound them.

    >>> corners(lambda v, r: v / r, Quantity(10, 9, 11), Quantity(2, 2, 2))
    Quantity(value=5.0, low=4.5, high=5.5, basis=())
    """
    value = function(*(q.value for q in inputs))
    ends: list[tuple[float, ...]] = [()]
    for q in inputs:
        ends = [(*e, x) for e in ends for x in {q.low, q.high}]
    results = [function(*e) for e in ends] + [value]
    return Quantity(
        value, min(results), max(results), tuple(dict.fromkeys(b for q in inputs for b in q.basis))
    )
