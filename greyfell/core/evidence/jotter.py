"""The jotter: one line as people say it at the bench, read into one reading."""

import math
import re
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.accuracy import DEFAULT_COUNTS, last_place
from greyfell.core.evidence.kinds.registry import EVERY, by_key
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.typed_line import (
    Arrow,
    Form,
    Heard,
    Pair,
    Said,
    beside,
    refuse,
    volts_and_hertz,
)
from greyfell.core.figures.notation import engineering, parse_quantity
from greyfell.core.never import asks, wish

OF_NO_KIND = (
    ("zero 0.2", "what the probes read shorted: taken off every reading from now on"),
    ("strike r7 wrong range", "strike out"),
    ("undo", "strike the last reading out"),
    ("C-D 0.6..0.7..1.0", "a figure that moved: least, mean, most; or 0.8 then 0.7"),
    ("A-B about 1.3 40C claimed", "what stands beside a figure; ±0.5% are its meter's limits"),
    ("A-B 230V ±0.5% 0.45A ±1%", "limits behind each figure, where meters differ"),
)
"""Lines that are of no kind of reading, or of any, with what they say."""


def lines() -> tuple[tuple[str, str], ...]:
    """Every way a line is typed, with what it says."""
    return (*(line for kind in EVERY for line in kind.lines), *OF_NO_KIND)


EXAMPLES = (
    "A-B 1.3",
    "A-core open 20M",
    "proof 0.1",
    "E-core 124.5V > A-B 5.9V",
    "strike r7 wrong range",
)
"""What is offered where a line was not understood."""
_PAIR = re.compile(r"^\s*([A-Za-z0-9]{1,8})\s*[-–—:]\s*([A-Za-z0-9]{1,8})(?:\s+|$)(.*)$", re.S)
_JOINED = re.compile(r"\b([A-Za-z0-9]{1,8})\s*=\s*([A-Za-z0-9]{1,8})\b")
_APART = re.compile(r"^\s*([A-Za-z0-9]{1,8})\s+([A-Za-z0-9]{1,8})\s+(.*)$", re.S)
_TOGETHER = re.compile(r"^\s*([A-Za-z])([A-Za-z])\s+(.*)$", re.S)


class Jotted(Struct, frozen=True):
    """What a line was understood to say: a reading to append, one to strike out, or what the probes
    read shorted; and the same in words.
    """

    reading: Said | None
    strike: tuple[str, str] | None
    words: str
    zero: float | None = None


class Hand(Struct, frozen=True, kw_only=True):
    """How the meter in hand stands: the range its dial was set to and what its probes read shorted,
    Ω, where the person said so; `last` is the reading that “undo” strikes out.
    """

    dial: float | None = None
    zero: float | None = None
    last: str = ""


EMPTY = Hand()


DIALS = (200.0, 2e3, 20e3, 200e3, 2e6, 20e6, 60e6)
"""Ranges an ohmmeter's dial may stand at, Ω."""


def read_line(
    line: str, leads: list[str], supply_volts: float = 230.0, hand: Hand = EMPTY
) -> Jotted:
    """Understand one line. Raises FieldError saying what was not understood, or why what it asks
    for is never planned. Lead letters keep their case where it matters. Ohms without a range or a
    probe zero of their own were read with the meter as it stands in `hand`.

    >>> read_line("E-core 124.5V > A-B 5.9V", list("ABE")).words
    'ratio: E–core 124.5 V > A–B 5.9 V'
    """
    text = " ".join(line.split())
    if not text:
        refuse(f"Type a reading, such as “{EXAMPLES[0]}” or “{EXAMPLES[1]}”.")
    asked = asks(text)
    if asked is not None:
        refuse(asked.sentence)
    try:
        return _read(text, leads, supply_volts, hand)
    except FieldError:
        wanted = wish(text)
        if wanted is not None:
            refuse(wanted.sentence)
        raise


def _read(text: str, leads: list[str], supply_volts: float, hand: Hand) -> Jotted:
    """One line that asks for nothing. Raises FieldError."""
    if text.lower().startswith("strike"):
        return _strike(text)
    if text.lower() == "undo":
        return _undo(hand)
    zero = _ZERO.match(text)
    if zero:
        return _zero(zero[1])
    each = _LIMITED.findall(text)
    plain, beside = _beside(_LIMITED.sub(r"\1\2", text) if len(each) > 1 else text)
    reading = {**_reading(plain, leads, supply_volts), **beside}
    if len(each) > 1:
        reading["accuracy"] = _accuracy(reading, each)
    reading = by_key()[reading["kind"]].in_hand(reading, hand.dial, hand.zero)
    return Jotted(reading, None, _words(reading))


_ZERO = re.compile(r"^(?:zero|probes?|probe zero|shorted)\s+(.+)$", re.I)
MOST_ZERO_OHMS = 20.0
"""Probes that read more when shorted are broken, or were not shorted."""


def _zero(text: str) -> Jotted:
    """What the probes read shorted."""
    ohms = parse_quantity(text, "ohm", field="probes")
    if not 0 <= ohms <= MOST_ZERO_OHMS:
        refuse(
            f"Probes shorted read a few tenths of an ohm, at most {MOST_ZERO_OHMS:g} Ω; "
            f"{engineering(ohms, 'Ω')} was given. Clean the tips and press them together."
        )
    words = f"probes shorted {engineering(ohms, 'Ω')}: taken off ohms from now on"
    return Jotted(None, None, words, zero=ohms)


def _undo(hand: Hand) -> Jotted:
    """The last reading struck out."""
    if not hand.last:
        refuse("There is no reading to undo.")
    return Jotted(None, (hand.last, "undone"), f"strike out {hand.last}: undone")


def _beside(text: str) -> tuple[str, Said]:
    """A line without what stands beside its figures, and that: about, claimed, the winding's
    temperature, where volts were read, the meter's limits, and a figure that moved, as one figure
    with its ends.
    """
    said: Said = {}
    for pattern, field, value in ASIDE:
        if pattern.search(text):
            text, said[field] = pattern.sub(" ", text), value
    warm = _CELSIUS.search(text)
    if warm:
        text, said["celsius"] = text.replace(warm[0], " "), float(warm[1])
    limits = _LIMITS.search(text)
    if limits:
        text, said["percent"] = text.replace(limits[0], " "), float(limits[1])
    moved = _MOVED.search(text)
    if moved:
        middle, ends = _moved(moved[1], moved[2])
        said |= ends
        text = text.replace(moved[0], middle)
    return " ".join(text.split()), said


def _moved(figures_text: str, unit: str) -> tuple[str, Said]:
    figures = re.split(r"\.\.|\s+then\s+", figures_text)
    if len(figures) > 3:
        refuse("A figure that moves is written least, mean and most: “C-D 0.6..0.7..1.0V”.")
    middle = figures[1] if len(figures) == 3 or " then " in figures_text else _mean(figures)
    name, scale = _UNITS.get(unit[-1:].lower(), ("ohm", ""))
    values = [parse_quantity(f + unit, name, field="figure") for f in figures]
    return f"{middle}{unit}{scale}", {"least": min(values), "most": max(values)}


def _accuracy(reading: Said, each: list[tuple[str, str, str]]) -> Said:
    """Limits that stand behind figures of one line, by the field each of them filled; to them come
    the counts that any display may be off.
    """
    out: Said = {}
    for figure, unit, percent in each:
        name, _ = _UNITS.get(unit[-1:].lower(), ("ohm", ""))
        value = parse_quantity(figure + unit, name, field="figure")
        fields = [f for f, x in reading.items() if isinstance(x, float) and math.isclose(x, value)]
        field = next((f for f in fields if f not in out), None)
        if field is None:
            refuse(f"±{percent}% stands behind no figure of this reading: {figure}{unit}.")
        if field in ("least", "most"):
            field = by_key()[reading["kind"]].moves
        number = figure.partition("e")[0]
        last = last_place(number) * value / (float(number) or 1.0)
        out[field] = {"percent": float(percent), "digits": DEFAULT_COUNTS * last}
    return out


def _mean(figures: list[str]) -> str:
    return f"{sum(float(x) for x in figures) / len(figures):.6g}"


ASIDE: tuple[tuple[re.Pattern[str], str, Any], ...] = (
    (re.compile(r"(?:\babout\b|~|≈)", re.I), "about", True),
    (re.compile(r"\bclaimed\b", re.I), "claimed", True),
    (re.compile(r"\bahead of (?:the )?ballast\b", re.I), "where", "ahead of ballast"),
    (re.compile(r"\bat (?:the )?socket\b", re.I), "where", "socket"),
)
"""Words beside a reading, the field they fill and with what."""
_LIMITS = re.compile(r"±\s*(\d{1,2}(?:\.\d{1,3})?)\s*%")
_LIMITED = re.compile(
    rf"(\d+(?:\.\d+)?(?:e-?\d+)?)\s*([munµμkM]?(?:Ω|ohms?|[VAHW])?)\s*{_LIMITS.pattern}"
)
_CELSIUS = re.compile(r"\b(-?\d+(?:\.\d+)?)\s*°?C\b(?!-)")
_FIGURE = r"\d+(?:\.\d+)?"
_MOVED = re.compile(
    rf"({_FIGURE}(?:(?:\.\.|\s+then\s+){_FIGURE})+)\s*([munµμkM]?(?:Ω|ohms?|[VAHW])?)"
)
_UNITS = {"v": ("volt", ""), "a": ("ampere", ""), "h": ("henry", ""), "w": ("watt", "")}


def _words(reading: Said) -> str:
    """A reading told, its kind named where the line itself does not, and the limits that were typed
    with it.
    """
    kind = reading["kind"].replace("_", " ")
    line = told(by_key()[reading["kind"]].model_construct(**reading))
    shares = [x["percent"] for x in reading.get("accuracy", {}).values()]
    shares += [reading["percent"]] if "percent" in reading else []
    limits = ", ".join(f"±{x:g} %" for x in shares)
    said = f"{line} ({limits})" if limits else line
    return said if kind in line else f"{kind}: {said}"


def _strike(text: str) -> Jotted:
    words = text.split(maxsplit=2)
    if len(words) < 3:
        refuse("Strike names a reading and why: “strike r7 wrong range”.")
    return Jotted(None, (words[1], words[2]), f"strike out {words[1]}: {words[2]}")


def _reading(text: str, leads: list[str], supply_volts: float) -> Said:
    """The reading that a line tells."""

    def points(of: str) -> tuple[Pair, str]:
        return _pair(of, leads)

    alone = _form("alone", Heard(rest=text, supply_volts=supply_volts, points=points))
    if alone is not None:
        return alone
    left, arrow, right = (side.strip() for side in text.partition(">"))
    pair, rest = points(left)
    if arrow and (rest or _PAIR.match(right)):
        return _across_arrow(pair, rest, right, leads)
    rest = f"> {right}" if arrow else rest
    heard = Heard(pair=pair, rest=rest, supply_volts=supply_volts, points=points)
    return _form("after_pair", heard) or {}


def _form(place: str, heard: Heard | Arrow) -> Said | None:
    """What was heard, read by the first kind that knows it: by a word, then by the units of its
    figures; None where none does.
    """
    forms: list[Form] = [form for kind in EVERY for form in getattr(kind, place)]
    known = (form for form in sorted(forms, key=lambda f: f.tried) if form.tells(heard))
    form = next(known, None)
    return None if form is None else form.reads(heard)


def _across_arrow(driven: Pair, rest: str, right: str, leads: list[str]) -> Said:
    """What a driven pair gives."""
    joined = _JOINED.search(rest)
    amps, watts = beside(rest, "a", "ampere"), beside(rest, "w", "watt")
    volts, hertz = volts_and_hertz(_JOINED.sub("", _ALSO.sub(" ", rest)), "driven volts")
    arrow = Arrow(
        driven=driven,
        driven_volts=volts,
        hertz=hertz,
        amps=amps,
        watts=watts,
        joined=(_lead(joined[1], leads), _lead(joined[2], leads)) if joined else None,
        right=right,
        points=lambda of: _pair(of, leads),
    )
    return _form("across_arrow", arrow) or {}


_ALSO = re.compile(r"\b[\d.,]+\s*(?:[mµu]?a|k?w)\b", re.I)
"""Amps and watts beside the driven volts."""


def _pair(text: str, leads: list[str]) -> tuple[Pair, str]:
    """The two points a line starts with, and the rest of it."""
    found = _PAIR.match(text) or _loose_pair(text, leads)
    if not found:
        refuse(
            f"A line starts with two points, such as “A-B” or “A-core”; “{text[:40]}” was given."
        )
    x, y = _lead(found[1], leads), _lead(found[2], leads)
    if x == y:
        refuse(f"A reading needs two different points; {x} was given twice.")
    return (x, y), found[3].strip()


def _loose_pair(text: str, leads: list[str]) -> re.Match[str] | None:
    """Two points with a space or nothing between them, where both are points of this piece and the
    line could mean nothing else.
    """
    points = {x.lower() for x in (*leads, "core", "fe", "earth")}
    apart = _APART.match(text)
    if apart and apart[1].lower() in points and apart[2].lower() in points:
        return apart
    together = _TOGETHER.match(text)
    if together and {together[1].lower(), together[2].lower()} <= points:
        return together
    return None


def _lead(name: str, leads: list[str]) -> str:
    """A lead by its letter, whatever its case where only one is meant; or the core, or earth."""
    if name in leads:
        return name
    if name.lower() in ("core", "fe", "earth"):
        return "core" if name.lower() == "fe" else name.lower()
    alike = [x for x in leads if x.lower() == name.lower()]
    if len(alike) != 1:
        named = ", ".join(leads) or "none named yet"
        refuse(f"{name} is not a lead of this piece (leads: {named}, core).")
    return alike[0]
