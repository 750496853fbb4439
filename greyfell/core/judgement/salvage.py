"""Whether a piece is salvaged: its capacitor discharged and measured, or none there to discharge.

A statement counts for what it says: it must concern the capacitor and carry the volts read last, in
its own key or, where that is missing, in its words. One that denies itself is answered with what is
missing. What was said later takes back what was said before. IEEE Std 510-1983 for the order of the
work; the limit is the walked station's.
"""

import re

from msgspec import Struct

from greyfell.core.evidence.record import Statement
from greyfell.core.evidence.times import after, in_order
from greyfell.core.evidence.volts_said import says_none, unsure, volts_said
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import engineering

DONE, NONE_HERE, ELSEWHERE = "salvage-done", "no-capacitor", "done-elsewhere"
"""Kinds of statement that may be said of the capacitor."""
CAPACITOR = re.compile(r"capacitor|condenser|\bcaps?\b|electrolytic|reservoir|salvage|charge", re.I)
"""Words of what concerns the capacitor."""
COLD_TESTS = re.compile(
    r"insulation|isolation|barrier|\bcold\b|\bohms?\b|screen|tests?\b|tested|megger|everything|\ball\b",
    re.I,
)
"""Words of what concerns the cold tests."""


class Salvage(Struct, frozen=True, kw_only=True):
    """Whether salvage is on record, and what is missing where it is not."""

    done: bool
    missing: str = ""
    vouched: bool = False


NOT_SAID = "unplugged, any capacitor discharged, said so at its station"


def salvage_of(statements: list[Statement], *, none_allowed: bool) -> Salvage:
    """What the statements say of the capacitor; “none here” counts only where the family allows
    none.

    >>> said = Statement(id="s1", kind="salvage-done", concerns="capacitor", text="not discharged")
    >>> salvage_of([said], none_allowed=False).done
    False
    """
    said = [s for s in in_order(statements) if of_capacitor(s)]
    good = [s for s in said if not wanting(s, none_allowed=none_allowed)]
    bad = [s for s in said if s not in good]
    left = [s for s in bad if not any(after(x.at, s.at) for x in good)]
    if left:
        worst = left[-1]
        return Salvage(done=False, missing=wanting(worst, none_allowed=none_allowed))
    if not good:
        return Salvage(done=False, missing=NOT_SAID)
    return Salvage(done=True, vouched=good[-1].kind == ELSEWHERE)


def of_capacitor(said: Statement) -> bool:
    """Whether a statement is about the capacitor: by what it concerns; where that is empty, by its
    kind, or its words where it was done elsewhere.
    """
    if said.kind not in (DONE, NONE_HERE, ELSEWHERE):
        return False
    if said.concerns.strip():
        return CAPACITOR.search(said.concerns) is not None
    return said.kind != ELSEWHERE or CAPACITOR.search(said.text) is not None


def cold_tests_elsewhere(statements: list[Statement]) -> bool:
    """Whether somebody states that the cold tests were done elsewhere; what was said of the
    capacitor alone says nothing of them, nor does what denies itself.
    """
    said = [s for s in statements if s.kind == ELSEWHERE and not volts_said(s.text).denied]
    return any(COLD_TESTS.search(s.concerns.strip() or s.text) for s in said)


def wanting(said: Statement, *, none_allowed: bool) -> str:
    """What a statement about the capacitor lacks, as it is asked for; empty where it counts."""
    name = f"{said.id or 'a statement'} (“{said.text[:60]}”)"
    if said.kind == NONE_HERE or (said.volts is None and says_none(said.text)):
        if not none_allowed:
            return f"{name} says that there is none, and this piece may have one: find it"
        return f"{name} is not sure that there is none: look" if unsure(said.text) else ""
    told = volts_said(said.text)
    if told.denied:
        return f"{name} says that it was not done: discharge it, and give the volts read last"
    if said.volts is not None and told.stands is not None and told.stands > TOUCH_VOLTS:
        both = f"{_shown(said.volts)}, and in its words {_shown(told.stands)}"
        return f"{name} says {both}: say which was read last"
    volts = said.volts if said.volts is not None else told.volts
    if volts is None:
        return f"{name} does not say the volts read last: give them"
    if volts > TOUCH_VOLTS:
        most = f"at most {TOUCH_VOLTS:g} V may be left"
        return f"{name} says {_shown(volts)}: discharge it again, {most}"
    return ""


def _shown(volts: float) -> str:
    return engineering(volts, "V") if volts < 1e6 else f"more than {TOUCH_VOLTS:g} V"
