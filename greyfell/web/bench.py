"""The bench card: one step, one picture, one number pad; readable from afar, used with gloves.
Where it is killed it comes back on the same step: the step follows from the record.
"""

from typing import Any

from flask import redirect, request, session, url_for

from greyfell import clock
from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.reading import Pad
from greyfell.core.evidence.record import Meter, Transformer
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.methods import KINDS, Means, means, with_what_there_is
from greyfell.core.steps.number_pad import line_of, pad_of
from greyfell.core.steps.salvage import Walk, walk
from greyfell.core.steps.step import Step
from greyfell.records.repository import Twice
from greyfell.records.rows import Kept
from greyfell.web import meter_in_hand as dial
from greyfell.web.before_live import BeforeLiveShown, asked_shown, due
from greyfell.web.drawings.hookup import hookup
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.entering import LONGEST_LINE, meter_of, meters, said_of, store, understood
from greyfell.web.moved import what_changed
from greyfell.web.showing import Page, Shown
from greyfell.web.stores import stores
from greyfell.web.support import before, kept, key, repository, stored

STOPPED, WENT_ON = "stopped", "went-on"
"""Kinds of statement: the bench was left, and taken up again."""
LONGEST_FIGURE = 24


def show(tag: str) -> Any:
    """The next step as a card."""
    return _page(kept(tag), None)


def enter(tag: str) -> Any:
    """What the card was told: a figure, a word, the dial, stop, or that it goes on."""
    piece, form = kept(tag), request.form
    try:
        if "stop" in form or "on" in form:
            _stop(tag, STOPPED if "stop" in form else WENT_ON)
        elif "turn" in form:
            dial.set_to(meter_of(form), dial.asked(form["turn"]))
        elif before() is None:
            _read(piece, form)
    except Twice:
        pass
    except FieldError as error:
        return _page(piece, error)
    stored()
    return redirect(url_for(".show", tag=tag))


def _read(piece: Kept, form: Any) -> None:
    """Store a figure or a word as the line that the step begins. Raises FieldError."""
    step = _step(piece)
    figure, suffix = form.get("figure", "")[:LONGEST_FIGURE], form.get("unit", "")
    word = form.get("word", "")
    if word:
        figure, suffix = word, ""
    if not figure.strip():
        raise FieldError("figure", "No figure was typed; OL is a key of its own.")
    line = "undo" if word == "undo" else line_of(step, form.get("begins", ""), figure, suffix)
    given = {**form, "line": line[:LONGEST_LINE]}
    jotted = understood(piece, given)
    meter = meter_of(form)
    now = store(piece, jotted, meter)
    dial.set_to(meter, dial.asked(form.get("dial", "")))
    session["said"] = said_of(now, jotted)


def _stop(tag: str, kind: str) -> None:
    words = "stopped at the bench card" if kind == STOPPED else "gone on from where it stopped"
    if before() is None:
        repository().append_statement(tag, {"kind": kind, "text": words}, key())


def _step(piece: Kept) -> Step:
    """The step that is next, of what there is to do it with."""
    return with_what_there_is(piece.steps, stores().of(KINDS))[0]


def stopped(ident: Identification) -> bool:
    """Whether the bench was left and not taken up again."""
    said = [s.kind for s in ident.record.statements if s.kind in (STOPPED, WENT_ON)]
    return bool(said) and said[-1] == STOPPED


class StepCardShown(Shown, frozen=True, kw_only=True):
    """What the card shows of a step, on its own page and first on a phone."""

    bench_step: Step
    bench_picture: Drawing | None
    bench_pad: Pad | None
    bench_means: Means | None
    bench_gate: Walk | None
    bench_left: float
    bench_stopped: bool
    dials: tuple[tuple[str, ...], ...]
    bench_meters: list[Meter]
    bench_hand: dict[str, str]


def card_shown(piece: Kept, step: Step) -> StepCardShown:
    """What the card shows of a step, on its own page and first on a phone."""
    in_hand = meters(piece)
    hand = dial.standing(in_hand)
    gate = walk(piece.record.statements) if step.kind == "statement" else None
    return StepCardShown(
        bench_step=step,
        bench_picture=hookup(step),
        bench_pad=pad_of(step),
        bench_means=means(step, stores().of(KINDS)),
        bench_gate=gate,
        bench_left=gate.left(clock.moment()) if gate is not None else 0.0,
        bench_stopped=stopped(piece.ident),
        dials=dial.CHOICES,
        bench_meters=in_hand,
        bench_hand=hand,
    )


class BenchPage(Page, frozen=True, kw_only=True):
    """One step at a time, for one hand: the card, the pad, what was said last."""

    template = "bench.html"
    record: Transformer
    ident: Identification
    error: FieldError | None
    said: str
    figure: str
    moved: str
    step_card: StepCardShown
    asked_before: BeforeLiveShown | None


def _page(piece: Kept, error: FieldError | None) -> Any:
    step = _step(piece)
    shown = BenchPage(
        record=piece.record,
        ident=piece.ident,
        error=error,
        said=str(session.pop("said", "")),
        figure=request.form.get("figure", ""),
        moved=what_changed(piece),
        step_card=card_shown(piece, step),
        asked_before=asked_shown() if due(live=step.energy == "live") else None,
    ).render()
    return shown, 200 if error is None else 422
