"""What a sentence says of the volts that were read last at a capacitor.

A figure counts only as measured: not a rating, a range, a hope or another thing's volts. A sentence
that denies itself ("did not discharge it, 0.2 V on the battery") says nothing. What cannot be read
is asked for; nothing is guessed. The words are common practice of what people write.
"""

import math
import re
from collections.abc import Iterator

from msgspec import Struct

VOLTS = re.compile(
    r"(?<![\w.,/])(?:(?P<words>zero|nought|nil)|(?P<figure>\d{1,3}(?:[ ,]\d{3})+|\d+(?:[.,]\d+)?))"
    r"\s*(?P<prefix>[kmµu]?)(?:volts?|v)\b(?P<kind>\s*(?:ac\b|a\.c\.|~))?",
    re.I,
)
"""A figure of volts, with thousands in groups or a decimal point or comma."""
PREFIX = {"k": 1e3, "m": 1e-3, "µ": 1e-6, "u": 1e-6, "": 1.0}
CLAUSE = re.compile(r"[;:!\n()]|,\s|\.\s|\.$|\b(?:then|but|and|afterwards)\b|(?=\bnow\b)", re.I)
"""What ends a clause; a point or comma inside a figure does not."""
MEASURED = re.compile(
    r"\b(?:measured|metered|read|reads|reading|show(?:s|ed|ing)?|saw|left|remain\w*|down to|"
    r"fell to|dropped to|found|came back|across)\b",
    re.I,
)
RATED = re.compile(
    r"\b(?:rat(?:ed|ing)|label\w*|marked|marking|stamped|plate|printed|made for|good for|type|"
    r"range|scale|setting|max(?:imum)?)\b|[µu]F\b|\bMFD\b",
    re.I,
)
"""Words of a figure that is on the can or on the meter, and was not read."""
THE_CAN = re.compile(r"\b(?:capacitors?|condensers?|caps?|can)\b", re.I)
"""What a figure before it rates."""
ELSEWHERE = re.compile(
    r"\b(?:battery|cell|mains|supply|wall|socket|outlet|source|lamp|bulb|fuse|heater|line|cat)\b",
    re.I,
)
"""Words of a figure that belongs to another thing."""
SUPPOSED = re.compile(
    r"\b(?:should|would|will|must be|ought|supposed\w*|expect\w*|hop(?:e|ed|ing|efully)|think|"
    r"thought|guess\w*|probably|presumably|maybe|perhaps|assum\w*|believe|if|aim|target|limit|"
    r"allowed|want\w*|apparently|supposedly|reportedly|allegedly|seems?)\b|\?",
    re.I,
)
"""Words of what is hoped for, asked or heard."""
ABOVE = re.compile(
    r"(?<!never )(?<!not )\b(?:over|above|more than|at least|beyond|exceed\w*|past)\s*$|>\s*$", re.I
)
"""Words of a figure that was exceeded."""
BEFORE = re.compile(r"\b(?:was|were|had|before|earlier|initially|from|at first|started)\b", re.I)
"""Words of a figure that stood there earlier."""
STANDS = re.compile(r"\b(?:still|again|now|left|remain\w*|stands?|shows?|reads?)\b", re.I)
"""Words of a figure that stands there yet."""
ACT = (
    r"discharg(?:e|ed|ing)|measur\w*|meter(?:ed)?|short(?:ed|ing)?|check\w*|done|empt\w*|"
    r"drain\w*|test\w*|verif\w*|reach\w*|bother\w*|dar(?:e|ed)|manag\w*|look(?:ed)?|safe|find|"
    r"bl(?:eed|ed)|clip(?:ped)?|get|do it"
)
DENIED = re.compile(
    r"\b(?:"
    rf"(?:not|never|n't|nobody|no one|hardly|barely)\s+(?:\w+\s+){{0,2}}?(?:{ACT})"
    r"|not\s+(?:yet|sure|certain)"
    r"|un(?:discharged|measured|metered|tested|checked|sure)"
    r"|without\s+(?:\w+\s+)?(?:discharging|measuring|shorting|checking|a meter|meter)"
    r"|(?:still|again|is|remains?|stays?)\s+(?:fully\s+|partly\s+)?(?:charged|live|full|hot)"
    r"|charged\s+(?:up\s+)?again"
    r"|(?:can|could|did|do|does|was|were|is|has|have|had|wo|would|should)n['’]?t\s+(?:\w+\s+){0,2}?"
    rf"(?:{ACT})"
    r"|can(?:not|['’]t)|cannot"
    r"|skipp?\w*|forgot\w*|omitted|postponed|tomorrow|to-?do\b|next (?:time|week)|no (?:idea|time)"
    r"|refus\w*|gave up|fed up"
    r"|(?:seller|neighbour|neighbor|friend|he|she|they|someone|somebody)\s+(?:said|says|told|claims?)"
    r")\b",
    re.I,
)
"""Words by which a sentence denies that it was done."""
UNLOOKED = re.compile(
    r"\b(?:not|never|n['’]t|without)\s+(?:\w+\s+)?look\w*|\bun(?:sure|known)\b|\bnot sure\b|"
    r"\bno idea\b|\bstill (?:in|on|there|connected)\b",
    re.I,
)
"""Words of who did not look, or knows of one."""
NONE_HERE = re.compile(
    r"\b(?:no|without an?y?|never had an?y?|has no|there is no|there are no|none)\b"
    r"(?:\s+\w+){0,2}?\s*\b(?:capacitors?|condensers?|caps?|here|in it|on it)\b|"
    r"\bnothing to discharge\b|\bnone (?:here|found|at all)\b",
    re.I,
)
"""Words that say there is no capacitor."""


class VoltsSaid(Struct, frozen=True, kw_only=True):
    """What a sentence says: the volts read last, where it says any; whether it denies itself; the
    volts that it says stand there yet.
    """

    volts: float | None
    denied: bool
    stands: float | None = None


def volts_said(text: str) -> VoltsSaid:
    """The volts that a sentence tells as measured last.

    >>> volts_said("rated 2100 V, now 3 V").volts
    3.0
    >>> volts_said("did not discharge it, no resistor at hand")
    VoltsSaid(volts=None, denied=True, stands=None)
    >>> volts_said("not charged any more: 0.0 V twice, short on")
    VoltsSaid(volts=0.0, denied=False, stands=None)
    >>> volts_said("it still shows 900 V").stands
    900.0
    """
    told = list(_told(text))
    now = [figure.volts for figure in told if not figure.earlier] or [f.volts for f in told]
    return VoltsSaid(
        volts=now[-1] if now else None,
        denied=DENIED.search(text) is not None,
        stands=now[-1] if told and told[-1].stands else None,
    )


def says_none(text: str) -> bool:
    """Whether a sentence says that there is no capacitor, and does not take it back.

    >>> says_none("plain mains part, nothing to discharge"), says_none("no idea")
    (True, False)
    """
    return NONE_HERE.search(text) is not None and not unsure(text)


def unsure(text: str) -> bool:
    """Whether a sentence only supposes what it says.

    >>> unsure("I think there is none"), unsure("looked: none")
    (True, False)
    """
    return SUPPOSED.search(text) is not None or UNLOOKED.search(text) is not None


class _Figure(Struct, frozen=True):
    """Volts told as measured: whether they stood there earlier, whether they stand there yet."""

    volts: float
    earlier: bool
    stands: bool


def _told(text: str) -> Iterator[_Figure]:
    """Every figure told as measured, in the order of the text."""
    for clause in _clauses(text):
        end = 0
        found = list(VOLTS.finditer(clause))
        for n, match in enumerate(found):
            ahead = clause[end : match.start()]
            behind = clause[match.end() : found[n + 1].start() if n + 1 < len(found) else None]
            end = match.end()
            if SUPPOSED.search(clause) or _another(ahead, behind, match):
                continue
            volts = math.inf if ABOVE.search(ahead) else _volts(match)
            earlier = BEFORE.search(ahead) is not None
            yield _Figure(volts, earlier, not earlier and STANDS.search(clause) is not None)


def _clauses(text: str) -> list[str]:
    return [part for part in CLAUSE.split(text) if part and part.strip()]


def _another(ahead: str, behind: str, match: re.Match[str]) -> bool:
    """Whether a figure is a rating, a range, or another thing's: by the words beside it."""
    near = " ".join(behind.split()[:3])
    if ELSEWHERE.search(ahead) or ELSEWHERE.search(near):
        return True
    if MEASURED.search(ahead):
        return False
    rated = RATED.search(ahead) or RATED.search(near) or THE_CAN.search(near)
    return bool(match["kind"] or rated)


def _volts(match: re.Match[str]) -> float:
    """The figure in volts; a comma before three figures stands for thousands, the worse reading."""
    if match["words"]:
        return 0.0
    figure = match["figure"].replace(" ", "")
    if re.fullmatch(r"[1-9]\d{0,2}(?:,\d{3})+", figure):
        figure = figure.replace(",", "")
    return float(figure.replace(",", ".")) * PREFIX[match["prefix"].lower()]
