"""How an answer is scored: by truth, safety, and readings against those of a good bench."""

from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.families import other
from greyfell.core.families.registry import EVERY
from greyfell.core.figures.notation import engineering
from greyfell.core.lessons.advice import Answer, by_advice
from greyfell.core.lessons.hookup import Mishap
from greyfell.core.simulated.hidden import Hidden

FAMILY, TOLD, SOUND, FAULT, VOLTS = 15, 10, 15, 10, 10
"""Points of truth: the family, that the readings tell it, whether it is sound, which fault, the
volts of its highest output."""
BORNE = 0.5
"""From this chance a family is told by what was read. House rule."""
SAFE, FEW = 30, 10
"""Points of a bench on which nothing happened, and of no more readings than a good bench takes."""
VOLTS_WITHIN = 0.1
FAULT_WORDS = {
    "": "it is sound",
    "open": "a winding is open",
    "to-core": "a winding is at the core",
    "leak": "an insulation leaks",
    "shorted-turns": "turns are shorted",
    "between": "two windings touch",
}
"""Faults that may be named, in words."""


class Named(Struct, frozen=True, kw_only=True):
    """What somebody says a hidden piece is: family, fault ("" for sound), open volts of its highest
    output where they are told.
    """

    family: str
    fault: str
    volts: float | None = None


class ScoreAsked(Struct, frozen=True, kw_only=True):
    """On what an answer was given: readings taken, and whether they tell the family."""

    taken: int
    borne: bool


class Scored(Struct, frozen=True, kw_only=True):
    """The score with its parts in words, the truth, and a good bench's way."""

    points: int
    parts: tuple[tuple[str, int, int], ...]
    truth: str
    good: Answer

    @property
    def words(self) -> str:
        """In a sentence."""
        return f"{self.points} of 100. {self.truth}"


def truth_of(hidden: Hidden) -> tuple[str, str, float | None]:
    """Family, fault and volts of the highest output of a hidden piece."""
    fault = hidden.faults[0] if hidden.faults else ""
    outputs = [w for w in hidden.piece.windings if w.name != hidden.piece.primary]
    volts = max((hidden.rated(w) for w in outputs), default=None)
    return hidden.piece.family, fault, volts


def _near(named: float | None, true: float | None) -> bool:
    return true is None or (named is not None and abs(named / true - 1) <= VOLTS_WITHIN)


def _few(taken: int, good: int) -> int:
    return round(FEW * min(1.0, max(good, 1) / max(taken, 1)))


def score(hidden: Hidden, named: Named, asked: ScoreAsked, happened: Sequence[Mishap]) -> Scored:
    """An answer scored. Raises FieldError where a fault is none that may be named."""
    if named.fault not in FAULT_WORDS:
        raise FieldError("fault", "Say whether it is sound, or which fault it has.")
    family, fault, volts = truth_of(hidden)
    taken = asked.taken
    good = by_advice(hidden)
    few = _few(taken, good.taken) if asked.borne else 0
    right = named.family == family
    parts = (
        ("family", FAMILY if right else 0, FAMILY),
        ("told by what was read", TOLD if right and asked.borne else 0, TOLD),
        ("sound or not", SOUND if bool(named.fault) == bool(fault) else 0, SOUND),
        ("which fault", FAULT if named.fault == fault else 0, FAULT),
        ("volts of its highest output", VOLTS if _near(named.volts, volts) else 0, VOLTS),
        ("safety", max(0, SAFE - sum(m.cost for m in happened)), SAFE),
        (f"readings: {taken}, a good bench {good.taken}", few, FEW),
    )
    truth = _told(family, fault, volts)
    return Scored(points=sum(p for _, p, _ in parts), parts=parts, truth=truth, good=good)


def _told(family: str, fault: str, volts: float | None) -> str:
    said = "" if volts is None else f", {engineering(volts, 'V')} at most"
    return f"It is {FAMILIES.get(family, family)}{said}; {FAULT_WORDS[fault]}."


FAMILIES = {family.key: family.told for family in EVERY if family is not other.ROW}
"""Families in words; what fits none is no answer."""
