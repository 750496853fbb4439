"""What a winding puts out at the actual supply: open, loaded, to the case; its class to a hand."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE, TOUCH_VOLTS
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.figures.touch import hazard_class
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import starts

BONDS = ("none", "middle", "end")
TO_CASE = {"none": 1.0, "middle": 0.5, "end": 1.0}
"""Share of its volts that an end has to the case; floating, either end may have them all."""


@dataclass(frozen=True, kw_only=True)
class Tap(Input):
    """A tap, by its share of the winding."""

    title: str = asked("Tap")
    fraction: float = asked("share", above=0, at_most=1)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """A winding's volts as they were read or reckoned at some supply; the actual supply; taps, the
    bond, what is in the way, the load.
    """

    winding_volts: Quantity = asked("Winding", "V", above=0, at_most=1e6)
    winding_supply_volts: float = asked("read with a supply of", "V", above=0, at_most=1e5)
    winding_supply_hertz: float = asked("at", "Hz", default=50.0, above=0, at_most=1e4)
    supply_volts: float = asked(
        "Supply now", "V", above=0, at_most=1e5, start=starts.supply_volts_plain
    )
    supply_hertz: float = asked(
        "at", "Hz", default=50.0, above=0, at_most=1e4, start=starts.supply_hertz
    )
    taps: tuple[Tap, ...] = asked("Taps", default=(), help="name and share, as 5V 0.014; mid 0.5")
    bond: str = asked("Bonded to the case", default="none", choices=BONDS)
    source_resistance_ohms: Quantity | None = asked(
        "Its own resistance", "Ω", default=None, at_least=0, at_most=1e9
    )
    source_reactance_ohms: Quantity | None = asked(
        "Its own reactance", "Ω", default=None, at_least=0, at_most=1e9
    )
    load_ohms: float | None = asked("Load", "Ω", default=None, above=0, at_most=1e9)
    load_amps: float | None = asked("or load", "A", default=None, above=0, at_most=1e6)


@dataclass(frozen=True, kw_only=True)
class TapVolts(ShownRow):
    """Open volts of a tap."""

    title: str = shown("Tap")
    volts: Quantity = shown("Open", "V")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Open volts nominal with their highest, their peak, volts under load and to the case."""

    open_volts: Quantity = shown("Open", "V", lead=True)
    peak_volts: Quantity = shown("their peak", "V")
    loaded_volts: Quantity | None = shown("Loaded", "V", lead=True)
    to_case_volts: Quantity = shown("An end to the case", "V")
    hazard_class: str = shown("To a hand")
    flux_ratio: Quantity = shown("Flux, over when it was read")
    tap_volts: tuple[TapVolts, ...] = shown("Taps")


def work(given: Given) -> Found:
    """Volts go with the supply's; the high end at a line 10 % up. REF-T-03, IEC 60038. Loaded as
    E² = (V + IR)² + (IX)², REF-T-06. V RMS unless said.

    Raises FieldError where a load is told twice, or takes more than the winding gives.

    >>> told = Given(winding_volts=exact(210.0), winding_supply_volts=23.0, supply_volts=230.0)
    >>> found = work(told)
    >>> round(found.open_volts.value), round(found.open_volts.high), found.hazard_class
    (2100, 2310, 'lethal')
    """
    scale = given.supply_volts / given.winding_supply_volts
    w = given.winding_volts
    high = w.high * scale * MAINS_RISE
    opened = Quantity(w.value * scale, w.low * scale, high, (*w.basis, "line up to + 10 %"))
    case = TO_CASE[given.bond]
    flux = scale * given.winding_supply_hertz / given.supply_hertz
    return Found(
        open_volts=opened,
        peak_volts=corners(lambda v: math.sqrt(2) * v, opened),
        loaded_volts=_loaded(given, opened),
        to_case_volts=Quantity(
            case * opened.value,
            0.0 if given.bond == "none" else case * opened.low,
            case * opened.high,
            (f"bond {given.bond}",),
        ),
        hazard_class=hazard_class(high, _short(given, high)),
        flux_ratio=exact(flux, "REF-M-03"),
        tap_volts=tuple(
            TapVolts(title=t.title, volts=corners(lambda v, f=t.fraction: v * f, opened))
            for t in given.taps
        ),
    )


def _own(given: Given) -> tuple[Quantity, Quantity] | None:
    """Resistance and reactance, where either is given."""
    r, x = given.source_resistance_ohms, given.source_reactance_ohms
    if r is None and x is None:
        return None
    return r or exact(0.0), x or exact(0.0)


def _short(given: Given, volts: float) -> float | None:
    """Amps shorted at most; None where nothing is known to limit them."""
    own = _own(given)
    if own is None:
        return None
    z = math.hypot(own[0].low, own[1].low)
    return volts / z if z > 0 else None


def _loaded(given: Given, opened: Quantity) -> Quantity | None:
    """Volts under the load. Raises FieldError."""
    if given.load_ohms is not None and given.load_amps is not None:
        raise FieldError("load_amps", "The load is ohms or amps, not both.")
    own = _own(given)
    if own is None or (given.load_ohms is None and given.load_amps is None):
        return None
    r, x = own
    if given.load_ohms is not None:
        load = given.load_ohms
        return corners(lambda e, a, b: e * load / math.hypot(a + load, b), opened, r, x)
    amps = given.load_amps or 0.0

    def volts(e: float, a: float, b: float) -> float:
        return math.sqrt(max(e * e - (amps * b) ** 2, 0.0)) - amps * a

    if volts(opened.low, r.high, x.high) <= 0:
        most = opened.low / math.hypot(r.high, x.high)
        raise FieldError(
            "load_amps",
            f"It cannot be relied on for {amps:.3g} A: shorted it gives {most:.3g} A at least.",
        )
    return corners(volts, opened, r, x)


OUTPUT = Planner(
    name="output",
    title="What it puts out",
    purpose="Open, loaded and to the case, at the actual supply.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="V = V_read · supply / supply then; E² = (V + IR)² + (IX)²",
        source="REF-T-03, REF-T-06, REF-R-01, IEC 60038, IEC 61140, IEC 60479-1",
        put="{winding_volts} · {supply_volts} / {winding_supply_volts} = {open_volts}",
    ),
    cautions=(
        Caution(
            code="lethal",
            severity="caution",
            sentence=(
                "Class {hazard_class}: {open_volts} open. Covered, bonded, switched by one hand; "
                "no hand-held probe, and no residual-current device sees a shock here."
            ),
            when=lambda given, found: found.hazard_class.startswith("lethal"),
        ),
        Caution(
            code="above-when-read",
            severity="caution",
            sentence=(
                "Flux is {flux_ratio} times what it was when it was read: iron may saturate "
                "before that, and the volts stay below these."
            ),
            when=lambda given, found: found.flux_ratio.value > 1.0,
        ),
        Caution(
            code="floating",
            severity="caution",
            sentence=(
                "Bonded nowhere, either end may stand at all its volts to the case; the core is "
                "earthed before use."
            ),
            when=lambda given, found: given.bond == "none" and found.open_volts.high > TOUCH_VOLTS,
        ),
        Caution(
            code="short-unknown",
            severity="note",
            sentence="What it gives shorted is not told: it is taken to be enough to kill.",
            when=lambda given, found: _own(given) is None,
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    example={
        "winding_volts": {"value": 210.0, "low": 206.0, "high": 214.0},
        "winding_supply_volts": 23.0,
        "supply_volts": 230.0,
        "bond": "end",
        "source_resistance_ohms": 150.0,
        "source_reactance_ohms": 2600.0,
        "load_amps": 0.3,
    },
    checks=(
        Check(
            given={
                "winding_volts": 230.0,
                "winding_supply_volts": 230.0,
                "supply_volts": 230.0,
                "source_resistance_ohms": 5.0,
                "source_reactance_ohms": 40.0,
                "load_ohms": 50.0,
            },
            expected={"loaded_volts": 169.1},
            source="REF-T-06a",
        ),
        Check(
            given={
                "winding_volts": 15000.0,
                "winding_supply_volts": 120.0,
                "winding_supply_hertz": 60.0,
                "supply_volts": 120.0,
                "supply_hertz": 60.0,
                "bond": "middle",
            },
            expected={"to_case_volts": 7500.0, "peak_volts": 21213.2},
            source="NEC 600.23: 15 kV, 7.5 kV to earth; REF-R-01",
        ),
    ),
)
