"""Whether high voltage is ruled out: one predicate, for strip, steps, meters and gate alike.

It is ruled out by readings of every lead, or by the removal of that very winding; by nothing else.
That none was found rules nothing out: a diode, a blown fuse or a fault hides it.
"""

import re
from collections.abc import Iterable
from typing import Any

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.present import points_of
from greyfell.core.evidence.record import Change, Transformer
from greyfell.core.evidence.times import after
from greyfell.core.families.registry import chance, family_of
from greyfell.core.figures.limits import HV_WINDING_VOLTS, NOT_EXCLUDED
from greyfell.core.figures.notation import percent
from greyfell.core.judgement.charge import told_otherwise

RULED_OUT = 0.01
"""Below this chance for every winding, and with every lead read, HV is ruled out. House rule: one
in a hundred of a wrong word beside kilovolts is too many."""
HV_OHMS = 40.0
"""A winding of an oven or sign part with so many ohms and more is its HV winding: primaries of the
common ones have a few. M-T4, common practice."""
NAMES_HV = re.compile(r"\bHV\b|high[- ]?voltage|kilovolt|\bkV\b|\bsecondary\b", re.I)
NAMES_HEATER = re.compile(r"heater|filament", re.I)
TAKEN_OUT = ("winding-removed", "rewound")
"""Changes by which a winding leaves the iron."""
WOUND_ANEW = ("rewound",)
"""Changes by which one comes on."""
WENT = re.compile(
    r"\b(?:removed?|(?<!brought )(?<!led )(?<!come )(?<!comes )out|off|"
    r"gone|cut|sawn|stripped|pulled|drilled|replac\w*|instead|in place of|"
    r"without|no more|no longer)\b",
    re.I,
)
"""Words by which a winding left."""


def may_be_high(winding: Winding) -> bool:
    """Whether a winding may yet put out high voltage: by its role, or by the top of its volts.

    A winding sure to take the mains has the mains' volts and no more.
    """
    volts = winding.volts
    return winding.hv_chance >= RULED_OUT or (volts is not None and volts.high > HV_WINDING_VOLTS)


SHARES = {"end": "All", "middle": "Half"}
EITHER = "Half or all"
"""What of a kilovolt winding stands to earth, by what of it is bonded to the core."""


def share_to_earth(belief: Belief) -> str:
    """What of the HV stands to earth, as a word: by the bonds that were read, either where one of
    them is not known.
    """
    told = {w.coil.bond for w in belief.windings if may_be_high(w)}
    return SHARES.get(next(iter(told)) or "", EITHER) if len(told) == 1 else EITHER


def is_high(winding: Winding) -> bool:
    """Whether a winding is likely high voltage: by its likeliest role or by its volts."""
    volts = winding.volts
    return winding.role == "hv-secondary" or (volts is not None and volts.value > HV_WINDING_VOLTS)


def high_ruled_out(belief: Belief) -> bool:
    """Whether HV is ruled out: every lead read, no winding that may be high, none that may hide."""
    read = bool(belief.windings) and not belief.topology.untested and not belief.hidden
    return read and not any(may_be_high(w) for w in belief.windings)


def hidden_high(kept: Transformer, belief: Belief) -> str:
    """Why an HV winding that belongs to a piece may be there though none was found; empty where
    none may. `kept` is the record with everything on it, the present one's windings are believed.
    """
    if not belief.windings or any(may_be_high(w) for w in belief.windings):
        return ""
    why = _belongs(kept, belief)
    if not why or _taken_out(kept, belief):
        return ""
    asked = "; which winding was taken out is not said" if _changes(kept) else ""
    return f"{why}{asked}"


def _belongs(kept: Transformer, belief: Belief) -> str:
    """Why the piece should have an HV winding; empty where it need not."""
    declared = kept.declared_family
    called = family_of(declared)
    if called is not None and called.high:
        return f"it is called {called.told}"
    likely = 0.0
    if belief.family != "unknown":
        likely = chance(belief.families, "high")
    if likely >= NOT_EXCLUDED:
        return f"it may be an oven's or a sign's ({percent(likely)})"
    if belief.topology.joints and not told_otherwise(kept):
        return "windings touch, and a touch hides what it is"
    return ""


def _taken_out(kept: Transformer, belief: Belief) -> bool:
    """Whether that very winding was taken out: its leads named, or its name noted; or every lead
    that is left was read since and belongs to a winding.
    """
    topology = belief.topology
    if topology.loose or topology.untested or any(w.coil.broken for w in belief.windings):
        return False  # it may end on what conducts to nothing
    return any(_names_high(c, kept) or _all_read_since(c, kept) for c in _changes(kept))


def _changes(kept: Transformer) -> list[Change]:
    return [c for c in kept.changes if c.what in TAKEN_OUT]


def _names_high(change: Change, kept: Transformer) -> bool:
    """Whether a change says that the HV winding went."""
    if _came(change):
        return False
    if NAMES_HV.search(change.note) and not NAMES_HEATER.search(change.note):
        return True
    named = set(change.leads or ())
    return any(_many_ohms(r) for r in kept.standing if named & points_of(r))


def _came(change: Change) -> bool:
    """Whether an HV winding is what was wound anew, by a note that names it and nothing gone."""
    named = NAMES_HV.search(change.note) is not None
    return named and change.what in WOUND_ANEW and WENT.search(change.note) is None


def _many_ohms(r: Any) -> bool:
    return bool(r.by_ohmmeter and not r.is_open and r.ohms >= HV_OHMS)


def _all_read_since(change: Change, kept: Transformer) -> bool:
    """Whether every lead that is left was read after a change that names no other winding."""
    if NAMES_HEATER.search(change.note) or _came(change):
        return False
    left = {lead.id for lead in kept.leads} - set(change.leads or ())
    since = (r for r in kept.standing if after(r.at, change.at))
    return bool(left) and left <= set(_points(since))


def _points(readings: Iterable[Any]) -> Iterable[str]:
    for r in readings:
        yield from points_of(r)
