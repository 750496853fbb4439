"""Every danger of a scene in one form, the nearest to the hand first: the rules here, and what the
strip, the notes, the bench, the row, the meters and the handling say.
"""

from collections.abc import Iterator, Sequence

from greyfell.core.danger import build, piece, salvage, supply
from greyfell.core.danger.catalogue import ACTS, FAULTED, HANDLED, ROW, STRIP
from greyfell.core.danger.scene import Scene
from greyfell.core.danger.told import CAUTION, HAND, NOTE, PLAN, POWER, STOP, TOUCH, Danger
from greyfell.core.guidance.cautions import said_at
from greyfell.core.guidance.goals import goal_of
from greyfell.core.guidance.live_notes import live_notes
from greyfell.core.judgement.handling import handling
from greyfell.core.judgement.hazards.find import STOPPED_CODE
from greyfell.core.judgement.high import EITHER, share_to_earth
from greyfell.core.judgement.metering import meter_rules
from greyfell.core.never import BY_KEY
from greyfell.core.rig.bench import Wrong
from greyfell.core.rig.demands import DEMANDS, wrongs
from greyfell.core.rig.needs import needs_of
from greyfell.core.rig.row.speaking import spoken

RULES = (*piece.RULES, *salvage.RULES, *supply.RULES, *build.RULES)
"""Every rule that is declared here."""
DEMANDED = {d.code: d.ids for d in DEMANDS}
SAID_HERE = ("magnetron", "oil", "asbestos")
"""Sentences on handling that a rule here says, at a lower chance."""
HOUSE = "house rule"


def dangers(scene: Scene) -> list[Danger]:
    """Everything that stands, each code and sentence once: what leads, then the nearest and
    gravest.
    """
    found: dict[tuple[str, str], Danger] = {}
    for danger in _all(scene):
        found.setdefault((danger.code, danger.headline), danger)
    leads = _leading(scene)
    return sorted(found.values(), key=lambda d: (_rank(d, leads), *d.order))


def led_by(scene: Scene) -> list[Danger]:
    """What leads: all that is wrong on the bench, then what stands first on the strip."""
    leads = _leading(scene)
    return [d for d in dangers(scene) if d.code in leads]


def _rank(danger: Danger, leads: Sequence[str]) -> int:
    return leads.index(danger.code) if danger.code in leads else len(leads)


def _leading(scene: Scene) -> list[str]:
    """Codes that lead, in their order: of the bench, of a stop, else of the strip's first."""
    if scene.ident is None:
        return []
    wrong = [] if scene.setup is None else wrongs(scene.setup, needs_of(scene.ident))
    stops = [f.code for f in scene.ident.faults if f.severity == STOP]
    first = [h.code for h in scene.ident.hazards[:1]]
    return list(dict.fromkeys([w.code for w in wrong] + (stops or first)))


def _all(scene: Scene) -> Iterator[Danger]:
    for rule in RULES:
        yield from rule.tell(scene)
    yield from _of_act(scene)
    yield from _of_piece(scene)
    yield from _of_bench(scene)
    yield from _of_row(scene)
    yield from _of_use(scene)
    yield from _of_wish(scene)


def _of_act(scene: Scene) -> Iterator[Danger]:
    """What is said where the act happens."""
    share = EITHER if scene.ident is None else share_to_earth(scene.ident.belief)
    for n, sentence in enumerate(said_at(scene.act, share) if scene.act else ()):
        ids = next((ids for words, ids in ACTS.items() if sentence.startswith(words)), ())
        yield Danger(
            code=f"act-{scene.act.replace(' ', '-')}-{n}",
            ids=ids,
            near=HAND,
            severity=CAUTION,
            headline=headline(sentence),
            reason=sentence,
        )


def headline(sentence: str, most: int = 10) -> str:
    """The beginning of a sentence, as many words as a headline has."""
    words = sentence.split()
    if len(words) <= most:
        return sentence
    return " ".join(words[:most]).rstrip(",:;") + " …"


def _of_piece(scene: Scene) -> Iterator[Danger]:
    """Strip, faults, notes, meters, handling."""
    if scene.ident is None:
        return
    for h in scene.ident.hazards:
        if h.code == STOPPED_CODE:
            continue
        yield Danger(
            code=h.code,
            ids=STRIP.get(h.code, ()),
            near=TOUCH if h.code in ("capacitor", "kick") else POWER,
            severity=CAUTION,
            headline=h.headline,
            reason=h.what,
            instead=h.instead,
            source=h.source,
        )
    for f in scene.ident.faults:
        yield Danger(
            code=f.code,
            ids=FAULTED.get(f.code, ()),
            near=POWER,
            severity=f.severity,
            headline=headline(f.sentence),
            reason=f.sentence,
            source=HOUSE,
        )
    for note in live_notes(scene.ident):
        yield Danger(
            code=note.code,
            ids=note.ids,
            near=POWER,
            severity=NOTE,
            headline=note.headline,
            reason=note.reason,
            source=note.source,
        )
    for meter in meter_rules(scene.ident):
        if meter.allowed is False:
            yield Danger(
                code="meter-" + "-".join(meter.points),
                ids=("H12",),
                near=HAND,
                severity=STOP,
                headline=f"{meter.meter} never on {'–'.join(meter.points)}.",
                reason=meter.sentence,
            )
    for held in handling(scene.ident.record, scene.ident.belief):
        if held.code in SAID_HERE:
            continue
        yield Danger(
            code=held.code,
            ids=HANDLED.get(held.code, ()),
            near=TOUCH,
            severity=CAUTION,
            headline=headline(held.sentence),
            reason=held.sentence,
        )


def _of_bench(scene: Scene) -> Iterator[Danger]:
    """Everything that is wrong on the bench."""
    if scene.ident is None or scene.setup is None:
        return
    for wrong in wrongs(scene.setup, needs_of(scene.ident)):
        yield _as_danger(wrong)


def _as_danger(wrong: Wrong) -> Danger:
    source = next(d.source for d in DEMANDS if d.code == wrong.code)
    return Danger(
        code=wrong.code,
        ids=DEMANDED[wrong.code],
        near=POWER,
        severity=STOP,
        headline=headline(wrong.sentence),
        reason=wrong.sentence,
        source=source,
    )


def _of_row(scene: Scene) -> Iterator[Danger]:
    """What the row says."""
    for said in spoken(scene.row) if scene.row is not None else ():
        yield Danger(
            code=said.code,
            ids=ROW.get(said.code, ()),
            near=POWER,
            severity=said.severity,
            headline=said.headline,
            reason=said.sentence,
        )


def _of_wish(scene: Scene) -> Iterator[Danger]:
    """A goal that is never planned, with its reason."""
    goal = None if scene.ident is None else goal_of(scene.ident.record)
    never = None if goal is None else BY_KEY.get(goal.key)
    if never is not None:
        yield Danger(
            code=f"never-{never.key}",
            ids=never.ids,
            near=PLAN,
            severity=STOP,
            headline=headline(f"Never planned: {never.title}."),
            reason=never.why,
            instead=never.instead,
            source=never.source,
        )


def _of_use(scene: Scene) -> Iterator[Danger]:
    """A refused use, with its reason."""
    use = scene.plan.use if scene.plan is not None else None
    if use is not None and use.refused:
        yield Danger(
            code=f"refused-{use.key}",
            ids=BY_KEY[use.key].ids if use.key in BY_KEY else (),
            near=PLAN,
            severity=STOP,
            headline=headline(f"Refused: {use.title}."),
            reason=use.refused,
        )
