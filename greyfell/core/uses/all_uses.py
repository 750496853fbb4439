"""Every use there is."""

from greyfell.core.uses.catalogue import FIRST, Use
from greyfell.core.uses.more_uses import MORE

USES: tuple[Use, ...] = tuple(sorted((*FIRST, *MORE), key=lambda u: bool(u.refused)))
"""Uses that are planned, then those that are refused."""


def use_of(key: str) -> Use | None:
    """One use by its key."""
    return next((u for u in USES if u.key == key), None)
