"""The jotter: one line as people say it at the bench, read into one reading.

A-B 1.3                       resistance
A-core open 20M               over the range of 20 MΩ
A-B 1.3 probes 0.2            probe resistance stated
proof 0.1                     two bare spots of the core
A-B dc 0.1A 9.3mV             volts over amps
A-core ins 500V 200M          insulation test
A-B 1.6H 100Hz                inductance
E-core 124.5V > A-B 5.9V      ratio: driven > sensed
A-B lamp 40W dark             lamp in series
A-B 230V 1.9A 75W             no load
A-B 120V > 5 turns 4.6V       test turn
E-F 3 turns                   counted turns
strike r7 wrong range         strike out
"""

import re
from dataclasses import dataclass
from typing import Any

from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import as_read, engineering, parse_quantity

_PAIR = re.compile(r"^\s*([A-Za-z0-9]{1,8})\s*[-–—:]\s*([A-Za-z0-9]{1,8})(?:\s+|$)(.*)$", re.S)


_OPEN = {"open", "ol", "o.l", "o.l.", "oo", "inf", "∞"}


EXAMPLES = (
    "A-B 1.3",
    "A-core open 20M",
    "proof 0.1",
    "E-core 124.5V > A-B 5.9V",
    "strike r7 wrong range",
)


@dataclass(frozen=True)
class Jotted:
    """What a line was understood to say: a reading to append, or one to strike out; and the same in
    words.
    """

    reading: dict[str, Any] | None
    strike: tuple[str, str] | None
    words: str


def read_line(line: str, leads: list[str], supply_volts: float = 230.0) -> Jotted:
    """Understand one line. Raises FieldError saying what was not understood. Lead letters keep
    their case where it matters.
    """
    text = " ".join(line.split())
    if not text:
        raise FieldError("jotter", f"Type a reading, such as “{EXAMPLES[0]}” or “{EXAMPLES[1]}”.")
    lower = text.lower()
    if lower.startswith("strike"):
        return _strike(text)
    if lower.startswith(("proof", "core proof", "core-core", "fe-fe")):
        ohms = parse_quantity(
            re.sub(r"^(core proof|proof|core-core|fe-fe)\s*", "", lower) or "?", "ohm", field="ohms"
        )
        return Jotted(
            {"kind": "core_proof", "ohms": ohms},
            None,
            f"core proof, two bare spots: {as_read(ohms, 'Ω')}",
        )
    if ">" in text:
        return _across_arrow(text, leads)
    pair, rest = _pair(text, leads)
    return _one_pair(pair, rest, supply_volts)


def _strike(text: str) -> Jotted:
    words = text.split(maxsplit=2)
    if len(words) < 3:
        raise FieldError("jotter", "Strike names a reading and why: “strike r7 wrong range”.")
    return Jotted(None, (words[1], words[2]), f"strike out {words[1]}: {words[2]}")


def _pair(text: str, leads: list[str]) -> tuple[tuple[str, str], str]:
    found = _PAIR.match(text)
    if not found:
        raise FieldError(
            "jotter",
            f"A line starts with two points, such as “A-B” or “A-core”; “{text[:40]}” was given.",
        )
    x, y = _lead(found[1], leads), _lead(found[2], leads)
    if x == y:
        raise FieldError("jotter", f"A reading needs two different points; {x} was given twice.")
    return (x, y), found[3].strip()


def _lead(name: str, leads: list[str]) -> str:
    if name in leads:
        return name
    if name.lower() in ("core", "fe", "earth"):
        return "core" if name.lower() == "fe" else name.lower()
    alike = [x for x in leads if x.lower() == name.lower()]
    if len(alike) == 1:
        return alike[0]
    raise FieldError(
        "jotter",
        (
            f"{name} is not a lead of this piece (leads: "
            f"{', '.join(leads) or 'none named yet'}, core)."
        ),
    )


def _across_arrow(text: str, leads: list[str]) -> Jotted:
    left, right = (side.strip() for side in text.split(">", 1))
    driven, rest = _pair(left, leads)
    driven_volts, hertz = _volts_and_hertz(rest, "driven volts")
    turns = re.match(r"^([\d.,]+)\s*(?:turns?|t)\s+(.+)$", right, re.I)
    if turns:
        count = parse_quantity(turns[1], "turn", field="turns")
        volts = parse_quantity(turns[2], "volt", field="turn volts")
        words = (
            f"test turn: {count:g} turns give {as_read(volts, 'V')} with "
            f"{as_read(driven_volts, 'V')} on {'–'.join(driven)}"
        )
        return Jotted(
            {
                "kind": "test_turn",
                "driven": driven,
                "driven_volts": driven_volts,
                "turns": count,
                "turn_volts": volts,
            },
            None,
            words,
        )
    sensed, rest = _pair(right, leads)
    sensed_volts, also = _volts_and_hertz(rest, "sensed volts")
    reading: dict[str, Any] = {
        "kind": "ratio",
        "driven": driven,
        "driven_volts": driven_volts,
        "sensed": sensed,
        "sensed_volts": sensed_volts,
    }
    if hertz or also:
        reading["hertz"] = hertz or also
    words = (
        f"ratio: {as_read(driven_volts, 'V')} on {'–'.join(driven)} gives "
        f"{as_read(sensed_volts, 'V')} on {'–'.join(sensed)}"
    )
    return Jotted(reading, None, words)


def _volts_and_hertz(text: str, field: str) -> tuple[float, float | None]:
    hertz = re.search(r"([\d.,]+\s*hz)\b", text, re.I)
    volts = text.replace(hertz[1], "") if hertz else text
    return parse_quantity(volts, "volt", field=field), parse_quantity(
        hertz[1], "hertz", field="hertz"
    ) if hertz else None


def _one_pair(pair: tuple[str, str], rest: str, supply_volts: float) -> Jotted:
    name, words = "–".join(pair), rest.split()
    first = words[0].lower() if words else ""
    if first in _OPEN:
        reading: dict[str, Any] = {"kind": "resistance", "between": pair, "ohms": "open"}
        said = f"resistance {name}: open"
        if len(words) > 1:
            reading["range_ohms"] = parse_quantity(" ".join(words[1:]), "ohm", field="range")
            said += f", over {as_read(reading['range_ohms'], 'Ω')}"
        return Jotted(reading, None, said)
    if first == "dc":
        amps, volts = _named(rest[2:], {"ampere": "amps", "volt": "volts"})
        return Jotted(
            {"kind": "dc_drop", "across": pair, "amps": amps, "volts": volts},
            None,
            (
                f"DC drop {name}: {as_read(volts, 'V')} at {as_read(amps, 'A')}, "
                f"{engineering(volts / amps, 'Ω')}"
            )
            if amps
            else name,
        )
    if first in ("ins", "insulation"):
        return _insulation(pair, name, words[1:])
    if first == "lamp":
        return _lamp(pair, name, words[1:], supply_volts)
    turns = re.match(r"^([\d.,]+)\s*(?:turns?|t)$", rest, re.I)
    if turns:
        count = parse_quantity(turns[1], "turn", field="turns")
        return Jotted(
            {"kind": "turns", "across": pair, "turns": count}, None, f"turns {name}: {count:g}"
        )
    if re.search(r"\d\s*[munµμ]?h(?:enry|enries)?\b", rest, re.I) and not re.search(
        r"\d\s*hz\s*$", rest.split()[0], re.I
    ):
        return _inductance(pair, name, rest)
    if re.search(r"\d\s*m?v\b", rest, re.I) and re.search(r"\d\s*[mµu]?a\b", rest, re.I):
        return _no_load(pair, name, words)
    return _resistance(pair, name, rest)


def _named(text: str, wanted: dict[str, str]) -> list[float]:
    """Figures told apart by their units, in the order wanted."""
    out: dict[str, float] = {}
    for word in re.sub(r"(\d)\s+(?=[munµμkM]?[AVWH]\b)", r"\1", text).split():
        for unit, field in wanted.items():
            try:
                value = parse_quantity(word, unit, field=field)
            except FieldError:
                continue
            if re.search(r"[A-Za-zΩ]", word):
                out.setdefault(unit, value)
                break
    for unit, field in wanted.items():
        if unit not in out:
            raise FieldError(
                "jotter", f"{field.capitalize()} with its unit is missing in “{text.strip()[:40]}”."
            )
    return [out[u] for u in wanted]


def _insulation(pair: tuple[str, str], name: str, words: list[str]) -> Jotted:
    if len(words) < 2:
        raise FieldError(
            "jotter", "An insulation test needs its volts and its ohms: “A-core ins 500V 200M”."
        )
    volts = parse_quantity(words[0], "volt", field="test volts")
    opened = words[1].lower() in _OPEN
    ohms: Any = "open" if opened else parse_quantity(" ".join(words[1:]), "ohm", field="ohms")
    said = "open" if opened else as_read(ohms, "Ω")
    return Jotted(
        {"kind": "insulation", "between": pair, "test_volts": volts, "ohms": ohms},
        None,
        f"insulation {name} at {as_read(volts, 'V')}: {said}",
    )


def _lamp(pair: tuple[str, str], name: str, words: list[str], supply_volts: float) -> Jotted:
    glow = next((w.lower() for w in words if w.lower() in ("dark", "dim", "bright")), None)
    watts = next(
        (
            parse_quantity(w, "watt", field="lamp watts")
            for w in words
            if re.search(r"\dw$", w, re.I)
        ),
        None,
    )
    if glow is None or watts is None:
        raise FieldError(
            "jotter", "A lamp test needs the lamp's watts and how it glows: “A-B lamp 40W dark”."
        )
    volts = next(
        (
            parse_quantity(w, "volt", field="supply volts")
            for w in words
            if re.search(r"\dv$", w, re.I)
        ),
        supply_volts,
    )
    return Jotted(
        {"kind": "lamp", "across": pair, "supply_volts": volts, "lamp_watts": watts, "glow": glow},
        None,
        f"lamp of {as_read(watts, 'W')} in series on {name}: {glow}",
    )


def _inductance(pair: tuple[str, str], name: str, rest: str) -> Jotted:
    hertz = re.search(r"([\d.,]+\s*k?hz)", rest, re.I)
    if not hertz:
        raise FieldError(
            "jotter",
            "An inductance needs the meter's frequency: “A-B 1.6H 100Hz”. 100 or 120 Hz tell most.",
        )
    f = parse_quantity(hertz[1], "hertz", field="hertz")
    q = re.search(r"\bq\s*=?\s*([\d.,]+)", rest, re.I)
    text = rest.replace(hertz[1], "").replace(q[0], "") if q else rest.replace(hertz[1], "")
    henries = parse_quantity(text, "henry", field="henries")
    reading: dict[str, Any] = {"kind": "inductance", "across": pair, "henries": henries, "hertz": f}
    if q:
        reading["q"] = parse_quantity(q[1], "turn", field="q")
    return Jotted(
        reading, None, f"inductance {name}: {as_read(henries, 'H')} at {as_read(f, 'Hz')}"
    )


def _no_load(pair: tuple[str, str], name: str, words: list[str]) -> Jotted:
    volts, amps = _named(" ".join(words), {"volt": "volts", "ampere": "amps"})
    reading: dict[str, Any] = {"kind": "no_load", "driven": pair, "volts": volts, "amps": amps}
    said = f"no load, {as_read(volts, 'V')} on {name}: {as_read(amps, 'A')}"
    watts = next(
        (parse_quantity(w, "watt", field="watts") for w in words if re.search(r"\dw$", w, re.I)),
        None,
    )
    if watts is not None:
        reading["watts"] = watts
        said += f", {as_read(watts, 'W')}"
    return Jotted(reading, None, said)


def _resistance(pair: tuple[str, str], name: str, rest: str) -> Jotted:
    if not rest:
        raise FieldError(
            "jotter",
            f"What did {name} read? Ohms, “open”, or volts: “{name.replace('–', '-')} 1.3”.",
        )
    probes = re.search(r"\bprobes?\s+(.+)$", rest, re.I)
    text = rest[: probes.start()].strip() if probes else rest
    ohms = parse_quantity(text, "ohm", field="ohms")
    if ohms < 0:
        raise FieldError("ohms", f"Ohms must not be negative; {ohms:g} was given.")
    reading: dict[str, Any] = {"kind": "resistance", "between": pair, "ohms": ohms}
    said = f"resistance {name}: {as_read(ohms, 'Ω')}"
    if probes:
        reading["probe_ohms"] = parse_quantity(probes[1], "ohm", field="probe ohms")
        said += f", probes {as_read(reading['probe_ohms'], 'Ω')} taken off"
    return Jotted(reading, None, said)
