"""A bank of ready-made ballasts for a wanted current: every way of joining what is on hand, in
strings and side by side.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import starts
from greyfell.core.planners.ballast import MOST_OHMS, NOUGHT, loaded_by

MOST_PARTS = 6
"""A bank has no more parts. The rule of the planner."""
MOST_BANKS = 6_000
"""So many ways of joining are looked at, those of few parts first."""
MOST_SHOWN = 8
READ = 0.05
"""Amps of a ballast as they were read or plated, ±. From memory."""
SATURATING = 1.4
"""Above the volts that it was read at, a ballast passes up to so many times its straight amps.
B-T1, from memory."""


@dataclass(frozen=True, kw_only=True)
class Ballast(Input):
    """One kind of ballast on hand: its amps with the lamp shorted, at which volts and hertz."""

    title: str = asked("Name")
    short_amps: float = asked("Amps, lamp shorted", "A", above=0, at_most=1e4)
    at_volts: float = asked("at volts", "V", above=0, at_most=1e5)
    at_hertz: float = asked("and hertz", "Hz", above=0, at_most=1e4)
    count: int = asked("how many", default=1, at_least=1, at_most=50)
    ohms: float = asked("copper ohms", "Ω", default=0.0, at_least=0, at_most=1e6)
    rated_amps: float | None = asked("rated amps", "A", default=None, above=0, at_most=1e4)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The supply, the amps that may flow with the load shorted, what is in the loop besides, and
    the ballasts on hand.
    """

    limit_amps: Quantity = asked(
        "Current, load shorted", "A", above=0, at_most=1e5, slide=(0.2, 25), chosen=True
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    ballasts: tuple[Ballast, ...] = asked(
        "Ballasts on hand",
        stock="ballast",
        help="as mercury_400 5.1A 230V 50Hz 2; sodium_250 3.6A 230V 50Hz",
    )
    source_resistance_ohms: Quantity = asked(
        "Resistance in the loop",
        "Ω",
        default=NOUGHT,
        at_least=0,
        at_most=MOST_OHMS,
        start=starts.source_resistance,
    )
    source_reactance_ohms: Quantity = asked(
        "Reactance in the loop",
        "Ω",
        default=NOUGHT,
        at_least=0,
        at_most=MOST_OHMS,
        start=starts.source_reactance,
    )
    load_ohms: float | None = asked("Load", "Ω", default=None, at_least=0, at_most=MOST_OHMS)
    load_lamp_watts: float | None = asked(
        "or a lamp, on this supply", "W", default=None, above=0, at_most=1e6
    )


@dataclass(frozen=True, kw_only=True)
class Choice(ShownRow):
    """One way of joining them."""

    parts: str = shown("Parts")
    connection: str = shown("Joined")
    impedance_ohms: Quantity = shown("Impedance", "Ω")
    henries: Quantity = shown("Inductance", "H")
    shorted_amps: Quantity = shown("Shorted", "A")
    amps_each: tuple[float, ...] = shown("Amps of each string", "A")
    over_rating: bool = shown("Over rating")
    loaded_amps: Quantity | None = shown("Loaded", "A")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The choices below the limit, best first, and the nearest above it."""

    recommended: str = shown("Take", lead=True)
    choices: tuple[Choice, ...] = shown("Banks, best first")
    next_above: Choice | None = shown("The nearest above")
    ways: int = shown("Ways looked at")


def work(given: Given) -> Found:
    """Impedance of each by its amps, scaled by hertz; strings add, strings side by side by their
    admittances, all as phasors. REF-B-02, REF-B-03. V, A, Ω.

    Raises FieldError where a ballast's copper is more than its impedance.

    >>> one = Ballast(title="sodium", short_amps=4.6, at_volts=230.0, at_hertz=50.0, count=2)
    >>> told = Given(limit_amps=exact(10.0), supply_volts=exact(230.0), supply_hertz=50.0,
    ...              ballasts=(one,))
    >>> found = work(told)
    >>> found.choices[0].parts, round(found.choices[0].shorted_amps.value, 1)
    ('2 × sodium', 9.2)
    """
    each = [_impedance(b, given.supply_hertz) for b in given.ballasts]
    found = list(islice(_banks([b.count for b in given.ballasts]), MOST_BANKS))
    looked = _looked_at(given, each, found)
    most = given.limit_amps.value * (1 + 1e-9)
    below = sorted(x for x in looked if x.amps <= most)[:MOST_SHOWN]
    over = min((x for x in looked if x.amps > most), key=lambda x: (x.amps, x.parts), default=None)
    fitting = [_choice(given, each, x.bank) for x in below]
    best = fitting[0] if fitting else None
    return Found(
        recommended="nothing on hand" if best is None else f"{best.parts}, {best.connection}",
        choices=tuple(fitting),
        next_above=None if over is None else _choice(given, each, over.bank),
        ways=len(found),
    )


def _impedance(ballast: Ballast, hertz: float) -> complex:
    """Of one ballast at the supply's hertz. REF-T-02. Raises FieldError."""
    whole = ballast.at_volts / ballast.short_amps
    if ballast.ohms >= whole:
        raise FieldError(
            "ballasts",
            f"{ballast.title} has {ballast.ohms:g} Ω of copper and {whole:.3g} Ω in all: one of "
            "the two is wrong.",
        )
    reactance = math.sqrt(whole**2 - ballast.ohms**2)
    return complex(ballast.ohms, reactance * hertz / ballast.at_hertz)


Bank = tuple[tuple[int, ...], ...]
"""Strings side by side, each of parts in a row."""


def _banks(counts: Sequence[int]) -> Iterator[Bank]:
    """Every way of joining, those of few parts first."""
    held = [min(c, MOST_PARTS) for c in counts]
    for size in range(1, min(MOST_PARTS, sum(held)) + 1):
        yield from _of_size(held, size, ())


def _of_size(left: list[int], size: int, above: tuple[int, ...]) -> Iterator[Bank]:
    """Banks of so many parts whose strings do not rise above the last one taken."""
    if size == 0:
        yield ()
        return
    for string in _strings(left, size, 0):
        if above and (len(string), string) > (len(above), above):
            continue
        rest = [n - string.count(k) for k, n in enumerate(left)]
        for more in _of_size(rest, size - len(string), string):
            yield (string, *more)


def _strings(left: Sequence[int], most: int, first: int) -> Iterator[tuple[int, ...]]:
    """Strings of up to `most` parts out of what is left, each named once."""
    for k in range(first, len(left)):
        if not left[k]:
            continue
        yield (k,)
        rest = [n - (i == k) for i, n in enumerate(left)]
        if most > 1:
            for more in _strings(rest, most - 1, k):
                yield (k, *more)


@dataclass(frozen=True, order=True)
class _Looked:
    """One bank by what it is chosen by, the best first."""

    over: bool
    less: float
    parts: int
    bank: Bank

    @property
    def amps(self) -> float:
        """How many amps its bank gives more, A."""
        return -self.less


def _looked_at(given: Given, each: Sequence[complex], banks: Sequence[Bank]) -> list[_Looked]:
    """Amps shorted of every bank, and whether a part is above its rating."""
    own = complex(given.source_resistance_ohms.value, given.source_reactance_ohms.value)
    supply = given.supply_volts.value
    known: dict[tuple[int, ...], tuple[complex, float]] = {}
    for string in {s for bank in banks for s in bank}:
        rated = [r for k in string if (r := given.ballasts[k].rated_amps) is not None]
        z = sum((each[k] for k in string), 0j)
        known[string] = (1 / z, min(rated, default=math.inf) * abs(z))
    out = []
    for bank in banks:
        strings = [known[s] for s in bank]
        z = 1 / sum(y for y, _ in strings)
        amps = supply / abs(own + z)
        over = amps * abs(z) > min(volts for _, volts in strings)
        out.append(_Looked(over, -round(amps, 6), sum(map(len, bank)), bank))
    return out


def _choice(given: Given, each: Sequence[complex], bank: Bank) -> Choice:
    """One bank worked out."""
    strings = [sum((each[k] for k in s), 0j) for s in bank]
    z = 1 / sum(1 / s for s in strings)
    own = complex(given.source_resistance_ohms.value, given.source_reactance_ohms.value)
    amps = given.supply_volts.value / abs(own + z)
    across = amps * abs(z)
    own_amps = tuple(across / abs(s) for s in strings)
    basis = ("phasors, REF-B-03",)
    return Choice(
        parts=_named(given, bank),
        connection=_joined(bank),
        impedance_ohms=Quantity(abs(z), abs(z) * (1 - READ), abs(z) * (1 + READ), basis),
        henries=exact(z.imag / (2 * math.pi * given.supply_hertz), "X/2πf"),
        shorted_amps=_shorted(given, bank, own, z, across),
        amps_each=own_amps,
        over_rating=_over(given, bank, own_amps),
        loaded_amps=_loaded(given, own + z),
    )


def _shorted(given: Given, bank: Bank, own: complex, z: complex, across: float) -> Quantity:
    """Amps with the load shorted; where a string stands above the volts that its parts were read
    at, its iron may pass more.
    """
    supply = given.supply_volts
    value = supply.value / abs(own + z)
    meant = min(sum(given.ballasts[k].at_volts for k in s) for s in bank)
    more = SATURATING if across > meant * (1 + READ) else 1 + READ
    low = supply.low / abs(own + z * (1 + READ))
    return Quantity(value, low, max(value, supply.high / abs(own + z / more)), ("phasors",))


def _over(given: Given, bank: Bank, amps: Sequence[float]) -> bool:
    """Whether a part carries more than it is rated for."""
    for string, own in zip(bank, amps, strict=True):
        rated = [given.ballasts[k].rated_amps for k in string]
        if any(r is not None and own > r for r in rated):
            return True
    return False


def _loaded(given: Given, loop: complex) -> Quantity | None:
    """Amps into the load; None where none is told."""
    found = loaded_by(given.supply_volts.value, loop, given.load_ohms, given.load_lamp_watts)
    return None if found is None else exact(found.amps, "phasors, REF-B-02")


def _named(given: Given, bank: Bank) -> str:
    """What it takes: "2 × sodium, 1 × mercury"."""
    all_parts = [k for s in bank for k in s]
    kinds = sorted(set(all_parts))
    return ", ".join(f"{all_parts.count(k)} × {given.ballasts[k].title}" for k in kinds)


def _joined(bank: Bank) -> str:
    """How the strings stand."""
    lengths = [len(s) for s in bank]
    if lengths == [1]:
        return "alone"
    if len(lengths) == 1:
        return "in series"
    if set(lengths) == {1}:
        return "side by side"
    return "strings of " + ", ".join(str(n) for n in lengths)


BALLAST_BANK = Planner(
    name="ballast_bank",
    title="A bank of ballasts",
    purpose="What the ballasts on hand can be joined to, for a wanted current.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="Z = at volts / short amps; Y = Σ 1/(R + jX); I = V/|Z_loop + 1/Y|",
        source="REF-B-02, REF-B-03, B-T1",
        put="{ways} ways of joining, none above {limit_amps} but the one named apart",
    ),
    cautions=(
        Caution(
            code="none-fits",
            severity="caution",
            sentence="Nothing on hand keeps it below {limit_amps}: the nearest passes more.",
            when=lambda given, found: not found.choices,
        ),
        Caution(
            code="over-rating",
            severity="caution",
            sentence=(
                "The best of them carries more than its rating: seconds only, and its thermal "
                "cut-out stays in."
            ),
            when=lambda given, found: bool(found.choices) and found.choices[0].over_rating,
        ),
        Caution(
            code="lamp-gear",
            severity="caution",
            sentence=(
                "Ignitors (1.8 to 5 kV pulses) and power-factor capacitors come off lamp gear "
                "first. Constant-wattage gear is no choke: it has a capacitor in series."
            ),
        ),
        Caution(
            code="fuse-it",
            severity="caution",
            sentence=(
                "It limits, it does not isolate; a ballast that shorts is full mains: fuse for "
                "the working current."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    note="A row: name, amps, volts, hertz; then how many, copper ohms, rated amps; “-” leaves out.",
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "limit_amps": 9.0,
        "source_resistance_ohms": 2.0,
        "source_reactance_ohms": 4.0,
        "load_ohms": 12.0,
        "ballasts": [
            {"title": "sodium 400", "short_amps": 5.6, "at_volts": 230.0, "at_hertz": 50.0},
            {
                "title": "mercury 250",
                "short_amps": 3.0,
                "at_volts": 230.0,
                "at_hertz": 50.0,
                "count": 2,
                "ohms": 4.0,
                "rated_amps": 3.2,
            },
        ],
    },
    checks=(
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 10.0,
                "ballasts": [
                    {"title": "a", "short_amps": 230 / 39, "at_volts": 230.0, "at_hertz": 50.0},
                    {"title": "b", "short_amps": 230 / 60, "at_volts": 230.0, "at_hertz": 50.0},
                ],
            },
            expected={"choices.0.impedance_ohms": 23.64},
            source="REF-B-03a: 39 Ω beside 60 Ω",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 60.0,
                "limit_amps": 5.0,
                "ballasts": [
                    {"title": "a", "short_amps": 4.6, "at_volts": 230.0, "at_hertz": 50.0}
                ],
            },
            expected={"choices.0.shorted_amps": 4.6 / 1.2},
            source="REF-B-01: X goes with hertz, 17 % less current at 60 Hz",
        ),
    ),
)
