"""Every pair of leads, and of lead and core, as the cold station shows it: read, open, open that
says nothing, contradicting, or not read; and the one that would tell most.
"""

import math
from collections.abc import Container, Sequence
from itertools import combinations
from typing import Literal

from msgspec import Struct

from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.screening import CORE as BARE_IRON
from greyfell.core.judgement.screening import HIGH_RANGE_OHMS, barriers, demanded
from greyfell.core.steps.step import Step
from greyfell.core.telling.usual_ranges import Band
from greyfell.core.telling.words import role_words

State = Literal["ohms", "open", "nothing", "contradicting", "unread"]
STATES: dict[State, str] = {
    "ohms": "conducts",
    "open": "open, on a range that counts",
    "nothing": "open that says nothing: a low range, one not noted, or bare iron not proved",
    "contradicting": "does not belong with the others",
    "unread": "not read",
}
"""What each state is, in words."""
CORE = "core"


class PairCell(Struct, frozen=True):
    """One pair: its points, its state, what it read in short, the readings of it, a sentence."""

    points: tuple[str, str]
    state: State
    shown: str
    readings: tuple[str, ...]
    sentence: str


class Block(Struct, frozen=True):
    """A winding among the points: the first and last place it takes, and its words."""

    first: int
    last: int
    name: str
    words: str


class PairWorth(Struct, frozen=True):
    """About how many more pairs are worth reading: the fewest, the most. Both 0 is enough.

    Give or take one: a reading may show that a winding does not carry the mains after all, and what
    was asked of it with that.
    """

    least: int
    most: int

    @property
    def words(self) -> str:
        """The number of pairs, as one number or a range."""
        return f"{self.least}" if self.least == self.most else f"{self.least} to {self.most}"


class Fan(Struct, frozen=True):
    """The pairs of a piece: its points in the order of its windings, the core last; a cell for each
    pair; the windings; the pair that would tell most; how many are not read.
    """

    points: tuple[str, ...]
    cells: tuple[PairCell, ...]
    blocks: tuple[Block, ...]
    telling: tuple[str, str] | None
    worth: PairWorth

    @property
    def unread(self) -> int:
        """How many pairs were not read."""
        return sum(c.state == "unread" for c in self.cells)


def fan_of(ident: Identification, bands: Sequence[Band], steps: Sequence[Step]) -> Fan:
    """Every pair of a piece from its bands, with the pair that the next steps ask for. Pure."""
    points, blocks = _ordered(ident)
    by_pair: dict[frozenset[str], list[Band]] = {}
    for band in bands:
        by_pair.setdefault(frozenset(band.points), []).append(band)
    cells = tuple(_cell(ident, x, y, by_pair.get(frozenset((x, y)), [])) for x, y in _pairs(points))
    asked = (s.leads["between"] for s in steps if s.kind == "resistance" and "between" in s.leads)
    telling = next(((p[0], p[1]) for p in asked if set(p) <= set(points)), None)
    return Fan(
        points=points, cells=cells, blocks=blocks, telling=telling, worth=_worth(ident, by_pair)
    )


BARRIERS_EACH = 3
"""How many barriers a winding found among the strays may still want: the core, and what carries the
mains from either end. House rule, held in the tests against whole sessions."""


IF_JOINED = 2
"""Pairs that tell the order of two windings' leads once a barrier between them conducts."""


def _worth(ident: Identification, read: Container[frozenset[str]]) -> PairWorth:
    """The pairs that would still tell something: a partner for each lead that has none, a barrier
    that the screening asks for, the ohms of a winding, the order of its leads.

    Two strays may be the ends of one winding, so a pair may place both. At worst a stray finds its
    partner last of all, those after it are known to be apart from both, and each winding so found
    wants its barriers to the core and to what carries the mains. A stray that joins a winding may
    lie on either side of the lead it was read against; two windings that turn out to be one want
    the order of theirs. A stray may settle a barrier on its way.
    """
    topology = ident.topology
    strays, windings = topology.untested, ident.windings
    open_yet = [b for b in barriers(ident.record, topology) if not b.screened]
    asked = [b for b in open_yet if demanded(b, windings)]
    wanted = len(asked)
    in_doubt = [w.coil for w in windings if w.coil.telling is not None]
    wanted += sum(w.coil.unread for w in windings) + len(in_doubt)
    new = math.ceil(len(strays) / 2)
    least = max(new, wanted - len(strays))
    among = sum(range(len(strays) - 1, 0, -2)) + BARRIERS_EACH * new
    firsts = [w.coil.leads[0] for w in windings] or [CORE]
    known = sum(frozenset((x, y)) not in read for x in strays for y in firsts)
    placed = len(strays) if windings else 0
    placed += sum(len(coil.taps) for coil in in_doubt)
    if any(b.j != BARE_IRON for b in asked):
        placed += IF_JOINED
    return PairWorth(least, max(least, wanted + among + known + placed))


def _pairs(points: Sequence[str]) -> list[tuple[str, str]]:
    return list(combinations(points, 2))


def _ordered(ident: Identification) -> tuple[tuple[str, ...], tuple[Block, ...]]:
    """Leads by winding, in order along each, then those that belong to none, the core last."""
    points: list[str] = []
    blocks = []
    leads = {lead.id for lead in ident.record.leads}
    for w in ident.windings:
        along = sorted(w.coil.positions, key=lambda x: w.coil.positions[x])
        own = [x for x in (*along, *w.coil.members) if x in leads and x not in points]
        own = list(dict.fromkeys(own))
        if not own:
            continue
        words = role_words(w.role, ident.family, ident.record.supply.volts)
        if w.sure < SETTLED:
            words = f"perhaps {words}"
        blocks.append(Block(len(points), len(points) + len(own) - 1, w.name, words))
        points += own
    points += [lead.id for lead in ident.record.leads if lead.id not in points]
    return (*points, CORE), tuple(blocks)


SETTLED = 0.8
"""From this chance of its role a winding is called by it without "perhaps". House rule."""


def _cell(ident: Identification, x: str, y: str, found: Sequence[Band]) -> PairCell:
    """One pair by what was read of it last; a contradicting reading before any other."""
    if not found:
        return PairCell(
            points=(x, y), state="unread", shown="", readings=(), sentence=STATES["unread"]
        )
    states = [_state(ident, band) for band in found]
    at = next((n for n, s in enumerate(states) if s == "contradicting"), len(found) - 1)
    band = found[at]
    return PairCell(
        points=(x, y),
        state=states[at],
        shown=band.shown,
        readings=tuple(b.reading.id for b in found),
        sentence=band.sentence,
    )


def _state(ident: Identification, band: Band) -> State:
    faulty = {r for f in ident.faults if f.severity != "note" for r in f.readings}
    if band.reading.id in faulty:
        return "contradicting"
    if not math.isinf(band.ohms):
        return "ohms"
    if (band.reading.range_ohms or 0.0) < HIGH_RANGE_OHMS:
        return "nothing"
    if CORE in band.points and not ident.topology.core_proved:
        return "nothing"
    return "open"
