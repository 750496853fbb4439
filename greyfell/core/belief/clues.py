"""What can be seen, weighed: colours, stripes, ends, places, twists, core, plate and the owner's
belief.

Each clue shifts the odds; none settles it (common practice; a colour code is never trusted alone).
Likelihoods below are how often a winding of that role shows the clue, tempered so that a wrong or
odd clue costs little.
"""

import math
import re
from collections.abc import Iterable
from functools import lru_cache

from msgspec import Struct

from greyfell.core.evidence.record import Family, Lead, Transformer

TEMPER = 0.6
"""Clues of one piece are not independent of each other: each counts for six tenths of its
logarithm. From memory."""


BLACKS = {"black", "brown", "blue", "white", "grey", "gray"}


COLOUR: dict[str, dict[str, float]] = {
    # share of leads of this colour by role of the winding; the old valve-set code and common oven
    # practice
    "primary": {
        "black": 0.50,
        "brown": 0.10,
        "blue": 0.12,
        "white": 0.12,
        "grey": 0.05,
        "red": 0.04,
        "yellow": 0.02,
    },
    "primary-half": {
        "black": 0.25,
        "brown": 0.12,
        "blue": 0.15,
        "white": 0.10,
        "grey": 0.10,
        "red": 0.10,
        "violet": 0.08,
    },
    "hv-secondary": {"red": 0.62, "orange": 0.12, "white": 0.06, "blue": 0.04, "black": 0.04},
    "filament": {
        "yellow": 0.25,
        "green": 0.22,
        "white": 0.15,
        "brown": 0.08,
        "black": 0.08,
        "grey": 0.06,
        "red": 0.05,
    },
    "lv-secondary": {
        "yellow": 0.13,
        "green": 0.13,
        "white": 0.12,
        "red": 0.14,
        "blue": 0.10,
        "brown": 0.10,
        "grey": 0.08,
        "orange": 0.08,
        "violet": 0.08,
    },
    "bias": {"blue": 0.40, "grey": 0.12, "brown": 0.10, "violet": 0.08},
    "choke": {"black": 0.35, "white": 0.20, "blue": 0.10, "brown": 0.10},
}


OTHER_COLOUR = 0.04


PLACE: dict[tuple[str, str], dict[str, float]] = {
    ("microwave", "primary"): {"lower coil": 0.75, "upper coil": 0.2, "inner coil": 0.03},
    ("microwave", "hv-secondary"): {"upper coil": 0.78, "lower coil": 0.15, "outer coil": 0.03},
    ("microwave", "filament"): {
        "between coils": 0.6,
        "upper coil": 0.25,
        "lower coil": 0.08,
        "outer coil": 0.04,
    },
    ("sign", "primary"): {"middle coil": 0.55, "inner coil": 0.25, "lower coil": 0.15},
    ("sign", "hv-secondary"): {"outer coils": 0.6, "upper coil": 0.2, "outer coil": 0.15},
    ("mains", "primary"): {
        "inner coil": 0.78,
        "lower coil": 0.08,
        "upper coil": 0.05,
        "outer coil": 0.06,
    },
    ("mains", "primary-half"): {"inner coil": 0.75, "lower coil": 0.1, "outer coil": 0.08},
    ("mains", "hv-secondary"): {
        "middle coil": 0.6,
        "outer coil": 0.2,
        "inner coil": 0.1,
        "lower coil": 0.05,
    },
    ("mains", "filament"): {"outer coil": 0.8, "middle coil": 0.08, "inner coil": 0.06},
    ("mains", "lv-secondary"): {
        "outer coil": 0.8,
        "upper coil": 0.07,
        "lower coil": 0.05,
        "inner coil": 0.05,
    },
    ("mains", "bias"): {"middle coil": 0.6, "outer coil": 0.3},
    ("choke", "choke"): {"coil": 0.9},
    ("variable", "primary"): {"ring": 0.8, "coil": 0.08},
}


OTHER_PLACE = 0.03


END: dict[tuple[str, str], dict[str, float]] = {
    ("microwave", "primary"): {"tab": 0.9, "flying": 0.07},
    ("microwave", "hv-secondary"): {"tab": 0.65, "flying": 0.28},
    ("microwave", "filament"): {"flying": 0.85, "tab": 0.1},
    ("sign", "primary"): {"flying": 0.4, "screw": 0.3, "tab": 0.2},
    ("sign", "hv-secondary"): {"bushing": 0.7, "flying": 0.2},
    ("mains", "any"): {"flying": 0.55, "tab": 0.18, "screw": 0.10, "lug": 0.06, "pin": 0.08},
    ("choke", "choke"): {"screw": 0.35, "tab": 0.35, "flying": 0.2},
    ("variable", "primary"): {"screw": 0.45, "tab": 0.35, "flying": 0.08},
}


OTHER_END = 0.03


SHAPE = {
    "microwave": {"shell": 0.97, "toroid": 0.003, "core": 0.02, "c-core": 0.007},
    "sign": {"core": 0.75, "shell": 0.22, "toroid": 0.005, "c-core": 0.025},
    "mains": {"shell": 0.76, "toroid": 0.16, "core": 0.04, "c-core": 0.04},
    "choke": {"shell": 0.85, "core": 0.08, "toroid": 0.05, "c-core": 0.02},
    "variable": {"toroid": 0.95, "shell": 0.03, "core": 0.01, "c-core": 0.01},
    "other": {"shell": 0.35, "core": 0.25, "toroid": 0.25, "c-core": 0.15},
}


SHUNTS = {
    "microwave": {"present": 0.75, "removed": 0.2, "absent": 0.05},
    "sign": {"present": 0.9, "absent": 0.07, "removed": 0.03},
    "mains": {"absent": 0.93, "present": 0.06, "removed": 0.01},
    "choke": {"absent": 0.92, "present": 0.07, "removed": 0.01},
    "variable": {"absent": 0.93, "present": 0.06, "removed": 0.01},
    "other": {"absent": 0.8, "present": 0.15, "removed": 0.05},
}


ASSEMBLY = {
    "microwave": {"welded": 0.92, "interleaved": 0.03, "banded": 0.03, "potted": 0.02},
    "sign": {"potted": 0.6, "interleaved": 0.25, "welded": 0.1, "banded": 0.05},
    "mains": {"interleaved": 0.68, "welded": 0.12, "banded": 0.14, "potted": 0.06},
    "choke": {"welded": 0.5, "banded": 0.25, "interleaved": 0.1, "potted": 0.15},
    "variable": {"banded": 0.85, "potted": 0.05, "interleaved": 0.05, "welded": 0.05},
    "other": {"banded": 0.3, "potted": 0.3, "interleaved": 0.2, "welded": 0.2},
}


CALLED = {"inverter": "microwave", "igniter": "sign", "resonant": "mains"}
"""What owners call kinds that are of no usual family."""
DECLARED_RIGHT = 0.88
"""How often an owner's belief about the family is right, where one is given. From memory."""


class Word(Struct, frozen=True, kw_only=True):
    """Words of a plate, a title or a part that speak for some kinds of piece."""

    pattern: str
    kinds: tuple[str, ...]

    def within(self, text: str) -> bool:
        """Whether a text says it."""
        return bool(text) and re.search(self.pattern, text, re.I) is not None


WORDS = (
    Word(pattern=r"constant[- ]voltage|ferro-?resonan|\bCVT\b", kinds=("resonant",)),
    Word(
        pattern=r"audio|output transformer|push-?pull|microphone|modulation|interstage"
        r"|\d+\s*[:/]\s*\d+\s*(?:ohm|Ω)|(?:70|100)\s*V[- ]line",
        kinds=("other",),
    ),
    Word(pattern=r"ferrite|SMPS|switch(?:ed|ing)?[- ]mode|litz|flyback", kinds=("other",)),
    Word(pattern=r"inverter", kinds=("inverter", "other")),
    Word(
        pattern=r"current transformer|\b\d+\s*[/:]\s*[15]\s*A\b|\bGFCI\b|ground[- ]fault",
        kinds=("other",),
    ),
    Word(pattern=r"\b400\s*Hz|three[- ]phase|3[- ]?phase|\b3\s*~", kinds=("other",)),
    Word(
        pattern=r"ignition coil|spark coil|induction coil|electronic (?:transformer|ballast)"
        r"|\bLED driver|\bkHz|distribution transformer"
        r"|(?:(?<!constant )voltage|potential) transformer",
        kinds=("other",),
    ),
    Word(pattern=r"\bweld", kinds=("lv", "choke", "oven", "other")),
    Word(pattern=r"contactor|solenoid|relay coil", kinds=("other",)),
    Word(pattern=r"insect|ignit|burner", kinds=("igniter",)),
    Word(pattern=r"\boven|microwave|magnetron", kinds=("oven", "inverter")),
    Word(pattern=r"\bneon|luminous|\bsign\b|cold[- ]cathode", kinds=("sign",)),
    Word(
        pattern=r"variable transformer|\bvariac|\b0\s*(?:-|–|to)\s*2\d\d\s*V", kinds=("variable",)
    ),
    Word(pattern=r"\bballast|\bchoke|\breactor|inductor", kinds=("choke",)),
    Word(pattern=r"valve|tube|\bHT\b", kinds=("valve",)),
    Word(
        pattern=r"\bCTE\b|site transformer|\bPELV|\bSELV|class 2\b|doorbell",
        kinds=("lv", "lv-uneven", "dual", "isolating", "step", "dual-step"),
    ),
)
"""A short list of what plates and donors say. Common practice."""
NAMED_NATS = {"resonant": 3.0}
"""Kinds whose plates nearly always say so, and which are hardly met otherwise: what it counts for
them. From memory."""
PLATE_NATS, TITLE_NATS = 4.0, 1.5
"""What a word on the plate counts for, and one in the title or on a part beside it: plates lie less
than memory. From memory."""


def word_clues(record: Transformer, kind: str) -> float:
    """Log-likelihood of what plate, title and parts say, were the piece of this kind. In nats.
    Common practice.

    >>> from greyfell.core.evidence.record import Nameplate, Transformer
    >>> plate = Nameplate(text="constant voltage transformer")
    >>> said = Transformer.model_construct(nameplate=plate, title="", parts=[])
    >>> word_clues(said, "resonant"), word_clues(said, "lv")
    (3.0, -4.0)
    """
    plate = record.nameplate.text if record.nameplate is not None else ""
    beside = " ".join([record.title, *(p.what for p in record.parts)])
    said = _said(plate, beside)
    total = -sum(nats for word, nats in said if kind not in word.kinds)
    named = any(kind in word.kinds for word, _ in said)
    return total + NAMED_NATS.get(kind, 0.0) if named else total


@lru_cache(maxsize=512)
def _said(plate: str, beside: str) -> tuple[tuple[Word, float], ...]:
    """The words that stand on the plate or beside it, and what each counts for."""
    found = []
    for word in WORDS:
        if word.within(plate):
            found.append((word, PLATE_NATS))
        elif word.within(beside):
            found.append((word, TITLE_NATS))
    return tuple(found)


class Plated(Struct, frozen=True, kw_only=True):
    """Output volts that plates of a kind state, and how often its middle is earthed."""

    low: float
    high: float
    midpoint: float = 0.02


PLATED: dict[str, Plated] = {
    "sign": Plated(low=1500.0, high=20e3, midpoint=0.85),
    "igniter": Plated(low=1500.0, high=20e3, midpoint=0.2),
    "oven": Plated(low=1500.0, high=3000.0),
    "inverter": Plated(low=1500.0, high=5000.0),
    "valve": Plated(low=100.0, high=1500.0, midpoint=0.1),
    "resonant": Plated(low=90.0, high=700.0),
    "isolating": Plated(low=90.0, high=280.0),
    "step": Plated(low=90.0, high=280.0, midpoint=0.1),
    "dual-step": Plated(low=90.0, high=280.0, midpoint=0.1),
    "variable": Plated(low=100.0, high=300.0),
}
"""Kinds whose plates state such volts; the others state up to a hundred. Common practice."""
LOW_PLATE = Plated(low=1.0, high=150.0, midpoint=0.1)
ODD_PLATE, BUSHINGS = 0.02, {"sign": 0.7, "igniter": 0.3}
"""How often a plate states volts that its kind does not have; how often the leads end in large
insulators, by kind, and else as seldom. Common practice."""


def insulator_clue(record: Transformer, kind: str) -> float:
    """Log-likelihood of large insulators on the leads, were the piece of this kind.

    For a piece of which no winding is known. In nats. Common practice.
    """
    if any(lead.end == "bushing" for lead in record.leads):
        return math.log(BUSHINGS.get(kind, ODD_PLATE))
    return 0.0


def plated_volts(record: Transformer, kind: str) -> float:
    """Log-likelihood of the most volts that the plate states, were the piece of this kind; nought
    where it states none. In nats. Common practice.
    """
    usual, plate = PLATED.get(kind, LOW_PLATE), record.nameplate
    if plate is None:
        return 0.0
    outputs = [o.volts for o in plate.outputs if o.volts]
    most = max([plate.secondary_volts or 0.0, *outputs])
    if not most or usual.low <= most <= usual.high:
        return 0.0
    return math.log(ODD_PLATE)


def family_clues(record: Transformer, family: Family, kind: str = "") -> dict[str, float]:
    """Log-likelihood of what can be seen of the whole piece under a family, by clue. In nats.
    Shares of the trade, common practice.

    >>> from greyfell.core.evidence.record import Core, Transformer
    >>> seen = Transformer.model_construct(core=Core(shunts="present"), declared_family=None)
    >>> round(family_clues(seen, "microwave")["core shunts"], 2)
    -0.17
    """
    out: dict[str, float] = {}
    core = record.core
    if core is not None:
        for name, table in (("shape", SHAPE), ("shunts", SHUNTS), ("assembly", ASSEMBLY)):
            seen = getattr(core, name)
            if seen is not None and seen != "unknown":
                out[f"core {name}"] = TEMPER * math.log(table[family].get(seen, 0.05))
    declared = record.declared_family
    if declared is not None:
        called = declared in (family, CALLED.get(kind))
        out["owner's belief"] = math.log(DECLARED_RIGHT if called else (1 - DECLARED_RIGHT) / 5)
    said = word_clues(record, kind)
    if said:
        out["words of plate or title"] = said
    stated = plated_volts(record, kind)
    if stated:
        out["volts on the plate"] = stated
    plate = record.nameplate
    if plate is not None and plate.midpoint_earthed is not None:
        share = PLATED.get(kind, LOW_PLATE).midpoint
        out["earthed middle"] = math.log(share if plate.midpoint_earthed else 1 - share)
    return out


def winding_clues(leads: Iterable[Lead], family: Family, role: str) -> float:
    """Log-likelihood of what can be seen of one winding's leads, were it of this role in this
    family. In nats. Shares of the trade, common practice.

    >>> from greyfell.core.evidence.record import Lead
    >>> red = [Lead(id="C", colour="red")]
    >>> winding_clues(red, "microwave", "hv-secondary") > winding_clues(red, "microwave", "primary")
    True
    """
    total = 0.0
    found = [lead for lead in leads if lead.colour or lead.place or lead.end]
    if not found:
        return total
    colours = [_base(lead.colour) for lead in found if lead.colour]
    if colours:
        table = COLOUR.get(role, {})
        weights = [math.log(table.get(c, OTHER_COLOUR) + 0.01) for c in colours]
        total += TEMPER * sum(weights) / len(weights) * (1.0 + 0.25 * (len(weights) - 1))
    for attribute, tables, rest in (("place", PLACE, OTHER_PLACE), ("end", END, OTHER_END)):
        seen = [s for s in (getattr(lead, attribute) for lead in found) if s]
        if seen:
            table = tables.get((family, role)) or tables.get((family, "any")) or {}
            weights = [math.log(table.get(s, rest) if table else 0.15) for s in seen]
            total += TEMPER * sum(weights) / len(weights) * (1.0 + 0.25 * (len(weights) - 1))
    return total


KNOWN_COLOURS = frozenset(c for table in COLOUR.values() for c in table)


@lru_cache(maxsize=512)
def _base(colour: str) -> str:
    word = colour.lower().replace("-", " ").split()
    return next((w for w in word if w in KNOWN_COLOURS), word[0] if word else "")
