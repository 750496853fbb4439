"""The salvage station as it is shown: the gate with its steps, the decay of this chain, what
handling the piece asks for, a capacitor's label explained.
"""

from collections.abc import ItemsView
from datetime import datetime, timedelta
from typing import Any

from greyfell.core.dangers.of_handling import Handling, handling
from greyfell.core.errors import FieldError
from greyfell.core.evidence.label import MOST_LABEL, CapacitorLabel, read_label
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.planners.discharge import DISCHARGE
from greyfell.core.steps.salvage import STEP, STEPS, USUAL_FARADS, GateStep, Walk, walk
from greyfell.core.telling.words import ASIDE, ELSEWHERE_WORDS, SALVAGE_WORDS
from greyfell.records.rows import Kept
from greyfell.web.drawings.plans import drawing_of
from greyfell.web.showing import Shown


class SalvageShown(Shown, frozen=True, kw_only=True):
    """The gate of the capacitor as it stands: its steps, its words, what may be left aside."""

    handling: tuple[Handling, ...]
    salvage_choices: ItemsView[str, str]
    elsewhere: ItemsView[str, str]
    walk: Walk
    gate_steps: tuple[GateStep, ...]
    safe_volts: float
    salvage_steps: str
    aside: tuple[str, ...]


def salvage_shown(piece: Kept) -> SalvageShown:
    """What the station shows as long as the record stands."""
    done = walk(piece.record.statements)
    ident = piece.ident
    return SalvageShown(
        handling=handling(ident),
        salvage_choices=SALVAGE_WORDS.items(),
        elsewhere=ELSEWHERE_WORDS.items(),
        walk=done,
        gate_steps=STEPS,
        safe_volts=TOUCH_VOLTS,
        salvage_steps=STEP,
        aside=ASIDE,
    )


def decay_of(done: Walk, now: datetime) -> Any:
    """How this chain lets the capacitor down, and where it stands now while it is held; an oven's
    usual one where it was not read.
    """
    found, chain = done.when("found"), done.when("chain")
    ohms = chain.value if chain is not None and chain.value else None
    if ohms is None:
        return None
    farads = found.value if found is not None and found.value else USUAL_FARADS
    told = {
        "capacitance_farads": farads,
        "rated_volts_ac": OVEN_VOLTS,
        "resistor_ohms": ohms,
        "resistor_volts": 1e5,
        "resistor_watts": 1e3,
    }
    if done.here is not None and done.here.key == "held" and done.waits is not None:
        held = (now - done.waits[0]) / timedelta(seconds=1)
        told["interrupted_after_seconds"] = min(max(held, 0.0), MOST_HELD)
    return drawing_of(DISCHARGE, DISCHARGE.plan(DISCHARGE.read(told)), None)


MOST_HELD = 3600.0
OVEN_VOLTS = 2100.0
"""AC rating of most ovens' capacitors. REF-R-T3."""


class LabelledShown(Shown, frozen=True, kw_only=True):
    """A capacitor's label as it was typed, and what it says or why it says nothing."""

    label_text: str
    label: CapacitorLabel | None
    label_refused: str


def labelled(text: str) -> LabelledShown:
    """A capacitor's label as it was typed, and what it says or why it says nothing."""
    if not text.strip():
        return LabelledShown(label_text="", label=None, label_refused="")
    try:
        return LabelledShown(label_text=text, label=read_label(text), label_refused="")
    except FieldError as error:
        return LabelledShown(label_text=text[:MOST_LABEL], label=None, label_refused=error.sentence)
