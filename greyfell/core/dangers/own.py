"""A piece's own dangers, and the one order in which dangers are told.

The gravest come first, of these what stops whatever else is known, then what the piece does, then
all else; of these the nearest, of these the first of the table.
"""

from collections.abc import Sequence

from greyfell.core.dangers import of_fault, of_wish
from greyfell.core.dangers.looked import Looked
from greyfell.core.dangers.of_piece import every as of_piece
from greyfell.core.dangers.of_piece.every import OTHERWISE
from greyfell.core.dangers.rule import GRAVE, NEAR, Danger, Rule
from greyfell.core.judgement.identification import Identification

Band = Sequence[Rule]
STOPS: tuple[Rule, ...] = (*of_fault.STOPS, *of_piece.HELD)
"""What stops whatever else is known: a fault, charge."""
OWN: tuple[Rule, ...] = (*of_piece.RULES, *of_wish.WISHES, OTHERWISE)
"""What the piece does, and what must not be made of it."""


def in_order(bands: Sequence[Band]) -> tuple[Rule, ...]:
    """Rules by the one order, from bands of which the first goes before the next."""
    places = [
        ((GRAVE.index(rule.severity), band, NEAR.index(rule.near), n), rule)
        for band, rules in enumerate(bands)
        for n, rule in enumerate(rules)
    ]
    return tuple(rule for _, rule in sorted(places, key=lambda place: place[0]))


ORDER = in_order((STOPS, OWN))
"""What `greyfell.identification/1` tells as the hazards of a piece."""
OF_PIECE = frozenset(map(id, ORDER))


def is_own(rule: Rule) -> bool:
    """Whether a rule is of a piece's own dangers."""
    return id(rule) in OF_PIECE


def hazards(ident: Identification) -> list[Danger]:
    """What a piece itself does. Never empty: what is not known is said to be so."""
    return [danger for _, danger in standing(Looked(ident=ident), ORDER)]


def standing(scene: Looked, rules: Sequence[Rule]) -> list[tuple[Rule, Danger]]:
    """Rules that stand on a scene with what they tell, each code and sentence once. The one that
    says that nothing is known stands where no other of the piece's own does.
    """
    told: dict[tuple[str, str], tuple[Rule, Danger]] = {}
    for rule in rules:
        for danger in rule.tell(scene):
            told.setdefault((danger.code, danger.sentence), (rule, danger))
    found = list(told.values())
    if any(is_own(rule) and rule is not OTHERWISE for rule, _ in found):
        found = [(rule, danger) for rule, danger in found if rule is not OTHERWISE]
    return found
