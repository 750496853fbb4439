"""What strikes with the plug pulled: charge and current that stay."""

from collections.abc import Callable, Iterable

from greyfell.core.judgement.hazards.rule import Facts, HazardRule, Seen

MAY_BE = 0.3
"""From this chance of a family its stored energy is named. House rule."""


def _family(name: str) -> Callable[[Seen], Iterable[Facts]]:
    """Whether a family is likely enough to be warned of."""

    def when(seen: Seen) -> Iterable[Facts]:
        if seen.belief.windings and seen.family(name) > MAY_BE:
            yield {}

    return when


RULES = (
    HazardRule(
        code="capacitor",
        rank=20,
        condition="an oven transformer by more than three chances in ten",
        cleared="another family settled",
        headline="Capacitor may hold charge.",
        what="An oven's HV capacitor stays charged, whatever its age:",
        instead=(
            "discharge it through a resistor, then short it, then measure, before touching "
            "anything."
        ),
        source="common practice",
        when=_family("microwave"),
    ),
    HazardRule(
        code="kick",
        rank=20,
        condition="a choke by more than three chances in ten",
        cleared="another family settled",
        headline="It kicks when opened.",
        what=(
            "A choke keeps its current going: opening a DC circuit through it makes a spark and "
            "up to kilovolts at its ends."
        ),
        instead="Ramp down before you open, and keep hands off both ends.",
        source="v = L di/dt; common practice",
        when=_family("choke"),
    ),
)
