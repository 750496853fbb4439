"""What a danger may look at: piece, bench, the row it feeds, what it is to become, the act."""

from functools import cached_property

from msgspec import Struct

from greyfell.core.bench.demand import Wrong
from greyfell.core.bench.demands import wrongs
from greyfell.core.bench.piece_on_bench import needs_of
from greyfell.core.bench.setup import Setup, parse_setup
from greyfell.core.chain.sight import Sight
from greyfell.core.chain.solving import Solved
from greyfell.core.coil_design.conductors import Conductor
from greyfell.core.dangers.looked import Looked
from greyfell.core.errors import FieldError


class Plan(Struct, frozen=True, kw_only=True):
    """What a piece is to become: the use by its key, what it is called and why it is refused where
    it is; what is wound, the keys of the work and of the joint, turns added to its primary.
    """

    use: str = ""
    title: str = ""
    refused: str = ""
    conductor: Conductor | None = None
    works: tuple[str, ...] = ()
    joint: str = ""
    added_turns: bool = False

    def has(self, *keys: str) -> bool:
        """Whether any of these works is in it."""
        return bool(set(keys) & set(self.works))


class Scene(Looked, frozen=True, dict=True, kw_only=True):
    """One look at the bench: a piece with what is believed of it, a row that is solved, a plan, the
    act that is next. Any of them may be missing.
    """

    row: Solved | None = None
    plan: Plan | None = None

    @cached_property
    def setup(self) -> Setup | None:
        """The bench the piece stands on, where it is told and can be read."""
        told = self.ident.record.setup if self.ident is not None else None
        if told is None:
            return None
        try:
            return parse_setup(told)
        except FieldError:
            return None

    @cached_property
    def wrongs(self) -> tuple[Wrong, ...]:
        """Everything that is wrong on that bench."""
        if self.ident is None or self.setup is None:
            return ()
        return tuple(wrongs(self.setup, needs_of(self.ident)))

    @cached_property
    def sight(self) -> Sight | None:
        """The row, and what follows from it as it is solved."""
        return None if self.row is None else Sight(self.row)

    def used_for(self, *keys: str) -> bool:
        """Whether the plan is for one of these uses, by the start of its key."""
        return self.plan is not None and bool(self.plan.use) and self.plan.use.startswith(keys)

    def row_has(self, *kinds: str) -> bool:
        """Whether the row has such an element."""
        return self.row is not None and any(e.kind.key in kinds for e in self.row.rig.elements)

    def bench_has(self, *kinds: str) -> bool:
        """Whether the bench has such an element."""
        return self.setup is not None and bool(self.setup.of(*kinds))
