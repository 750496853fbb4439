"""The models of a piece's outputs."""

from greyfell.core.circuit.model import PieceModel, model_of
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.identification import Identification


def models(ident: Identification) -> list[PieceModel]:
    """The circuit of every output that something tells, the one of most volts first."""
    fed = fed_windings(ident)
    out = []
    for w in ident.windings:
        if w in fed or w.coil.broken:
            continue
        model = model_of(ident.record, ident.belief, w)
        if model is not None:
            out.append(model)
    return sorted(out, key=lambda m: -m.line.open_volts.value)
