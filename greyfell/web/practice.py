"""The practice bench: a hidden piece under its cloth, simulated instruments, what a wrong move
would have done, an answer scored, ten lessons; and a live step rehearsed on the model of one's own.
"""

import random
from collections.abc import Mapping, Sequence
from typing import Any

from flask import redirect, request, url_for

from greyfell.core.dangers.listing import strip
from greyfell.core.dangers.rule import Danger
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.loading import PRACTICE
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering, parse_quantity
from greyfell.core.lessons.courses import LESSONS, NAMED, Lesson, lesson_of
from greyfell.core.lessons.hookup import (
    HELD,
    INSTRUMENTS,
    SOURCES,
    Hookup,
    Mishap,
    mishaps,
)
from greyfell.core.lessons.irons import OfBelief, OfHidden
from greyfell.core.lessons.readings import reading_of
from greyfell.core.lessons.score import BORNE, FAMILIES, FAULT_WORDS, Named, ScoreAsked, score
from greyfell.core.simulated.hidden import LEVEL_WORDS, MOST_NUMBER, Hidden, hidden
from greyfell.records.rows import Kept
from greyfell.web.drawings.practice import practice_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page, Shown
from greyfell.web.support import before, drawn, kept, key, repository, stored

MISHAP = "practice-mishap"
"""The statement of what would have happened on a piece for practice."""
NOTHING = "nothing that tells anything: these points, that source and this instrument do not meet"
MOST_HISTORY = 30
USUAL_VOLTS = {"none": 0.0, "low": 12.0}


class PracticeHomePage(Page, frozen=True, kw_only=True):
    """Lessons, a new piece, one's own history."""

    template = "practice_home.html"
    lessons: tuple[Lesson, ...]
    solved: set[Any]
    levels: dict[str, str]
    rows: list[dict[str, Any]]


def home() -> Any:
    """Lessons, a new piece, one's own history."""
    rows = [_row(kept(tag)) for tag in repository().saying(PRACTICE, MOST_HISTORY)]
    solved = {row["lesson"] for row in rows if row["done"]}
    return PracticeHomePage(
        lessons=LESSONS,
        solved=solved,
        levels=LEVEL_WORDS,
        rows=rows,
    ).render()


def _row(piece: Kept) -> dict[str, Any]:
    """One piece of the history."""
    said = [s for s in piece.record.statements if s.kind == NAMED]
    lesson = lesson_of(_said(piece.record, "lesson"))
    points = (said[-1].model_extra or {}).get("points") if said else None
    done = lesson is not None and lesson.done(piece.ident, _happened(piece.record))
    return {
        "piece": piece,
        "points": points,
        "lesson": "" if lesson is None else lesson.key,
        "title": "" if lesson is None else lesson.title,
        "done": done,
    }


def start() -> Any:
    """Lay a piece on the bench: of a lesson, of a number, or any."""
    form = request.form
    lesson = lesson_of(form.get("lesson", ""))
    level = lesson.level if lesson is not None else form.get("level", "first")
    if level not in LEVEL_WORDS:
        raise FieldError("level", "There is no such level.")
    number = lesson.number if lesson is not None else _number(form.get("number", "").strip())
    made = hidden(number, level)
    said = {"kind": PRACTICE, "concerns": level, "text": str(number)}
    said |= {"lesson": lesson.key} if lesson is not None else {}
    document = {**made.document, "statements": [said]}
    if repository().get(document["tag"]) is None and before() is None:
        repository().add(document, key())
        stored()
    elif lesson is not None and before() is None:
        repository().append_statement(document["tag"], said, key())
    return redirect(url_for(".show", tag=document["tag"]))


def _number(text: str) -> int:
    """The number typed, or any."""
    if not text:
        return random.randint(1, MOST_NUMBER)
    if not text.isascii() or not text.isdigit() or not 1 <= int(text[:9]) <= MOST_NUMBER:
        raise FieldError("number", f"A number from 1 to {MOST_NUMBER}; “{text[:20]}” is none.")
    return int(text)


def show(tag: str) -> Any:
    """The bench with its covered piece."""
    return _bench(kept(tag), _asked_hookup(request.args), None)


def connect(tag: str) -> Any:
    """Connect, read: the reading goes on record, what would have happened is told and kept."""
    piece = kept(tag)
    made = _hidden_of(piece.record)
    hookup = _asked_hookup(request.form)
    count = len(piece.record.readings)
    try:
        wrong = mishaps(hookup, OfHidden(made))
        found = _read(made, hookup, count)
        if before() is None:
            if wrong:
                new = [_kept_mishap(m) for m in wrong]
                repository().append_statements(tag, new, f"{key()}m" if key() else "")
            if found is not None and not any(m.grave != "waste" for m in wrong):
                repository().append(tag, [found], key())
    except FieldError as error:
        return _bench(piece, hookup, error)
    piece = kept(tag)
    stored()
    added = piece.record.readings[count:] if found is not None else []
    said = told(added[-1]) if added else "" if wrong else NOTHING
    return _bench(piece, hookup, None, wrong=wrong, said=said)


def _read(made: Hidden, hookup: Hookup, count: int) -> dict[str, Any] | None:
    """What the instrument shows; None where it tells nothing."""
    try:
        return reading_of(made, hookup, count)
    except FieldError:
        return None


def _kept_mishap(m: Mishap) -> dict[str, Any]:
    return {"kind": MISHAP, "concerns": m.code, "text": m.words, "grave": m.grave}


def name(tag: str) -> Any:
    """Say what it is: scored, told, kept."""
    piece = kept(tag)
    made = _hidden_of(piece.record)
    form = request.form
    try:
        named = _named(form)
        borne = piece.ident.belief.families.get(named.family, 0.0) >= BORNE
        asked = ScoreAsked(taken=len(piece.record.readings), borne=borne)
        found = score(made, named, asked, _happened(piece.record))
    except FieldError as error:
        return _bench(piece, Hookup(), error)
    right = borne and named.family == made.piece.family
    right = right and bool(named.fault) == bool(made.faults)
    if before() is None:
        statement = {
            "kind": NAMED,
            "concerns": "right" if right else "wrong",
            "text": found.words,
            "points": found.points,
        }
        repository().append_statement(tag, statement, key())
    stored()
    return _bench(kept(tag), Hookup(), None, scored=found)


class RehearsePage(Page, frozen=True, kw_only=True):
    """A hook-up on the model of one's own piece: what would have happened; nothing is kept."""

    template = "rehearse.html"
    hurts: list[Danger]
    record: Transformer
    hookup: Hookup
    wrong: list[Mishap]
    tried: bool
    error: FieldError | None
    shows: str
    drawing: Drawing
    points: tuple[str, ...]
    choices: "ChoicesShown"


def rehearse(tag: str) -> Any:
    """A hook-up on the model of one's own piece: what would have happened; nothing is kept."""
    piece = kept(tag)
    hookup = _asked_hookup(request.args)
    iron = OfBelief(piece.ident)
    error, wrong, tried = None, [], "connect" in request.args
    try:
        wrong = mishaps(hookup, iron) if tried else []
    except FieldError as refused:
        error = refused
    return RehearsePage(
        hurts=drawn(piece, "strip", lambda: strip(piece.ident)),
        record=piece.record,
        hookup=hookup,
        wrong=wrong,
        tried=tried and error is None,
        error=error,
        shows=_shows(hookup, iron) if tried and error is None and not wrong else "",
        drawing=practice_drawing(iron.points(), hookup, wrong, covered=False),
        points=iron.points(),
        choices=_choices(),
    ).render()


def _shows(hookup: Hookup, iron: OfBelief) -> str:
    """What a voltmeter would show by the model."""
    if hookup.instrument != "volts" or hookup.driven is None or hookup.points is None:
        return ""
    volts = iron.across(hookup.driven, hookup.volts, hookup.points)
    return f"about {engineering(volts, 'V')} by the model; a forecast, never a reading"


class ChoicesShown(Shown, frozen=True, kw_only=True):
    """What may be chosen on the practice bench."""

    sources: dict[str, str]
    instruments: dict[str, str]
    held: tuple[str, ...]


def _choices() -> ChoicesShown:
    return ChoicesShown(sources=SOURCES, instruments=INSTRUMENTS, held=HELD)


def _asked_hookup(form: Any) -> Hookup:
    """A hook-up as a form or an address says it; what is none is refused where it is connected."""
    source = form.get("source", "none")
    volts = USUAL_VOLTS.get(source, 0.0)
    text = form.get("volts_driven", "").strip()
    if text:
        volts = _volts(text)
    return Hookup(
        source=source,
        driven=_pair(form.get("driven", "")),
        volts=volts,
        instrument=form.get("instrument", "none"),
        points=_pair(form.get("points", "")),
        jack="amps" if form.get("jack") == "amps" else "volts",
        held=form.get("hand", "clips"),
        range_key=form.get("range", ""),
        earthed=bool(form.get("earthed")),
        covered=bool(form.get("covered")),
        shorted=_pair(form.get("shorted", "")),
    )


def _volts(text: str) -> float:
    try:
        return max(0.0, parse_quantity(text, "volt", field="volts"))
    except FieldError:
        return 0.0


def _pair(text: str) -> tuple[str, str] | None:
    """Two points as they are typed, “A-B” or “A B”."""
    parts = text.replace("-", " ").replace("–", " ").split()[:2]
    return (parts[0][:8], parts[1][:8]) if len(parts) == 2 else None


def _said(record: Transformer, name_: str) -> str:
    """What the practice statements of a record say under a name, the last first."""
    for s in reversed(record.statements):
        value = (s.model_extra or {}).get(name_)
        if s.kind == PRACTICE and isinstance(value, str):
            return value
    return ""


def _hidden_of(record: Transformer) -> Hidden:
    """The hidden piece of a practice record. Raises Missing where it is none."""
    said = next((s for s in record.statements if s.kind == PRACTICE), None)
    if said is None or said.concerns not in LEVEL_WORDS or not said.text.isdigit():
        raise Missing("tag", "This is no piece for practice.")
    return hidden(int(said.text), said.concerns)


def _happened(record: Transformer) -> list[Mishap]:
    """What would have happened so far."""
    return [
        Mishap(
            code=s.concerns,
            grave=str((s.model_extra or {}).get("grave", "wrong")),
            words=s.text,
            shown_by="",
        )
        for s in record.statements
        if s.kind == MISHAP
    ]


class PracticePage(Page, frozen=True, kw_only=True):
    """The practice bench: a covered piece, what is hooked up, what it told."""

    template = "practice.html"
    hurts: list[Danger]
    record: Transformer
    made: Hidden
    line: float
    lesson: Lesson | None
    lesson_done: bool
    hookup: Hookup
    wrong: Sequence[Mishap]
    said: str
    shown: list[str]
    happened: list[Mishap]
    scored: Any
    error: FieldError | None
    drawing: Drawing
    points: tuple[str, ...]
    families: dict[str, str]
    faults: dict[str, str]
    levels: dict[str, str]
    choices: "ChoicesShown"


def _bench(
    piece: Kept,
    hookup: Hookup,
    error: FieldError | None,
    *,
    wrong: Sequence[Mishap] = (),
    said: str = "",
    scored: Any = None,
) -> Any:
    """The page of the bench."""
    made = _hidden_of(piece.record)
    lesson: Lesson | None = lesson_of(_said(piece.record, "lesson"))
    happened = _happened(piece.record)
    points = OfHidden(made).points()
    page = PracticePage(
        hurts=drawn(piece, "strip", lambda: strip(piece.ident)),
        record=piece.record,
        made=made,
        line=made.region.volts,
        lesson=lesson,
        lesson_done=lesson is not None and lesson.done(piece.ident, happened),
        hookup=hookup,
        wrong=wrong,
        said=said,
        shown=[told(r) for r in piece.record.readings][-8:],
        happened=happened,
        scored=scored,
        error=error,
        drawing=practice_drawing(points, hookup, wrong, covered=True),
        points=points,
        families=FAMILIES,
        faults=FAULT_WORDS,
        levels=LEVEL_WORDS,
        choices=_choices(),
    ).render()
    return page, 422 if error is not None else 200


def _named(form: Mapping[str, str]) -> Named:
    volts = None
    if form.get("volts", "").strip():
        volts = parse_quantity(form["volts"], "volt", field="volts")
    named = Named(family=form.get("family", ""), fault=form.get("fault", ""), volts=volts)
    if named.family not in FAMILIES:
        raise FieldError("family", "Say what it is: a family was not chosen.")
    return named
