"""A danger as it is told, and what declares one."""

from collections.abc import Callable, Iterable
from typing import Any

from msgspec import Struct

from greyfell.core.danger.scene import Scene

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
MOST_WORDS = 10
"""Words of a headline."""
Facts = dict[str, str]


class Danger(Struct, frozen=True, kw_only=True):
    """One danger: its code, numbers of the catalogue, how near, how grave, a headline of at most
    ten words, the reason, what to do instead, the source.
    """

    code: str
    ids: tuple[str, ...]
    near: str
    severity: str
    headline: str
    reason: str
    instead: str = ""
    source: str = "common practice"

    @property
    def order(self) -> tuple[int, int]:
        """The nearest first, of those the gravest."""
        return NEAR.index(self.near), GRAVE.index(self.severity)

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


class DangerRule(Struct, frozen=True, kw_only=True):
    """One danger, declared: when it stands on a scene, and in which words; words in braces are
    filled in by `when`, once for every time it stands.
    """

    code: str
    ids: tuple[str, ...]
    near: str
    severity: str
    condition: str
    headline: str
    reason: str
    instead: str
    when: Callable[[Scene], Iterable[Facts] | bool]
    source: str = "common practice"

    def tell(self, scene: Scene) -> list[Danger]:
        """The danger, as often as it stands."""
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
            )
            for facts in found
        ]
