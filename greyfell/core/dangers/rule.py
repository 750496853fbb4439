"""A danger as it is told, and the one way to declare one."""

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any

from msgspec import Struct

if TYPE_CHECKING:
    from greyfell.core.dangers.looked import Looked
    from greyfell.core.dangers.row_look import RowLook
    from greyfell.core.judgement.identification import Identification

HAND, TOUCH, POWER, PLAN, BENCH = (
    "at the hand now",
    "where it is touched",
    "once it is powered",
    "in what is planned",
    "at every bench",
)
NEAR = (HAND, TOUCH, POWER, PLAN, BENCH)
"""How near a danger is, the nearest first."""
STOP, CAUTION, NOTE = "stop", "caution", "note"
GRAVE = (STOP, CAUTION, NOTE)
"""How grave: it kills or ends the work; it hurts or breaks; it is good to know."""
MOST_WORDS = 10
"""Words of a headline."""
COMMON, HOUSE = "common practice", "house rule"
Facts = dict[str, str]
"""Words that a rule's headline and sentences are filled with."""
Found = Iterable[Facts] | bool
"""What a condition gives: whether it stands, or the words to fill in, once for every time."""


class Danger(Struct, frozen=True, kw_only=True):
    """One danger: its code, numbers of the catalogue, how near, how grave, a headline of at most
    ten words, the reason, what to do instead, the source; and its code among a piece's hazards
    where that is another.
    """

    code: str
    ids: tuple[str, ...]
    near: str
    severity: str
    headline: str
    reason: str
    instead: str = ""
    source: str = COMMON
    strip_code: str = ""

    @property
    def sentence(self) -> str:
        """Reason, and what to do instead."""
        return f"{self.reason} {self.instead}".strip()

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "code": self.code,
            "ids": list(self.ids),
            "near": self.near,
            "severity": self.severity,
            "headline": self.headline,
            "sentence": self.sentence,
            "source": self.source,
        }

    def as_hazard(self) -> dict[str, str]:
        """A hazard of `greyfell.identification/1`."""
        code = self.strip_code or self.code
        return {"code": code, "headline": self.headline, "sentence": self.sentence}


class Rule(Struct, frozen=True, kw_only=True):
    """One danger, declared: when it stands on a scene, or a piece alone, and in which words; words
    in braces are filled in by `when`, once for every time it stands.

    `condition` says in words when it stands and `cleared`, of a danger of the piece itself, what
    ends it. A rule with `acts` stands at these acts only.
    """

    code: str
    near: str
    severity: str
    condition: str
    headline: str
    reason: str
    ids: tuple[str, ...] = ()
    instead: str = ""
    cleared: str = ""
    source: str = COMMON
    acts: tuple[str, ...] = ()
    when: Callable[[Any], Found] = lambda looked: True
    strip_code: str = ""

    def tell(self, scene: "Looked | RowLook") -> list[Danger]:
        """The danger, as often as it stands."""
        if self.acts and scene.act not in self.acts:
            return []
        found = self.when(scene)
        if isinstance(found, bool):
            found = [{}] if found else []
        return [
            Danger(
                code=self.code,
                ids=self.ids,
                near=self.near,
                severity=self.severity,
                headline=self.headline.format(**facts),
                reason=self.reason.format(**facts),
                instead=self.instead.format(**facts),
                source=self.source,
                strip_code=self.strip_code,
            )
            for facts in found
        ]


def piece(look: "Callable[[Identification], Found]") -> "Callable[[Looked], Found]":
    """A condition on the piece alone: it stands nowhere where no piece is told."""

    def when(looked: "Looked") -> Found:
        return False if looked.ident is None else look(looked.ident)

    return when
