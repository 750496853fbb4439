"""What somebody wants of a piece, said first: what this goal still lacks, how long that takes and
what to borrow, why the other tests need not be done for it, and when it can never be reached.

A goal orders tests among their like; it never skips the capacitor, a stop, or the gate.
"""

import re
from collections import defaultdict
from collections.abc import Callable, Sequence

from msgspec import Struct

from greyfell.core.dangers.of_wish import GOAL, wished
from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.reading import Demand
from greyfell.core.evidence.kinds.registry import meeting, that_meet
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import bars_of, family_of
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.identification import Identification
from greyfell.core.never import BY_KEY, wish
from greyfell.core.steps.step import Step

SURE = 0.9
"""From this chance a family counts as told. House rule."""
LEAST_KG, LEAST_VA = 1.5, 250.0
"""A lighter core, or a plate of fewer volt-amperes, gives no hundreds of amps. Common practice."""
BENCH_VA = 50.0
"""Less than this feeds no bench. House rule."""
TOLD_VOLTS = 1.1
"""Volts are known for a use where their range is no wider than this factor. House rule."""


class Need(Struct, frozen=True, kw_only=True):
    """One thing that a goal needs on record: in words, the demand that readings meet, minutes,
    what is used, and whether it is there.
    """

    words: str
    demand: Demand
    minutes: float
    tool: str
    there: Callable[[Identification], bool]

    @property
    def kinds(self) -> tuple[str, ...]:
        """Kinds of readings that meet it."""
        return that_meet(self.demand)


class Goal(Struct, frozen=True, kw_only=True):
    """One goal: its key, title, needs in order, why a piece can never reach it, and the words by
    which it is said.
    """

    key: str
    title: str
    needs: tuple[Need, ...]
    never: Callable[[Identification], str]
    said_as: str = ""

    @property
    def kinds(self) -> tuple[str, ...]:
        """Every kind of test that serves it."""
        return tuple(dict.fromkeys(k for need in self.needs for k in need.kinds))


class GoalStanding(Struct, frozen=True, kw_only=True):
    """How a goal stands on a piece: what is lacking, minutes of it, what to borrow, why it can
    never be, which tests of those proposed need not be done for it.
    """

    goal: Goal
    lacking: tuple[Need, ...]
    never: str
    spared: tuple[str, ...]

    @property
    def minutes(self) -> float:
        """Minutes of what is lacking."""
        return sum(need.minutes for need in self.lacking)

    @property
    def borrow(self) -> tuple[str, ...]:
        """Instruments beyond a pocket meter."""
        tools = (need.tool for need in self.lacking if need.tool != METER)
        return tuple(dict.fromkeys(tools))

    @property
    def words(self) -> str:
        """In a sentence."""
        if self.goal.key in BY_KEY:
            return f"Never planned. {self.never}"
        if self.never:
            return f"It can never be that: {self.never}"
        if not self.goal.needs:
            return NO_LIST
        if not self.lacking:
            return "Everything this goal needs is on record."
        count = len(self.lacking)
        readings = "reading" if count == 1 else "readings"
        return f"{count} {readings} left, about {self.minutes:.0f} minutes."


METER = "pocket meter"
NO_LIST = (
    "kept as it was said. No list of readings serves it: the steps go on as they are, and “uses” "
    "tells what this iron can become."
)


def _read(demand: Demand) -> Callable[[Identification], bool]:
    return lambda ident: bool(meeting(demand, ident.record.standing))


def primary_proved(ident: Identification) -> bool:
    """Its primary is found and read open to the core, or to a lead on the core."""
    primary = ident.belief.primary
    leads = set() if primary is None else set(primary.coil.members)
    iron = {"core", *ident.topology.core_leads}
    read = meeting("open to the core", ident.record.standing)
    return any(r.is_open and iron & set(r.between) and leads & set(r.between) for r in read)


def _family_told(ident: Identification) -> bool:
    return max(ident.belief.families.values(), default=0.0) >= SURE


def _turns_told(ident: Identification) -> bool:
    q = ident.belief.volts_per_turn
    return q is not None and q.high / q.low <= TOLD_VOLTS**2


def _volts_told(ident: Identification) -> bool:
    fed = set(ident.belief.fed)
    outputs = [w.volts for w in ident.windings if not set(w.coil.leads) & fed]
    return any(q is not None and q.high / q.low <= TOLD_VOLTS**2 for q in outputs)


def _bond_told(ident: Identification) -> bool:
    bond = bond_of(ident.record, ident.topology.core_leads)
    return bond is not None and bond.proved


def _kilograms(record: Transformer) -> float | None:
    return record.core.mass_kg if record.core is not None else None


def _plate_va(record: Transformer) -> float | None:
    return record.nameplate.va if record.nameplate is not None else None


def _barred(ident: Identification, goal: str) -> str:
    """Why the family that a piece is likely of is barred from a goal; empty where it is not."""
    declared = family_of(ident.record.declared_family)
    why = getattr(declared.bars, goal) if declared is not None else ""
    likely: dict[str, float] = defaultdict(float)
    for key, chance in ident.belief.families.items():
        likely[getattr(bars_of(key), goal)] += chance
    told = max(likely, key=likely.__getitem__, default="")
    return str(why or (told if likely.get(told, 0.0) >= SURE else ""))


def _no_amps(ident: Identification) -> str:
    """Why no core like this gives hundreds of amps."""
    record = ident.record
    kilograms, va = _kilograms(record), _plate_va(record)
    if record.core is not None and (record.core.potted or record.core.assembly == "potted"):
        return "it is potted: its coils do not come out whole."
    barred = _barred(ident, "amps")
    if barred:
        return barred
    if kilograms is not None and kilograms < LEAST_KG:
        return f"a core of {kilograms:g} kg gives no hundreds of amps; {LEAST_KG:g} kg and more do."
    if va is not None and va < LEAST_VA:
        return f"its plate says {va:g} VA; {LEAST_VA:g} VA and more give hundreds of amps."
    return ""


def _no_lamps(ident: Identification) -> str:
    return _barred(ident, "lamps")


def _no_isolation(ident: Identification) -> str:
    va = _plate_va(ident.record)
    barred = _barred(ident, "isolation")
    if barred:
        return barred
    if va is not None and va < BENCH_VA:
        return f"its plate says {va:g} VA; a bench wants {BENCH_VA:g} VA and more."
    return ""


CORE = Need(
    words="two bare spots of the core, so that open to it counts",
    demand="core proved",
    minutes=2,
    tool=METER,
    there=_read("core proved"),
)
OHMS = Need(
    words="ohms of every pair that may be a winding",
    demand="ohms of pairs",
    minutes=8,
    tool=METER,
    there=lambda ident: bool(ident.windings),
)
PROVED = Need(
    words="the primary open to the core",
    demand="open to the core",
    minutes=2,
    tool=METER,
    there=primary_proved,
)
GOALS: tuple[Goal, ...] = (
    Goal(
        key="what-is-it",
        title="What is it?",
        said_as=r"what (?:is|have|kind|sort)|identif|name it",
        needs=(
            CORE,
            OHMS,
            Need(
                words="one ratio at a low drive, or an inductance: it parts the families",
                demand="family told",
                minutes=6,
                tool="low AC source",
                there=_family_told,
            ),
        ),
        never=lambda _ident: "",
    ),
    Goal(
        key="tab-welder",
        title="A tab welder",
        said_as=r"(?:tab|spot|battery|cell|nickel|stud)s?[- ]weld|weld\w* .*(?:tab|cell|batter)",
        needs=(
            CORE,
            OHMS,
            PROVED,
            Need(
                words="volts per turn: five test turns through both windows",
                demand="volts per turn",
                minutes=10,
                tool="low AC source",
                there=_turns_told,
            ),
            Need(
                words="amps and watts at no load, before the saw",
                demand="idle amps",
                minutes=15,
                tool="wattmeter",
                there=_read("idle amps"),
            ),
        ),
        never=_no_amps,
    ),
    Goal(
        key="lamps-12",
        title="12 V for lamps",
        said_as=r"\b12 ?v|\blamps?\b|\blights?\b|\blighting\b|\bLED",
        needs=(
            CORE,
            OHMS,
            PROVED,
            Need(
                words="volts of an output by a ratio",
                demand="output volts",
                minutes=6,
                tool="low AC source",
                there=_volts_told,
            ),
            Need(
                words="500 V between the mains winding and the output",
                demand="insulation tested",
                minutes=5,
                tool="insulation tester",
                there=_read("insulation tested"),
            ),
        ),
        never=_no_lamps,
    ),
    Goal(
        key="isolated-bench",
        title="An isolated bench",
        said_as=r"\bisolat\w*|\bfloating\b",
        needs=(
            CORE,
            OHMS,
            PROVED,
            Need(
                words="500 V between mains and output, and each to the core",
                demand="insulation tested",
                minutes=10,
                tool="insulation tester",
                there=_read("insulation tested"),
            ),
            Need(
                words="the bond of the core to earth by an ampere",
                demand="bond",
                minutes=8,
                tool="bench supply of 10 A",
                there=_bond_told,
            ),
            Need(
                words="leakage of the output to earth",
                demand="leakage",
                minutes=10,
                tool="microammeter and 2 kΩ",
                there=_read("leakage amps"),
            ),
        ),
        never=_no_isolation,
    ),
)
"""Goals that may be said."""


OWN = "own"
"""What a goal in own words concerns that is none of the list."""


def meant(text: str) -> Goal:
    """The goal that somebody's own words mean; one without needs where they mean none of the list.
    Raises FieldError where it is never planned.
    """
    told = wish(text)
    if told is not None:
        raise FieldError("goal", told.sentence)
    found = (g for g in GOALS if re.search(g.said_as, text, re.I))
    return next(found, Goal(key=OWN, title=text, needs=(), never=lambda _ident: ""))


def goal_of(record: Transformer) -> Goal | None:
    """The goal that was said last; None where none was, or it was taken back. One that is never
    planned is told as that, whatever it says it concerns.
    """
    said = next((s for s in reversed(record.statements) if s.kind == GOAL), None)
    if said is None:
        return None
    told = wished(record)
    if told is not None:
        why = told.sentence
        return Goal(key=told.key, title=told.title, needs=(), never=lambda _ident: why)
    if said.concerns == OWN:
        return Goal(key=OWN, title=said.text or OWN, needs=(), never=lambda _ident: "")
    return next((g for g in GOALS if g.key == said.concerns), None)


def by_goal(found: Sequence[Step], goal: Goal | None) -> list[Step]:
    """Steps with those first that serve the goal, of cold and of low ones each among their like.
    Pure.
    """
    if goal is None:
        return list(found)
    out = list(found)
    for energy in ("cold", "low"):
        places = [n for n, s in enumerate(out) if s.energy == energy and s.act != FIRST]
        sorted_ = sorted((out[n] for n in places), key=lambda s: s.kind not in goal.kinds)
        for n, step in zip(places, sorted_, strict=True):
            out[n] = step
    return out


FIRST = "repeat"
"""What is to be read again stays where it stands."""


def standing(ident: Identification, proposed: Sequence[Step]) -> GoalStanding | None:
    """How the goal of a piece stands; None where none was said."""
    goal = goal_of(ident.record)
    if goal is None:
        return None
    never = goal.never(ident)
    lacking = () if never else tuple(n for n in goal.needs if not n.there(ident))
    wanted = {k for need in lacking for k in need.kinds}
    kept = ("none", "stored")
    spared = [s.title for s in proposed if s.energy not in kept and s.kind not in wanted]
    return GoalStanding(
        goal=goal, lacking=lacking, never=never, spared=tuple(dict.fromkeys(spared))[:MOST_SPARED]
    )


MOST_SPARED = 4
