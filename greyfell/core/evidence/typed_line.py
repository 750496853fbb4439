"""A line of the jotter taken apart: what of it a kind of reading hears, and the figures in it."""

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NoReturn

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import parse_quantity

Pair = tuple[str, str]
Said = dict[str, Any]
"""A reading as a document."""
ANYWHERE, BY_WORD, BY_FIGURES, ELSE = range(4)
"""A form is tried by what it is known by: a word of its own anywhere in the line, a word at its
place, the units of its figures; then whatever is left."""
OPEN_WORDS = {"open", "o", "ol", "o.l", "o.l.", "oo", "inf", "∞"}
"""What an ohmmeter shows where nothing conducts."""

_HERTZ = re.compile(r"([\d.,]+\s*k?hz)\b", re.I)
VOLTS = re.compile(r"\d\s*m?v\b", re.I)
AMPS = re.compile(r"\d\s*[mµu]?a\b", re.I)
WATTS = re.compile(r"\d\s*k?w\b", re.I)
"""Figures with these units."""


class Heard(Struct, frozen=True, kw_only=True):
    """What of a line a kind hears: the pair it begins with, the rest of it, the supply's volts; or
    a whole line, without a pair. `points` reads a pair at the head of a text, with what follows.
    """

    pair: Pair = ("", "")
    rest: str
    supply_volts: float
    points: Callable[[str], tuple[Pair, str]]


class Arrow(Struct, frozen=True, kw_only=True):
    """What a line with an arrow says: the driven pair, its volts, hertz, amps and watts where they
    stand beside; the two leads joined, where they are; what is right of it. `points` reads a pair
    at the head of a text, with what follows.
    """

    driven: Pair
    driven_volts: float
    hertz: float | None
    amps: float | None
    watts: float | None
    joined: Pair | None
    right: str
    points: Callable[[str], tuple[Pair, str]]

    @property
    def source(self) -> Said:
        """What drives, as fields."""
        return {"driven": self.driven, "driven_volts": self.driven_volts}

    @property
    def sensed(self) -> tuple[Pair, str]:
        """The pair right of the arrow, and the rest. Raises FieldError."""
        return self.points(self.right)

    @property
    def behind(self) -> str:
        """What stands behind the pair right of the arrow; nothing where no pair stands there."""
        try:
            return self.sensed[1]
        except FieldError:
            return ""

    @property
    def to_earth(self) -> bool:
        """Whether one of the pair right of the arrow is the earth."""
        try:
            return "earth" in self.sensed[0]
        except FieldError:
            return False


class Form(Struct, frozen=True):
    """One way in which a kind is typed: how the line is known, how it is read, and when it is
    tried.
    """

    tells: Callable[[Any], Any]
    reads: Callable[[Any], Said]
    tried: int = BY_WORD


def refuse(sentence: str) -> NoReturn:
    """Raises FieldError of the jotter."""
    raise FieldError("jotter", sentence)


def first(*words: str) -> Callable[[Heard], bool]:
    """Whether the rest of a line starts with one of these words."""
    return lambda heard: heard.rest.lower().partition(" ")[0] in words


def volts_and_hertz(text: str, field: str) -> tuple[float, float | None]:
    """Volts, and hertz where they stand beside them. Raises FieldError."""
    found = _HERTZ.search(text)
    if not found:
        return parse_quantity(text, "volt", field=field), None
    volts = parse_quantity(text.replace(found[1], ""), "volt", field=field)
    return volts, parse_quantity(found[1], "hertz", field="hertz")


def hertz_in(text: str) -> str:
    """The hertz of a line as they are typed; empty where none stand there.

    >>> hertz_in("1.6H 100Hz")
    '100Hz'
    """
    found = _HERTZ.search(text)
    return found[1] if found else ""


def beside(text: str, letter: str, unit: str) -> float | None:
    """A figure beside the driven volts, where its unit stands there."""
    words = re.sub(r"(\d)\s+(?=[mµuk]?[aw]\b)", r"\1", text, flags=re.I).split()
    return ending(words, f"[mµuk]?{letter}", unit, unit)


def named(text: str, wanted: Mapping[str, str]) -> list[float]:
    """Figures told apart by their units, in the order wanted: V, A, W, Ω, H. Raises FieldError."""
    out: dict[str, float] = {}
    for word in re.sub(r"(\d)\s+(?=[munµμkM]?[AVWH]\b)", r"\1", text).split():
        unit = next((u for u in wanted if figure(word, u) is not None), None)
        if unit is not None:
            out.setdefault(unit, parse_quantity(word, unit, field=wanted[unit]))
    for unit, field in wanted.items():
        if unit not in out:
            refuse(f"{field.capitalize()} with its unit is missing in “{text.strip()[:40]}”.")
    return [out[u] for u in wanted]


def figure(word: str, unit: str) -> float | None:
    """A figure with this unit written out; None where it is none."""
    try:
        value = parse_quantity(word, unit, field=unit)
    except FieldError:
        return None
    return value if re.search(r"[A-Za-zΩ]", word) else None


def ending(words: Iterable[str], letter: str, unit: str, field: str) -> float | None:
    """The first figure that ends in a unit's letter."""
    found = next((w for w in words if re.search(rf"\d{letter}$", w, re.I)), None)
    return None if found is None else parse_quantity(found, unit, field=field)
