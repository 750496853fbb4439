"""What can be seen, weighed: colours, stripes, ends, places, twists, core, plate and the owner's
belief.

Each clue shifts the odds; none settles it (common practice; a colour code is never trusted alone).
Likelihoods below are how often a winding of that role shows the clue, tempered so that a wrong or
odd clue costs little.
"""

import math
from collections.abc import Iterable
from functools import lru_cache

from greyfell.core.evidence.record import Lead, Transformer
from greyfell.core.families.registry import family_of, kind_of, words
from greyfell.core.families.row import LOW_PLATE, ODD_PLATE, Plated, SaidWord

TEMPER = 0.6
"""Clues of one piece are not independent of each other: each counts for six tenths of its
logarithm. From memory."""


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


OTHER_PLACE = 0.03
OTHER_END = 0.03
DECLARED_RIGHT = 0.88
"""How often an owner's belief about the family is right, where one is given. From memory."""


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
    known = kind_of(kind)
    own = () if known is None else known.said_by
    total = -sum(nats for word, nats in said if word not in own)
    named = known is not None and any(word in own for word, _ in said)
    return total + known.named_nats if known is not None and named else total


def _said(plate: str, beside: str) -> tuple[tuple[SaidWord, float], ...]:
    """The words that stand on the plate or beside it, and what each counts for."""
    return _said_of(words(), plate, beside)


@lru_cache(maxsize=512)
def _said_of(
    known: tuple[SaidWord, ...], plate: str, beside: str
) -> tuple[tuple[SaidWord, float], ...]:
    """The same of so many words."""
    found = []
    for word in known:
        if word.within(plate):
            found.append((word, PLATE_NATS))
        elif word.within(beside):
            found.append((word, TITLE_NATS))
    return tuple(found)


def insulator_clue(record: Transformer, kind: str) -> float:
    """Log-likelihood of large insulators on the leads, were the piece of this kind.

    For a piece of which no winding is known. In nats. Common practice.
    """
    known = kind_of(kind)
    if any(lead.end == "bushing" for lead in record.leads):
        return math.log(ODD_PLATE if known is None else known.bushings)
    return 0.0


def _plated(kind: str) -> Plated:
    """What plates of a kind state."""
    known = kind_of(kind)
    return LOW_PLATE if known is None else known.plated


def plated_volts(record: Transformer, kind: str) -> float:
    """Log-likelihood of the most volts that the plate states, were the piece of this kind; nought
    where it states none. In nats. Common practice.
    """
    usual, plate = _plated(kind), record.nameplate
    if plate is None:
        return 0.0
    outputs = [o.volts for o in plate.outputs if o.volts]
    most = max([plate.secondary_volts or 0.0, *outputs])
    if not most or usual.low <= most <= usual.high:
        return 0.0
    return math.log(ODD_PLATE)


def _core_clues(record: Transformer, family: str) -> dict[str, float]:
    out: dict[str, float] = {}
    core, row = record.core, family_of(family)
    if core is not None and row is not None:
        for name in ("shape", "shunts", "assembly"):
            seen, table = getattr(core, name), getattr(row.look, name)
            if seen is not None and seen != "unknown":
                out[f"core {name}"] = TEMPER * math.log(table.get(seen, 0.05))
    return out


def family_clues(record: Transformer, family: str, kind: str = "") -> dict[str, float]:
    """Log-likelihood of what can be seen of the whole piece under a family, by clue. In nats.
    Shares of the trade, common practice.

    >>> from greyfell.core.evidence.record import Core, Transformer
    >>> seen = Transformer.model_construct(core=Core(shunts="present"), declared_family=None)
    >>> round(family_clues(seen, "mains")["core shunts"], 2)
    -1.69
    """
    known = kind_of(kind)
    out = _core_clues(record, family)
    declared = record.declared_family
    if declared is not None:
        called = declared in (family, known.called if known is not None else "")
        out["owner's belief"] = math.log(DECLARED_RIGHT if called else (1 - DECLARED_RIGHT) / 5)
    said = word_clues(record, kind)
    if said:
        out["words of plate or title"] = said
    stated = plated_volts(record, kind)
    if stated:
        out["volts on the plate"] = stated
    plate = record.nameplate
    if plate is not None and plate.midpoint_earthed is not None:
        share = _plated(kind).midpoint
        out["earthed middle"] = math.log(share if plate.midpoint_earthed else 1 - share)
    return out


def winding_clues(leads: Iterable[Lead], family: str, role: str) -> float:
    """Log-likelihood of what can be seen of one winding's leads, were it of this role in this
    family. In nats. Shares of the trade, common practice.

    >>> from greyfell.core.evidence.record import Lead
    >>> red = [Lead(id="C", colour="red")]
    >>> winding_clues(red, "mains", "hv-secondary") > winding_clues(red, "mains", "primary")
    True
    """
    total = 0.0
    found = [lead for lead in leads if lead.colour or lead.place or lead.end]
    if not found:
        return total
    colours = [_base(lead.colour) for lead in found if lead.colour]
    if colours:
        table = COLOUR.get(role, {})
        total += _several([math.log(table.get(c, OTHER_COLOUR) + 0.01) for c in colours])
    row = family_of(family)
    for attribute, rest in (("place", OTHER_PLACE), ("end", OTHER_END)):
        seen = [s for s in (getattr(lead, attribute) for lead in found) if s]
        if seen:
            tables = {} if row is None else getattr(row.look, attribute)
            table = tables.get(role) or tables.get("any") or {}
            total += _several([math.log(table.get(s, rest) if table else 0.15) for s in seen])
    return total


def _several(weights: list[float]) -> float:
    # leads of one winding look alike: each more than the first counts a quarter
    return TEMPER * sum(weights) / len(weights) * (1.0 + 0.25 * (len(weights) - 1))


KNOWN_COLOURS = frozenset(c for table in COLOUR.values() for c in table)


@lru_cache(maxsize=512)
def _base(colour: str) -> str:
    word = colour.lower().replace("-", " ").split()
    return next((w for w in word if w in KNOWN_COLOURS), word[0] if word else "")
