"""The winding as it was made, told once: a change to the iron, by which what it may have touched is
asked again; what was made so far.
"""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError, within
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import parse_quantity

CHANGES = {
    "winding-removed": "a coil is out",
    "shunts-removed": "the shunts are out",
    "core-split": "the core is split",
    "core-rejoined": "the core is closed again",
    "primary-turns-added": "turns are added to the primary",
    "rewound": "a new winding is on",
}
"""Changes to the iron that may be told here, each in words."""
FIGURES = {
    "turns": ("turns through both windows", "number", 1.0, 1e5),
    "mm2": ("conductor, mm²", "square millimetre", 1e-3, 2000.0),
    "metres": ("metres of conductor", "number", 1e-2, 1e5),
    "line_volts": ("line volts of that minute", "volt", 1.0, 1000.0),
}
"""Figures of a winding as it was made: words, unit, bounds."""
MOST_WORDS = 200


class Made(Struct, frozen=True, kw_only=True):
    """One change as it stands on record."""

    what: str
    words: str
    at: str
    figures: Mapping[str, Any]


def _figures(form: Mapping[str, str]) -> dict[str, float]:
    out = {}
    for key, (words, unit, least, most) in FIGURES.items():
        text = form.get(key, "").strip()
        if text:
            value = parse_quantity(text, unit, field=words)
            out[key] = within(key, value, at_least=least, at_most=most)
    return out


def as_change(form: Mapping[str, str]) -> dict[str, Any]:
    """A change from a form. Raises FieldError that names the field: unknown change, a coil that
    was taken out without its leads, a new winding without turns.
    """
    what = form.get("what", "")
    if what not in CHANGES:
        raise FieldError("what", f"What changed is one of: {', '.join(CHANGES.values())}.")
    out: dict[str, Any] = {"what": what, "note": form.get("note", "").strip()[:MOST_WORDS]}
    leads = [x.strip() for x in form.get("leads", "").replace(",", " ").split() if x.strip()]
    if what == "winding-removed" and not leads:
        raise FieldError("leads", "Name the leads of the coil that is out, such as “C D”.")
    if leads:
        out["leads"] = leads
    out |= _figures(form)
    for key in ("conductor", "insulation"):
        if form.get(key, "").strip():
            out[key] = form[key].strip()[:MOST_WORDS]
    if what == "rewound" and "turns" not in out:
        raise FieldError("turns", "A new winding has its turns, counted through both windows.")
    return out


def made_of(record: Transformer) -> list[Made]:
    """Every change that was told, the last first."""
    out = [
        Made(
            what=c.what,
            words=CHANGES.get(c.what, c.what),
            at=c.at or "",
            figures=dict(c.model_extra or {}),
        )
        for c in record.changes
    ]
    return out[::-1]


def more_turns(wanted_volts: float, read_volts: float, wound: int) -> tuple[int, float]:
    """Wind and read: so many more turns to the volts wanted, and the volts per turn that were read.
    V. Raises FieldError where nothing was read. REF-M-02.

    >>> more_turns(5.0, 2.55, 3)
    (3, 0.85)
    """
    within("read_volts", read_volts, above=0, unit="V")
    within("wound", wound, at_least=1, unit="turns")
    each = read_volts / wound
    return max(0, round(wanted_volts / each) - wound), each
