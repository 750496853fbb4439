"""What handling a piece asks for before it is lifted, opened or taken out, by what it may be: said
for what is likely, for nothing else, at most two sentences. Common practice.
"""

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.judgement.kinds import kinds_of

BESIDE_A_NAME = 0.2
"""Beside a family that the owner named another is spoken of from this chance. House rule."""
MOST_AT_ONCE = 2
"""So many sentences are read by somebody with a probe in one hand; of more, none."""


class Handling(Struct, frozen=True, kw_only=True):
    """One sentence, the families and kinds it is said of, and whether only of a potted piece."""

    code: str
    sentence: str
    families: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    donors: tuple[str, ...] = ()
    potted: bool = False

    @property
    def said_of(self) -> set[str]:
        """Everything it is said of."""
        return {*self.families, *self.kinds, *self.donors, *(["potted"] if self.potted else [])}

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "sentence": self.sentence}


HANDLING = (
    Handling(
        code="magnetron",
        sentence=(
            "The magnetron goes whole to the recycling point: broken, ground or opened, its "
            "ceramic may be beryllia, whose dust kills."
        ),
        families=("microwave",),
        donors=("oven",),
    ),
    Handling(
        code="second-store",
        sentence=(
            "Look for a second capacitor, in the mains filter or on a board, and a hidden battery: "
            "each is discharged by itself."
        ),
        families=("microwave",),
        kinds=("electronic lamp supply",),
        donors=("oven", "cabinet", "valve set"),
    ),
    Handling(
        code="by-the-case",
        sentence="Lift it by the case, never by the bushings: they crack inside, unseen.",
        families=("sign",),
        donors=("sign",),
    ),
    Handling(
        code="oil",
        sentence=(
            "Old potting or oil may hold PCBs: do not melt, drill or open it; gloves, and what "
            "weeps goes to hazardous waste."
        ),
        families=("sign",),
        kinds=("distribution transformer",),
        donors=("sign",),
        potted=True,
    ),
    Handling(
        code="asbestos",
        sentence=(
            "Old welders are lined with asbestos: do not brush, blow or drill cloth and board; wet "
            "it and bag it."
        ),
        kinds=("crank welder",),
        donors=("welder",),
    ),
    Handling(
        code="cut-out",
        sentence=(
            "A thermal cut-out may lie under the tape in series with the primary: an open winding "
            "may be only that. It is not bridged for use."
        ),
        families=("mains",),
        donors=("cabinet", "valve set"),
    ),
)


def of_donor(donor: str) -> tuple[Handling, ...]:
    """What is said of a donor before its case is open."""
    return tuple(h for h in HANDLING if donor in h.donors)[:MOST_AT_ONCE]


def handling(record: Transformer, belief: Belief) -> tuple[Handling, ...]:
    """What is said of handling this piece: by its donor, its kinds, and every family that is likely
    or declared; the first of the table first, at most two.
    """
    named = {known.kind.name for known in kinds_of(record, belief)}
    least = BESIDE_A_NAME if record.declared_family else NOT_EXCLUDED
    likely = {f for f, chance in belief.families.items() if chance >= least}
    if belief.family == "unknown" or named:  # a kind that is named says more than chances do
        likely = set()
    likely |= {record.declared_family or ""}
    donor = record.donor.kind if record.donor is not None else ""
    core = record.core
    potted = core is not None and (core.potted is True or core.assembly == "potted")
    who = named | likely | {donor, *(["potted"] if potted else [])}
    found = [h for h in HANDLING if who & h.said_of]
    return tuple(found[:MOST_AT_ONCE])
