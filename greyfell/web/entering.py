"""A line as it comes from the jotter or the bench card: understood for its piece and the meter in
hand, and stored.
"""

from collections.abc import Mapping

from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import Hand, Jotted, read_line
from greyfell.core.evidence.record import Meter
from greyfell.core.never import wish
from greyfell.core.telling.false_tests import no_test
from greyfell.records.rows import Kept
from greyfell.web import meter_in_hand as dial
from greyfell.web.preferences import whose
from greyfell.web.stores import stores
from greyfell.web.support import key, repository

LONGEST_LINE, LONGEST_METER = 300, 64


def understood(piece: Kept, given: Mapping[str, str]) -> Jotted:
    """A line of the jotter, understood for this piece and how the meter in hand stands. Raises
    FieldError.
    """
    leads = [lead["id"] for lead in piece.document["leads"]]
    standing = [r["id"] for r in piece.document["readings"] if not r.get("struck")]
    standing_so = Hand(
        dial=dial.asked(given.get("dial", "")),
        zero=dial.zero(meter_of(given)),
        last=standing[-1] if standing else "",
    )
    line = given.get("line", "")[:LONGEST_LINE]
    try:
        return read_line(line, leads, piece.supply_volts, standing_so)
    except FieldError as error:
        told = error.sentence if wish(line) else no_test(line) or error.sentence
        raise FieldError(error.field, told) from None


def meter_of(given: Mapping[str, str]) -> str:
    """The meter that a line was read with."""
    return given.get("meter", "")[:LONGEST_METER]


def store(piece: Kept, jotted: Jotted, meter: str) -> Kept:
    """Keep what a line said; the piece as it stands then. Raises FieldError."""
    known = {"key": key(), "said": jotted.words}
    if jotted.zero is not None:
        dial.zeroed(meter, jotted.zero)
        return piece
    if jotted.strike is not None:
        return repository().strike(piece.tag, *jotted.strike, **known)
    reading = {**(jotted.reading or {}), "meter": meter or None, "by": whose() or None}
    of_stores = next((m for m in meters(piece) if m.id == meter), None)
    joins = None if of_stores is None else of_stores.model_dump(exclude_unset=True)
    return repository().append(piece.tag, [reading], **known, meter=joins)


def said_of(piece: Kept, jotted: Jotted) -> str:
    """What was stored, a reading with its number."""
    if jotted.reading is None:
        return jotted.words
    return f"{piece.document['readings'][-1]['id']}, {jotted.words}"


def meters(piece: Kept) -> list[Meter]:
    """The meters a reading may be taken with: those on record, and those of the stores."""
    here = {m.id for m in piece.record.meters}
    return [*piece.record.meters, *(m for m in stores().meters() if m.id not in here)]
