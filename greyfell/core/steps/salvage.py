"""Salvage walked step by step: each step taken once, with its time, in its order; volts above the
safe limit lead back to the discharge. Nothing here reads a clock: times are handed in.

The sequence and its limits: IEEE Std 510-1983 for the resistor first, then a short left on;
REF-R-06 and R-08 for how long and for what comes back; the rest common practice.
"""

import math
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any, Literal

from msgspec import Struct

from greyfell.core.dangers.of_act import said_at
from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Statement
from greyfell.core.evidence.times import in_order, moment
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import engineering, parse_quantity
from greyfell.core.judgement.salvage import DONE
from greyfell.core.planners.discharge import HOLD_CONSTANTS, LEAST_HOLD

STEP = "salvage-step"
"""Kind of statement: one step."""
WAIT_SECONDS = 300.0
"""Dielectric absorption gives volts back within minutes. REF-R-08, common practice."""
USUAL_FARADS = 1.25e-6
"""The largest of an oven's capacitors with its tolerance. REF-R-T3, common practice."""
LEAST_CHAIN, MOST_CHAIN = 1e3, 2e6
"""A chain of fewer ohms than this is no chain but a spark; of more it takes too long to be held.
REF-R-08 says 1 to 100 kΩ for one capacitor; a stick of several resistors has more."""
Asks = Literal["", "farads", "ohms", "volts"]


class GateStep(Struct, frozen=True, kw_only=True):
    """One step: its key, what is done, why, what is typed (nothing, farads, ohms or volts)."""

    key: str
    title: str
    do: str
    asks: Asks = ""

    @property
    def cautions(self) -> tuple[str, ...]:
        """What is said where it is done."""
        return said_at(self.key)


STEPS = (
    GateStep(
        key="plug",
        title="Plug out, and in sight",
        do="Pull the plug yourself and lay it where you see it.",
    ),
    GateStep(
        key="found",
        title="Find the capacitor",
        do=(
            "A metal can with two tabs beside the transformer, a diode on it; some sets have a "
            "second one, some a battery. Type its µF if you can read it; touch nothing yet."
        ),
        asks="farads",
    ),
    GateStep(
        key="chain",
        title="Check the chain on its stick",
        do=(
            "Read the ohms of the resistor chain, hook to clip, before it is trusted. With pliers "
            "only: insulated handles, both terminals at once, several seconds; type 0."
        ),
        asks="ohms",
    ),
    GateStep(
        key="holding",
        title="Hook it across the terminals, and hold",
        do="One hand on the stick, nothing else touched. Tap when it is on; the clock counts.",
    ),
    GateStep(
        key="held",
        title="Then each terminal to the can",
        do="When the clock has run out: chain from one terminal to the can, then from the other.",
    ),
    GateStep(
        key="short",
        title="Touch a short across, and take it off",
        do="An insulated wire across the terminals for a second: a chain may have failed unseen.",
    ),
    GateStep(
        key="proved",
        title="Prove the meter",
        do="DC volts, its highest range, on a source you know: a battery will do.",
    ),
    GateStep(
        key="measured",
        title="Measure it",
        do="DC volts across the terminals, then each terminal to the can. Type the most of them.",
        asks="volts",
    ),
    GateStep(
        key="again",
        title="Wait five minutes, open, and measure again",
        do="1 to 10 % of what stood there can come back by itself. Type the most.",
        asks="volts",
    ),
    GateStep(
        key="clip",
        title="Clip a short on, and leave it on",
        do="An insulated lead with clips across the terminals stays there until it is used again.",
    ),
)
"""Every step, in order."""
ORDER = {step.key: n for n, step in enumerate(STEPS)}
BACK = ORDER["holding"]
"""Where volts above the limit lead back to."""


class Taken(Struct, frozen=True):
    """A step that was taken: which, when, what was typed, in SI; and how it is said."""

    step: GateStep
    at: datetime
    value: float | None
    said: str


class Walk(Struct, frozen=True):
    """How far a salvage is: steps taken since it last began anew, the one that is next (None when
    all are done), and whether volts were found that led back.
    """

    taken: tuple[Taken, ...]
    here: GateStep | None
    again: bool = False

    def when(self, key: str) -> Taken | None:
        """The step of a key, where it was taken."""
        return next((t for t in self.taken if t.step.key == key), None)

    @property
    def hold_seconds(self) -> float:
        """How long this chain is held on this capacitor: ten time constants, at least five seconds.
        REF-R-06.
        """
        found, chain = self.when("found"), self.when("chain")
        farads = USUAL_FARADS if found is None or not found.value else found.value
        ohms = chain.value if chain is not None and chain.value else 0.0
        return max(LEAST_HOLD, HOLD_CONSTANTS * ohms * farads)

    @property
    def waits(self) -> tuple[datetime, float] | None:
        """From when, and for how many seconds, the next step has to wait; None where it need
        not.
        """
        key = "" if self.here is None else self.here.key
        after = {"held": ("holding", self.hold_seconds), "again": ("measured", WAIT_SECONDS)}
        before, seconds = after.get(key, ("", 0.0))
        since = self.when(before)
        return None if since is None else (since.at, seconds)

    def left(self, now: datetime) -> float:
        """Seconds until the next step may be taken; nought where it need not wait."""
        if self.waits is None:
            return 0.0
        since, seconds = self.waits
        return max(0.0, seconds - (now - since) / timedelta(seconds=1))


def walk(statements: Sequence[Statement]) -> Walk:
    """How far a salvage is, by the statements of its steps. Pure. A step out of its order counts
    for nothing.
    """
    taken: list[Taken] = []
    again = False
    for said in sorted(in_order(statements), key=_when):
        step = STEPS[len(taken)] if len(taken) < len(STEPS) else None
        if said.kind != STEP or said.at is None or step is None or said.concerns != step.key:
            continue
        value = (said.model_extra or {}).get("value")
        value = float(value) if isinstance(value, int | float) else None
        taken.append(Taken(step, datetime.fromisoformat(said.at), value, said.text))
        if step.asks == "volts" and (value is None or value > TOUCH_VOLTS):
            taken, again = taken[:BACK], True
    here = STEPS[len(taken)] if len(taken) < len(STEPS) else None
    return Walk(tuple(taken), here, again and here is not None)


def _when(said: Statement) -> tuple[float, int]:
    """Steps of one moment in the order of the walk."""
    when = moment(said.at)
    return (when.timestamp() if when is not None else 0.0, ORDER.get(said.concerns, -1))


def take(done: Walk, given: Mapping[str, str], now: datetime) -> list[dict[str, Any]]:
    """The statements that taking the next step adds. Raises FieldError where it is not the next,
    comes too early, or lacks its figure; nothing is filled in.
    """
    step = done.here
    if step is None or given.get("step") != step.key:
        raise FieldError("step", "That step is not the next one; look at the list again.")
    left = done.left(now)
    if left > 0:
        raise FieldError("step", f"Too early: {math.ceil(left)} s are still to go.")
    value, said = _figure(step, given.get("value", "").strip(), done)
    new: dict[str, Any] = {"kind": STEP, "concerns": step.key, "text": said, "at": now.isoformat()}
    if value is not None:
        new["value"] = value
    out: list[dict[str, Any]] = [new]
    if step.key == "clip":
        last = done.when("again")
        whole = {"kind": DONE, "concerns": "capacitor", "text": _whole(done), "at": new["at"]}
        out.append(whole if last is None else {**whole, "volts": last.value})
    return out


def _figure(step: GateStep, text: str, done: Walk) -> tuple[float | None, str]:
    """What is typed at a step, in SI, and in words."""
    if not step.asks:
        return None, step.title
    if step.asks == "farads":
        if not text:
            return None, f"{step.title}: not read, {engineering(USUAL_FARADS, 'F')} taken"
        farads = parse_quantity(text, "farad", field="value")
        if not 0 < farads <= 1:
            raise FieldError("value", "Microfarads are meant: 0.95µF. Leave it empty if unread.")
        return farads, engineering(farads, "F")
    if not text:
        wanted = {"ohms": "the ohms of the chain", "volts": "the volts it shows"}[step.asks]
        raise FieldError("value", f"Type {wanted}; nothing was given.")
    if step.asks == "ohms":
        return _chain(text)
    volts = abs(parse_quantity(text, "volt", field="value"))
    return volts, engineering(volts, "V")


def _chain(text: str) -> tuple[float, str]:
    """The chain's ohms; nought for who has only pliers."""
    if text.lower() in ("ol", "open", "o"):
        raise FieldError(
            "value",
            "A chain that reads open discharges nothing: mend it, and read it again. The gate "
            "stays shut.",
        )
    ohms = parse_quantity(text, "ohm", field="value")
    if ohms == 0:
        return 0.0, "pliers with insulated handles, no chain"
    if not LEAST_CHAIN <= ohms <= MOST_CHAIN:
        raise FieldError(
            "value",
            f"A chain has {engineering(LEAST_CHAIN, 'Ω')} to {engineering(MOST_CHAIN, 'Ω')}; "
            f"{engineering(ohms, 'Ω')} was read. Look at each resistor of it.",
        )
    return ohms, engineering(ohms, "Ω")


def _whole(done: Walk) -> str:
    """The salvage in a line, as the record keeps it."""
    first, later = done.when("measured"), done.when("again")
    seconds = 0.0
    if first is not None and later is not None:
        seconds = (later.at - first.at) / timedelta(seconds=1)
    volts = ", ".join(t.said for t in (first, later) if t is not None)
    return f"discharged, shorted, {volts} after {seconds / 60:.0f} min, short left on"
