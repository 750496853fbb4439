"""A breaker ahead of a piece: which of its currents trip it, in what time, and how often it trips
by the switching-on alone.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import BREAKER_HOLDS
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners.starts import supply_hertz, supply_volts

HOUR = 3600.0
NEVER, MAY, WILL = "never", "may", "will"
SMALL_AMPS = 32.0
"""Breakers up to here trip at 2.55 times within a minute, larger ones within two. IEC 60898-1."""
DRAWS = 101
"""Angles of switching and remanences that a chance is taken over, each."""
FLOWS = (0.62, 0.66, 1.0)
"""What of the formula's first peak flows in fact: its own note, three cases stepped through in
time; a rig of ours gave 0.9. REF-M-17.
"""


@dataclass(frozen=True)
class Curve:
    """A breaker's band: (multiple of its amps, seconds) of the earliest and the latest trip, and
    the multiples that its magnet starts to trip at, and surely does.
    """

    earliest: tuple[tuple[float, float], ...]
    latest: tuple[tuple[float, float], ...]
    magnet: tuple[float, float]


def _iec(low: float, high: float) -> Curve:
    """Letters of IEC 60898-1: 1.13 holds an hour, 1.45 trips within it, 2.55 within 1 to 60 s."""
    earliest = ((BREAKER_HOLDS, HOUR), (2.55, 1.0), (max(low, 2.56), 0.1))
    return Curve(earliest, ((1.45, HOUR), (2.55, 60.0), (max(high, 2.56), 0.1)), (low, high))


def _industrial(low: float, high: float) -> Curve:
    """Letters of makers on the frame of IEC 60947-2: 1.05 holds, 1.30 trips within the hour."""
    earliest = ((1.05, HOUR), (low, 0.1))
    return Curve(earliest, ((1.30, HOUR), (high, 0.1)), (low, high))


CURVES = {
    "B": _iec(3.0, 5.0),
    "C": _iec(5.0, 10.0),
    "D": _iec(10.0, 20.0),
    "K": _industrial(8.0, 14.0),
    "Z": _industrial(2.0, 3.0),
    "US": Curve(
        earliest=((1.0, HOUR), (2.0, 10.0), (6.0, 0.1)),
        latest=((1.35, HOUR), (2.0, 120.0), (12.0, 0.1)),
        magnet=(6.0, 12.0),
    ),
}
"""Bands by letter: B, C, D IEC 60898-1; K, Z makers' (P-T1, from memory); US UL 489 with a magnet
that no standard sets, 6 to 12 times (common practice)."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The breaker, and the piece's currents: idle, loaded, shorted, and at switching on."""

    breaker_amps: float = asked("Breaker", "A", above=0, at_most=1e4)
    curve: str = asked("Its curve", default="B", choices=tuple(CURVES))
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e4, start=supply_volts)
    supply_hertz: float = asked("Its hertz", "Hz", above=0, at_most=1e4, start=supply_hertz)
    no_load_amps: Quantity = asked("No load", "A", at_least=0, at_most=1e5)
    loaded_amps: Quantity = asked("Loaded", "A", at_least=0, at_most=1e5)
    shorted_amps: Quantity = asked("Shorted", "A", at_least=0, at_most=1e6)
    inrush_peak_amps: Quantity | None = asked(
        "Peak at switching on", "A", default=None, at_least=0, at_most=1e6
    )
    winding_ohms: float | None = asked("or its ohms", "Ω", default=None, at_least=0, at_most=1e6)
    air_core_henries: float | None = asked(
        "its henries without iron", "H", default=None, above=0, at_most=1e3
    )
    peak_tesla: float | None = asked("peak flux density", "T", default=None, above=0, at_most=3)
    remanent_tesla: float | None = asked(
        "what remains of it",
        "T",
        default=None,
        at_least=0,
        at_most=2.5,
        help="0 to 0.8 of the peak where not given",
    )
    saturation_tesla: float = asked("Saturates at", "T", default=2.0, above=0, at_most=3)
    on_seconds: float | None = asked("On for", "s", default=None, above=0, at_most=1e6)
    off_seconds: float | None = asked("then off for", "s", default=None, at_least=0, at_most=1e6)


@dataclass(frozen=True, kw_only=True)
class Case(ShownRow):
    """One current against the breaker: over its rating, whether it trips, in what time."""

    over_rating: Quantity = shown("Over its rating")
    trips: str = shown("It trips")
    seconds: Quantity | None = shown("within", "s")


@dataclass(frozen=True, kw_only=True)
class Cases(ShownRow):
    """The four currents."""

    no_load: Case = shown("No load")
    loaded: Case = shown("Loaded")
    shorted: Case = shown("Shorted")
    inrush: Case = shown("Switching on")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Each current's fate, the peak at switching on, how often that trips, and what to take."""

    cases: Cases = shown("Against this breaker")
    inrush_peak_amps_used: Quantity = shown("Peak at switching on", "A")
    chance_per_switching: Quantity = shown("Chance to trip at switching on", lead=True)
    suggestion: str = shown("Take")


def seconds_at(given: Given, amps: float) -> tuple[float, float]:
    """Earliest and latest seconds in which it trips at so many amps; infinite where it holds. IEC
    60898-1.
    """
    return _seconds(given, CURVES[given.curve], amps / given.breaker_amps)


def trips(breaker_amps: float, curve: str, amps: Quantity, on_seconds: float) -> str:
    """Whether a breaker never, may or will trip where so many amps flow for so long. REF-P-03,
    P-T1.
    """
    ends = [_times(CURVES[curve], i / breaker_amps, breaker_amps) for i in (amps.low, amps.high)]
    return _word(ends[1][0], ends[0][1], on_seconds)


def work(given: Given) -> Found:
    """Times between the standard's corner points, log on log; inrush against √2·m·In. REF-P-03,
    P-T1. First peak V̂/√(R² + (ωL)²)·(2B + Br − Bs)/B, an upper
    bound: REF-M-17. A, s; at the reference temperature.

    Raises FieldError where neither the peak nor all of ohms, henries and flux are given.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(breaker_amps=16.0, supply_volts=exact(230.0), supply_hertz=50.0,
    ...              no_load_amps=exact(1.0), loaded_amps=exact(6.0), shorted_amps=exact(60.0),
    ...              inrush_peak_amps=exact(60.0))
    >>> found = work(told)
    >>> found.cases.loaded.trips, found.cases.inrush.trips, found.cases.shorted.trips
    ('never', 'never', 'will')
    """
    curve = CURVES[given.curve]
    peaks = _peaks(given)
    highest = Quantity(max(peaks), min(peaks), max(peaks), _basis(given))
    return Found(
        cases=Cases(
            no_load=_steady(given, curve, given.no_load_amps),
            loaded=_steady(given, curve, given.loaded_amps),
            shorted=_steady(given, curve, given.shorted_amps),
            inrush=_inrush(given, curve, highest),
        ),
        inrush_peak_amps_used=highest,
        chance_per_switching=_chance(given, curve, peaks),
        suggestion=_suggestion(given, peaks),
    )


def _basis(given: Given) -> tuple[str, ...]:
    return ("given",) if given.inrush_peak_amps is not None else ("angle", "remanence")


def _peaks(given: Given) -> list[float]:
    """First peaks over every angle of switching and remanence; the one given where it is. Raises
    FieldError.
    """
    told = given.inrush_peak_amps
    if told is not None:
        return [told.value, told.low, told.high]
    ohms, henries, peak = given.winding_ohms, given.air_core_henries, given.peak_tesla
    if ohms is None or henries is None or peak is None:
        raise FieldError(
            "inrush_peak_amps",
            "Give the peak at switching on, or ohms, henries without iron and peak flux density.",
        )
    whole = math.hypot(ohms, 2 * math.pi * given.supply_hertz * henries)
    if whole <= 0:
        raise FieldError("winding_ohms", "Ohms and henries are both nought: nothing limits it.")
    remains = 0.8 * peak if given.remanent_tesla is None else given.remanent_tesla
    angles = np.cos(np.linspace(0.0, math.pi, DRAWS))[:, None]
    left = np.linspace(-remains, remains, DRAWS)[None, :]
    flux = np.abs(peak * angles + left) + peak
    excess = np.maximum(0.0, flux - given.saturation_tesla) / peak
    amps = math.sqrt(2) * given.supply_volts.high / whole * excess
    return [float(x) for x in np.ravel(amps)]


def _steady(given: Given, curve: Curve, amps: Quantity) -> Case:
    """A current that stays, or is on and off by the clock: one turn on, and the hours of it."""
    over = corners(lambda i: i / given.breaker_amps, amps)
    on, off = given.on_seconds, given.off_seconds
    first, last = _seconds(given, curve, over.low), _seconds(given, curve, over.high)
    earliest, latest = last[0], first[1]
    if on is None:
        trips = _word(earliest, latest, HOUR)
        return Case(over_rating=over, trips=trips, seconds=_in(earliest, latest))
    words = [_word(earliest, latest, on)]
    if off is not None:
        share = math.sqrt(on / (on + off))
        mean = [_seconds(given, curve, x * share) for x in (over.low, over.high)]
        words.append(_word(mean[1][0], mean[0][1], HOUR))
    worst = max(words, key=(NEVER, MAY, WILL).index)
    return Case(over_rating=over, trips=worst, seconds=_in(earliest, latest))


def _word(earliest: float, latest: float, on: float) -> str:
    """Whether something on for so long trips."""
    if on <= earliest and earliest > 0:
        return NEVER
    return WILL if on >= latest else MAY


def _in(earliest: float, latest: float) -> Quantity | None:
    """The band of times; None where it never trips."""
    if math.isinf(earliest):
        return None
    top = HOUR * 100 if math.isinf(latest) else latest
    return Quantity(math.sqrt(max(earliest, 1e-3) * top), earliest, top, ("breaker's band",))


def _seconds(given: Given, curve: Curve, over: float) -> tuple[float, float]:
    """Earliest and latest trip at so many times the rating; infinite where there is none."""
    return _times(curve, over, given.breaker_amps)


def _times(curve: Curve, over: float, breaker_amps: float) -> tuple[float, float]:
    """The same of a breaker of so many amps."""
    slow = 1.0 if breaker_amps <= SMALL_AMPS else 2.0
    latest = tuple((m, t * slow if t == 60.0 else t) for m, t in curve.latest)
    return _along(curve.earliest, over, beyond=0.0), _along(latest, over, beyond=0.1)


def _along(points: Sequence[tuple[float, float]], over: float, *, beyond: float) -> float:
    """Seconds at a multiple, log on log between corner points."""
    if over < points[0][0]:
        return math.inf
    for (m1, t1), (m2, t2) in itertools.pairwise(points):
        if over < m2:
            share = math.log(over / m1) / math.log(m2 / m1)
            return math.exp(math.log(t1) + share * math.log(t2 / t1))
    return points[-1][1] if over == points[-1][0] else beyond


def _inrush(given: Given, curve: Curve, peak: Quantity) -> Case:
    """The first peak against the magnet's band."""
    root = math.sqrt(2) * given.breaker_amps
    over = corners(lambda i: i / root, peak)
    low, high = curve.magnet
    trips = NEVER if over.high < low else WILL if over.low >= high else MAY
    seconds = None if trips == NEVER else Quantity(0.05, 0.0, 0.1, ("magnet",))
    return Case(over_rating=over, trips=trips, seconds=seconds)


def _chance(given: Given, curve: Curve, peaks: Sequence[float]) -> Quantity:
    """The share of switchings that trip: with its magnet at its top, in its middle, at its foot."""
    root = math.sqrt(2) * given.breaker_amps
    low, high = curve.magnet
    bands = zip((high, math.sqrt(low * high), low), _damped(given), strict=True)
    shares = [sum(k * p > m * root for p in peaks) / len(peaks) for m, k in bands]
    return Quantity(shares[1], shares[0], shares[2], ("uniform angle and remanence",))


def _damped(given: Given) -> tuple[float, float, float]:
    """What of a peak really flows, least, usual and most: the formula is an upper bound."""
    return (1.0, 1.0, 1.0) if given.inrush_peak_amps is not None else FLOWS


def _suggestion(given: Given, peaks: Sequence[float]) -> str:
    """The letter that holds at switching on; a soft start where none does."""
    root = math.sqrt(2) * given.breaker_amps
    held = [k for k in ("B", "C", "D") if max(peaks) < CURVES[k].magnet[0] * root]
    loaded = given.loaded_amps.high / given.breaker_amps
    if loaded > CURVES[given.curve].earliest[0][0] and given.on_seconds is None:
        return "a larger breaker, the cable to suit it, or a smaller load"
    if not held:
        return "a lamp, an NTC or a variac wound up from nought at switching on"
    if given.curve in held:
        return "this one holds"
    return f"curve {held[0]}"


BREAKER = Planner(
    name="breaker",
    title="A breaker ahead of it",
    purpose="Which currents of a piece trip a breaker, in what time, how often by switching on.",
    given=Given,
    found=Found,
    work=work,
    heavy=True,
    why=Formula(
        text="band of the standard, log on log; inrush against √2·m·In",
        source="REF-P-03, P-T1: IEC 60898-1, IEC 60947-2, UL 489",
        put="{loaded_amps} and {shorted_amps} on {breaker_amps} {curve}: {suggestion}",
    ),
    cautions=(
        Caution(
            code="no-guard-of-the-piece",
            severity="caution",
            sentence=(
                "A breaker protects the cable in the wall: between 1.13 and 1.45 of its amps it "
                "may hold for ever. The piece wants a fuse of its own."
            ),
        ),
        Caution(
            code="short-holds",
            severity="stop",
            sentence="Shorted, the piece does not trip it and burns: a smaller one, or a fuse.",
            when=lambda given, found: (
                found.cases.shorted.trips == NEVER
                and given.on_seconds is None
                and given.shorted_amps.value > 2 * given.loaded_amps.value
            ),
        ),
    ),
    example={
        "breaker_amps": 16.0,
        "curve": "B",
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "no_load_amps": 1.5,
        "loaded_amps": 6.0,
        "shorted_amps": 90.0,
        "winding_ohms": 1.5,
        "air_core_henries": 0.004,
        "peak_tesla": 1.5,
    },
    checks=(
        Check(
            given={
                "breaker_amps": 16.0,
                "curve": "B",
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "no_load_amps": 1.0,
                "loaded_amps": 5.0,
                "shorted_amps": 100.0,
                "winding_ohms": 2.0,
                "air_core_henries": 0.0052642,
                "peak_tesla": 1.66,
                "remanent_tesla": 0.5,
                "saturation_tesla": 2.0,
            },
            expected={"inrush_peak_amps_used": 137.4},
            source="REF-M-17a",
            rel=2e-3,
        ),
        Check(
            given={
                "breaker_amps": 16.0,
                "curve": "B",
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "no_load_amps": 1.0,
                "loaded_amps": 16.0 * 2.55,
                "shorted_amps": 100.0,
                "inrush_peak_amps": 67.8,
            },
            expected={"chance_per_switching": 0.0},
            source="REF-P-03b: B16 holds below 67.88 A peak",
        ),
        Check(
            given={
                "breaker_amps": 10.0,
                "curve": "B",
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "no_load_amps": 1.0,
                "loaded_amps": 5.0,
                "shorted_amps": 100.0,
                "inrush_peak_amps": 141.0,
            },
            expected={"chance_per_switching": 1.0},
            source="REF-P-03c: D10 holds below 141.4 A peak",
        ),
    ),
)
