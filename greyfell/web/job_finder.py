"""From the other side: a job is said, and the pieces of the shelf that come nearest are named; or
what iron to look for.
"""

from typing import Any

from flask import request
from msgspec import Struct

from greyfell.core.uses.all_uses import USES, use_of
from greyfell.core.uses.catalogue import Use
from greyfell.core.uses.core_to_wind import barred, iron_of
from greyfell.core.uses.fit import Fit, fit
from greyfell.core.uses.iron_wanted import iron_to_look_for
from greyfell.core.uses.kept_project import AsItIs, as_it_is
from greyfell.core.uses.paired import NOT, PairCore, Paired, paired
from greyfell.records.rows import Kept
from greyfell.web.rewinding import ORDER
from greyfell.web.showing import Page
from greyfell.web.support import drawn, kept, repository

MOST_ASKED = 60
"""Pieces that are asked at once, the newest first: each is worked out whole."""
BEST = 3


class Answer(Struct, frozen=True, kw_only=True):
    """What one piece says to a job."""

    piece: Kept
    verdict: str
    words: str

    @property
    def order(self) -> int:
        """The better the sooner."""
        return ORDER.index(self.verdict)


class WantsPage(Page, frozen=True, kw_only=True):
    """The job asked for, and the best pieces for it side by side."""

    template = "wants.html"
    uses: tuple[Use, ...]
    use: Use | None
    best: list[Answer]
    rest: list[Answer]
    barred: list[Answer]
    left: int
    looks: str


def show() -> Any:
    """The job asked for, and the best pieces for it side by side."""
    use = use_of(request.args.get("use", ""))
    tags = repository().tags(practice=False)
    asked = [] if use is None or use.refused else tags[:MOST_ASKED]
    answers = sorted((_answer(kept(tag), use) for tag in asked if use), key=lambda a: a.order)
    best = [a for a in answers if a.verdict != ORDER[-1]]
    return WantsPage(
        uses=USES,
        use=use,
        best=best[:BEST],
        rest=best[BEST:],
        barred=[a for a in answers if a.verdict == ORDER[-1]],
        left=max(0, len(tags) - MOST_ASKED),
        looks=iron_to_look_for(use) if use is not None and not use.refused else "",
    ).render()


class CoilsPage(Page, frozen=True, kw_only=True):
    """Two primaries on one core: whose coil goes into whose window, and what it would put out."""

    template = "coils.html"
    pairs: list[Paired]
    others: list[Paired]
    cores: list[PairCore]
    left: int


def coils() -> Any:
    """Two primaries on one core: whose coil goes into whose window, and what it would put out."""
    tags = repository().tags(practice=False)
    known = (_core(kept(tag)) for tag in tags[:MOST_ASKED])
    cores = [core for core in known if core is not None]
    found = paired(cores)
    return CoilsPage(
        pairs=[p for p in found if p.verdict != NOT][:MOST_PAIRS],
        others=[p for p in found if p.verdict == NOT][:MOST_PAIRS],
        cores=cores,
        left=max(0, len(tags) - MOST_ASKED),
    ).render()


MOST_PAIRS = 24
"""Pairs shown of each sort."""


def _core(piece: Kept) -> PairCore | None:
    return drawn(piece, "core of a pair", lambda: PairCore.of(piece.ident))


def _answer(piece: Kept, use: Use) -> Answer:
    """As it is, rewound, or why not."""
    gate = piece.gate

    def worked() -> tuple[str, AsItIs | None, Fit | None]:
        standing = as_it_is(piece.asked, use)
        why = barred(piece.ident)
        iron = None if why else iron_of(piece.ident)
        return why, standing, None if iron is None else fit(iron, use)

    why, standing, found = drawn(piece, f"fit {use.key}, {gate.reasons}", worked)
    against = ""
    if standing is not None and standing.does:
        yet = f" Yet to be shown: {standing.yet}." if standing.yet else ""
        return Answer(piece=piece, verdict=ORDER[0], words=standing.words + yet)
    if standing is not None:
        against = f" Not as it is, though {standing.words}: {standing.against[0]}."
    if found is None:
        return Answer(piece=piece, verdict=ORDER[-1], words=why + against)
    return Answer(piece=piece, verdict=found.verdict, words=found.words + against)
