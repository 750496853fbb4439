"""Uses that are refused, as the plan of a piece: what is never planned, and two more."""

from collections.abc import Callable

from greyfell.core.dangers.rule import PLAN, STOP, Facts, Found, Rule
from greyfell.core.dangers.scene import Scene
from greyfell.core.never import NEVER

REFUSED = ("back-to-back", "spark-coil")
"""Uses that are refused and stand on no list but that of uses."""


def _planned(key: str) -> Callable[[Scene], Found]:
    """Whether this is the use that is planned."""
    return lambda scene: scene.plan is not None and scene.plan.use == key


def _refused(key: str) -> Callable[[Scene], list[Facts]]:
    """Whether this use is planned, with why it is refused."""

    def when(scene: Scene) -> list[Facts]:
        plan = scene.plan
        if plan is None or plan.use != key:
            return []
        return [{"title": plan.title, "why": plan.refused}]

    return when


RULES = (
    *(
        Rule(
            code=f"refused-{never.key}",
            ids=never.ids,
            near=PLAN,
            severity=STOP,
            condition="the use that is planned is of the never-list",
            headline=f"Never: {never.title}.",
            reason=never.why,
            instead=never.instead,
            source=never.source,
            when=_planned(never.key),
        )
        for never in NEVER
    ),
    *(
        Rule(
            code=f"refused-{key}",
            near=PLAN,
            severity=STOP,
            condition="the use that is planned is refused",
            headline="Refused: {title}.",
            reason="{why}",
            when=_refused(key),
        )
        for key in REFUSED
    ),
)
"""The same as a plan, and every other use that is refused."""
