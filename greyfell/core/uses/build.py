"""The build sheet: every step of a rewinding in its order with minutes and waits, tools, what to
buy, what must be read before it goes on; what “ready by” leaves out.
"""

import math
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct, field

from greyfell.core.coil_design.removal import READ_AGAIN, SHUNTS, Recommended, Work
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.limits import FUSES
from greyfell.core.uses.catalogue import REINFORCED, Use
from greyfell.core.uses.project import Design

EVENING = 180.0
"""Minutes of an evening at the bench."""
VARNISH_HOURS, EPOXY_HOURS = 12.0, 24.0


class BuildStep(Struct, frozen=True, kw_only=True):
    """One step of the sheet: number, the work, whether it is done, why it is locked."""

    number: int
    work: Work
    done: bool
    locked: str


class Sheet(Struct, frozen=True, kw_only=True):
    """The sheet: steps, minutes of work and of waiting, what to buy; for a day that is told, how
    many evenings are missing and what may be left out.
    """

    steps: tuple[BuildStep, ...]
    minutes: float
    waits: float
    buy: "tuple[Wanted, ...]"

    @property
    def here(self) -> BuildStep | None:
        """The step that is next."""
        return next((s for s in self.steps if not s.done), None)

    @property
    def evenings(self) -> int:
        """Evenings of work, waits over night."""
        return max(1, -(-int(self.minutes) // int(EVENING)) + int(self.waits // 720))


def works(design: Design, use: Use, way: Recommended) -> list[Work]:
    """The whole work in its order."""
    out = list(BEFORE)
    out += way.method.steps
    if not design.iron.shunts_in and _had_shunts(design):
        out.append(SHUNTS)
    out += (PROVED, *JUDGED)
    if use.barrier == REINFORCED:
        out.append(FORMER)
    out += _winding(design)
    if way.joint is not None:
        hours = EPOXY_HOURS if way.joint.key == "epoxy" else 0.0
        out.append(
            Work(
                key="rejoin",
                words=f"{way.joint.title}: {way.joint.words}",
                tool="as the joint asks",
                minutes=30,
                waits=60 * hours,
            )
        )
    out += AFTER
    return out


def _had_shunts(design: Design) -> bool:
    """Whether the design took shunts out that stood in the window."""
    return "shunts out, common practice" in design.iron.reactance_ohms.basis


BEFORE = (
    Work(
        key="asked",
        words="Once more: what the cut ends for good, and whether that is meant",
        tool="none",
        minutes=5,
    ),
    Work(
        key="before",
        words="Read cold and write down: primary's ohms, primary to core",
        tool="meter",
        minutes=5,
        proof="cold",
        caution="nothing is plugged in: what comes out needs no live reading",
    ),
)
JUDGED = (
    Work(
        key="test-turns",
        words="Five test turns of thin wire through both windows, read at a low drive: volts per "
        "turn within a hundredth",
        tool="thin wire, meter",
        minutes=10,
        proof="test-turn",
        caution="a low drive only",
    ),
    Work(
        key="idle",
        words="The primary alone behind the lamp, then on the line: amps and watts at no load, "
        "against those that iron of its weight takes",
        tool="lamp, wattmeter",
        minutes=15,
        proof="no-load",
        caution="through every step of first power: core to earth, covered, one hand",
    ),
)
"""What judges the iron for its new winding, read when the old one is out."""
PROVED = Work(
    key="proved",
    words="Swarf out with a brush; then, before anything goes on: " + "; ".join(READ_AGAIN),
    tool="meter, brush",
    minutes=15,
    proof="after-cut",
    caution="any of them worse than before: stop, look where the primary was touched",
)
FORMER = Work(
    key="former",
    words="A former of its own: three layers of polyester tape or two walls, 5 mm over surfaces, "
    "3 mm through air; 500 V with 7 MΩ before the winding and after it",
    tool="presspan, tape, insulation tester",
    minutes=45,
    proof="barrier",
)
AFTER = (
    Work(
        key="wiring",
        words="Unit around it: two-pole switch and fuse ahead, core to earth, strain relief, every "
        "mains part covered, cut-out on the primary, nothing that burns near; wiring read through "
        "once more by somebody else",
        tool="screwdriver, crimper",
        minutes=60,
        caution="mains wiring by local codes; where they ask for it, by a licensed hand",
    ),
    Work(
        key="first",
        words="First power behind the lamp: open volts against the plan, amps and watts at no load",
        tool="lamp, meter, wattmeter",
        minutes=15,
        proof="open-volts",
    ),
    Work(
        key="short",
        words="Shorted for a second at reduced volts: amps, volts and watts; the model is "
        "corrected, the tag printed anew",
        tool="variac or limiter, wattmeter",
        minutes=15,
        proof="short-circuit",
    ),
)


def _winding(design: Design) -> list[Work]:
    """Winding it, in turns and metres, ends and cure."""
    conductor, found = design.conductor, design.found
    if conductor is None:
        return []
    length = design.metres + design.tails_m
    ends = {
        "enamelled": "enamel off and tinned, every strand",
        "strands": "enamel off every strand, all of them take solder; crimped and filled",
        "sheet": "copper bar riveted and soldered to the sheet",
        "aluminium sheet": "aluminium bar bolted to the sheet, its oxide off under paste",
        "aluminium wire": "enamel and oxide off under paste, lugs for aluminium, crimped",
    }.get(conductor.made, "lugs of its section, crimped, below 80 µΩ each")
    bend = (
        "folded at its middle, both ends out on one side; corners no tighter than four diameters"
        if found.turns <= 4
        else "layer by layer, paper between where it is planned"
    )
    return [
        Work(
            key="proved-cable",
            words=f"Prove {conductor.title} by its ohms a metre: "
            f"{1e3 * conductor.ohms(1.0) * conductor.in_hand:.2f} mΩ, a tenth more at most",
            tool="milliohm by V/I",
            minutes=10,
        ),
        Work(
            key="wind",
            words=f"Wind {found.turns} whole turns of {conductor.name}, {length:.1f} m with tails "
            f"of {design.tails_m:g} m, counted through both windows; {bend}",
            tool="hands, wooden wedge",
            minutes=20 + 4.0 * found.turns,
            caution="a turn is through one window and back through the other",
        ),
        Work(
            key="count",
            words=f"Read {found.turns} turns at a low drive: volts say the count",
            tool="meter",
            minutes=5,
            proof="test-turn-new",
        ),
        Work(
            key="ends",
            words=f"Ends: {ends}",
            tool="as named",
            minutes=25,
            caution="crimps pulled by hand before they are trusted",
        ),
        Work(
            key="varnish",
            words="Wedge it, varnish or tie it: what moves hums and rubs through",
            tool="wedges, varnish",
            minutes=15,
            waits=60 * VARNISH_HOURS,
            caution="solvent: air, no spark",
        ),
    ]


def sheet(
    design: Design, use: Use, way: Recommended, done: Sequence[str], missing: Sequence[str]
) -> Sheet:
    """The sheet with what is ticked off; a step whose test is not on record keeps the next ones
    locked. `missing` are proofs that no reading holds.
    """
    steps: list[BuildStep] = []
    locked = ""
    for n, work in enumerate(works(design, use, way), 1):
        steps.append(BuildStep(number=n, work=work, done=work.key in done, locked=locked))
        if work.proof and work.proof in missing and not locked:
            locked = f"first the readings of step {n}"
        elif not steps[-1].done and not locked and work.proof:
            locked = f"first step {n}"
    return Sheet(
        steps=tuple(steps),
        minutes=sum(s.work.minutes for s in steps),
        waits=sum(s.work.waits for s in steps),
        buy=tuple(_to_buy(design, use)),
    )


class Wanted(Struct, frozen=True, kw_only=True):
    """One thing that the work wants: in words, the kind of the stores that has it, the figure it is
    chosen by with its least and its most, what other figures must be at least, and words that must
    be said of it. What is not said of an entry does not fit.
    """

    words: str
    kind: str = ""
    figure: str = ""
    least: float = 0.0
    most: float = math.inf
    at_least: Mapping[str, float] = field(default_factory=dict)
    said: Mapping[str, str] = field(default_factory=dict)

    def met_by(self, items: Sequence[Item]) -> Item | None:
        """The entry of the stores that does with least to spare; None where none does."""
        able = [(_has(i, self.figure), i) for i in items if self._may_be(i)]
        enough = [(has, i) for has, i in able if self.least <= has <= self.most]
        return min(enough, key=lambda pair: pair[0])[1] if enough else None

    def _may_be(self, item: Item) -> bool:
        """Whether it is of the kind, still there, and all else that is wanted is said of it."""
        here = item.kind.key == self.kind and bool(item.count)
        rated = all(_has(item, key) >= least for key, least in self.at_least.items())
        return here and rated and all(item.figures.get(k) == v for k, v in self.said.items())


def _has(item: Item, key: str) -> float:
    """A figure of an entry; nought where it is not told."""
    value = item.figures.get(key)
    return float(value) if isinstance(value, int | float) else 0.0


def _conductor_to_buy(design: Design) -> Iterator[Wanted]:
    c = design.conductor
    if c is None:
        return
    length = (design.metres + design.tails_m) * c.in_hand
    yield Wanted(words=f"{length:.1f} m of {c.title}, {c.limit_celsius:.0f} °C")
    if c.made in ("cable", "welding cable"):
        yield Wanted(
            words=f"2 crimp lugs of {c.mm2:g} mm², M8",
            kind="lug",
            figure="mm2",
            least=c.mm2,
            most=LUG * c.mm2,
        )


def _switching_to_buy(amps: float, line: Mapping[str, float], use: Use) -> Iterator[Wanted]:
    fuse = next((f for f in FUSES if f >= max(amps, LEAST_FUSE)), FUSES[-1])
    yield Wanted(
        words=f"fuse {fuse:g} A slow, {MAINS_RATED}",
        kind="fuse",
        figure="amps",
        least=fuse,
        most=fuse,
        at_least=line,
        said={"speed": "slow"},
    )
    yield Wanted(
        words=f"two-pole switch of {2 * fuse:g} A, {MAINS_RATED}",
        kind="switch",
        figure="amps",
        least=2 * fuse,
        at_least={**line, "poles": 2.0},
    )
    if use.on_seconds < 60:
        yield Wanted(words=f"foot switch of {2 * fuse:g} A, {MAINS_RATED}: a plug is no switch")


def _to_buy(design: Design, use: Use) -> list[Wanted]:
    """What the work wants besides, with ratings; the conductor stands first."""
    at = design.found.shot
    line = {"volts": design.iron.supply_volts}
    out = list(_conductor_to_buy(design))
    if at is not None:
        out += _switching_to_buy(at.primary_amps, line, use)
    out.append(
        Wanted(
            words=f"thermal cut-out 90 °C, normally closed, {MAINS_RATED}, on the primary",
            kind="cut-out",
            figure="celsius",
            least=CUT_OUT_CELSIUS[0],
            most=CUT_OUT_CELSIUS[1],
            at_least=line | ({} if at is None else {"amps": at.primary_amps}),
        )
    )
    out.append(Wanted(words="strain relief, earth lug for the core, cover for every mains part"))
    return out


MAINS_RATED = "250 V"
CUT_OUT_CELSIUS = (70.0, 100.0)
"""A cut-out on the primary opens between these: before class A insulation is spoilt. Common
practice."""
LUG = 1.25
"""A lug is crimped on so much less than its own section at most. Common practice."""
LEAST_FUSE = 1.0
"""No smaller fuse is put ahead of what is built, A: it would open as the iron is switched on. From
memory."""
MAY_WAIT = ("varnish", "count", "proved-cable")
"""Steps that may be left out for a day, in this order; no proof is among them."""


class ReadyBy(Struct, frozen=True, kw_only=True):
    """Whether a sheet can be done in so many evenings, what is left out for it, in a sentence."""

    possible: bool
    left_out: tuple[str, ...]
    words: str


def ready_by(plan: Sheet, evenings: int) -> ReadyBy:
    """What must be left out to be ready in so many evenings; no test is ever left out."""
    left = [s.work for s in plan.steps if not s.done]
    out: list[str] = []
    if _needed(left) <= evenings:
        said = f"{_needed(left)} evenings are needed, {evenings} are there."
        return ReadyBy(possible=True, left_out=(), words=said)
    for key in MAY_WAIT:
        gone = next((w for w in left if w.key == key and not w.proof), None)
        if gone is None:
            continue
        left.remove(gone)
        out.append(gone.words.split(":")[0].split(",")[0])
        if _needed(left) <= evenings:
            said = f"Ready if this waits: {'; '.join(out)}. No test may wait."
            return ReadyBy(possible=True, left_out=tuple(out), words=said)
    said = f"It cannot be: {_needed(left)} evenings without every test left out, {evenings} given."
    return ReadyBy(possible=False, left_out=tuple(out), words=said)


def _needed(left: Sequence[Work]) -> int:
    minutes, waits = sum(w.minutes for w in left), sum(w.waits for w in left)
    return max(1, -(-int(minutes) // int(EVENING)) + int(waits // 720))
