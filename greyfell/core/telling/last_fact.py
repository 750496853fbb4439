"""How the last fact seen moved the odds of the families: the belief without it beside the belief
with it.
"""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify

SHOWN = 0.02
"""A family that had and has less than this is not drawn. House rule."""


class Moved(Struct, frozen=True):
    """One family's chance before and after."""

    family: str
    before: float
    after: float


def moved(document: Mapping[str, Any]) -> list[Moved]:
    """Every family that counts, with its chance before the last correction and now, the likeliest
    first; nothing where nothing was corrected, or the record before cannot be read.
    """
    edits = document.get("edits") or []
    if not edits:
        return []
    last = [e for e in edits if e.get("at") == edits[-1].get("at")]
    earlier = {**document}
    for edit in reversed(last):
        if edit.get("from") is None:
            earlier.pop(edit["path"], None)
        else:
            earlier[edit["path"]] = edit["from"]
    try:
        before = identify(parse_record(earlier)).families
        after = identify(parse_record(dict(document))).families
    except FieldError:
        return []
    told = [Moved(f, before.get(f, 0.0), p) for f, p in after.items()]
    counted = [m for m in told if max(m.before, m.after) >= SHOWN]
    return sorted(counted, key=lambda m: -m.after)
