"""What handling a piece asks for before it is lifted, opened or taken out, by what it may be: said
for what is likely, for nothing else, at most two sentences. Common practice.
"""

from collections.abc import Callable, Collection

from msgspec import Struct

from greyfell.core.dangers.rule import CAUTION, TOUCH, Found, Rule, piece
from greyfell.core.families.registry import EVERY
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.kinds import kinds_of

BESIDE_A_NAME = 0.2
"""Beside a family that the owner named another is spoken of from this chance. House rule."""
MOST_AT_ONCE = 2
"""So many sentences are read by somebody with a probe in one hand; of more, none."""


class Handling(Struct, frozen=True, kw_only=True):
    """One sentence under its headline, the kinds and donors it is said of (families say theirs),
    and whether of a potted piece; the numbers of the catalogue it meets. What is not `listed` is
    told in the list of dangers by a row of the donor, which stands at a lower chance.
    """

    code: str
    headline: str
    sentence: str
    ids: tuple[str, ...] = ()
    listed: bool = True
    kinds: tuple[str, ...] = ()
    donors: tuple[str, ...] = ()
    potted: bool = False

    @property
    def said_of(self) -> set[str]:
        """Everything it is said of."""
        return {*self.kinds, *self.donors, *(["potted"] if self.potted else [])}

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "sentence": self.sentence}


HANDLING = (
    Handling(
        code="magnetron",
        headline="The magnetron stays whole.",
        listed=False,
        sentence=(
            "The magnetron goes whole to the recycling point: broken, ground or opened, its "
            "ceramic may be beryllia, whose dust kills."
        ),
    ),
    Handling(
        code="second-store",
        headline="A second capacitor, a battery?",
        ids=("H37",),
        sentence=(
            "Look for a second capacitor, in the mains filter or on a board, and a hidden battery: "
            "each is discharged by itself."
        ),
        kinds=("electronic lamp supply",),
        donors=("cabinet", "valve set"),
    ),
    Handling(
        code="by-the-case",
        headline="Lifted by its case, never by bushings.",
        ids=("H71",),
        sentence="Lift it by the case, never by the bushings: they crack inside, unseen.",
    ),
    Handling(
        code="oil",
        headline="Old oil or potting: PCBs?",
        listed=False,
        sentence=(
            "Old potting or oil may hold PCBs: do not melt, drill or open it; gloves, and what "
            "weeps goes to hazardous waste."
        ),
        kinds=("distribution transformer",),
        potted=True,
    ),
    Handling(
        code="asbestos",
        headline="Cloth and board: asbestos?",
        listed=False,
        sentence=(
            "Old welders are lined with asbestos: do not brush, blow or drill cloth and board; wet "
            "it and bag it."
        ),
        kinds=("crank welder",),
        donors=("welder",),
    ),
    Handling(
        code="cut-out",
        headline="A thermal cut-out may be under the tape.",
        ids=("H93",),
        sentence=(
            "A thermal cut-out may lie under the tape in series with the primary: an open winding "
            "may be only that. It is not bridged for use."
        ),
    ),
)


def of_donor(donor: str) -> tuple[Handling, ...]:
    """What is said of a donor before its case is open."""
    asked = _asked(donor, ())
    return tuple(h for h in HANDLING if donor in h.donors or h.code in asked)[:MOST_AT_ONCE]


def _asked(donor: str, likely: Collection[str]) -> set[str]:
    """What handling asks for of the families a donor holds, and of those that are likely, by
    code.
    """
    held = (family for family in EVERY if donor in family.donors or family.key in likely)
    return {code for family in held for code in family.handling}


def handling(ident: Identification) -> tuple[Handling, ...]:
    """What is said of handling this piece: by its donor, its kinds, and every family that is likely
    or declared; the first of the table first, at most two.
    """
    record, belief = ident.record, ident.belief
    named = {known.kind.name for known in kinds_of(record, belief)}
    least = BESIDE_A_NAME if record.declared_family else NOT_EXCLUDED
    likely = {f for f, chance in belief.families.items() if chance >= least}
    if belief.family == "unknown" or named:  # a kind that is named says more than chances do
        likely = set()
    likely |= {record.declared_family or ""}
    donor = record.donor.kind if record.donor is not None else ""
    core = record.core
    potted = core is not None and (core.potted is True or core.assembly == "potted")
    who = named | {donor, *(["potted"] if potted else [])}
    asked = _asked(donor, likely)
    found = [h for h in HANDLING if who & h.said_of or h.code in asked]
    return tuple(found[:MOST_AT_ONCE])


def _said(code: str) -> Callable[[Identification], Found]:
    """Whether a sentence is among those that are said of a piece."""
    return lambda ident: any(h.code == code for h in handling(ident))


RULES = tuple(
    Rule(
        code=h.code,
        ids=h.ids,
        near=TOUCH,
        severity=CAUTION,
        condition="its donor, its kind, or a family that is likely or declared",
        headline=h.headline,
        reason=h.sentence,
        when=piece(_said(h.code)),
    )
    for h in HANDLING
    if h.listed
)
"""The same as dangers, but for what a row of the donor says."""
