"""The set-up that a record keeps, and what is wrong in it."""

from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.judgement.identification import Identification
from greyfell.core.rig.bench import Wrong
from greyfell.core.rig.demands import wrongs
from greyfell.core.rig.needs import needs_of
from greyfell.core.rig.setup import Setup, parse_setup


class Standing(Struct, frozen=True):
    """A set-up as it stands on record, and everything wrong in it."""

    setup: Setup | None
    wrongs: tuple[Wrong, ...]

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"sound": not self.wrongs, "wrong": [w.as_json() for w in self.wrongs]}


def standing_setup(ident: Identification) -> Standing | None:
    """The set-up of a piece with what is wrong in it; None where none is kept. What cannot be read
    is told as wrong.
    """
    document = ident.record.setup
    if document is None:
        return None
    try:
        setup = parse_setup(document, [x.id for x in ident.record.leads])
    except FieldError as error:
        return Standing(None, (Wrong(code="unreadable", sentence=error.sentence, at=""),))
    return Standing(setup, tuple(wrongs(setup, needs_of(ident))))
