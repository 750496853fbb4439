"""Figures and what they rest on: a value, its range, its basis; and the reading and writing of
figures.
"""

import math
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from greyfell.core.errors import FieldError, within


@dataclass(frozen=True, slots=True)
class Quantity:
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
        """Half the range, in the value's own unit."""
        return (self.high - self.low) / 2

    @property
    def relative(self) -> float:
        """Half the range over the value; 0 for a value of 0."""
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


# ------------------------------------------------------------------ writing figures

PREFIXES = {-12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G"}


def engineering(value: float, unit: str = "", digits: int = 3) -> str:
    """A figure in engineering notation with its unit.

    >>> engineering(2140.0, "V"), engineering(0.0042, "Ω"), engineering(0.0, "Ω")
    ('2.14 kV', '4.20 mΩ', '0 Ω')
    """
    if value == 0 or not math.isfinite(value):
        return f"{value:g} {unit}".strip()
    value = float(f"{value:.{digits - 1}e}")
    power = min(9, max(-12, 3 * math.floor(math.log10(abs(value)) / 3 + 1e-12)))
    scaled = value / 10.0**power
    text = f"{scaled:.{max(0, digits - 1 - math.floor(math.log10(abs(scaled)) + 1e-12))}f}"
    if abs(float(text)) >= 1000 and power < 9:
        power, scaled = power + 3, scaled / 1000
        text = f"{scaled:.{digits - 1}f}"
    return f"{text} {PREFIXES[power]}{unit}".strip()


def span(low: float, high: float, unit: str, digits: int = 2) -> str:
    """A range with its unit written once where both ends share it; rounded outward, never narrower
    than it is.

    More digits are shown, up to four, where fewer would widen the range by more than a quarter.

    >>> span(1790.0, 2460.0, "V"), span(950.0, 1200.0, "V"), span(229.0, 231.0, "V")
    ('1.7 to 2.5 kV', '950 V to 1.2 kV', '229 to 231 V')
    """
    a, b = low, high
    while digits <= 4:
        a, b = _outward(low, digits, math.floor), _outward(high, digits, math.ceil)
        if (b - a) <= 1.25 * (high - low):
            break
        digits += 1
    digits = min(digits, 4)
    first, last = engineering(a, unit, digits), engineering(b, unit, digits)
    if first.split()[-1] == last.split()[-1]:
        return f"{first.split()[0]} to {last}"
    return f"{first} to {last}"


def _outward(value: float, digits: int, toward: Callable[[float], int]) -> float:
    if value == 0 or not math.isfinite(value):
        return value
    step = 10.0 ** (math.floor(math.log10(abs(value))) - digits + 1)
    return toward(round(value / step, 9)) * step


def as_read(value: float, unit: str = "") -> str:
    """A figure as it was read: no digits added, none lost, with a prefix where it helps.

    >>> as_read(124.5, "V"), as_read(0.0093, "V"), as_read(2e7, "Ω"), as_read(1.3, "Ω")
    ('124.5 V', '9.3 mV', '20 MΩ', '1.3 Ω')
    """
    if value == 0 or not math.isfinite(value):
        return f"{value:g} {unit}".strip()
    power = min(9, max(-12, 3 * math.floor(math.log10(abs(value)) / 3)))
    power = 0 if 0.1 <= abs(value) < 10000 else power
    return f"{value / 10.0**power:.6g} {PREFIXES[power]}{unit}".strip()


def with_range(quantity: Quantity, unit: str) -> str:
    """A figure with its range: ± where the range is even and narrow, from … to where it is not.

    >>> with_range(Quantity(230.0, 227.0, 233.0), "V"), with_range(Quantity(5.0, 3.0, 9.0), "V")
    ('230 V ±3.0', '5.00 V, 3.00 to 9.00')
    """
    q = quantity
    if q.low == q.high:
        return engineering(q.value, unit)
    text = engineering(q.value, unit)
    number, suffix = text.split(" ", 1) if " " in text else (text, "")
    prefix = suffix.removesuffix(unit)
    scale = 10.0 ** next(p for p, s in PREFIXES.items() if s == prefix)
    even = abs((q.high - q.value) - (q.value - q.low)) < 0.35 * max(q.halfwidth, 1e-30)
    if even and q.relative < 0.3:
        return f"{number} {suffix} ±{_short(q.halfwidth / scale)}"
    return f"{number} {suffix}, {_three(q.low / scale)} to {_three(q.high / scale)}"


def _short(x: float) -> str:
    return f"{x:.{max(0, 1 - math.floor(math.log10(x)))}f}" if 0 < x < 100 else f"{x:.0f}"


def _three(x: float) -> str:
    return (
        f"{x:.{max(0, 2 - math.floor(math.log10(abs(x))))}f}" if x and abs(x) < 1000 else f"{x:.0f}"
    )


# ------------------------------------------------------------------ reading figures

# A table instead of a units library: five units, ten prefixes and the bench's own habits (bare
# prefix, decimal comma).
_PREFIX = {
    "p": 1e-12,
    "n": 1e-9,
    "u": 1e-6,
    "µ": 1e-6,
    "μ": 1e-6,
    "m": 1e-3,
    "": 1.0,
    "k": 1e3,
    "K": 1e3,
    "M": 1e6,
    "G": 1e9,
}
_UNIT = {
    "ohm": ("ohm", "ohms", "Ω", "Ω", "R", "r"),
    "volt": ("volt", "volts", "V", "v"),
    "ampere": ("ampere", "amperes", "amp", "amps", "A", "a"),
    "watt": ("watt", "watts", "W", "w"),
    "henry": ("henry", "henries", "H", "h"),
    "hertz": ("hertz", "Hz", "hz"),
    "turn": ("turn", "turns", "T", "t"),
    "millimetre": ("mm",),
}
_SPELLED_PREFIX = {"milli": 1e-3, "micro": 1e-6, "kilo": 1e3, "mega": 1e6, "meg": 1e6, "giga": 1e9}
_NUMBER = re.compile(r"^([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)\s*(.*)$")


def parse_quantity(text: str, unit: str, *, field: str) -> float:
    """Read a figure as people write it at the bench, into SI.

    `unit` is one of the keys of the unit table (ohm, volt, …); a bare number is in that unit.
    Decimal comma or point, SI prefixes, units spelled or signed, and 4k7 are understood. Raises
    FieldError naming `field`.

    >>> [parse_quantity(t, "ohm", field="ohms") for t in ("4.7 kΩ", "4k7", "1,3", "12 milliohm")]
    [4700.0, 4700.0, 1.3, 0.012]
    """
    text = text.strip()
    infix = re.match(r"^(\d+)([RrkKM])(\d+)$", text)
    if infix and unit == "ohm":
        factor = {"R": 1.0, "r": 1.0}.get(infix[2], _PREFIX.get(infix[2], 1.0))
        return float(f"{infix[1]}.{infix[3]}") * factor
    found = _NUMBER.match(text)
    if not found:
        raise FieldError(
            field,
            f"{field} must be a number with a unit, such as “1.3 {unit}”; “{text[:40]}” was given.",
        )
    number = float(found[1].replace(",", "."))
    scale = _factor(found[2].strip(), unit)
    if scale is None:
        raise FieldError(
            field,
            f"{field} is measured in {unit}; “{found[2].strip()[:40]}” is not a unit it knows.",
        )
    return within(field, float(f"{number * scale:.12g}"))


def parse_uncertain(text: str, unit: str, *, field: str) -> Quantity:
    """Read a figure with its limits: “0.86 ±0.02”, “230 V ± 2 %”, or a plain figure. Raises
    FieldError naming `field`.

    >>> parse_uncertain("0.86 ±0.02", "volt", field="v").low
    0.84
    """
    main, sign, tail = text.replace("+-", "±").replace("+/-", "±").partition("±")
    value = parse_quantity(main, unit, field=field)
    if not sign:
        return exact(value, "given")
    tail = tail.strip()
    if tail.endswith("%"):
        around = abs(value) * parse_quantity(tail.removesuffix("%"), unit, field=field) / 100
    else:
        around = abs(parse_quantity(tail, unit, field=field))
    return Quantity(value, round(value - around, 12), round(value + around, 12), ("given",))


def _factor(suffix: str, unit: str) -> float | None:
    if suffix in _PREFIX:
        return _PREFIX[suffix]
    for name in _UNIT[unit]:
        if suffix.endswith(name):
            prefix = suffix[: -len(name)].strip()
            if prefix in _PREFIX:
                return _PREFIX[prefix]
            if prefix.lower() in _SPELLED_PREFIX:
                return _SPELLED_PREFIX[prefix.lower()]
    return None


def basis_of(readings: Iterable[Any]) -> tuple[str, ...]:
    """The basis of a figure: each reading's kind and id, once, in order."""
    return tuple(dict.fromkeys(f"{r.kind.replace('_', ' ')} {r.id}" for r in readings))


def percent(chance: float) -> str:
    """A probability in whole per cent, and never 0 or 100: nothing here is certain.

    >>> percent(0.123), percent(0.9999), percent(1e-6)
    ('12 %', 'over 99 %', 'under 1 %')
    """
    return (
        "under 1 %"
        if chance < 0.005
        else "over 99 %"
        if chance > 0.995
        else f"{100 * chance:.0f} %"
    )
