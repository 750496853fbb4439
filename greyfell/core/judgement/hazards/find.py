"""Every danger that stands, the gravest first. Never empty: what is not known is said to be so."""

from collections.abc import Iterator, Sequence

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.fault import FAULTS, Fault
from greyfell.core.judgement.hazards import high, mains, stored, strange
from greyfell.core.judgement.hazards.rule import Facts, Hazard, HazardRule, Seen

STOPPED_CODE = "stopped"
"""The hazard that repeats what stops the piece: it stays first whatever else is known."""
NOTHING_KNOWN: HazardRule[Seen] = HazardRule(
    code="unknown",
    condition="no winding is known yet",
    cleared="windings found by ohms",
    headline="Not yet known.",
    what="Nothing is known of this piece yet:",
    instead=(
        "treat every lead as able to carry kilovolts, and its capacitor, if one is near, "
        "as charged."
    ),
    source="house rule",
    when=lambda seen: [] if seen.belief.windings else [{}],
)


def _stops(seen: Seen) -> Iterator[Facts]:
    """Every stop that stands, in the words of its fault."""
    for fault in seen.faults:
        if fault.severity == "stop":
            kind = FAULTS[fault.code]
            words = f"{kind.headline[:1].upper()}{kind.headline[1:]}"
            yield {"words": words, "sentence": fault.sentence, "instead": kind.instead}


STOPPED: HazardRule[Seen] = HazardRule(
    code=STOPPED_CODE,
    condition="a stop fault stands",
    cleared="the fault cleared, as its own words say",
    headline="Stop: {words}.",
    what="{sentence}",
    instead="{instead}",
    source="house rule",
    when=_stops,
)
NO_DANGER_SEEN: HazardRule[Seen] = HazardRule(
    code="unknown",
    condition="windings are known, and no danger of them",
    cleared="what the piece can put out known",
    headline="Not yet known.",
    what="What this piece can put out is not known:",
    instead="until it is, treat every lead as live when powered.",
    source="house rule",
    when=lambda seen: [{}],
)
ORDER = (
    STOPPED_CODE,
    "core-at-mains",
    "mains-on-output",
    "never-on-mains",
    "ferrite",
    "odd-iron",
    "core-live",
    "hv-to-case",
    "hv",
    "hv-not-ruled-out",
    "capacitor",
    "tuned",
    "bridged-link",
    "kick",
    "no-isolation",
    "no-safety-isolation",
    "wrong-way-round",
    "back-fed",
    "above-touch",
    "above-30",
    "burns",
    "other-mains",
    "mains",
    "breaker",
    "unknown",
)
"""The danger strip from its top: what stops the piece, mains by a fault, kilovolts, what is stored,
what may be touched, what may be fed."""
RULES: tuple[HazardRule[Seen], ...] = tuple(
    sorted(
        (STOPPED, *high.RULES, *stored.RULES, *mains.RULES, *strange.RULES, NOTHING_KNOWN),
        key=lambda rule: ORDER.index(rule.code),
    )
)
"""Every rule of hazards, the gravest first."""


def find_hazards(record: Transformer, belief: Belief, faults: Sequence[Fault]) -> list[Hazard]:
    """Every danger that belief and faults imply, the gravest first."""
    seen = Seen(record, belief, faults)
    return [h for rule in RULES for h in rule.tell(seen)] or NO_DANGER_SEEN.tell(seen)
