"""What is never planned, as the goal of a piece."""

from collections.abc import Callable

from greyfell.core.dangers.rule import PLAN, STOP, Found, Rule, piece
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.identification import Identification
from greyfell.core.never import BY_KEY, NEVER, Never, wish

GOAL = "goal"
"""Kind of the statement that says a goal."""


def wished(record: Transformer) -> Never | None:
    """What of the never-list the goal is that was said last; None where it is none of it."""
    said = next((s for s in reversed(record.statements) if s.kind == GOAL), None)
    return None if said is None else wish(said.text or "") or BY_KEY.get(said.concerns or "")


def _wishes(key: str) -> Callable[[Identification], Found]:
    """Whether this is what somebody wants of a piece."""

    def look(ident: Identification) -> Found:
        found = wished(ident.record)
        return found is not None and found.key == key

    return look


WISHES = tuple(
    Rule(
        code=f"never-{never.key}",
        ids=never.ids,
        near=PLAN,
        severity=STOP,
        condition="the goal of the piece is of the never-list",
        cleared="another goal said",
        headline=f"Never: {never.title}.",
        reason=never.why,
        instead=never.instead,
        source=never.source,
        when=piece(_wishes(never.key)),
    )
    for never in NEVER
)
"""What is never planned, wanted of a piece."""
