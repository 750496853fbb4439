"""The bundle of leads that a family has, held against the leads on the bench: what fills it, what
is missing or too many and what that means; and the pairs that twist and colour propose before the
first ohm. Common practice.
"""

from collections import defaultdict

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.record import Lead, Transformer
from greyfell.core.families.registry import family_of
from greyfell.core.families.row import PRIMARY_STRAND, Strand
from greyfell.core.judgement.identification import Identification

BELIEVED = 0.5
"""From this chance the family's bundle is drawn; a declared one always. House rule."""


class Bundle(Struct, frozen=True):
    """An expected bundle as it is filled: its strands, what is said of missing and extra leads, and
    the strand of each lead that no lead on the bench can be.
    """

    family: str
    strands: tuple[Strand, ...]
    said: tuple[str, ...]
    missing: tuple[str, ...] = ()


VALVE = (
    PRIMARY_STRAND,
    Strand(
        words="HV winding with its middle",
        roles=("hv-secondary",),
        count=3,
        absent="no HV winding: no valve part",
    ),
    Strand(
        words="heaters, with their middle",
        roles=("filament", "lv-secondary"),
        count=3,
        absent="no heater winding: they were fed from elsewhere",
    ),
    Strand(
        words="rectifier's heater",
        roles=("filament", "lv-secondary"),
        count=2,
        optional=True,
        absent="no 5 V winding: the set had a solid-state rectifier",
    ),
    Strand(
        words="bias, a tap or a winding",
        roles=("bias",),
        count=1,
        optional=True,
        absent="no bias tap: the stage biased itself",
    ),
)
"""A valve part: up to eleven leads."""
VALVE_LEADS = 8
"""A mains part of so many leads is met with the valve bundle."""


def bundle_of(ident: Identification) -> Bundle | None:
    """The bundle that belief or the owner's word expects, filled by what is on the bench; None
    where no family is likely enough.
    """
    family = str(ident.record.declared_family or "")
    if ident.sure >= BELIEVED and _expected(ident.family):
        family = ident.family  # what was read says more than what was said
    if not _expected(family):
        return None
    leads = len(ident.record.leads)
    valve = not more_leads(family) and leads >= VALVE_LEADS
    strands, over = _filled(VALVE if valve else _expected(family), ident.windings)
    topology = ident.topology
    unread = dict.fromkeys((*topology.loose, *topology.untested))
    loose = [x for x in unread if x not in topology.core_leads]
    said = [s.absent for s in strands if s.absent and not s.leads and not loose]
    if more_leads(family):
        extra = [*over, *loose] if _full(strands) else over
        if extra:
            said.append(f"{', '.join(extra)}: {more_leads(family)}")
    if loose:
        said.append(f"{', '.join(loose)} not read yet: {_room(strands)}")
    absent = [s.words for s in strands if not s.leads for _ in range(s.count)]
    missing = tuple(absent[len(loose) :])  # a lead that was not read may be any of them
    return Bundle("valve" if valve else family, strands, tuple(said), missing)


def _expected(key: str) -> tuple[Strand, ...]:
    """The leads of a family; a mains part has its primary and whatever it feeds."""
    family = family_of(key)
    return () if family is None else family.leads


def more_leads(key: str) -> str:
    """What more leads than expected may be; empty where a family has as many as it feeds."""
    family = family_of(key)
    return "" if family is None else family.more_leads


def _filled(
    wanted: tuple[Strand, ...], windings: tuple[Winding, ...]
) -> tuple[tuple[Strand, ...], list[str]]:
    """The strands with the windings that fill them, the most leads to the widest; and the leads
    that none of them takes.
    """
    left = sorted(windings, key=lambda w: -len(w.coil.members))
    filled = []
    for strand in sorted(wanted, key=lambda s: -s.count):
        mine = next((w for w in left if w.role in strand.roles), None)
        if mine is not None:
            left.remove(mine)
            leads = tuple(x for x in mine.coil.members if x != "core")
            strand = replace(strand, leads=leads)
        filled.append(strand)
    ordered = sorted(filled, key=lambda s: [w.words for w in wanted].index(s.words))
    return tuple(ordered), [x for w in left for x in w.coil.members if x != "core"]


def _full(strands: tuple[Strand, ...]) -> bool:
    return all(s.leads or s.optional for s in strands)


def _room(strands: tuple[Strand, ...]) -> str:
    """Where leads that were not read may belong."""
    open_ = [s.words for s in strands if not s.leads]
    return f"room for {', '.join(open_)}" if open_ else "the bundle is full without them"


class Proposal(Struct, frozen=True):
    """Leads that may be one winding, and what proposes it."""

    leads: tuple[str, ...]
    why: str


def proposals(record: Transformer, read: set[str]) -> list[Proposal]:
    """What twist, colour and stripe propose of leads that no reading has placed yet: twisted
    together; two of one colour; two plain and a striped one of it, which is often the middle.
    """
    left = [lead for lead in record.leads if lead.id not in read]
    out = [*_twisted(left)]
    taken = {x for p in out for x in p.leads}
    for leads in _by_colour([lead for lead in left if lead.id not in taken]):
        plain = [lead.id for lead in leads if not lead.stripe]
        striped = [lead.id for lead in leads if lead.stripe]
        if len(plain) == 2 and len(striped) <= 1:
            middle = f", {striped[0]} its middle" if striped else ""
            out.append(Proposal((*plain, *striped), f"one colour{middle}"))
    return out


def _twisted(leads: list[Lead]) -> list[Proposal]:
    here = {lead.id for lead in leads}
    pairs = {frozenset((x.id, x.twisted_with)) for x in leads if x.twisted_with in here}
    return [Proposal(tuple(sorted(str(x) for x in p)), "twisted") for p in pairs if len(p) == 2]


def _by_colour(leads: list[Lead]) -> list[list[Lead]]:
    by: dict[str, list[Lead]] = defaultdict(list)
    for lead in leads:
        if lead.colour:
            by[lead.colour.casefold()].append(lead)
    return list(by.values())
