"""What the shelf says of a piece in a few words, and what its small drawing needs."""

from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.dangers.own import hazards
from greyfell.core.families.registry import has, usual_shape
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import engineering, span
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.fault import FAULTS
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.step import Step
from greyfell.core.telling.outputs_of_shelf import ShelfOutput, outputs
from greyfell.core.telling.words import Mood

LIVE = 0.5
"""From this share of the supply a no-load reading counts as first power. House rule."""
KILOVOLTS = {"core-live", "hv", "hv-to-case"}
"""Hazards that name kilovolts."""
WHERE = {"core-live": ", core live", "hv-to-case": " across, half to case"}
"""Where the kilovolts stand, behind their figure."""


class Headline(Struct, frozen=True):
    """Danger rank (0 none known … 5 stop), few words, and their mood."""

    danger: int
    words: str
    mood: Mood


class Summary(Struct, frozen=True):
    """Family, how sure, danger rank, a headline with its mood, how far tested, a sketch, and what
    it gives.
    """

    family: str
    sure: float
    danger: int
    headline: str
    mood: str
    reached: str
    next_step: str
    sketch: dict[str, Any]
    outputs: tuple[ShelfOutput, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """For the cache."""
        return {
            "family": self.family,
            "sure": self.sure,
            "danger": self.danger,
            "headline": self.headline,
            "mood": self.mood,
            "reached": self.reached,
            "next_step": self.next_step,
            "sketch": self.sketch,
        }


def summarise(ident: Identification, steps: Sequence[Step]) -> Summary:
    """The shelf's view of a piece, with its next steps. Pure."""
    headline = next(h for rule in HEADLINES for h in rule(ident))
    return Summary(
        family=ident.family,
        sure=round(ident.sure, 6),
        danger=headline.danger,
        headline=headline.words,
        mood=headline.mood,
        reached=reached(ident),
        next_step=steps[0].title,
        sketch=sketch(ident),
        outputs=tuple(outputs(ident)),
    )


# ------------------------------------------------------------------ headlines, the gravest first


def _stopped(ident: Identification) -> Iterable[Headline]:
    if ident.stop is not None:
        words = FAULTS[ident.stop.code].headline
        yield Headline(5, f"stop: {words} ({ident.stop.ends})", "stop")


def _high(ident: Identification) -> Iterable[Headline]:
    codes = {danger.code for danger in hazards(ident)}
    high = (w.volts for w in ident.windings if w.role == "hv-secondary" and w.volts is not None)
    volts = next(high, None)
    if volts is not None:
        where = next((WHERE[c] for c in WHERE if c in codes), "")
        yield Headline(4, f"{_span(volts)}{where}", "stop")
    elif KILOVOLTS & codes:
        yield Headline(4, "kilovolts, not yet measured", "stop")
    elif "hv-not-ruled-out" in codes:
        yield Headline(3, "HV not ruled out", "caution")


def _doubtful(ident: Identification) -> Iterable[Headline]:
    for fault in ident.faults:
        if fault.severity == "caution":
            yield Headline(3, fault.words, "caution")


def _outputs(ident: Identification) -> Iterable[Headline]:
    volts = [w.volts for w in ident.windings if w.volts is not None and not w.on_mains]
    if volts:
        tested = ident.verdict in ("proved", "screened")
        danger = 2 if any(v.high > TOUCH_VOLTS for v in volts) else 1
        words = ", ".join(_span(v) for v in volts[:2])
        yield Headline(danger, words, "sound" if tested else "quiet")


def _single(ident: Identification) -> Iterable[Headline]:
    if ident.family == "choke" and ident.windings:
        ohms = engineering(ident.windings[0].coil.ohms.value, "Ω")
        yield Headline(2, f"choke, {ohms} of copper", "quiet")
    if has(ident.family, "isolates_nothing"):
        yield Headline(2, "one winding: no isolation", "caution")


def _unknown(ident: Identification) -> Iterable[Headline]:
    yield Headline(3, "not yet known: take it for live", "caution")


HEADLINES = (_stopped, _high, _doubtful, _outputs, _single, _unknown)
"""The first that has something to say is the shelf's headline."""


def _span(volts: Quantity) -> str:
    return span(volts.low, volts.high, "V")


# ------------------------------------------------------------------ how far, and the sketch


def reached(ident: Identification) -> str:
    """How far a piece is tested: the last station with a reading, or its end."""
    if ident.verdict == "condemned":
        return "condemned"
    record = ident.record
    no_load = [r.volts for r in record.standing if r.kind == "no_load"]
    if any(volts > LIVE * record.supply.volts for volts in no_load):
        return "first power"
    reached = {r.reaches for r in record.standing}
    if "low" in reached:
        return "low energy"
    if "cold" in reached:
        return "cold"
    return "clues" if record.leads else "salvage"


def _in_small(w: Winding, colours: dict[str, str], broken: set[str]) -> dict[str, Any]:
    first, last = w.coil.leads
    along = [x for x in (first, *(t.lead for t in w.taps), last) if x in colours]
    return {
        "role": w.role,
        "bond": w.coil.bond,
        "broken": bool(set(w.coil.members) & broken),
        "leads": [[x, colours[x]] for x in along],
    }


def sketch(ident: Identification) -> dict[str, Any]:
    """Few plain facts for the small drawing: shape, windings in the order they sit, leads' colours,
    bonds, breaks.
    """
    record = ident.record
    colours = {lead.id: (lead.colour or "") for lead in record.leads}
    broken = {x for f in ident.faults if f.severity == "stop" for x in f.leads}
    windings = [_in_small(w, colours, broken) for w in ident.windings]
    placed = {x for w in windings for x, _ in w["leads"]}
    shape = record.core.shape if record.core else None
    return {
        "shape": shape or usual_shape(ident.family),
        "shunts": record.core is not None and record.core.shunts == "present",
        "windings": windings,
        "loose": [[x, c] for x, c in colours.items() if x not in placed],
    }
