"""Whether a winding that a piece has already is what a use asks for."""

from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.isolating import autotransformer, like_mains, safety_marked
from greyfell.core.judgement.outputs import models
from greyfell.core.uses.catalogue import BASIC, FOR_GOOD, Use

BARRIERS = ("insulation-low", "leakage-current")
"""Faults of what keeps the mains from an output."""


class AsItIs(Struct, frozen=True, kw_only=True):
    """A winding that does: its name, volts open and loaded, amps it bears, in a sentence; what must
    still be shown; what on record speaks against it meanwhile.
    """

    winding: str
    open_volts: Quantity
    loaded_volts: Quantity
    words: str
    yet: str
    against: tuple[str, ...] = ()

    @property
    def does(self) -> bool:
        """Whether nothing speaks against it: only then it does as it is."""
        return not self.against


def as_it_is(ident: Identification, use: Use) -> AsItIs | None:
    """The winding of a sound piece that gives a use its volts, loaded and open, and bears its amps
    as long; None where none does, and where high voltage is not ruled out of the piece: fed, that
    stands beside the hand whatever this winding gives. Gate, cautions, barrier and leakage may
    speak against it. Volts by its model, amps by its ratings.
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
                against=tuple(_against(ident, w, use)),
            )
    return None


def _against(ident: Identification, w: Winding, use: Use) -> Iterable[str]:
    """What speaks against using a winding as it is, the gravest first."""
    why = autotransformer(ident.record, ident.belief)
    if why:
        yield f"no isolation: {why}"
    marked = safety_marked(ident.record)
    if use.barrier != BASIC and w in like_mains(ident.record, ident.belief) and not marked:
        yield "no mark of a safety isolating transformer: it isolates nobody from the mains"
    for fault in ident.faults:
        weak = fault.code in BARRIERS and (fault.severity != "note" or use.barrier != BASIC)
        if weak or fault.severity == "caution":
            yield f"{fault.words} ({fault.ends})"
    yield from live_gate(ident).reasons[:1]


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
