"""A hidden piece answered by the program's own next step alone, to the end; and by one who connects
at random, for comparison.
"""

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from msgspec import Struct, field

from greyfell.core.dangers.of_act import TESTER_ACTS
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.identification import Identification
from greyfell.core.lessons.hookup import TESTER, Hookup, Mishap, mishaps
from greyfell.core.lessons.irons import OfHidden
from greyfell.core.lessons.readings import polarity, reading_of, turns_read
from greyfell.core.simulated.hidden import Hidden
from greyfell.core.simulated.meters import BOND
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.step import Step

MOST_STEPS = 60
LEAST_TOLD = 0.05
"""A reading worth less, in nats, is told without its worth."""
LOW = 12.0
STATED = {
    "capacitor": {
        "kind": "salvage-none",
        "concerns": "capacitor",
        "text": "it came loose: no capacitor, no donor near it",
    },
    "none here": {
        "kind": "salvage-none",
        "concerns": "capacitor",
        "text": "it came loose: no capacitor, no donor near it",
    },
}
"""What somebody answers who has only the loose piece."""


class Answer(Struct):
    """How a hidden piece was answered: what is concluded, readings taken, what would have
    happened, the moves one by one.
    """

    ident: Identification
    taken: int
    happened: list[Mishap] = field(default_factory=list)
    moves: list[str] = field(default_factory=list)
    ended: bool = False


def by_advice(hidden: Hidden, *, most: int = MOST_STEPS, live: bool = False) -> Answer:
    """The next step taken until none is left, an instrument is missing for all of the rest, or a
    stop stands that its own reading repeats.
    """
    document = {**hidden.document, "statements": [], "readings": []}
    ident = identify(parse_record(document))
    out = Answer(ident=ident, taken=0)
    lacking: set[Key] = set()
    done: dict[Key, int] = {}
    for _ in range(most):
        steps = [s for s in next_steps(out.ident) if _key(s) not in lacking]
        step = next((s for s in steps if s.kind != "none"), None)
        if step is None or (step.energy == "live" and not live):
            out.ended = True
            break
        key = _key(step)
        done[key] = done.get(key, 0) + 1
        if done[key] > MOST_ALIKE or not _take(hidden, document, step, out):
            lacking.add(key)
            continue
        out.ident = identify(parse_record(document))
    out.taken = len(document["readings"])
    return out


Key = tuple[str, tuple[tuple[str, tuple[str, ...]], ...]]


def _key(step: Step) -> Key:
    """An act on its leads."""
    return step.act, tuple(sorted(step.leads.items()))


MOST_ALIKE = 2
"""The same step is taken so often; then what it would tell is told."""


def _take(hidden: Hidden, document: dict[str, Any], step: Step, out: Answer) -> bool:
    """Do what a step says; False where nothing comes of it."""
    if step.act in STATED:
        document["statements"] = [*document["statements"], dict(STATED[step.act])]
        return True
    if step.act == "bond":
        document["readings"] = [*document["readings"], {**BOND, "id": _next(document)}]
        return True
    maker = DOING.get(step.act)
    if maker is None:
        return False
    found = maker(hidden, step, len(document["readings"]), out)
    if found is None:
        return False
    document["readings"] = [*document["readings"], found]
    worth = f", worth {step.worth:.1f}" if step.worth >= LEAST_TOLD else ""
    out.moves.append(f"{step.title}{worth}")
    return True


def _next(document: dict[str, Any]) -> str:
    return f"r{len(document['readings']) + 1}"


Made = dict[str, Any] | None


def _hooked(hidden: Hidden, hookup: Hookup, taken: int, out: Answer) -> Made:
    """A hook-up made: what would have happened is kept, and what it shows."""
    out.happened += mishaps(hookup, OfHidden(hidden))
    try:
        return reading_of(hidden, hookup, taken)
    except FieldError:
        return None


def _pair(step: Step, *names: str) -> tuple[str, str] | None:
    """The pair a step names."""
    for name in names:
        pair = step.leads.get(name)
        if pair is not None and len(pair) == 2:
            return (pair[0], pair[1])
    return None


def _dead(instrument: str) -> Callable[[Hidden, Step, int, Answer], Made]:
    def make(hidden: Hidden, step: Step, taken: int, out: Answer) -> Made:
        pair = _pair(step, "between", "across")
        if pair is None:
            return None
        return _hooked(hidden, Hookup(instrument=instrument, points=pair), taken, out)

    return make


def _proof(hidden: Hidden, _step: Step, taken: int, out: Answer) -> Made:
    return _hooked(hidden, Hookup(instrument="ohms", points=("core", "earth")), taken, out)


def _driven(volts: float) -> Callable[[Hidden, Step, int, Answer], Made]:
    def make(hidden: Hidden, step: Step, taken: int, out: Answer) -> Made:
        driven, sensed = _pair(step, "driven"), _pair(step, "sensed")
        if driven is None or sensed is None:
            return None
        hookup = Hookup(source="low", driven=driven, volts=volts, instrument="volts", points=sensed)
        return _hooked(hidden, hookup, taken, out)

    return make


def _turned(hidden: Hidden, step: Step, taken: int, out: Answer) -> Made:
    driven = _pair(step, "driven")
    if driven is None:
        return None
    out.happened += mishaps(Hookup(source="low", driven=driven, volts=6.0), OfHidden(hidden))
    try:
        return turns_read(hidden, driven, 6.0, taken)
    except FieldError:
        return None


def _polarity(hidden: Hidden, step: Step, taken: int, _out: Answer) -> Made:
    driven, other = _pair(step, "driven"), _pair(step, "other", "joined")
    if driven is None or other is None:
        return None
    try:
        return polarity(hidden, driven, other, LOW, taken)
    except FieldError:
        return None


DOING: dict[str, Callable[[Hidden, Step, int, Answer], Made]] = {
    "core proof": _proof,
    "ohms": _dead("ohms"),
    "order": _dead("ohms"),
    "place": _dead("ohms"),
    "open to core": _dead("ohms"),
    "repeat": _dead("ohms"),
    "clear": _dead("ohms"),
    **dict.fromkeys(TESTER_ACTS, _dead(TESTER)),
    "milliohms": _dead("milliohm"),
    "inductance": _dead("henries"),
    "ratio": _driven(LOW),
    "cautious ratio": _driven(3.0),
    "reverse ratio": _driven(42.0),
    "test turns": _turned,
    "polarity": _polarity,
}
"""How each act is done at a practice bench."""


def at_random(hidden: Hidden, moves: int, rng: np.random.Generator) -> Answer:
    """So many hook-ups by one who connects whatever lies near: what is then concluded, and what
    would have happened.
    """
    document = {**hidden.document, "readings": []}
    out = Answer(ident=identify(parse_record(document)), taken=0)
    for hookup in _wild(hidden, moves, rng):
        found = _hooked(hidden, hookup, len(document["readings"]), out)
        if found is not None:
            document["readings"] = [*document["readings"], found]
    out.ident = identify(parse_record(document))
    out.taken = len(document["readings"])
    return out


INSTRUMENTS = ["ohms", "volts", "henries", "milliohm", TESTER]
SOURCES = ["none", "none", "none", "low", "line", "lamp"]


def _wild(hidden: Hidden, moves: int, rng: np.random.Generator) -> Iterator[Hookup]:
    points = [*(x["id"] for x in hidden.document["leads"]), "core"]
    for _ in range(moves):
        a, b, c, d = (str(x) for x in rng.choice(points, 4, replace=len(points) < 4))
        source = str(rng.choice(SOURCES))
        volts = {"none": 0.0, "low": LOW}.get(source, hidden.region.volts)
        driven = None if source == "none" or a == b else (a, b)
        if c == d or (source != "none" and driven is None):
            continue
        instrument = str(rng.choice(INSTRUMENTS))
        yield Hookup(
            source=source,
            driven=driven,
            volts=volts,
            instrument=instrument,
            points=(c, d),
            held=str(rng.choice(["clips", "hand"])),
            earthed=bool(rng.random() < 0.5),
            covered=bool(rng.random() < 0.5),
        )
