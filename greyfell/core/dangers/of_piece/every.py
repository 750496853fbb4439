"""Every danger of a piece itself: what is known of it, what is not, and that nothing is known."""

from greyfell.core.dangers.of_piece import high, mains, stored, strange, unread
from greyfell.core.dangers.rule import CAUTION, HOUSE, POWER, STOP, Rule, piece

NOTHING_KNOWN = Rule(
    code="unknown",
    near=POWER,
    severity=STOP,
    condition="no winding is known yet",
    cleared="windings found by ohms",
    headline="Not yet known.",
    reason="Nothing is known of this piece yet.",
    instead=(
        "Treat every lead as able to carry kilovolts, and its capacitor, if one is near, as "
        "charged."
    ),
    source=HOUSE,
    when=piece(lambda ident: not ident.windings),
)
OTHERWISE = Rule(
    code="unknown",
    near=POWER,
    severity=CAUTION,
    condition="windings are known, and no danger of them",
    cleared="what the piece can put out known",
    headline="Not yet known.",
    reason="What this piece can put out is not known.",
    instead="Until it is, treat every lead as live when powered.",
    source=HOUSE,
    when=piece(lambda ident: True),
)
"""Told of a piece of which no other danger of its own is."""
HELD = stored.HELD
"""What kills before anything is powered: the charge."""
RULES: tuple[Rule, ...] = (
    *mains.BY_FAULT,
    *strange.RULES,
    *high.RULES,
    *stored.RULES,
    *unread.RULES,
    *mains.RULES,
    NOTHING_KNOWN,
)
"""Every other, of equally near and grave ones the first first."""
