"""Whether a winding that a piece has already is what a use asks for."""

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.outputs import models
from greyfell.core.uses.needs import BASIC, FOR_GOOD, Use


class AsItIs(Struct, frozen=True, kw_only=True):
    """A winding that does: its name, volts open and loaded, amps it bears, in a sentence; what must
    still be shown.
    """

    winding: str
    open_volts: Quantity
    loaded_volts: Quantity
    words: str
    yet: str


def as_it_is(ident: Identification, use: Use) -> AsItIs | None:
    """The winding of a sound piece that gives a use its volts, loaded and open, and bears its amps
    as long; None where none does, and where high voltage is not ruled out of the piece: fed, that
    stands beside the hand whatever this winding gives. Volts by its model, amps by its ratings.
    """
    if use.refused or ident.stopped or use.most_watts or not high_ruled_out(ident.belief):
        return None
    for model in models(ident):
        w = model.winding
        opened, loaded = model.line.open_volts, model.line.volts(use.load_ohms.value)
        low, high = use.open_volts
        if not (low <= opened.value <= high and loaded.value >= use.loaded_volts):
            continue
        if _bears(ident, w, use):
            return AsItIs(
                winding=w.name,
                open_volts=opened,
                loaded_volts=loaded,
                words=f"{w.name}: {engineering(opened.value, 'V')} open, "
                f"{engineering(loaded.value, 'V')} under load",
                yet="" if use.barrier == BASIC else "two barriers, proved at 500 V with 7 MΩ",
            )
    return None


def _bears(ident: Identification, w: Winding, use: Use) -> bool:
    """Whether a winding bears the amps for as long as is asked, by the least of its range's middle
    and foot: what may be too little is too little.
    """
    rating = ident.belief.ratings.get(w.id)
    if rating is None:
        return False
    amps = use.amps * use.duty**0.5
    held = rating.continuous if use.on_seconds >= FOR_GOOD else rating.minute
    return bool(amps <= (held.value + held.low) / 2)
