"""What a hazard is, what a rule of hazards declares, and what its condition may look at."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any, Generic, TypeVar

from msgspec import Struct

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering, span
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.fault import Fault

Facts = dict[str, str]
"""Words that a rule's headline and sentence are filled with."""


class Hazard(Struct, frozen=True):
    """A danger: its code, a headline of few words, what and why in a sentence, what to do instead,
    and the source.
    """

    code: str
    headline: str
    what: str
    instead: str
    source: str

    @property
    def sentence(self) -> str:
        """What, why, and what to do instead."""
        return f"{self.what} {self.instead}".strip()

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"code": self.code, "headline": self.headline, "sentence": self.sentence}


class Seen(Struct, frozen=True):
    """What a condition may look at: the present record, the belief, and the faults judged."""

    record: Transformer
    belief: Belief
    faults: Sequence[Fault]

    def family(self, name: str) -> float:
        """The chance of a family."""
        return self.belief.families.get(name, 0.0)


S = TypeVar("S")


class HazardRule(Struct, Generic[S], frozen=True, kw_only=True):
    """One danger, declared: when it stands on what is seen, and in which words.

    `condition` says in words when it stands and `cleared` what ends it; `when` gives the words to
    fill in, once for every time it stands. `headline`, `what` and `instead` take those words in
    braces.
    """

    code: str
    condition: str
    cleared: str
    headline: str
    what: str
    instead: str
    source: str
    when: Callable[[S], Iterable[Facts]]

    def tell(self, seen: S) -> list[Hazard]:
        """The hazard, as often as it stands."""
        return [
            Hazard(
                code=self.code,
                headline=self.headline.format(**facts),
                what=self.what.format(**facts),
                instead=self.instead.format(**facts),
                source=self.source,
            )
            for facts in self.when(seen)
        ]


def volts_words(volts: Quantity | None) -> str:
    """Volts for a sentence: about so many, with the range.

    >>> volts_words(Quantity(2100.0, 1800.0, 2500.0))
    'about 2.10 kV (1.8 to 2.5 kV)'
    """
    if volts is None:
        return "unknown volts"
    return f"about {engineering(volts.value, 'V')} ({span(volts.low, volts.high, 'V')})"


def ends_and_volts(winding: Winding) -> Facts:
    """The words most rules fill in: a winding's ends and its volts."""
    return {"ends": winding.name, "volts": volts_words(winding.volts)}
