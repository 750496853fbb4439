"""One piece from salvage to record: the iron in sight, the station being worked, the jotter
below.
"""

from collections.abc import Callable, Iterable
from typing import Any

from flask import current_app, jsonify, redirect, request, url_for
from msgspec import Struct

from greyfell import clock
from greyfell.core.circuit.model import PieceModel
from greyfell.core.circuit.sweep import Earlier, Sweep, earlier_sweeps, sweep_on_record
from greyfell.core.circuit.three_lamps import ByLamps, lamps_on_record
from greyfell.core.circuit.warmth import USE_WORDS, Warmth
from greyfell.core.dangers.listing import strip
from greyfell.core.dangers.of_live import live_notes
from greyfell.core.dangers.of_wish import GOAL
from greyfell.core.dangers.rule import Danger
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.jotter import EXAMPLES, lines
from greyfell.core.evidence.parse import checked
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Meter, Statement, Transformer
from greyfell.core.figures.leaking import grade_of
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.audit import Finding, audit
from greyfell.core.judgement.gates import Gate, salvage_lacks
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.metering import MeterRule, meter_rules
from greyfell.core.judgement.outputs import models
from greyfell.core.judgement.salvage import ELSEWHERE
from greyfell.core.judgement.screening import screening_gaps
from greyfell.core.judgement.warm_runs import Soaked, soaked_of
from greyfell.core.steps.expected import OTHER_WAY, Expected, expected_of
from greyfell.core.steps.goals import GOALS, Goal, GoalStanding, meant, standing
from greyfell.core.steps.load_test import (
    LoadedOutput,
    ShortPlan,
    idle_warmth,
    idle_watts,
    outputs,
    per_kilogram,
    short_plans,
)
from greyfell.core.steps.methods import (
    BY_ACT,
    HAVE,
    KINDS,
    NONE,
    Means,
    lacking,
    means,
    with_what_there_is,
)
from greyfell.core.steps.pairs import Fan, fan_of
from greyfell.core.steps.salvage import STEP, take, walk
from greyfell.core.steps.step import Step
from greyfell.core.steps.windup_sheet import SheetStep, allowed_volts, sheet_of
from greyfell.core.telling.evidence_weights import Weight, weigh_evidence
from greyfell.core.telling.ratio_digits import digits_worth
from greyfell.core.telling.under_power import hands_off, theirs_alone, untold_cold
from greyfell.core.telling.usual_ranges import Band, bands
from greyfell.core.telling.why import Why
from greyfell.core.telling.why import why as explain
from greyfell.core.telling.words import ELSEWHERE_WORDS, SALVAGE_WORDS
from greyfell.records.plans import Plans
from greyfell.records.repository import Twice
from greyfell.records.rows import Kept
from greyfell.records.shelf import News
from greyfell.web import clue_form as boxes
from greyfell.web import meter_in_hand as dial
from greyfell.web.answering import Answering, answering
from greyfell.web.before_live import BeforeLiveShown, asked_shown, due
from greyfell.web.bench import StepCardShown, card_shown
from greyfell.web.clues import MOST_TOUCH, clues_shown, touched_by, touched_shown
from greyfell.web.drawings.bands import band_marks
from greyfell.web.drawings.fan import fan
from greyfell.web.drawings.hookup import hookup
from greyfell.web.drawings.iron import iron
from greyfell.web.drawings.load import load_drawing
from greyfell.web.drawings.ridge import STATION_WORDS, ridge
from greyfell.web.drawings.schematic import schematic
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.drawings.sweep import sweep_drawing
from greyfell.web.entering import LONGEST_LINE, meter_of, meters, said_of, store, understood
from greyfell.web.gate import SalvageShown, decay_of, labelled, salvage_shown
from greyfell.web.model import model_shown
from greyfell.web.moved import what_changed
from greyfell.web.rewinding import uses_shown
from greyfell.web.setup import KINDS as PLACED
from greyfell.web.setup import setup_of, setup_shown
from greyfell.web.showing import Page, Shown
from greyfell.web.stores import stores
from greyfell.web.support import before, catch_up, drawn, enhanced, kept, key, repository, stored

FILES = ("schematic", "iron", "pairs", "leads", "section", "plate")
"""The drawings of a piece that are files of their own; `paper.DRAWINGS` makes them."""
POWERED, LIVE = ("low", "power", "sweep"), ("power", "sweep")
"""Stations at which something is fed: they say which meter may touch what."""
LIFTING = ("overrule", "bonded-by-design")
"""What may be said of a caution that stands in the way."""


def show(tag: str) -> Any:
    """The piece at one of its stations: that of its next step where none is named."""
    try:
        piece = kept(tag)
    except Missing:
        now = repository().renamed(tag)
        if now is None:
            raise
        return redirect(url_for(".show", tag=now, at=request.args.get("at")))
    catch_up()
    repository().look_again(piece)
    return _page(piece, Asked(at=request.args.get("at") or piece.steps[0].station))


class WhyPage(Page, frozen=True, kw_only=True):
    """Every clue with its weight."""

    template = "why.html"
    piece: Kept
    ident: Identification
    weights: list[Weight]


def why(tag: str) -> Any:
    """Every clue with its weight."""
    piece = kept(tag)
    weights = drawn(piece, "weights", lambda: weigh_evidence(piece.ident))
    return WhyPage(piece=piece, ident=piece.ident, weights=weights).render()


def understand(tag: str) -> Any:
    """What the jotter makes of a line, before it is stored."""
    try:
        jotted = understood(kept(tag), request.args)
    except FieldError as error:
        return jsonify(understood=False, words=error.sentence)
    return jsonify(understood=True, words=jotted.words)


def jot(tag: str) -> Any:
    """Store what a line says: a reading appended, or one struck out."""
    line, at = request.form.get("line", "")[:LONGEST_LINE], request.form.get("at", "cold")
    now = kept(tag)
    try:
        entry = before()
        if entry is None:
            jotted = understood(now, request.form)
            meter = meter_of(request.form)
            now = store(now, jotted, meter)
            dial.set_to(meter, dial.asked(request.form.get("dial", "")))
            said = said_of(now, jotted)
        else:
            said = entry.said
    except Twice:
        now, said = kept(tag), line
    except FieldError as error:
        status = 200 if enhanced() else 422
        return _page(now, Asked(at=at, line=line, problem=error.sentence, status=status))
    if enhanced():
        return _page(now, Asked(at=at, stored=said))
    stored()
    return redirect(url_for(".show", tag=tag, at=at))


def strike(tag: str, reading: str) -> Any:
    """Strike a reading out from its row."""
    try:
        if before() is None:
            repository().strike(tag, reading, request.form.get("reason", ""), key=key())
    except FieldError as error:
        return _page(kept(tag), Asked(at="record", problem=error.sentence, status=422))
    stored()
    return redirect(url_for(".show", tag=tag, at="record"))


def vouch(tag: str) -> Any:
    """Keep what somebody vouches for."""
    form, piece = request.form, kept(tag)
    kind = form.get("kind", "")
    at = "power" if kind in LIFTING else "salvage"
    try:
        statement = _vouched(form, piece.ident)
    except FieldError as error:
        return refused(piece, at, error, form=form)
    if before() is None:
        repository().append_statement(tag, statement, key())
    stored()
    return redirect(url_for(".show", tag=tag, at=at))


def _vouched(form: Any, ident: Identification) -> dict[str, Any]:
    """What is vouched for, as a statement. Raises FieldError that names its field, for a word on
    the capacitor also where it lacks what the walked station asks for.
    """
    text, kind = form.get("text", "").strip(), form.get("kind", "")
    if not text:
        said = "Say what was done and measured, in a few words; nothing was given."
        raise FieldError("text", said)
    if not kind:
        said = "Say which it is: discharged and measured, none here, or done elsewhere."
        raise FieldError("kind", said)
    if kind not in (*SALVAGE_WORDS, *LIFTING):
        raise FieldError("kind", "That cannot be vouched for here.")
    concerns = form.get("concerns", "")[:200]
    if kind in SALVAGE_WORDS:
        concerns = concerns if kind == ELSEWHERE else "capacitor"
    if kind == ELSEWHERE and concerns not in ELSEWHERE_WORDS:
        raise FieldError("concerns", "Say what was done elsewhere: its capacitor, or the tests.")
    out = {"kind": kind, "concerns": concerns, "text": text[:4000], "by": form.get("by", "")[:200]}
    volts = form.get("volts", "").strip()
    if volts and concerns == "capacitor":
        out["volts"] = abs(parse_quantity(volts, "volt", field="Volts read last"))
    lacks = salvage_lacks(ident, checked(Statement, {"id": "this", **out}))
    if lacks:
        raise FieldError("text", f"Not kept: {lacks}.")
    return out


def lack(tag: str) -> Any:
    """Keep that there is no instrument for an act, or that there is one after all."""
    act = request.form.get("act", "")
    if act not in BY_ACT:
        raise FieldError("act", "There is no such test.")
    has = "has" in request.form
    text = f"{'an' if has else 'no'} instrument for: {act}"
    statement = {"kind": HAVE if has else NONE, "concerns": act, "text": text}
    if before() is None:
        repository().append_statement(tag, statement, key())
    stored()
    return _to(tag) or redirect(url_for(".show", tag=tag))


def say_goal(tag: str) -> Any:
    """Keep what somebody wants of a piece, chosen or in own words; an empty one takes it back."""
    key_of = request.form.get("goal", "")
    own = " ".join(request.form.get("own", "").split())[:MOST_GOAL]
    if key_of and key_of not in {g.key for g in GOALS}:
        raise FieldError("goal", "There is no such goal.")
    title = next((g.title for g in GOALS if g.key == key_of), "no goal")
    if own:
        try:
            key_of, title = meant(own).key, own
        except FieldError as error:
            return refused(kept(tag), "cold", error, form=request.form)
    statement = {"kind": GOAL, "concerns": key_of, "text": title}
    if before() is None:
        repository().append_statement(tag, statement, key())
    stored()
    return redirect(url_for(".show", tag=tag))


def _to(tag: str) -> Any:
    """Back to the bench card, where a form came from it."""
    return redirect(url_for("bench.show", tag=tag)) if request.form.get("to") == "bench" else None


def salvage(tag: str) -> Any:
    """Keep that the next step of the gate was taken, with what was typed and its time."""
    piece = kept(tag)
    try:
        if before() is None:
            now = clock.moment().astimezone()
            new = take(walk(piece.record.statements), request.form, now)
            repository().append_statements(tag, new, key())
    except FieldError as error:
        return _page(piece, Asked(at="salvage", problem=error.sentence, status=422))
    stored()
    return _to(tag) or redirect(url_for(".show", tag=tag, at="salvage") + "#gate")


def clues(tag: str) -> Any:
    """Correct what can be seen: title, supply, leads, core, plate. Corrections are kept."""
    form = request.form
    piece = kept(tag)
    try:
        version = form.get("version", 0, type=int)
        if before() is None:
            repository().correct(tag, boxes.seen(piece.document, form), version, key())
    except FieldError as error:
        asked = Asked(at="clues", problem=error.sentence, field=error.field, form=form, status=422)
        return _page(piece, asked)
    stored()
    touch = form.get("touch", "")[:MOST_TOUCH]
    return redirect(url_for(".show", tag=tag, at="clues", touch=touch) + "#touched")


def setup(tag: str) -> Any:
    """Keep what stands between the wall and the piece."""
    piece, form = kept(tag), request.form
    try:
        if before() is None:
            told = setup_of(form, piece.ident, stores().of(PLACED), meters(piece))
            version = form.get("version", 0, type=int)
            repository().correct(tag, {"setup": told.as_json()}, version, key())
    except FieldError as error:
        return refused(piece, "power", error)
    stored()
    return redirect(url_for(".show", tag=tag, at="power") + "#bench")


def refused(piece: Kept, at: str, error: FieldError, *, form: Any = None) -> Any:
    """The piece at a station, with what was wrong and the form as it was typed."""
    asked = Asked(at=at, problem=error.sentence, field=error.field, form=form, status=422)
    return _page(piece, asked)


# ------------------------------------------------------------------ the page


class Asked(Struct, frozen=True, kw_only=True):
    """What a request asks of the page: which station, what stands in the jotter, what went wrong
    and in which field, what was stored, the form as it was typed.
    """

    at: str
    line: str = ""
    problem: str = ""
    field: str = ""
    stored: str = ""
    form: Any = None
    status: int = 200


class Card(Struct, frozen=True):
    """One step as it is shown: with its hook-up, and what it needs of what there is."""

    step: Step
    hookup: Drawing | None
    means: Means | None


class PiecePage(Page, frozen=True, kw_only=True):
    """A piece at a station: the strip, the iron and the next step, then what the station shows."""

    template = "piece.html"
    piece: Kept
    record: Transformer
    ident: Identification
    at: str
    ridge: Drawing
    hurts: list[Danger]
    iron: Drawing
    steps: list[Step]
    card: Card
    cards: list[Card]
    gate: Gate
    line: str
    asked: Asked
    part: bool
    examples: tuple[str, ...]
    lines: tuple[tuple[str, str], ...]
    station_words: dict[str, str]
    lacking: set[str]
    goals: tuple[Goal, ...]
    answering: list[Answering]
    goal: GoalStanding | None
    in_hand: list[Meter]
    news: list[News]
    hand: dict[str, str]
    zero: float | None
    moved: str
    step_card: StepCardShown
    station: tuple[Shown, ...]
    asked_before: BeforeLiveShown | None
    figure: str = ""


def _page(piece: Kept, asked: Asked) -> Any:
    """The piece at a station: the strip, the iron and the next step, then what the station
    shows.
    """
    ident = piece.ident
    at = asked.at if asked.at in STATIONS else "cold"
    in_hand = meters(piece)
    on_hand = stores().of(KINDS)
    steps = with_what_there_is(piece.steps, on_hand)
    cards = [Card(s, hookup(s), means(s, on_hand)) for s in steps if s.station == "low"]
    gate = piece.gate
    page = PiecePage(
        piece=piece,
        record=piece.record,
        ident=ident,
        at=at,
        ridge=ridge(piece.record, at, gate_open=gate.open),
        hurts=drawn(piece, "strip", lambda: strip(ident)),
        iron=drawn(piece, f"iron {steps[0].title} {at}", lambda: _iron(ident, steps[0], at)),
        steps=steps,
        card=Card(steps[0], hookup(steps[0]), means(steps[0], on_hand)),
        cards=cards[1:] if steps[0].station == "low" else cards,
        gate=gate,
        line=asked.line or _picked(piece),
        asked=asked,
        part=enhanced(),
        examples=EXAMPLES,
        lines=lines(),
        station_words=STATION_WORDS,
        lacking=lacking(piece.record),
        goals=GOALS,
        answering=answering(),
        goal=drawn(piece, "goal", lambda: standing(ident, piece.steps)),
        in_hand=in_hand,
        hand=dial.standing(in_hand),
        zero=dial.zero(dial.standing(in_hand)["meter"] or (in_hand[0].id if in_hand else "")),
        step_card=card_shown(piece, steps[0]),
        station=_shown(piece, at, in_hand, asked),
        moved=what_changed(piece),
        news=repository().news(piece.tag),
        asked_before=_before_live(at, steps[0], gate_open=gate.open),
    ).render()
    return page, asked.status


def _before_live(at: str, step: Step, *, gate_open: bool) -> BeforeLiveShown | None:
    """The questions before a first live step, where they stand before what a station shows."""
    here = at in LIVE or (step.station == at and step.energy == "live")
    return asked_shown() if due(live=gate_open and here) else None


def _iron(ident: Identification, step: Step, at: str) -> Drawing:
    """The iron with the next pair marked; at low energy with the volts that stand meanwhile."""
    return iron(ident, step, meanwhile=at == "low" and step.station == "low")


class ClampShown(Shown, frozen=True, kw_only=True):
    """The most amps that a clamp of the stores reads."""

    clamp: float | None


class MetersShown(Shown, frozen=True, kw_only=True):
    """Which meter may touch what."""

    meters: list[MeterRule]


class KeptPlansShown(Shown, frozen=True, kw_only=True):
    """Plans that were kept of this piece."""

    kept_plans: list[dict[str, Any]]


class DecayShown(Shown, frozen=True, kw_only=True):
    """How the capacitor empties, and how long it is still to be held."""

    decay: Drawing | None
    gate_left: float


def _shown(piece: Kept, at: str, in_hand: list[Meter], asked: Asked) -> tuple[Shown, ...]:
    """What a station shows; meters of the stores may be put aside while a piece is kept in mind."""
    name = f"station {at}, {piece.gate.reasons}"
    shown: Shown = drawn(piece, name, lambda: STATIONS[at](piece))
    return shown, *_of_request(piece, shown, at, in_hand, asked)


def _of_request(
    piece: Kept, shown: Shown, at: str, in_hand: list[Meter], asked: Asked
) -> Iterable[Shown]:
    """What a station shows besides that hangs on the request, the stores or the time."""
    if at in POWERED:
        yield setup_shown(piece) if at == "power" else ClampShown(clamp=_clamp())
        yield MetersShown(meters=meter_rules(piece.ident, in_hand))
    if at == "record":
        yield KeptPlansShown(kept_plans=Plans(current_app.extensions["store"]).all(tag=piece.tag))
    if isinstance(shown, ModelsShown):
        yield model_shown(piece.ident, shown.models, request.args)
    if at == "clues":
        yield touched_shown(piece, request.values.get("touch") or touched_by(asked.field))
    if isinstance(shown, SalvageShown):
        now = clock.moment()
        yield DecayShown(decay=decay_of(shown.walk, now), gate_left=shown.walk.left(now))
        yield labelled(request.args.get("label", ""))


def _clamp() -> float | None:
    """The most amps that a clamp of the stores reads; None where there is none."""
    return max((float(i.figures["most_amps"]) for i in stores().of(("clamp",))), default=None)


def _picked(piece: Kept) -> str:
    """The points picked on the iron without a script, as the beginning of a line."""
    points = {*(x.id for x in piece.record.leads), "core"}
    picked = [p for p in request.args.get("pick", "").split("-") if p in points][:2]
    if not picked:
        return ""
    return "-".join(picked) + (" " if len(picked) == 2 else "-")


class ColdShown(Shown, frozen=True, kw_only=True):
    """What cold readings tell: every pair of leads, what is usual, what still screens it."""

    fan: Drawing | None
    pairs: Fan
    told: list[tuple[Band, Drawing]]
    apart: list[str]
    probes: Any | None
    gaps: list[str]
    what: "WhatShown"


def _cold(piece: Kept) -> ColdShown:
    ident = piece.ident
    found = bands(ident)
    pairs = fan_of(ident, found, piece.steps)
    between = [b for b in found if b.open_between]
    read = (r for r in ident.record.standing if r.by_ohmmeter)
    return ColdShown(
        fan=fan(pairs, ident.record.leads),
        pairs=pairs,
        told=[(b, band_marks(b)) for b in found if not b.open_between],
        apart=["–".join(b.points) for b in between],
        probes=next((r.probe_ohms for r in read if r.probe_ohms), None),
        gaps=screening_gaps(ident.record, ident.belief),
        what=_what(ident),
    )


class LowShown(Shown, frozen=True, kw_only=True):
    """What low energy told: every reading with what its digits are worth."""

    whys: dict[str, Why]
    read: list[tuple[Any, str]]
    what: "WhatShown"


def _low(piece: Kept) -> LowShown:
    ident = piece.ident
    volts = {w.id: explain(ident, ["winding", w.id, "volts"]) for w in ident.windings}
    read = [r for r in ident.record.standing if r.told_at_low]
    return LowShown(whys=volts, read=[(r, digits_worth(r)) for r in read], what=_what(ident))


class PowerShown(Shown, frozen=True, kw_only=True):
    """What first power should show, by what is known of the piece."""

    cautions: dict[str, str]
    on_core: bool
    expected: list[Expected]
    other_way: str
    untold: list[str]
    under_power: "UnderPowerShown"
    what: "WhatShown"


def _power(piece: Kept) -> PowerShown:
    ident = piece.asked
    cautions = {
        f"{f.code} {f.ends}": f"{f.words}, {f.ends}"
        for f in ident.faults
        if f.severity == "caution"
    }
    on_core = any(f.code == "shorted-to-core" for f in ident.faults)
    return PowerShown(
        cautions=cautions,
        on_core=on_core,
        expected=expected_of(ident),
        other_way=OTHER_WAY,
        untold=untold_cold(ident),
        under_power=_under_power(ident, sweep_on_record(ident.record, ident.belief)),
        what=_what(ident),
    )


class SweepShown(Shown, frozen=True, kw_only=True):
    """The sweep read off and drawn, earlier ones, shorts and loads that may follow."""

    sweep: Sweep | None
    sweep_drawing: Drawing | None
    read_off: list[tuple[str, Quantity | None, str]]
    sheet: tuple[SheetStep, ...]
    earlier: list[Earlier]
    allowed: list[tuple[float, float]]
    by_lamps: ByLamps | None
    short_plans: list[ShortPlan]
    load_outputs: list[LoadedOutput]
    load_drawings: list[Drawing]
    under_power: "UnderPowerShown"
    what: "WhatShown"


def _sweep(piece: Kept) -> SweepShown:
    ident = piece.asked
    found = sweep_on_record(ident.record, ident.belief)
    supply = ident.record.supply.volts
    before_change = earlier_sweeps(piece.record, ident.belief.fed)
    loads = outputs(ident)
    read_off = []
    if found is not None:
        read_off = [
            (f"Draws at {supply:g} V", found.amps_at(supply), "A"),
            (f"Watts at {supply:g} V", found.watts_at(supply), "W"),
            ("of which the core", found.core_watts_at(supply), "W"),
            ("of them a kilogram", per_kilogram(ident, found.core_watts_at(supply)), "W"),
            ("Volts per turn", ident.belief.volts_per_turn, "V"),
        ]
    return SweepShown(
        sweep=found,
        sweep_drawing=sweep_drawing(found, supply, before_change) if found is not None else None,
        read_off=read_off,
        sheet=sheet_of(ident, found),
        earlier=before_change,
        allowed=allowed_volts(ident),
        by_lamps=lamps_on_record(ident.record, ident.belief),
        short_plans=short_plans(ident),
        load_outputs=loads,
        load_drawings=[load_drawing(out) for out in loads],
        under_power=_under_power(ident, found),
        what=_what(ident),
    )


class UnderPowerShown(Shown, frozen=True, kw_only=True):
    """What both live stations say: idle watts and what they make of it, soaks, whose it is."""

    fed: str
    theirs: str
    hands_off: list[str]
    notes: list[Danger]
    warmth: Warmth | None
    use_words: dict[str, str]
    soaks: list[Soaked]
    leaks: list[tuple[str, ...]]


def _under_power(ident: Identification, sweep: Sweep | None) -> UnderPowerShown:
    """What both live stations say: idle watts and what they make of it, soaks, whose it is."""
    watts = None if sweep is None else sweep.watts_at(ident.record.supply.volts)
    soaks = (r for r in ident.record.standing if r.kind == "soak")
    return UnderPowerShown(
        fed="-".join(ident.belief.fed),
        theirs=theirs_alone(ident),
        hands_off=hands_off(ident),
        notes=live_notes(ident),
        warmth=idle_warmth(ident, watts or idle_watts(ident)),
        use_words=USE_WORDS,
        soaks=[soaked_of(r, ident.record) for r in soaks],
        leaks=[
            (told(r), grade_of(r.amps))
            for r in ident.record.standing
            if r.kind == "leakage_current"
        ],
    )


class RecordShown(Shown, frozen=True, kw_only=True):
    """What the record is worth: what an audit finds, its drawings, its meters."""

    findings: list[Finding]
    schematic: Drawing
    drawings: list[tuple[str, ...]]
    meter_titles: dict[str, str]
    salvage_steps: str


def _record(piece: Kept) -> RecordShown:
    return RecordShown(
        findings=audit(piece.ident),
        schematic=drawn(piece, "schematic", lambda: schematic(piece.ident)),
        drawings=[(name, url_for("paper.drawing", tag=piece.tag, drawing=name)) for name in FILES],
        meter_titles={m.id: m.title or m.id for m in piece.record.meters},
        salvage_steps=STEP,
    )


class WhatShown(Shown, frozen=True, kw_only=True):
    """What it is, and why: shown at several stations."""

    per_turn: Why


def _what(ident: Identification) -> WhatShown:
    """What it is, and why: shown at several stations."""
    return WhatShown(per_turn=explain(ident, ["volts-per-turn"]))


class ModelsShown(Shown, frozen=True, kw_only=True):
    """What every view of the station shares; the point of the load is the address's."""

    models: list[PieceModel]


def _model(piece: Kept) -> ModelsShown:
    """What every view of the station shares; the point of the load is the address's."""
    return ModelsShown(models=models(piece.ident))


MOST_GOAL = 200
"""A goal in own words is no longer than this."""
STATIONS: dict[str, Callable[[Kept], Shown]] = {
    "salvage": salvage_shown,
    "clues": clues_shown,
    "cold": _cold,
    "low": _low,
    "power": _power,
    "sweep": _sweep,
    "model": _model,
    "uses": uses_shown,
    "record": _record,
}
"""Every station that can be worked, with the facts its page shows and no others."""
