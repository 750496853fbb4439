"""Two coils a side: every way to join them, with volts, amps and flux, and whether it may be."""

import itertools
from dataclasses import dataclass

from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import starts

YES, AFTER, NO = "yes", "after-polarity", "no"
SERIES, PARALLEL, ONE = "series", "parallel", "one coil"


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts of one coil of each side, amps of one secondary coil, RMS; the supply."""

    primary_coil_volts: Quantity = asked("A primary coil is for", "V", above=0, at_most=1e4)
    secondary_coil_volts: Quantity = asked("A secondary coil gives", "V", above=0, at_most=1e5)
    secondary_coil_amps: Quantity = asked("and bears", "A", above=0, at_most=1e4)
    supply_volts: Quantity = asked(
        "Supply", "V", above=0, at_most=1000, start=starts.supply_volts, slide=(100, 260)
    )
    primary_coils: int = asked("Primary coils", default=2, at_least=1, at_most=4)
    secondary_coils: int = asked("Secondary coils", default=2, at_least=1, at_most=4)
    polarity_proved: bool = asked("polarity of all is proved", default=False)


@dataclass(frozen=True, kw_only=True)
class Arrangement(ShownRow):
    """One way to join the coils."""

    primary: str = shown("Primary")
    secondary: str = shown("Secondary")
    output_volts: Quantity = shown("Gives", "V")
    output_amps: Quantity = shown("bears", "A")
    voltamperes: Quantity = shown("so", "VA")
    flux_ratio: Quantity = shown("Flux over rated")
    allowed: str = shown("May be")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Every arrangement, the one for this supply first."""

    best: str | None = shown("Take", lead=True)
    arrangements: tuple[Arrangement, ...] = shown("Every way")


def work(given: Given) -> Found:
    """Volts of a coil follow the flux, U over the coils in series; a coil alone bears its share of
    the volt-amperes only. REF-M-03, REF-T-11, REF-T-13. V, A, VA.

    >>> from greyfell.core.figures.quantity import exact
    >>> found = work(Given(primary_coil_volts=exact(115.0), secondary_coil_volts=exact(12.0),
    ...                    secondary_coil_amps=exact(4.0), supply_volts=exact(230.0)))
    >>> [(a.primary, a.allowed) for a in found.arrangements if a.secondary == "series"]
    [('series', 'after-polarity'), ('parallel', 'no'), ('one coil', 'no')]
    """
    ways = itertools.product(_ways(given.primary_coils), _ways(given.secondary_coils))
    rows = tuple(_arranged(given, p, s) for p, s in ways)
    fitting = [r for r in rows if r.allowed != NO]
    best = max(fitting, key=lambda r: (r.voltamperes.value, r.secondary == PARALLEL), default=None)
    said = None if best is None else f"primary {best.primary}, secondary {best.secondary}"
    return Found(best=said, arrangements=rows)


def _ways(coils: int) -> tuple[str, ...]:
    return (SERIES, PARALLEL, ONE) if coils > 1 else (ONE,)


def _arranged(given: Given, primary: str, secondary: str) -> Arrangement:
    fed = given.primary_coils if primary == SERIES else 1
    flux = corners(lambda u, v: u / v / fed, given.supply_volts, given.primary_coil_volts)
    in_row = given.secondary_coils if secondary == SERIES else 1
    beside = given.secondary_coils if secondary == PARALLEL else 1
    copper = 1 / given.primary_coils if primary == ONE else 1.0
    used = given.secondary_coils if secondary != ONE else 1
    share = min(1.0, copper * given.secondary_coils / used)
    volts = corners(lambda v, f: v * f * in_row, given.secondary_coil_volts, flux)
    amps = corners(lambda i: i * beside * share, given.secondary_coil_amps)
    return Arrangement(
        primary=primary,
        secondary=secondary,
        output_volts=volts,
        output_amps=amps,
        voltamperes=corners(lambda v, i: v * i, volts, amps),
        flux_ratio=flux,
        allowed=_allowed(given, primary, secondary, flux),
    )


def _allowed(given: Given, primary: str, secondary: str, flux: Quantity) -> str:
    """No above a tenth too much flux; joined coils only once polarity is proved."""
    if flux.value > MOST_FLUX:
        return NO
    joined = ONE not in (primary, secondary) or {primary, secondary} != {ONE}
    alone = primary == ONE and secondary == ONE
    return YES if given.polarity_proved or alone or not joined else AFTER


HALVES = Planner(
    name="halves",
    title="Coils in series and parallel",
    purpose="Every way to join two coils a side: volts, amps, flux, and whether it may be.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="flux = U/(k·V_coil); V_out = V_coil·flux·n",
        source="REF-M-03, REF-T-11, REF-T-13",
        put="{supply_volts} on coils of {primary_coil_volts}: {best}",
    ),
    cautions=(
        Caution(
            code="none-may",
            severity="stop",
            sentence="On {supply_volts} every way puts too much flux into this iron.",
            when=lambda given, found: found.best is None,
        ),
        Caution(
            code="prove-first",
            severity="caution",
            sentence=(
                "Polarity first, by a reading at low volts: aiding doubles, opposing gives "
                "nothing, and in parallel out of phase is a dead short. The first closure through "
                "a lamp."
            ),
            when=lambda given, found: not given.polarity_proved,
        ),
        Caution(
            code="whole-on-a-half",
            severity="caution",
            sentence="The whole supply on one half is twice its flux: it burns within a minute.",
            when=lambda given, found: any(a.allowed == NO for a in found.arrangements),
        ),
        Caution(
            code="alike",
            severity="note",
            sentence=(
                "Coils are put in parallel only where their volts agree within 1 %: a difference "
                "drives a current round in them."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.UNSETTLED, starts.DOUBTFUL),
    example={
        "primary_coil_volts": 115.0,
        "secondary_coil_volts": 12.0,
        "secondary_coil_amps": 4.0,
        "supply_volts": 230.0,
    },
    checks=(
        Check(
            given={
                "primary_coil_volts": 115.0,
                "secondary_coil_volts": 12.0,
                "secondary_coil_amps": 4.0,
                "supply_volts": 230.0,
                "polarity_proved": True,
            },
            expected={
                "arrangements.0.output_volts": 24.0,
                "arrangements.0.output_amps": 4.0,
                "arrangements.0.flux_ratio": 1.0,
                "arrangements.0.allowed": "yes",
                "arrangements.1.output_volts": 12.0,
                "arrangements.1.output_amps": 8.0,
                "arrangements.3.flux_ratio": 2.0,
                "arrangements.3.allowed": "no",
            },
            source="REF-T-11, REF-M-03, by hand: halves in series and in parallel",
        ),
        Check(
            given={
                "primary_coil_volts": 115.0,
                "secondary_coil_volts": 12.0,
                "secondary_coil_amps": 4.0,
                "supply_volts": 115.0,
            },
            expected={
                "arrangements.3.allowed": "after-polarity",
                "arrangements.0.output_volts": 12.0,
                "arrangements.8.allowed": "yes",
            },
            source="REF-M-03, by hand: 115 V on halves in parallel, and on halves in series",
        ),
    ),
)
