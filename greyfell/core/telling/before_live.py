"""What is asked before a first live step, once of everybody: who else is there, who can switch off,
that somebody licensed may be asked, that it is nothing for children. Common practice; IEC 61010-1
and EN 50110-1 ask for a second person where work is live, from memory.
"""

import re
from collections.abc import Mapping

from msgspec import Struct

from greyfell.core.errors import FieldError

LONGEST = 200


class LiveAsked(Struct, frozen=True, kw_only=True):
    """One question: its key, its words, what is said when it was not answered; `typed` is one that
    wants words, any other a tick.
    """

    key: str
    words: str
    unanswered: str
    help: str = ""
    typed: bool = False


ASKED = (
    LiveAsked(
        key="near",
        words="Who else is here?",
        help="A name. Alone, nothing goes live.",
        unanswered="Say who else is here. Alone, nothing goes live.",
        typed=True,
    ),
    LiveAsked(
        key="switch",
        words="Who can switch off, and where?",
        help="As: Ada, the red switch at the door.",
        unanswered="Say who can switch off, and where the switch is.",
        typed=True,
    ),
    LiveAsked(
        key="licensed",
        words="Somebody licensed may be asked to look first, and I know whom I would ask.",
        unanswered="Think of somebody licensed whom you would ask: an electrician, a workshop.",
    ),
    LiveAsked(
        key="adults",
        words="This is nothing for children: none works at it, none is near.",
        unanswered="It waits while a child works at it or is near.",
    ),
)
"""The questions in their order; none is answered beforehand."""
NOBODY = re.compile(
    r"^\W*(?:nobody|no one|none|no|alone|(?:just|only) me|me|myself|n/?a|-+|\?+|"
    r"(?:the|my|a) (?:cat|dog))\W*$",
    re.I,
)
"""Words that say that nobody is there."""


def answered(given: Mapping[str, str]) -> dict[str, str]:
    """The answers as they are kept. Raises FieldError that names the first question that was not
    answered.

    >>> said = {"near": "Ada", "switch": "Ada, at the door", "licensed": "yes", "adults": "yes"}
    >>> answered(said)["near"]
    'Ada'
    """
    out = {}
    for asked in ASKED:
        text = " ".join(given.get(asked.key, "").split())[:LONGEST]
        if not text or (asked.typed and NOBODY.match(text)):
            raise FieldError(asked.key, asked.unanswered)
        out[asked.key] = text
    return out
