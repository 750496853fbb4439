"""A piece as a danger looks at it, and the act at hand."""

import re
from functools import cached_property

from msgspec import Struct

from greyfell.core.families.registry import chance, has
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.kinds import KnownKind, kinds_of
from greyfell.core.judgement.salvage import of_capacitor, wanting

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


class Looked(Struct, frozen=True, dict=True, kw_only=True):
    """A piece with what is believed of it, and the act that is next. Either may be missing."""

    ident: Identification | None = None
    act: str = ""

    @cached_property
    def known(self) -> tuple[KnownKind, ...]:
        """Kinds that something on record names, with what named them."""
        if self.ident is None:
            return ()
        return tuple(kinds_of(self.ident.record, self.ident.belief))

    @property
    def kinds(self) -> tuple[str, ...]:
        """The names of these kinds."""
        return tuple(known.kind.name for known in self.known)

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

    def may_be(self, trait: str) -> bool:
        """Whether a family with such a trait is declared, or is not excluded."""
        if self.ident is None:
            return False
        if has(self.ident.record.declared_family, trait):
            return True
        return chance(self.ident.belief.families, trait) >= NOT_EXCLUDED

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
