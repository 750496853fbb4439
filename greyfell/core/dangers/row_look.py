"""A row as a danger looks at it where no piece is told: what starts without the engine."""

from functools import cached_property

from msgspec import Struct

from greyfell.core.chain.sight import Sight
from greyfell.core.chain.solving import Solved


class RowLook(Struct, frozen=True, dict=True, kw_only=True):
    """A row that is solved, and the act that is next."""

    row: Solved | None = None
    act: str = ""

    @cached_property
    def sight(self) -> Sight | None:
        """The row, and what follows from it as it is solved."""
        return None if self.row is None else Sight(self.row)
