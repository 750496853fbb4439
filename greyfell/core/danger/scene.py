"""What a danger may look at: a piece, the row it feeds, what it is to become, the act at hand."""

import re
from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.fed import fed_whole
from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.hazards.mains import BURNING_AMPS, short_amps
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.kinds import kinds_of
from greyfell.core.judgement.salvage import of_capacitor, wanting
from greyfell.core.rig.row.solving import Solved
from greyfell.core.rig.setup import Setup, parse_setup
from greyfell.core.uses.needs import Use
from greyfell.core.winding.conductors import Conductor

EMPTIED = (
    r"\b(?:short(?:ed|ing)|discharged|emptied|drained|zapped|bridged|sparked)\b.{0,40}\b(?:plier|"
    r"screwdriver|spanner|wrench|wire|knife|blade|tool|scissor|nail|key|fork|clip|capacitor|cap\b|"
    r"condenser)|\b(?:capacitor|cap|condenser)\b.{0,40}\b(?:shorted|discharged|emptied|drained|"
    r"zapped)\b"
)
"""Words that tell of a capacitor that was emptied."""
OLD_WORDS = (
    "asbestos",
    "blister",
    "brittle",
    "burn(?:t|ed)",
    "charr",
    "chew",
    "cloth",
    "corro[ds]",
    "cotton",
    "crack",
    "crumb",
    "dent",
    "dropped",
    "flak",
    "fray",
    "gnaw",
    "melt",
    "mice",
    "mould",
    "mouse",
    "nicked",
    "peel",
    "perish",
    "powder",
    "rott",
    "rubber",
    "rust",
    "scorch",
    "scuff",
    "sticky",
    "swollen",
    "textile",
    "torn",
    "was wet",
    "worn",
)
"""How words of a look begin that tell of age or damage."""


class Plan(Struct, frozen=True, kw_only=True):
    """What a piece is to become: the use, what is wound, the keys of the work and of the joint,
    turns added to its primary.
    """

    use: Use | None = None
    conductor: Conductor | None = None
    works: tuple[str, ...] = ()
    joint: str = ""
    added_turns: bool = False

    def has(self, *keys: str) -> bool:
        """Whether any of these works is in it."""
        return bool(set(keys) & set(self.works))


class Scene(Struct, frozen=True, dict=True):
    """One look at the bench: a piece with what is believed of it, a row that is solved, a plan, the
    act that is next. Any of them may be missing.
    """

    ident: Identification | None = None
    row: Solved | None = None
    plan: Plan | None = None
    act: str = ""

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
    def kinds(self) -> tuple[str, ...]:
        """Kinds that something on record names."""
        if self.ident is None:
            return ()
        return tuple(k.kind.name for k in kinds_of(self.ident.record, self.ident.belief))

    @cached_property
    def said(self) -> str:
        """Everything that was written of its look, in small letters."""
        if self.ident is None:
            return ""
        record = self.ident.record
        parts: list[str | None] = [record.title, *(lead.note for lead in record.leads)]
        parts += [lead.damage for lead in record.leads]
        parts += [record.core.damage if record.core is not None else ""]
        parts += [record.nameplate.text if record.nameplate is not None else ""]
        parts += [s.text for s in record.statements]
        parts += [f"{p.what} {p.text}" for p in record.parts]
        parts += [f"{c.what} {c.note}" for c in record.changes]
        if record.donor is not None:
            parts += [record.donor.kind, record.donor.title, record.donor.note]
        return " ".join(p for p in parts if p).casefold()

    def may_be(self, *families: str) -> bool:
        """Whether a family is declared, or is not excluded."""
        if self.ident is None:
            return False
        if self.ident.record.declared_family in families:
            return True
        return sum(self.ident.belief.families.get(f, 0.0) for f in families) >= NOT_EXCLUDED

    def came_from(self, *kinds: str) -> bool:
        """Whether it stood in a donor of such a kind."""
        donor = self.ident.record.donor if self.ident is not None else None
        return donor is not None and donor.kind in kinds

    def is_kind(self, *names: str) -> bool:
        """Whether something on record names one of these kinds."""
        return bool(set(names) & set(self.kinds))

    def looks(self, *words: str) -> bool:
        """Whether any word that begins so was written of it; words are patterns."""
        return re.search(rf"\b(?:{'|'.join(words)})", self.said) is not None

    @cached_property
    def unmetered(self) -> bool:
        """Whether something is said of a capacitor that was emptied, and no volts read last."""
        if self.ident is None:
            return False
        told = [s for s in self.ident.record.statements if of_capacitor(s)]
        emptied = re.search(EMPTIED, self.said) is not None
        return emptied and not any(not wanting(s, none_allowed=False) for s in told)

    @property
    def high(self) -> bool:
        """Whether high voltage is not ruled out."""
        return self.ident is not None and not high_ruled_out(self.ident.belief)

    @property
    def burning(self) -> bool:
        """Whether an output lets amps pass that burn."""
        if self.ident is None:
            return False
        primary = fed_whole(self.ident.record, self.ident.belief)
        return any(short_amps(w, primary) > BURNING_AMPS for w in self.ident.windings)

    @property
    def outputs(self) -> Sequence[Winding]:
        """Windings that are not fed."""
        if self.ident is None:
            return ()
        fed = fed_windings(self.ident)
        return [w for w in self.ident.windings if w not in fed]

    def used_for(self, *keys: str) -> bool:
        """Whether the plan is for one of these uses, by the start of its key."""
        use = self.plan.use if self.plan is not None else None
        return use is not None and use.key.startswith(keys)

    def row_has(self, *kinds: str) -> bool:
        """Whether the row has such an element."""
        return self.row is not None and any(e.kind.key in kinds for e in self.row.rig.elements)

    def bench_has(self, *kinds: str) -> bool:
        """Whether the bench has such an element."""
        return self.setup is not None and bool(self.setup.of(*kinds))
