"""What the readings show to be wrong: a row for every fault and severity. A stop is at the hand
now, whatever else is known: nothing is powered.
"""

from collections.abc import Callable, Iterator

from greyfell.core.dangers.rule import GRAVE, HAND, POWER, STOP, Facts, Rule, piece
from greyfell.core.figures.notation import begun
from greyfell.core.judgement.fault import KINDS, FaultKind
from greyfell.core.judgement.identification import Identification

STOPPED_CODE = "stopped"
"""The code of every stop among a piece's hazards."""


def _standing(code: str, severity: str) -> Callable[[Identification], Iterator[Facts]]:
    """Every fault of a code that is so grave."""

    def look(ident: Identification) -> Iterator[Facts]:
        for fault in ident.faults:
            if fault.code == code and fault.severity == severity:
                yield {"sentence": fault.sentence}

    return look


def _row(kind: FaultKind, severity: str) -> Rule:
    stops = severity == STOP
    headline = f"{begun(kind.headline)}."
    return Rule(
        code=kind.code,
        ids=kind.ids,
        near=HAND if stops else POWER,
        severity=severity,
        condition=kind.condition,
        cleared=kind.clears,
        headline=f"Stop: {headline}" if stops else headline,
        reason="{sentence}",
        instead=kind.instead,
        source=kind.source,
        strip_code=STOPPED_CODE if stops else "",
        when=piece(_standing(kind.code, severity)),
    )


RULES = tuple(_row(kind, severity) for severity in GRAVE for kind in KINDS)
"""Every fault at every severity."""
STOPS = tuple(rule for rule in RULES if rule.severity == STOP)
"""What stops a piece."""
DOUBTS = tuple(rule for rule in RULES if rule.severity != STOP)
"""What does not."""
