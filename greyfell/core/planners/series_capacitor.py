"""A capacitor in series with a source that has reactance of its own: what it limits to, and how far
it keeps from resonance.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts
from greyfell.core.planners.ballast import MOST_OHMS

FORBIDDEN = (0.5, 2.0)
"""X_C over X_L between which it is refused. The rule of the trade's references, REF-B-04."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The supply, the capacitor or the amps wanted, what is in the loop, and what loads it."""

    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    source_resistance_ohms: Quantity = asked(
        "Resistance in the loop", "Ω", at_least=0, at_most=MOST_OHMS, start=starts.source_resistance
    )
    source_reactance_ohms: Quantity = asked(
        "Reactance in the loop", "Ω", at_least=0, at_most=MOST_OHMS, start=starts.source_reactance
    )
    capacitance_farads: Quantity | None = asked(
        "Capacitor", "F", default=None, above=0, at_most=1.0
    )
    limit_amps: Quantity | None = asked(
        "or amps, load shorted", "A", default=None, above=0, at_most=1e5
    )
    load_ohms: float | None = asked("Load", "Ω", default=None, at_least=0, at_most=MOST_OHMS)
    magnetising_ohms: float | None = asked(
        "Magnetising reactance, if nothing loads it", "Ω", default=None, above=0, at_most=1e9
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The capacitor, what flows, what stands on it, and where resonance lies."""

    capacitance_found_farads: Quantity = shown("Capacitor", "F", lead=True)
    reactance_ohms: Quantity = shown("its reactance", "Ω")
    amps_shorted: Quantity = shown("Amps, shorted", "A", lead=True)
    amps_loaded: Quantity | None = shown("Amps, loaded", "A")
    capacitor_volts: Quantity = shown("Volts on the capacitor", "V")
    capacitor_peak_volts: Quantity = shown("their peak, on a high line", "V")
    resonance_ratio: Quantity = shown("Its reactance over the loop's")
    resonant_farads: Quantity | None = shown("Resonance is at", "F")
    worst_volts: Quantity = shown("The most volts on it in this loop, any size", "V")


def work(given: Given) -> Found:
    """X_C = 1/(2πfC); I = V/|R + j(X_L − X_C)|; V_C = I·X_C; the worst at resonance, V·X_L/R.
    REF-B-01, REF-B-02, REF-B-04. V, A, Ω, F.

    Raises FieldError where neither capacitor nor amps is given, or both, or where the loop limits
    to those amps already.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(supply_volts=exact(230.0), supply_hertz=50.0, capacitance_farads=exact(20e-6),
    ...              source_resistance_ohms=exact(2.0), source_reactance_ohms=exact(71.0))
    >>> round(work(told).amps_shorted.value, 2)
    2.61
    """
    v, r, x = given.supply_volts, given.source_resistance_ohms, given.source_reactance_ohms
    omega = 2 * math.pi * given.supply_hertz
    farads = _farads(given, omega)
    reactance = corners(lambda c: 1 / (omega * c), farads)

    def amps(volts: float, ohms: float, coil: float, c: float) -> float:
        return volts / max(abs(complex(ohms, coil - 1 / (omega * c))), 1e-9)

    shorted = _ranged(amps, given, farads, omega)
    load = given.load_ohms
    across = corners(lambda i, xc: i * xc, shorted, reactance)
    return Found(
        capacitance_found_farads=farads,
        reactance_ohms=reactance,
        amps_shorted=shorted,
        amps_loaded=None
        if load is None
        else corners(lambda v, r, x, c: amps(v, r + load, x, c), v, r, x, farads),
        capacitor_volts=across,
        capacitor_peak_volts=corners(lambda volts: math.sqrt(2) * MAINS_RISE * volts, across),
        resonance_ratio=corners(lambda xc, xl: xc / max(xl, 1e-12), reactance, x),
        resonant_farads=None if x.low <= 0 else corners(lambda xl: 1 / (omega * xl), x),
        worst_volts=corners(lambda v, r, x: v * math.hypot(r, x) / max(r, 1e-9), v, r, x),
    )


def _farads(given: Given, omega: float) -> Quantity:
    """The capacitor given, or the one that lets the wanted amps flow. Raises FieldError."""
    told, limit = given.capacitance_farads, given.limit_amps
    if (told is None) == (limit is None):
        raise FieldError("capacitance_farads", "Give the capacitor or the amps: one of the two.")
    if told is not None or limit is None:
        assert told is not None
        return told
    v, r, x = given.supply_volts, given.source_resistance_ohms, given.source_reactance_ohms
    own = v.value / max(abs(complex(r.value, x.value)), 1e-12)
    if limit.value >= own:
        raise FieldError(
            "limit_amps",
            f"The loop limits already: shorted it passes {own:.3g} A, and a capacitor that lets "
            f"{limit.value:.3g} A flow would stand at resonance.",
        )

    def size(volts: float, ohms: float, coil: float, amps: float) -> float:
        square = max((volts / amps) ** 2 - ohms**2, 0.0)
        return 1 / (omega * (coil + math.sqrt(square)))

    return corners(size, v, r, x, limit)


def _ranged(amps: Callable[..., float], given: Given, farads: Quantity, omega: float) -> Quantity:
    """Amps at the corners; and, where resonance lies between them, what it lets flow."""
    v, r, x = given.supply_volts, given.source_resistance_ohms, given.source_reactance_ohms
    found = corners(amps, v, r, x, farads)
    ratios = [
        1 / (omega * c) / max(k, 1e-12) for c in (farads.low, farads.high) for k in (x.low, x.high)
    ]
    if min(ratios) <= 1 <= max(ratios):
        most = v.high / max(r.low, 1e-9)
        return Quantity(found.value, found.low, max(found.high, most), found.basis)
    return found


def gain(given: Given, ratio: float) -> tuple[float, float]:
    """Amps shorted, and volts on the capacitor, for a capacitor of so many times the loop's
    reactance. REF-B-04.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(supply_volts=exact(230.0), supply_hertz=50.0, capacitance_farads=exact(20e-6),
    ...              source_resistance_ohms=exact(2.0), source_reactance_ohms=exact(71.0))
    >>> gain(told, 1.0)
    (115.0, 8165.0)
    """
    r, x = given.source_resistance_ohms.value, given.source_reactance_ohms.value
    xc = ratio * x
    amps = given.supply_volts.value / max(abs(complex(r, x - xc)), 1e-9)
    return amps, amps * xc


def _near(given: Given, found: Found) -> bool:
    ratio = found.resonance_ratio
    return ratio.high >= FORBIDDEN[0] and ratio.low <= FORBIDDEN[1]


def _jumps(given: Given, found: Found) -> bool:
    magnetising = given.magnetising_ohms
    return magnetising is not None and found.reactance_ohms.low <= magnetising


SERIES_CAPACITOR = Planner(
    name="series_capacitor",
    title="A capacitor in series",
    purpose="What it limits to, what stands on it, and how far it keeps from resonance.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I = V/|R + j(X_L − X_C)|; X_C = 1/(2πfC)",
        source="REF-B-01, REF-B-02, REF-B-04",
        put="{reactance_ohms} against {source_reactance_ohms}: {amps_shorted}",
    ),
    cautions=(
        Caution(
            code="resonance",
            severity="stop",
            sentence=(
                "Its reactance is {resonance_ratio} times the loop's: between a half and twice it "
                "multiplies volts instead of limiting. {capacitor_volts} would stand on it."
            ),
            when=_near,
        ),
        Caution(
            code="ferroresonance",
            severity="stop",
            sentence=(
                "Unloaded, its reactance lies below the winding's own {magnetising_ohms}: the iron "
                "jumps into resonance and stays there."
            ),
            when=_jumps,
        ),
        Caution(
            code="does-not-limit",
            severity="caution",
            sentence="So large a capacitor limits nothing: the loop's own reactance does.",
            when=lambda given, found: found.resonance_ratio.high < FORBIDDEN[0],
        ),
        Caution(
            code="magnetising-unknown",
            severity="caution",
            sentence=(
                "Whether it jumps with nothing behind the piece is not told: give the magnetising "
                "reactance at low volts, or keep a load on it."
            ),
            when=lambda given, found: given.magnetising_ohms is None,
        ),
        Caution(
            code="kind",
            severity="caution",
            sentence=(
                "Only a run capacitor for AC with {capacitor_peak_volts} of peak bears this; a "
                "start capacitor bursts. A discharge resistor across it, and it is shorted before "
                "it is touched."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    draws={"capacitor": {"capacitance_farads": "farads"}},
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "source_resistance_ohms": 4.0,
        "source_reactance_ohms": 22.0,
        "capacitance_farads": 40e-6,
        "load_ohms": 30.0,
        "magnetising_ohms": 60.0,
    },
    checks=(
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "source_resistance_ohms": 2.0,
                "source_reactance_ohms": 71.0,
                "capacitance_farads": 1 / (2 * math.pi * 50 * 159.2),
            },
            expected={"amps_shorted": 2.607, "reactance_ohms": 159.2},
            source="REF-B-02b: R 2, X_L 71, X_C 159.2 Ω pass 2.607 A",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 60.0,
                "source_resistance_ohms": 1.0,
                "source_reactance_ohms": 100.0,
                "capacitance_farads": 1e-6,
            },
            expected={"reactance_ohms": 2653.0, "worst_volts": 23000.0},
            source="REF-B-01c: 1 µF at 60 Hz; REF-B-04: at resonance V·X/R",
        ),
    ),
)
