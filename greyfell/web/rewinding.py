"""Rewinding a piece, from the question “can it?” to the last reading: uses against its iron, the
window to scale, turns side by side, the way the coil comes out, the sheet of the work, the winding
as it was made, the log of welds.
"""

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import parse_qsl, urlencode

from flask import Response, redirect, request, url_for
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.coil_design.conductors import catalogue
from greyfell.core.coil_design.removal import (
    ENDS_FOR_GOOD,
    TOOLS,
    USUAL_TOOLS,
    CoreJoint,
    Leave,
    Recommended,
    recommend,
    stop_line,
)
from greyfell.core.coil_design.welding import CELLS, STUFF, TIPS, Job
from greyfell.core.coil_design.window import Window, pack
from greyfell.core.errors import FieldError, within
from greyfell.core.evidence.record import Statement, Transformer
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.outputs import models
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.uses import winding_notes as wound
from greyfell.core.uses.all_uses import USES, use_of
from greyfell.core.uses.build import ReadyBy, Sheet, Wanted, ready_by, sheet
from greyfell.core.uses.catalogue import Use, weld
from greyfell.core.uses.core_to_wind import SAME_PLACE, CoreToWind, barred, iron_of
from greyfell.core.uses.fit import Fit, allowed, fit
from greyfell.core.uses.kept_project import AsItIs, as_it_is
from greyfell.core.uses.measured import Compared, Habit, as_kept, compared_with, habits, promised_by
from greyfell.core.uses.project import (
    Design,
    Held,
    better,
    both,
    compared,
    in_hand,
    into,
    mistaken_amps,
)
from greyfell.core.uses.proofs import WANTED, missing
from greyfell.core.uses.weld_log import RESULTS, Logged, proposed, shots_of, weld_of
from greyfell.core.uses.wound_record import CHANGES, Made, as_change, made_of
from greyfell.records.repository import Twice
from greyfell.records.rows import Kept
from greyfell.web.asking import figure_within
from greyfell.web.drawings.fill import window_drawing
from greyfell.web.drawings.plans.welds import turns_graph
from greyfell.web.drawings.removal import removal_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page, Shown
from greyfell.web.stores import stores
from greyfell.web.support import before, drawn, kept, key, repository, sent, stored

WELD = "weld"
PLANNED = "rewind-plan"
"""Kind of statement that keeps a plan: its address."""
STEP_PHOTO = "step "
"""How the note of a step's photo begins."""
WOUND = "wind"
"""The step that takes the conductor."""
BUILT = "built"
"""Kind of statement that ticks a step of the sheet off."""
JOBS = [(WELD, "a weld"), *((u.key, u.title) for u in USES if not u.key.startswith(WELD))]
"""Jobs to choose from; a weld has its own questions."""
MOST_QUERY, MOST_BOXES = 2000, 100
MOST_KEPT = 60
"""Kept plans that are worked out at once, the newest first."""
SHOWN_TURNS = 4
TESTED_THERE = "there"
TESTED = [("", "by the primary"), (TESTED_THERE, "where the new winding goes")]
"""Where test turns lay: volts belong to a place in the window."""
MAKES = [
    ("", "the thickest"),
    ("cable", "cable"),
    ("welding cable", "welding cable"),
    ("strands", "strands"),
    ("enamelled", "enamelled"),
    ("aluminium wire", "aluminium wire"),
    ("sheet", "sheet"),
    ("aluminium sheet", "aluminium sheet"),
]
WANTED_MM2 = 10.0
"""Cable that is drawn sticking out where no conductor goes in."""
WINDOW_WORDS = {
    "width_mm": "window, wide",
    "height_mm": "window, high",
    "tongue_mm": "tongue",
    "stack_mm": "stack",
    "primary_mm": "primary stands",
    "shunts_mm": "shunts stand",
    "paper_mm": "paper between layers",
}


class Row(Struct, frozen=True, kw_only=True):
    """One use against a piece: as it is, or how it fits rewound."""

    use: Use
    fit: Fit
    standing: AsItIs | None

    @property
    def verdict(self) -> str:
        """In a word or two."""
        if self.standing is not None and self.standing.does:
            return "as it is"
        return "refused" if self.use.refused else self.fit.verdict

    @property
    def words(self) -> str:
        """Why, in a sentence."""
        own = self.standing
        if own is None or self.use.refused:
            return self.fit.words
        if own.does:
            return f"{own.words}. Yet to be shown: {own.yet}." if own.yet else own.words
        return f"{self.fit.words} Not as it is, though {own.words}: {own.against[0]}."

    @property
    def further(self) -> str:
        """Title of the planner that works out the rest; empty where there is none to work out."""
        return "" if self.fit.use.refused else PLANNERS_BY_USE.get(self.use.key, "")


PLANNERS_BY_USE = {u.key: PLANNERS[u.planner].title for u in USES if u.planner}
ORDER = ("as it is", "fits", "fits after", "does not", "refused")


class UsesShown(Shown, frozen=True, kw_only=True):
    """What the station Uses shows of a piece."""

    uses_barred: str
    uses: list[Row]
    uses_assumed: tuple[str, ...]
    uses_plan: Statement | None
    uses_high: bool


def uses_shown(piece: Kept) -> UsesShown:
    """What the station Uses shows of a piece."""
    why = barred(piece.ident)
    iron = None if why else iron_of(piece.ident)
    rows: list[Row] = []
    if iron is not None:
        rows = [Row(use=u, fit=fit(iron, u), standing=as_it_is(piece.asked, u)) for u in USES]
        rows.sort(key=lambda r: ORDER.index(r.verdict))
    plans = [s for s in piece.record.statements if s.kind == PLANNED]
    return UsesShown(
        uses_barred=why,
        uses=rows,
        uses_assumed=() if iron is None else iron.assumed,
        uses_plan=plans[-1] if plans else None,
        uses_high=_gives_high(piece),
    )


def _gives_high(piece: Kept) -> bool:
    """Whether a winding that it has gives high voltage."""
    return any(m.line.open_volts.high >= HV_WINDING_VOLTS for m in models(piece.ident))


class RewindingPage(Page, frozen=True, kw_only=True):
    """A rewinding as it is being planned."""

    template = "rewinding.html"
    record: Transformer
    shown: "RewindingShown"


class BuildSheetPage(Page, frozen=True, kw_only=True):
    """The sheet of the work, to print and to tick off."""

    template = "build_sheet.html"
    record: Transformer
    shown: "RewindingShown"


def _not_ticked(piece: Kept, shown: "RewindingShown", error: FieldError) -> Any:
    """The sheet once more, with what was wrong."""
    told = replace(shown, error=error)
    return BuildSheetPage(record=piece.record, shown=told).render(), 422


def show(tag: str) -> Any:
    """A rewinding as it is being planned."""
    piece = kept(tag)
    shown = _shown(piece, request.args)
    return RewindingPage(record=piece.record, shown=shown).render()


def build(tag: str) -> Any:
    """The sheet of the work, to print and to tick off."""
    piece = kept(tag)
    shown = _shown(piece, request.args)
    return BuildSheetPage(record=piece.record, shown=shown).render()


def tick(tag: str) -> Any:
    """A step is done; one that is locked, or none of the sheet, is refused."""
    piece = kept(tag)
    asked = request.form.get("step", "")
    shown = _shown(piece, _told())
    planned = shown.planned
    steps = planned.plan.steps if planned is not None else ()
    step = next((s for s in steps if s.work.key == asked), None)
    if planned is None or step is None or step.locked:
        why = step.locked if step is not None else "this sheet has no such step"
        return _not_ticked(piece, shown, FieldError("step", f"Not ticked off: {why}."))
    if asked == WOUND and request.form.get("item"):
        try:
            _taken(request.form["item"], planned.in_hand)
        except FieldError as error:
            return _not_ticked(piece, shown, error)
    repository().append_statement(tag, {"kind": BUILT, "concerns": asked}, key())
    stored()
    return _back(tag, "build")


def _taken(uid: str, in_hand: Sequence[Held]) -> None:
    """Take what was wound out of the stores. Raises FieldError where it is not there any more."""
    held = next((h for h in in_hand if h.item.id == uid), None)
    if held is None or held.left is None or held.left < 0:
        raise FieldError("item", "That entry of the stores has not enough metres any more.")
    if before() is None:
        stores().change(uid, {"metres": round(held.left, 2)})


def picture(tag: str) -> Any:
    """A photo of a step, kept with the piece's others under the step's words."""
    piece = kept(tag)
    note = f"{STEP_PHOTO}{request.form.get('step', '')[:40]}"
    try:
        if before() is None:
            repository().add_photo(tag, sent("photo"), note, key())
    except Twice:
        return _back(tag, "build")
    except FieldError as error:
        return _not_ticked(piece, _shown(piece, _told()), error)
    stored()
    return _back(tag, "build")


def keep(tag: str) -> Response:
    """This plan is the one that is built."""
    query = _address_told()
    title = request.form.get("title", "")[:120]
    statement: dict[str, Any] = {"kind": PLANNED, "concerns": title, "text": query}
    planned = _shown(kept(tag), _told()).planned
    if planned is not None:
        statement["planned"] = promised_by(planned.design).written()
    repository().append_statement(tag, statement, key())
    stored()
    return _back(tag, "show")


class KeptRewindsPage(Page, frozen=True, kw_only=True):
    """Every plan that was kept beside what was measured then, and how far this bench is off."""

    template = "kept_rewinds.html"
    rows: list[tuple[Kept, list[Compared]]]
    habits: list[Habit]
    most: int


def kept_plans() -> Any:
    """Every plan that was kept, beside what was measured then; how far this bench's plans are off,
    and each meter by itself.
    """
    rows = [(kept(tag), _comparisons(kept(tag))) for tag in repository().saying(PLANNED, MOST_KEPT)]
    every = [c for _, compared_ in rows for c in compared_]
    return KeptRewindsPage(rows=rows, habits=habits(every), most=MOST_KEPT).render()


def _comparisons(piece: Kept) -> list[Compared]:
    """The plan that was kept last, as it stood then, against its readings."""
    promised = as_kept(piece.record, PLANNED)
    return [] if promised is None else compared_with(piece.ident, promised)


def made(tag: str) -> Any:
    """The iron as it is now: coil out, shunts out, wound anew. What it voids is asked again by
    itself.
    """
    try:
        change = as_change(request.form)
    except FieldError as error:
        return _refused(tag, error, "typed_change")
    repository().append_change(tag, change, key())
    stored()
    return _back(tag, "show")


def log(tag: str) -> Any:
    """One shot into the weld log."""
    try:
        entry = weld_of(request.form)
    except FieldError as error:
        return _refused(tag, error, "typed_shot")
    repository().append_statement(tag, entry, key())
    stored()
    return _back(tag, "show")


def _refused(tag: str, error: FieldError, form: str) -> Any:
    """The same plan once more, with the sentence and everything that was typed in that form."""
    piece = kept(tag)
    shown = replace(_shown(piece, _told()), error=error, **{form: request.form})
    return RewindingPage(record=piece.record, shown=shown).render(), 422


def _told() -> dict[str, str]:
    """The plan that a form stood under, as its address told it."""
    query = _address_told()
    return {**dict(parse_qsl(query)), "query": query}


def _address_told() -> str:
    """The address that a form's plan stood at, written anew: whatever else was in it is encoded."""
    told = request.form.get("query", "")[:MOST_QUERY]
    try:
        return urlencode(parse_qsl(told, keep_blank_values=True, max_num_fields=MOST_BOXES))
    except ValueError:
        raise FieldError("query", f"A plan has {MOST_BOXES} boxes and no more.") from None


def _back(tag: str, where: str) -> Response:
    query = _address_told()
    address = url_for(f".{where}", tag=tag)
    return redirect(f"{address}?{query}" if query else address)  # type: ignore[return-value]


def _use(args: Mapping[str, str]) -> Use:
    """The use asked for; a weld by its metal, thickness and tips. Raises FieldError."""
    asked = args.get("use", WELD)
    found = use_of(asked)
    if found is not None:
        return found
    mm = figure_within(args.get("mm", ""), 0.15, 0.01, 5.0)
    spacing = figure_within(args.get("spacing", ""), 8.0, 0.5, 100.0)
    metal = args.get("metal", "nickel")
    tips = args.get("tips", TIPS[1])
    return weld(
        metal if metal in STUFF else "nickel", mm, tips if tips in TIPS else TIPS[0], spacing
    )


def _iron(iron: CoreToWind, args: Mapping[str, str]) -> CoreToWind:
    """The iron with what was typed of its window and socket."""
    told = {}
    for name in WINDOW_WORDS:
        if args.get(name, "").strip():
            value = figure_within(args[name], getattr(iron.window, name), 0.0, 1000.0)
            told[name] = within(name, value, at_least=0, at_most=1000, unit="mm")
    out = replace(iron, window=replace(iron.window, **told))
    amps = figure_within(args.get("breaker", ""), iron.breaker_amps, 0.5, 125.0)
    coupling = SAME_PLACE if args.get("tested") == TESTED_THERE else out.coupling
    return replace(out, breaker_amps=amps, coupling=coupling)


class RewindingShown(Shown, frozen=True, kw_only=True):
    """What every page of a rewinding shows, planned or not."""

    barred: str
    use: Use
    jobs: list[tuple[str, str]]
    metals: list[tuple[str, str]]
    tip_choices: list[tuple[str, str]]
    weld_job: Job | None
    cells: str
    args: Mapping[str, str]
    query: str
    changes: dict[str, str]
    makes: list[tuple[str, str]]
    tested: list[tuple[str, str]]
    results: dict[str, str]
    shots: list[Logged]
    proposed: str
    made_so_far: list[Made]
    iron: CoreToWind | None
    window_words: dict[str, str]
    tools: tuple[str, ...]
    error: FieldError | None = None
    typed_change: Mapping[str, str] = {}
    typed_shot: Mapping[str, str] = {}
    planned: "PlannedShown | None" = None


def _shown(piece: Kept, args: Mapping[str, str]) -> RewindingShown:
    """Everything a rewinding shows."""
    why = barred(piece.ident)
    iron = None if why else drawn(piece, "iron to wind on", lambda: iron_of(piece.ident))
    use, planned = _use(args), None
    job = use.job
    if iron is not None:
        iron = _iron(iron, args)
        use = allowed(iron, use)
        planned = None if use.refused else _planned(piece, iron, use, args)
    shots = shots_of(piece.record)
    return RewindingShown(
        barred=why,
        use=use,
        jobs=JOBS,
        metals=[(key, key) for key in STUFF],
        tip_choices=[(key, key) for key in TIPS],
        weld_job=job,
        cells=CELLS,
        args=args,
        query=_query(args),
        changes=CHANGES,
        makes=MAKES,
        tested=TESTED,
        results=RESULTS,
        shots=shots,
        proposed=proposed(shots),
        made_so_far=made_of(piece.record),
        iron=iron,
        window_words=WINDOW_WORDS,
        tools=TOOLS,
        planned=planned,
    )


def _query(args: Mapping[str, str]) -> str:
    found = args.get("query")
    return found if found is not None else request.query_string.decode("utf-8", "replace")


class PlannedShown(Shown, frozen=True, kw_only=True):
    """The designs, the one that is shown, its pictures, the work."""

    designs: list[Design]
    design: Design
    window: Drawing
    match: Drawing | None
    rows: list[Fit]
    answer: Fit
    mistake: float | None
    buy: list[tuple[Wanted, Item | None]]
    in_hand: list[Held]
    way: Recommended
    had_tools: tuple[str, ...]
    joints: list[tuple[CoreJoint, list[float]]]
    tenth: float
    removal: Drawing
    removal_steps: list[str]
    step_photos: list[str]
    whole: Leave | None
    ends: str
    plan: Sheet
    wanted: dict[str, str]
    ready: ReadyBy | None
    narrower: str
    measured: list[Compared]
    gauge: str
    read: str
    cable: str
    path_parts: str
    clock: dict[str, float] | None


def _planned(piece: Kept, iron: CoreToWind, use: Use, args: Mapping[str, str]) -> PlannedShown:
    """The designs, the one that is shown, its pictures, the work."""
    typed = figure_within(args.get("turns", ""), 0, 0, 500)
    turns = int(typed) or None
    makes = (args["made"],) if args.get("made") else ()
    designs = both(iron, use, turns, makes)
    chosen = better(designs)
    if args.get("shunts") in ("in", "out"):
        wanted = args["shunts"] == "in"
        chosen = next((d for d in designs if d.iron.shunts_in == wanted), chosen)
    tools = tuple(t for t in TOOLS if args.get(f"tool.{t}")) or USUAL_TOOLS
    core = piece.record.core
    way = recommend((core.assembly if core is not None else None) or "welded", tools)
    done = [s.concerns for s in piece.record.statements if s.kind == BUILT]
    plan = sheet(chosen, use, way, done, missing(piece.ident))
    evenings = int(figure_within(args.get("evenings", ""), 0, 0, 365))
    items = stores().of(("wire", "strands"))
    conductor = chosen.conductor
    return PlannedShown(
        designs=designs,
        design=chosen,
        window=_window(chosen),
        match=_match(chosen.iron, use),
        rows=compared(chosen.iron, use),
        answer=fit(iron, use),
        mistake=None if chosen.found.shot is None else mistaken_amps(iron, chosen.found),
        buy=[(w, w.met_by(stores().of((w.kind,)) if w.kind else ())) for w in plan.buy],
        in_hand=[] if conductor is None else in_hand(items, conductor, chosen.metres),
        way=way,
        had_tools=tools,
        joints=wound.joint_amps(iron),
        tenth=wound.amps_of_a_tenth(iron),
        removal=_removal(iron.window, way, plan),
        removal_steps=[w.key for w in way.method.steps] + ["shunts"],
        step_photos=[p.note for p in piece.record.photos],
        whole=wound.left_beside(iron, chosen),
        ends=ENDS_FOR_GOOD,
        plan=plan,
        wanted=WANTED,
        ready=ready_by(plan, evenings) if evenings else None,
        narrower=wound.narrower(piece.ident, chosen),
        measured=compared_with(piece.ident, as_kept(piece.record, PLANNED) or promised_by(chosen)),
        gauge=wound.gauge(chosen),
        read=wound.read_back(
            chosen,
            volts=figure_within(args.get("read_volts", ""), 0.0, 0.0, 1e4),
            turns=int(figure_within(args.get("wound", ""), 0.0, 0.0, 1e4)),
        ),
        cable=wound.cable_proved(
            chosen,
            milliohms=figure_within(args.get("cable_milliohms", ""), 0.0, 0.0, 1e5),
            metres=figure_within(args.get("cable_metres", ""), 0.0, 0.0, 1e4),
        ),
        path_parts=wound.path_rows(chosen),
        clock=wound.shot_clock(chosen, use),
    )


def _removal(window: Window, way: Recommended, plan: Sheet) -> Drawing:
    """The step of taking the coil out that is next, or the one that has a stop line."""
    keys = [w.key for w in way.method.steps] + ["shunts"]
    here = plan.here.work.key if plan.here is not None else ""
    step = here if here in keys else next((k for k in keys if stop_line(k, window)), keys[0])
    return removal_drawing(window, step)


def _window(chosen: Design) -> Drawing:
    """The window with the winding, or with as many turns of the thinnest cable that was wanted."""
    packed = chosen.packed
    turns = chosen.found.turns
    title = f"{turns} turns in the window"
    if packed is not None and chosen.conductor is not None:
        said = f"{turns} × {chosen.conductor.name}"
        return window_drawing(chosen.iron.window, packed, title, said)
    cable = next(c for c in catalogue() if c.made == "cable" and c.mm2 >= WANTED_MM2)
    packed = pack(chosen.iron.window, cable, turns)
    words = f"{turns} turns of {cable.title}: {packed.turns_that_fit} go in"
    return window_drawing(chosen.iron.window, packed, title, words)


def _match(iron: CoreToWind, use: Use) -> Drawing | None:
    """Watts in the job against its ohms, one curve a number of turns."""
    rows = compared(iron, use)[:SHOWN_TURNS]
    counts = [r.turns for r in rows if r.conductor is not None]
    if not counts:
        return None
    fitting = [r for r in rows if r.verdict == "fits" and r.shot is not None]
    top = max(fitting, key=lambda r: r.shot.job_watts if r.shot else 0.0, default=None)
    load = use.load_ohms
    range_ = load if load.low < load.high else Quantity(load.value, load.low / 1.3, load.high * 1.3)

    def of(n: int) -> Any:
        give = into(iron, use, n)
        return lambda ohms: give(ohms).job_watts

    return turns_graph(range_, [(n, of(n)) for n in counts], top.turns if top else None)
