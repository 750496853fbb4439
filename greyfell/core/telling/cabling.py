"""The conductors of an isolated outlet shared over the cables at hand: each run with the section
that its breaker asks for, the cable it is cut from, what is wanting.
"""

from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.bench.limiting import SECTION_AMPS
from greyfell.core.evidence.stores import Item
from greyfell.core.telling.outlet_wiring import Wiring

LEAST_MM2 = 0.5
"""No conductor at mains volts is thinner: IEC 60335-1 table 11 begins there."""
MOST_TIMES = 8.0
"""A conductor so many times thicker than is asked does not go under the terminals. From memory."""
SOCKET_AMPS = 16.0
"""The breaker ahead where nobody said another."""


class CableRun(Struct, frozen=True, kw_only=True):
    """One run: its words, how many conductors, metres of each, amps of the breaker or fuse that
    guards it.
    """

    words: str
    conductors: int
    metres: float
    guard: float

    @property
    def mm2(self) -> float:
        """The least section that bears what its guard lets through. mm². IEC 60335-1 table 11."""
        borne = (mm2 for mm2, amps in SECTION_AMPS if amps >= self.guard)
        return max(LEAST_MM2, next(borne, SECTION_AMPS[-1][0]))

    @property
    def length(self) -> float:
        """Metres of wire in all."""
        return self.conductors * self.metres


class Laid(Struct, frozen=True, kw_only=True):
    """A run and the cable it is cut from: its title and section, metres left of it; or neither,
    and why.
    """

    run: CableRun
    cable: str = ""
    mm2: float | None = None
    left: float | None = None
    wanting: str = ""


def runs(plan: Wiring, socket_amps: float = SOCKET_AMPS) -> list[CableRun]:
    """Every run of an isolated outlet, the feed's behind the socket's breaker, the rest behind its
    own. Lengths of a box on a bench, from memory. m, A.
    """
    own = plan.breaker or SOCKET_AMPS
    leads = max(len(p.line) + len(p.neutral) + 2 * len(p.joined) for p in plan.positions)
    return [
        CableRun(
            words="plug to fuse and switch, with earth", conductors=3, metres=2.0, guard=socket_amps
        ),
        CableRun(words="switch to the mains winding", conductors=2, metres=0.5, guard=socket_amps),
        CableRun(
            words="earth to the core and the case", conductors=2, metres=0.5, guard=socket_amps
        ),
        CableRun(words="windings to switch and breaker", conductors=leads, metres=0.4, guard=own),
        CableRun(words="breaker to the outlet, with its pin", conductors=3, metres=0.5, guard=own),
        CableRun(words="indicator", conductors=2, metres=0.3, guard=own),
    ]


class _Reel(Struct):
    """A cable at hand while it is cut from."""

    title: str
    mm2: float
    metres: float


def _reels(items: Iterable[Item]) -> list[_Reel]:
    """Copper of a known section and length; aluminium creeps under small screws, resistance wire
    is none.
    """
    out = []
    for item in items:
        mm2, metres = item.figures.get("mm2"), item.figures.get("metres")
        copper = item.figures.get("material", "copper") == "copper"
        if item.kind.key == "wire" and copper and mm2 is not None and metres is not None:
            out.append(_Reel(item.title, float(mm2), float(metres) * item.count))
    return sorted(out, key=lambda r: (r.mm2, r.title))


def shared(plan: Wiring, items: Iterable[Item], socket_amps: float = SOCKET_AMPS) -> list[Laid]:
    """Each run cut from the thinnest cable that bears its guard and is long enough, the thickest
    run first; none of two thin ones side by side: where one comes loose, the other burns.
    """
    if plan.refused or not plan.positions:
        return []
    reels, asked = _reels(items), runs(plan, socket_amps)
    found = {}
    for run in sorted(asked, key=lambda r: (-r.mm2, -r.length)):
        found[run.words] = _cut(run, reels)
    return [found[run.words] for run in asked]


def _cut(run: CableRun, reels: list[_Reel]) -> Laid:
    """A run cut from a reel, which is so much shorter then."""
    thick = [r for r in reels if run.mm2 <= r.mm2 <= MOST_TIMES * run.mm2]
    reel = next((r for r in thick if r.metres >= run.length), None)
    if reel is None:
        why = "too short" if thick else "none at hand"
        asked = f"{run.length:.1f} m of {run.mm2:g} mm² copper"
        return Laid(run=run, wanting=f"{asked}: {why}")
    reel.metres = round(reel.metres - run.length, 6)
    return Laid(run=run, cable=reel.title, mm2=reel.mm2, left=reel.metres)
