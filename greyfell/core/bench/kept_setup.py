"""The set-up that a record keeps, and what is wrong in it."""

from typing import Any

from msgspec import Struct

from greyfell.core.bench.demand import Wrong
from greyfell.core.bench.demands import said, wrongs
from greyfell.core.bench.piece_on_bench import needs_of
from greyfell.core.bench.setup import Setup, parse_setup
from greyfell.core.errors import FieldError
from greyfell.core.judgement.identification import Identification


class KeptSetup(Struct, frozen=True):
    """A set-up as it stands on record, everything wrong in it, and what stands live on it."""

    setup: Setup | None
    wrongs: tuple[Wrong, ...]
    said: tuple[Wrong, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        told = {"sound": not self.wrongs, "wrong": [w.as_json() for w in self.wrongs]}
        return told | {"live": [w.as_json() for w in self.said]}


def standing_setup(ident: Identification) -> KeptSetup | None:
    """The set-up of a piece with what is wrong in it; None where none is kept. What cannot be read
    is told as wrong.
    """
    document = ident.record.setup
    if document is None:
        return None
    try:
        setup = parse_setup(document, [x.id for x in ident.record.leads])
    except FieldError as error:
        return KeptSetup(None, (Wrong(code="unreadable", sentence=error.sentence, at=""),))
    needs = needs_of(ident)
    return KeptSetup(setup, tuple(wrongs(setup, needs)), tuple(said(setup, needs)))
