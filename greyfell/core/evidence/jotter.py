"""The jotter: one line as people say it at the bench, read into one reading."""

import math
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NoReturn

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.accuracy import DEFAULT_COUNTS, MOVES, last_place
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import KINDS
from greyfell.core.figures.notation import engineering, parse_quantity
from greyfell.core.never import asks, wish

LINES = (
    ("A-B 1.3", "resistance"),
    ("A-core open 20M", "over the range of 20 MΩ"),
    ("A-B 1.3 probes 0.2", "probe resistance stated"),
    ("zero 0.2", "what the probes read shorted: taken off every reading from now on"),
    ("proof 0.1", "two bare spots of the core"),
    ("A-B dc 0.1A 9.3mV", "volts over amps"),
    ("A-core ins 500V 200M", "insulation test"),
    ("A-B 1.6H 100Hz", "inductance"),
    ("E-core 124.5V > A-B 5.9V", "ratio: driven > sensed"),
    ("A-B lamp 40W dark", "lamp in series"),
    ("A-B lamp 40W dim takes 62V leaves 205V", "the same with volts of lamp and winding"),
    ("A-B 230V 1.9A 75W", "no load"),
    ("A-B short C-D 24V 2.1A 30W", "short circuit: what is fed, what is shorted"),
    ("A-B 230V 1.2A > C-D 12.1V 4A", "load: driven > loaded, its amps or ohms"),
    ("A-B 230V > C-D bridge 16.2V", "direct volts behind a rectifier, its amps where loaded"),
    ("A-B 230V 3.1A > C-D loop 420A", "amps round a loop: a weld, a rod"),
    ("path lug 12mV 300A", "a part of the path: its volts at those amps"),
    ("A-B 230V > C-earth 0.1mA", "leakage to earth; in volts with the meter's ohms: 61V on 10M"),
    ("A-B soak 20min 230V 3.10 3.41", "minutes on the line, ohms cold and hot"),
    ("A-B 120V > 5 turns 4.6V", "test turn"),
    ("A-B 12V B=C > A-D 24V", "polarity: B joined to C, volts over both"),
    ("E-F 3 turns", "counted turns"),
    ("strike r7 wrong range", "strike out"),
    ("undo", "strike the last reading out"),
    ("C-D 0.6..0.7..1.0", "a figure that moved: least, mean, most; or 0.8 then 0.7"),
    ("A-B about 1.3 40C claimed", "what stands beside a figure; ±0.5% are its meter's limits"),
    ("A-B 230V ±0.5% 0.45A ±1%", "limits behind each figure, where meters differ"),
)
"""Every way a line is typed, with what it says."""
EXAMPLES = (
    "A-B 1.3",
    "A-core open 20M",
    "proof 0.1",
    "E-core 124.5V > A-B 5.9V",
    "strike r7 wrong range",
)
"""What is offered where a line was not understood."""
OPEN = {"open", "o", "ol", "o.l", "o.l.", "oo", "inf", "∞"}
"""What an ohmmeter shows where nothing conducts."""
GLOWS = ("dark", "dim", "bright")

_PAIR = re.compile(r"^\s*([A-Za-z0-9]{1,8})\s*[-–—:]\s*([A-Za-z0-9]{1,8})(?:\s+|$)(.*)$", re.S)
_JOINED = re.compile(r"\b([A-Za-z0-9]{1,8})\s*=\s*([A-Za-z0-9]{1,8})\b")
_APART = re.compile(r"^\s*([A-Za-z0-9]{1,8})\s+([A-Za-z0-9]{1,8})\s+(.*)$", re.S)
_TOGETHER = re.compile(r"^\s*([A-Za-z])([A-Za-z])\s+(.*)$", re.S)
_PROOF = re.compile(r"^(core proof|proof|core-core|fe-fe)\s*", re.I)
_FEW_TURNS = re.compile(r"^([\d.,]+)\s*(?:turns?|t)\s+(.+)$", re.I)
_COUNTED = re.compile(r"^([\d.,]+)\s*(?:turns?|t)$", re.I)
_HERTZ = re.compile(r"([\d.,]+\s*k?hz)\b", re.I)
_HENRIES = re.compile(r"\d\s*[munµμ]?h(?:enry|enries)?\b", re.I)
_VOLTS = re.compile(r"\d\s*m?v\b", re.I)
_AMPS = re.compile(r"\d\s*[mµu]?a\b", re.I)
_WATTS = re.compile(r"\d\s*k?w\b", re.I)
_Q = re.compile(r"\bq\s*=?\s*([\d.,]+)", re.I)
_PROBES = re.compile(r"\bprobes?\s+(.+)$", re.I)

Pair = tuple[str, str]
Said = dict[str, Any]
"""A reading as a document."""


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
OVER_DIAL = 1.1
"""A display goes a little beyond its range: 2000 counts and more on one called 1999."""


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
        _refuse(f"Type a reading, such as “{EXAMPLES[0]}” or “{EXAMPLES[1]}”.")
    asked = asks(text)
    if asked is not None:
        _refuse(asked.sentence)
    try:
        return _read(text, leads, supply_volts, hand)
    except FieldError:
        wanted = wish(text)
        if wanted is not None:
            _refuse(wanted.sentence)
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
    if reading["kind"] == "resistance":
        reading = _as_read(reading, hand)
    return Jotted(reading, None, _words(reading))


_ZERO = re.compile(r"^(?:zero|probes?|probe zero|shorted)\s+(.+)$", re.I)
MOST_ZERO_OHMS = 20.0
"""Probes that read more when shorted are broken, or were not shorted."""


def _zero(text: str) -> Jotted:
    """What the probes read shorted."""
    ohms = parse_quantity(text, "ohm", field="probes")
    if not 0 <= ohms <= MOST_ZERO_OHMS:
        _refuse(
            f"Probes shorted read a few tenths of an ohm, at most {MOST_ZERO_OHMS:g} Ω; "
            f"{engineering(ohms, 'Ω')} was given. Clean the tips and press them together."
        )
    words = f"probes shorted {engineering(ohms, 'Ω')}: taken off ohms from now on"
    return Jotted(None, None, words, zero=ohms)


def _undo(hand: Hand) -> Jotted:
    """The last reading struck out."""
    if not hand.last:
        _refuse("There is no reading to undo.")
    return Jotted(None, (hand.last, "undone"), f"strike out {hand.last}: undone")


def _as_read(reading: Said, hand: Hand) -> Said:
    """An ohmmeter's reading with the range and the probe zero that the meter stood at."""
    if hand.zero is not None and reading["ohms"] != "open":
        reading = {**reading, "probe_ohms": reading.get("probe_ohms", hand.zero)}
    return reading if hand.dial is None else _on_dial(reading, hand.dial)


def _on_dial(reading: Said, dial: float) -> Said:
    """An ohmmeter's reading with the range it was read on."""
    ohms = reading["ohms"]
    if ohms != "open" and ohms > OVER_DIAL * dial:
        _refuse(
            f"The dial stands at {engineering(dial, 'Ω')}, which shows no {engineering(ohms, 'Ω')}:"
            " set it to where the meter stood, or to “not noted”."
        )
    return {"range_ohms": dial} | reading


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
        figures, unit = re.split(r"\.\.|\s+then\s+", moved[1]), moved[2]
        if len(figures) > 3:
            _refuse("A figure that moves is written least, mean and most: “C-D 0.6..0.7..1.0V”.")
        middle = figures[1] if len(figures) == 3 or " then " in moved[1] else _mean(figures)
        name, scale = _UNITS.get(unit[-1:].lower(), ("ohm", ""))
        values = [parse_quantity(f + unit, name, field="figure") for f in figures]
        said |= {"least": min(values), "most": max(values)}
        text = text.replace(moved[0], f"{middle}{unit}{scale}")
    return " ".join(text.split()), said


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
            _refuse(f"±{percent}% stands behind no figure of this reading: {figure}{unit}.")
        if field in ("least", "most"):
            field = MOVES[reading["kind"]]
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
    line = told(KINDS[reading["kind"]].model_construct(**reading))
    shares = [x["percent"] for x in reading.get("accuracy", {}).values()]
    shares += [reading["percent"]] if "percent" in reading else []
    limits = ", ".join(f"±{x:g} %" for x in shares)
    said = f"{line} ({limits})" if limits else line
    return said if kind in line else f"{kind}: {said}"


def _refuse(sentence: str) -> NoReturn:
    raise FieldError("jotter", sentence)


def _strike(text: str) -> Jotted:
    words = text.split(maxsplit=2)
    if len(words) < 3:
        _refuse("Strike names a reading and why: “strike r7 wrong range”.")
    return Jotted(None, (words[1], words[2]), f"strike out {words[1]}: {words[2]}")


def _reading(text: str, leads: list[str], supply_volts: float) -> Said:
    """The reading that a line tells."""
    proof = _PROOF.match(text)
    if proof:
        if proof.end() == len(text):
            _refuse("What did two bare spots of the iron read? Ohms: “proof 0.1”.")
        ohms = parse_quantity(text[proof.end() :], "ohm", field="ohms")
        return {"kind": "core_proof", "ohms": ohms}
    path = _PATH.match(text)
    if path:
        return _path(text[path.end() :])
    if ">" in text:
        left, right = (side.strip() for side in text.split(">", 1))
        pair, before = _pair(left, leads)
        if not before and not _PAIR.match(right):
            return _open(pair, right, supply_volts)
        return _across_arrow(left, right, leads)
    pair, rest = _pair(text, leads)
    if _SHORT.search(rest):
        return _short_circuit_of(leads)(pair, rest, supply_volts)
    form = next(form for tells, form in FORMS if tells(rest))
    return form(pair, rest, supply_volts)


def _pair(text: str, leads: list[str]) -> tuple[Pair, str]:
    """The two points a line starts with, and the rest of it."""
    found = _PAIR.match(text) or _loose_pair(text, leads)
    if not found:
        _refuse(
            f"A line starts with two points, such as “A-B” or “A-core”; “{text[:40]}” was given."
        )
    x, y = _lead(found[1], leads), _lead(found[2], leads)
    if x == y:
        _refuse(f"A reading needs two different points; {x} was given twice.")
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
    if len(alike) == 1:
        return alike[0]
    named = ", ".join(leads) or "none named yet"
    _refuse(f"{name} is not a lead of this piece (leads: {named}, core).")


# ------------------------------------------------------------------ driven > sensed


def _polarity(
    source: Mapping[str, Any], joined: re.Match[str], right: str, leads: list[str]
) -> Said:
    """Two windings joined at one end, the volts over both: adding or bucking."""
    across, rest = _pair(right, leads)
    volts, _ = _volts_and_hertz(rest, "volts across both")
    ends = (_lead(joined[1], leads), _lead(joined[2], leads))
    kind = {"kind": "polarity", **source}
    return {**kind, "joined": ends, "across": across, "across_volts": volts}


def _across_arrow(left: str, right: str, leads: list[str]) -> Said:
    """A ratio, or a test turn where turns stand right of the arrow."""
    driven, rest = _pair(left, leads)
    joined = _JOINED.search(rest)
    amps, watts = _also(rest, "a", "ampere"), _also(rest, "w", "watt")
    rest = _ALSO.sub(" ", rest)
    volts, hertz = _volts_and_hertz(_JOINED.sub("", rest), "driven volts")
    source = {"driven": driven, "driven_volts": volts}
    if joined:
        return _polarity(source, joined, right, leads)
    turns = _FEW_TURNS.match(right)
    if turns:
        count = parse_quantity(turns[1], "turn", field="turns")
        turn_volts = parse_quantity(turns[2], "volt", field="turn volts")
        return {"kind": "test_turn", **source, "turns": count, "turn_volts": turn_volts}
    sensed, rest = _pair(right, leads)
    if "earth" in sensed:
        return _to_earth(source, sensed, rest)
    rectified = _RECTIFIER.match(rest)
    if rectified:
        return _rectified(source, sensed, rectified[1].lower(), rest[rectified.end() :])
    if _LOOP.match(rest):
        drawn = {} if amps is None else {"driven_amps": amps}
        flows = parse_quantity(_LOOP.sub("", rest), "ampere", field="amps")
        return {"kind": "loop", **source, **drawn, "loaded": sensed, "loop_amps": flows}
    if _AMPS.search(rest) or _OHMS_AT_END.search(rest):
        return _loaded(source, amps, watts, sensed, rest)
    sensed_volts, also = _volts_and_hertz(rest, "sensed volts")
    at = {"hertz": hertz or also} if hertz or also else {}
    return {"kind": "ratio", **source, "sensed": sensed, "sensed_volts": sensed_volts, **at}


_ALSO = re.compile(r"\b[\d.,]+\s*(?:[mµu]?a|k?w)\b", re.I)
"""Amps and watts beside the driven volts."""
_OHMS_AT_END = re.compile(r"\d\s*[mkM]?(?:Ω|ohms?)\s*$", re.I)


def _also(text: str, letter: str, unit: str) -> float | None:
    """A figure beside the driven volts, where its unit stands there."""
    words = re.sub(r"(\d)\s+(?=[mµuk]?[aw]\b)", r"\1", text, flags=re.I).split()
    return _ending(words, f"[mµuk]?{letter}", unit, unit)


def _loaded(source: Said, amps: float | None, watts: float | None, pair: Pair, rest: str) -> Said:
    """A load point: volts of the loaded winding, with its amps or the ohms they go into."""
    found: Said = {"kind": "load", **source, "loaded": pair}
    drawn = {"driven_amps": amps, "driven_watts": watts}
    found |= {k: v for k, v in drawn.items() if v is not None}
    if _AMPS.search(rest):
        volts, load = _named(rest, {"volt": "volts", "ampere": "amps"})
        return {**found, "load_volts": volts, "load_amps": load}
    volts, ohms = _named(rest, {"volt": "volts", "ohm": "ohms"})
    return {**found, "load_volts": volts, "load_ohms": ohms}


_RECTIFIER = re.compile(r"^\s*(bridge|half-wave|centre-tap|doubler)\b", re.I)
_LOOP = re.compile(r"^\s*loop\b", re.I)
"""Words ahead of direct volts, and of amps round a loop."""


def _rectified(source: Said, pair: Pair, rectifier: str, rest: str) -> Said:
    """Direct volts behind a rectifier, and the amps they gave where something was joined."""
    found: Said = {"kind": "direct", **source, "rectified": pair, "rectifier": rectifier}
    if _AMPS.search(rest):
        volts, amps = _named(rest, {"volt": "volts", "ampere": "amps"})
        return {**found, "direct_volts": volts, "direct_amps": amps}
    return {**found, "direct_volts": parse_quantity(rest, "volt", field="direct volts")}


_PATH = re.compile(r"^\s*path\s+", re.I)
"""“Path” before a part of it, as a lug or a cable."""


def _path(text: str) -> Said:
    """Volts over a part of the path, and the amps through it."""
    words = re.sub(r"(\d)\s+(?=[munµμkM]?[AV]\b)", r"\1", text).split()
    first = next((n for n, w in enumerate(words) if _figure(w, "volt") is not None), len(words))
    part = " ".join(words[:first]).rstrip(":")
    if not part:
        _refuse("A part of a path has its name, volts and amps: “path lug 12mV 300A”.")
    volts, amps = _named(" ".join(words[first:]), {"volt": "volts", "ampere": "amps"})
    return {"kind": "path", "part": part, "volts": volts, "amps": amps}


def _to_earth(source: Said, pair: Pair, rest: str) -> Said:
    """Current to earth through a meter; or volts to it, with the meter's own ohms."""
    lead = next(x for x in pair if x != "earth")
    if _AMPS.search(rest):
        amps = parse_quantity(rest, "ampere", field="amps")
        return {"kind": "leakage_current", "from": lead, "to": "earth", "amps": amps, **source}
    text, _, meter = rest.partition(" on ")
    volts = parse_quantity(text, "volt", field="volts")
    own = {"meter_ohms": parse_quantity(meter, "ohm", field="meter ohms")} if meter else {}
    return {
        "kind": "earth_voltage",
        "from": lead,
        "to": "earth",
        "volts": volts,
        **own,
        **source,
    }


def _volts_and_hertz(text: str, field: str) -> tuple[float, float | None]:
    """Volts, and hertz where they stand beside them."""
    found = _HERTZ.search(text)
    if not found:
        return parse_quantity(text, "volt", field=field), None
    volts = parse_quantity(text.replace(found[1], ""), "volt", field=field)
    return volts, parse_quantity(found[1], "hertz", field="hertz")


# ------------------------------------------------------------------ one pair


def _open(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Nothing conducts, over a range where it is given."""
    span = _OPEN_WORD.sub(" ", rest).replace(">", " ").strip()
    span = re.sub(r"^on\s+", "", span)
    over = {"range_ohms": parse_quantity(span, "ohm", field="range")} if span else {}
    return {"kind": "resistance", "between": pair, "ohms": "open", **over}


_OPEN_WORD = re.compile(r"(?:^|(?<=\s))(?:open|o|ol|o\.l\.?|oo|inf|∞)(?=\s|$)", re.I)


def _dc(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Volts over a small direct current."""
    amps, volts = _named(rest[2:], {"ampere": "amps", "volt": "volts"})
    return {"kind": "dc_drop", "across": pair, "amps": amps, "volts": volts}


def _named(text: str, wanted: dict[str, str]) -> list[float]:
    """Figures told apart by their units, in the order wanted."""
    out: dict[str, float] = {}
    for word in re.sub(r"(\d)\s+(?=[munµμkM]?[AVWH]\b)", r"\1", text).split():
        unit = next((u for u in wanted if _figure(word, u) is not None), None)
        if unit is not None:
            out.setdefault(unit, parse_quantity(word, unit, field=wanted[unit]))
    for unit, field in wanted.items():
        if unit not in out:
            _refuse(f"{field.capitalize()} with its unit is missing in “{text.strip()[:40]}”.")
    return [out[u] for u in wanted]


def _figure(word: str, unit: str) -> float | None:
    """A figure with this unit written out; None where it is none."""
    try:
        value = parse_quantity(word, unit, field=unit)
    except FieldError:
        return None
    return value if re.search(r"[A-Za-zΩ]", word) else None


def _ending(words: Iterable[str], letter: str, unit: str, field: str) -> float | None:
    """The first figure that ends in a unit's letter."""
    found = next((w for w in words if re.search(rf"\d{letter}$", w, re.I)), None)
    return None if found is None else parse_quantity(found, unit, field=field)


def _insulation(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Test volts, and ohms or open."""
    words = rest.split()[1:]
    if len(words) < 2:
        _refuse("An insulation test needs its volts and its ohms: “A-core ins 500V 200M”.")
    volts = parse_quantity(words[0], "volt", field="test volts")
    ohms: Any = "open"
    if words[1].lower() not in OPEN:
        ohms = parse_quantity(" ".join(words[1:]), "ohm", field="ohms")
    return {"kind": "insulation", "between": pair, "test_volts": volts, "ohms": ohms}


_TAKES = re.compile(r"\btakes\s+([\d.,]+\s*V?)\s+leaves\s+([\d.,]+\s*V?)", re.I)
"""Volts of the lamp and of the winding behind it."""


def _lamp(pair: Pair, rest: str, supply_volts: float) -> Said:
    """A lamp in series: its watts and how it glows, on the supply unless volts are given."""
    both = _TAKES.search(rest)
    left: Said = {}
    if both:
        rest = rest.replace(both[0], " ")
        left = {
            "lamp_volts": parse_quantity(both[1], "volt", field="volts of the lamp"),
            "winding_volts": parse_quantity(both[2], "volt", field="volts of the winding"),
        }
    words = rest.split()[1:]
    glow = next((w.lower() for w in words if w.lower() in GLOWS), None)
    watts = _ending(words, "w", "watt", "lamp watts")
    if glow is None or watts is None:
        _refuse("A lamp test needs the lamp's watts and how it glows: “A-B lamp 40W dark”.")
    volts = _ending(words, "v", "volt", "supply volts")
    fed = supply_volts if volts is None else volts
    said = {"kind": "lamp", "across": pair, "supply_volts": fed, "lamp_watts": watts, "glow": glow}
    return {**said, **left}


def _counted(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Turns counted on a winding."""
    count = parse_quantity(_COUNTED.sub(r"\1", rest), "turn", field="turns")
    return {"kind": "turns", "across": pair, "turns": count}


_NAMED_L = re.compile(r"^\s*L\s+", re.I)
"""“L” before an inductance, as a step begins it."""


def _inductance(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Henries at the meter's frequency, with Q where it shows one."""
    hertz = _HERTZ.search(rest)
    if not hertz and "?" not in rest:
        _refuse(
            "An inductance needs the meter's frequency: “A-B 1.6H 100Hz”, or “?” where it is not "
            "known. 100 or 120 Hz tell most."
        )
    known = {"hertz": parse_quantity(hertz[1], "hertz", field="hertz")} if hertz else {}
    q = _Q.search(rest)
    text = rest.replace(hertz[1] if hertz else "?", "").replace(q[0] if q else "", "")
    text = _NAMED_L.sub("", text)
    henries = parse_quantity(text, "henry", field="henries")
    quality = {"q": parse_quantity(q[1], "turn", field="q")} if q else {}
    return {"kind": "inductance", "across": pair, "henries": henries, **known, **quality}


def _no_load(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Volts and amps with nothing joined to the rest, watts where they were read."""
    wanted = {"volt": "volts"} | ({"ampere": "amps"} if _AMPS.search(rest) else {})
    volts, *amps = _named(rest, wanted)
    watts = _ending(rest.split(), "w", "watt", "watts")
    read: Said = {} if watts is None else {"watts": watts}
    if amps:
        read["amps"] = amps[0]
    return {"kind": "no_load", "driven": pair, "volts": volts, **read}


_SHORT = re.compile(r"\bshort(?:ed)?\b", re.I)


def _short_circuit_of(leads: list[str]) -> Callable[[Pair, str, float], Said]:
    """Volts, amps and watts of the fed pair, and the pair that was shorted."""

    def form(pair: Pair, rest: str, supply_volts: float) -> Said:
        fed, shorted = _SHORT.split(rest, maxsplit=1)
        other, left = _pair(shorted.strip(), leads)
        if not fed.strip():
            fed, left = left, ""
        said = _no_load(pair, fed, supply_volts)
        if "amps" not in said:
            _refuse("A short-circuit test needs volts and amps: “A-B short C-D 24V 2.1A 30W”.")
        passed = {"shorted_amps": parse_quantity(left, "ampere", field="amps")} if left else {}
        return {**said, "kind": "short_circuit", "shorted": [other], **passed}

    return form


_MINUTES = re.compile(r"([\d.,]+)\s*min(?:utes?)?\b", re.I)


def _soak(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Minutes on the line and the winding's ohms, cold then hot."""
    minutes = _MINUTES.search(rest)
    if minutes is None:
        _refuse("A soak needs its minutes: “A-B soak 20min 230V 3.10 3.41”.")
    words = _MINUTES.sub(" ", rest).split()[1:]
    volts, watts = _ending(words, "v", "volt", "volts"), _ending(words, "w", "watt", "watts")
    left = [w for w in words if not re.search(r"\d[vw]$", w, re.I)]
    if len(left) != 2:
        _refuse("A soak needs two figures of ohms, cold then hot: “A-B soak 20min 230V 3.10 3.41”.")
    cold, hot = (parse_quantity(w, "ohm", field="ohms") for w in left)
    fed = {} if volts is None else {"volts": volts}
    took = {} if watts is None else {"watts": watts}
    run = parse_quantity(minutes[1], "number", field="minutes")
    ohms = {"cold_ohms": cold, "hot_ohms": hot}
    return {"kind": "soak", "across": pair, "minutes": run, **ohms, **fed, **took}


def _resistance(pair: Pair, rest: str, supply_volts: float) -> Said:
    """Ohms, and the probes' own where they are stated."""
    if not rest:
        name, typed = "–".join(pair), "-".join(pair)
        _refuse(f"What did {name} read? Ohms, “open”, or volts: “{typed} 1.3”.")
    probes = _PROBES.search(rest)
    text = rest[: probes.start()].strip() if probes else rest
    text, _, span = text.partition(" on ")
    ohms = parse_quantity(text, "ohm", field="ohms")
    if ohms < 0:
        raise FieldError("ohms", f"Ohms must not be negative; {ohms:g} was given.")
    stated = {"probe_ohms": parse_quantity(probes[1], "ohm", field="probe ohms")} if probes else {}
    if span:
        stated["range_ohms"] = parse_quantity(span, "ohm", field="range")
    return {"kind": "resistance", "between": pair, "ohms": ohms, **stated}


def _first(*words: str) -> Callable[[str], bool]:
    """Whether the rest of a line starts with one of these words."""
    return lambda rest: rest.lower().partition(" ")[0] in words


FORMS: tuple[tuple[Callable[[str], Any], Callable[[Pair, str, float], Said]], ...] = (
    (_first("dc"), _dc),
    (_first("ins", "insulation"), _insulation),
    (_first("lamp"), _lamp),
    (_first("soak"), _soak),
    (_OPEN_WORD.search, _open),
    (_COUNTED.match, _counted),
    (_HENRIES.search, _inductance),
    (lambda rest: _VOLTS.search(rest) and (_AMPS.search(rest) or _WATTS.search(rest)), _no_load),
    (lambda rest: True, _resistance),
)
"""What may follow a pair: how it is known, and how it is read; the first that fits."""
