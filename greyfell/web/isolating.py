"""An isolated bench: what it is for, what answers that better; earth, float and neutral as three
drawings; the state sheet, printed, typed back, each figure compared.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from flask import request

from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import bars_of
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.figures.quantity import Quantity
from greyfell.core.isolation.purpose import PURPOSES, TIES, Purpose, purpose_of
from greyfell.core.isolation.states import OutputState, StateCompared, compared
from greyfell.core.judgement.identification import Identification
from greyfell.core.planner_kit.declare import Planned
from greyfell.core.planners.touch_map import Given, work
from greyfell.core.telling.cabling import SOCKET_AMPS, Laid, shared
from greyfell.core.telling.isolating import states_of
from greyfell.core.telling.outlet_wiring import Position, Wiring, wiring
from greyfell.web.drawings.joined import joined_drawing
from greyfell.web.drawings.plans.joining import touch
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page
from greyfell.web.stores import stores
from greyfell.web.support import before, kept, key, repository, stored

KEPT = "state-sheet"
"""Kind of the statement that keeps a sheet as it was read."""


def show(tag: str) -> Any:
    """The page; with a purpose its answer."""
    return _page(tag, [], None)


def read(tag: str) -> Any:
    """A sheet typed back: compared, and kept with the piece."""
    piece = kept(tag)
    states = states_of(piece.ident)
    try:
        found = compared(states, _typed(states))
        if not found:
            raise FieldError("volts", "Type what was read; nothing was.")
        wrong = [c for c in found if not c.holds]
        text = "; ".join(f"{c.state} {c.pair[0]}-{c.pair[1]} {c.read:g} V" for c in found)
        if before() is None:
            concerns = "wrong" if wrong else "as expected"
            repository().append_statement(
                tag, {"kind": KEPT, "concerns": concerns, "text": text}, key()
            )
    except FieldError as error:
        return _page(tag, [], error), 422
    stored()
    return _page(tag, found, None)


def _typed(states: list[OutputState]) -> dict[tuple[str, str, str], float]:
    """Volts of the form, by position and pair."""
    out = {}
    for state in states:
        for one, two in state.volts:
            text = request.form.get(f"v.{state.name}.{one}-{two}", "").strip()
            if text:
                out[state.name, one, two] = parse_quantity(text, "volt", field="volts")
    return out


class IsolatingPage(Page, frozen=True, kw_only=True):
    """An output joined for a purpose: its states, its wiring, what each must read."""

    template = "isolating.html"
    record: Transformer
    purposes: tuple[Purpose, ...]
    purpose: Purpose | None
    ties: dict[str, str]
    drawings: list[tuple[str, str, Drawing]]
    states: list[OutputState]
    pairs: list[tuple[str, ...]]
    wiring: Wiring
    wired: list[tuple[Position, Drawing]]
    found: dict[tuple[str, ...], StateCompared]
    typed: Mapping[str, str]
    error: FieldError | None
    barred: str
    laid: list[Laid]


def _ties(states: Sequence[OutputState]) -> list[tuple[str, str, Drawing]]:
    volts = next((s.volts["L", "N"] for s in states if s.volts["L", "N"]), None)
    return [] if volts is None else [(t, w, _tied(volts, t)) for t, w in TIES.items()]


def _page(tag: str, found: list[StateCompared], error: FieldError | None) -> Any:
    piece = kept(tag)
    states = states_of(piece.ident)
    plan = wiring(piece.ident)
    return IsolatingPage(
        record=piece.record,
        purposes=PURPOSES,
        purpose=purpose_of(request.args.get("purpose", "")),
        ties=TIES,
        drawings=_ties(states),
        states=states,
        pairs=list(states[0].volts) if states else [],
        wiring=plan,
        wired=[(p, joined_drawing(plan, p)) for p in plan.positions],
        found={(c.state, *c.pair): c for c in found},
        typed=request.form,
        error=error,
        barred=_barred(piece.ident),
        laid=shared(plan, stores().of(["wire"]), _socket(piece.ident)),
    ).render()


def _socket(ident: Identification) -> float:
    """Amps of the breaker ahead, where the record says them."""
    return ident.record.supply.breaker_amps or SOCKET_AMPS


def _tied(volts: float, tie: str) -> Drawing:
    """Who touches what with the pin tied so."""
    given = Given(output_volts=Quantity(volts, volts, volts), case=tie)
    return touch(Planned(given=given, found=work(given), said=(), put=""), None)


def _barred(ident: Identification) -> str:
    """Why this piece is never an isolated bench."""
    return bars_of(ident.family).bench
