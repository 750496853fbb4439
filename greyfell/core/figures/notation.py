"""Writing figures for people, and reading the figures people write."""

import math
import re
from collections.abc import Callable

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.quantity import Quantity, exact

WHOLE_SIGNS = ("kg", "mm", "mm²", "°C", "K", "%")
"""Signs that take no prefix."""
PREFIXES = {-12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G"}


def engineering(value: float, unit: str = "", digits: int = 3) -> str:
    """A figure in engineering notation with its unit.

    >>> engineering(2140.0, "V"), engineering(0.0042, "Ω"), engineering(0.0, "Ω")
    ('2.14 kV', '4.20 mΩ', '0 Ω')
    >>> engineering(1520.0, "s")
    '1520 s'
    """
    if value == 0 or not math.isfinite(value):
        return f"{value:g} {unit}".strip()
    value = float(f"{value:.{digits - 1}e}")
    power = _thousands(value, unit)
    scaled = value / 10.0**power
    places = digits - 1 - math.floor(math.log10(abs(scaled)) + 1e-12)
    return f"{scaled:.{max(0, places)}f} {PREFIXES[power]}{unit}".strip()


def _thousands(value: float, unit: str) -> int:
    """The power of ten, in threes, that a figure is written with: of 2140 it is 3; nobody counts
    kiloseconds, and a plain number has no prefix.
    """
    if not unit or unit in WHOLE_SIGNS:
        return 0
    most = 0 if unit == "s" else 9
    return min(most, max(-12, 3 * math.floor(math.log10(abs(value)) / 3 + 1e-12)))


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


def times(factor: float) -> str:
    """How many times, in two digits.

    >>> times(1.53), times(123.0)
    ('1.5 times', '120 times')
    """
    return f"{engineering(factor, digits=2)} times"


def begun(words: str) -> str:
    """Words as a sentence begins.

    >>> begun("yellow pocket meter"), begun("")
    ('Yellow pocket meter', '')
    """
    return words[:1].upper() + words[1:]


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
    power = 0 if 0.1 <= abs(value) < 10000 else _thousands(value, unit)
    return f"{value / 10.0**power:.6g} {PREFIXES[power]}{unit}".strip()


def with_range(quantity: Quantity, unit: str) -> str:
    """A figure with its range: ± where the range is even and narrow, from … to where it is not;
    each end with its own unit where they differ.

    >>> with_range(Quantity(230.0, 227.0, 233.0), "V"), with_range(Quantity(5.0, 3.0, 9.0), "V")
    ('230 V ±3.0', '5.00 V, 3.00 to 9.00')
    >>> with_range(Quantity(1060.0, 315.0, 3250.0), "A")
    '1.06 kA, 315 A to 3.25 kA'
    """
    q = quantity
    figure = engineering(q.value, unit)
    if q.low == q.high:
        return figure
    even = abs((q.high - q.value) - (q.value - q.low)) < 0.35 * max(q.halfwidth, 1e-30)
    if even and q.relative < 0.3:
        return plus_minus(q, unit)
    scale, suffix = _scale(q, unit), figure.partition(" ")[2]
    ends = [engineering(end, unit) for end in (q.low, q.high)]
    if all(end.partition(" ")[2] == suffix or end.startswith("0 ") for end in ends):
        return f"{figure}, {_three(q.low / scale)} to {_three(q.high / scale)}"
    return f"{figure}, {' to '.join(ends)}"


def plus_minus(quantity: Quantity, unit: str) -> str:
    """A figure and half its range, in few letters, however wide or uneven that is.

    >>> plus_minus(Quantity(0.4, 0.05, 0.75), "Ω"), plus_minus(Quantity(4.2, 4.2, 4.2), "Ω")
    ('400 mΩ ±350', '4.20 Ω')
    """
    figure = engineering(quantity.value, unit)
    half = quantity.halfwidth / _scale(quantity, unit)
    return f"{figure} ±{_short(half)}" if half else figure


def _scale(quantity: Quantity, unit: str) -> float:
    """What a figure is divided by where it is written."""
    return 10.0 ** _thousands(float(f"{quantity.value:.2e}"), unit) if quantity.value else 1.0


def _short(x: float) -> str:
    return f"{x:.{max(0, 1 - math.floor(math.log10(x)))}f}" if 0 < x < 100 else f"{x:.0f}"


def _three(x: float) -> str:
    return (
        f"{x:.{max(0, 2 - math.floor(math.log10(abs(x))))}f}" if x and abs(x) < 1000 else f"{x:.0f}"
    )


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
    "farad": ("farad", "farads", "F", "f"),
    "hertz": ("hertz", "Hz", "hz"),
    "turn": ("turn", "turns", "T", "t"),
    "tesla": ("T", "t"),
    "millimetre": ("mm",),
    "kilogram": ("kg",),
    "voltampere": ("VA", "va"),
    "var": ("var",),
    "square millimetre": ("mm²", "mm2"),
    "square centimetre": ("cm²", "cm2"),
    "degree": ("°C", "C", "c"),
    "kelvin": ("K",),
    "second": ("seconds", "second", "s"),
    "joule": ("joule", "joules", "J", "j"),
    "newton": ("newton", "newtons", "N", "n"),
    "metre": ("metre", "metres", "m"),
    "per cent": ("per cent", "percent", "%"),
    "ampere per square millimetre": ("A/mm²", "A/mm2"),
    "volt per hertz": ("V/Hz",),
    "ampere squared second": ("A²s", "A2s"),
    "number": (),
}
"""Units by name, as they are written. In place of a units library: the bench's own habits (4k7, a
bare prefix, a decimal comma) are most of the work."""
WHOLE_UNITS = {
    "millimetre",
    "kilogram",
    "square millimetre",
    "square centimetre",
    "degree",
    "kelvin",
    "metre",
    "per cent",
    "ampere per square millimetre",
    "volt per hertz",
    "ampere squared second",
    "number",
}
"""Units that are their own prefix: 12 m is no twelve milli-millimetres."""


MEASURES = {
    "V": "volt",
    "A": "ampere",
    "Ω": "ohm",
    "H": "henry",
    "F": "farad",
    "Hz": "hertz",
    "W": "watt",
    "VA": "voltampere",
    "var": "var",
    "J": "joule",
    "N": "newton",
    "m": "metre",
    "mm": "millimetre",
    "mm²": "square millimetre",
    "cm²": "square centimetre",
    "kg": "kilogram",
    "°C": "degree",
    "K": "kelvin",
    "s": "second",
    "T": "tesla",
    "%": "per cent",
    "A/mm²": "ampere per square millimetre",
    "V/Hz": "volt per hertz",
    "A²s": "ampere squared second",
    "turns": "number",
    "": "number",
}
"""The unit table's name of each sign."""


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


_ENDS = re.compile(r"^(.*?)[,(]\s*(.+?)\s+to\s+(.+?)\)?\s*$")


def parse_uncertain(text: str, unit: str, *, field: str) -> Quantity:
    """Read a figure with its limits: “0.86 ±0.02”, “230 V ± 2 %”, “0.3 (0 to 0.6)”, or a plain
    figure. Raises FieldError naming `field`.

    >>> parse_uncertain("0.86 ±0.02", "volt", field="v").low
    0.84
    >>> parse_uncertain("0.3 (0 to 0.6) Ω", "ohm", field="r").high
    0.6
    """
    ends = _ENDS.match(text.rstrip("ΩVAHz ")) or _ENDS.match(text)
    if ends:
        value, low, high = (parse_quantity(part, unit, field=field) for part in ends.groups())
        if not low <= value <= high:
            raise FieldError(
                field, f"{field} must lie inside its range; {value:g} in {low:g} to {high:g}."
            )
        return Quantity(value, low, high, ("given",))
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


def typed(q: Quantity) -> str:
    """A figure with its range as it would be typed, never narrower than it is.

    >>> typed(Quantity(0.86, 0.84, 0.88)), typed(Quantity(0.3, 0.0, 0.6)), typed(exact(5.0))
    ('0.86 ±0.02', '0.3 ±0.3', '5')
    >>> typed(Quantity(3.0, 2.5, 9.0))
    '3 (2.5 to 9)'
    """
    value = float(f"{q.value:.4g}")
    if q.low == q.high:
        return f"{q.value:.6g}"
    below, above = value - q.low, q.high - value
    if abs(above - below) < 0.1 * (above + below) and q.low >= 0:
        half = _outward(max(below, above), 2, math.ceil)
        if value - half >= 0:
            return f"{value:g} ±{half:g}"
    low = _outward(min(q.low, value), 3, math.floor)
    high = _outward(max(q.high, value), 3, math.ceil)
    return f"{value:g} ({low:g} to {high:g})"


def _factor(suffix: str, unit: str) -> float | None:
    """What a suffix multiplies by to come to the unit; None where it is another unit's."""
    if unit in WHOLE_UNITS:
        return 1.0 if suffix == "" or suffix in _UNIT[unit] else None
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
