"""A choke of one's own on a core at hand: turns, gap, wire, and whether the window takes it."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.constants import MU0, STEEL_KG_M3
from greyfell.core.figures.limits import CREST
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.figures.solve import crossing
from greyfell.core.figures.steel import field as steel_field
from greyfell.core.figures.steel import fringing, gapped_henries, rise_kelvin, watts_per_kg
from greyfell.core.figures.wire import ENAMELLED_MM, METALS, area_mm2, ohms_per_metre
from greyfell.core.planner_kit.asking import Input, asked, at_ends
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, merged, shown
from greyfell.core.planners import starts

SKIN = 1.046
"""Overall over bare diameter of thicker wire. As of the thickest of the table."""
ROW = math.sqrt(3) / 2
"""A layer that lies in the hollows of the last is so much of a wire higher. REF-M-16."""
GAP_SPREAD = 0.10
"""What fringing, joints and a card may do to the inductance, ±. REF-M-07."""
MOST_TESLA = 4.0
"""No steel here is driven beyond. Common practice."""
MOST_SHARE = 0.25
"""The fringing formula holds for gaps up to so much of √A. REF-M-07."""
MOST_HOT = 80.0
"""Rise at which a plain winding is as hot as it may be, K; class A. IEC 60085, from memory."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The volts across it and the amps it lets flow, the core and its window, and what is assumed
    of steel and copper.
    """

    volts: Quantity = asked(
        "Volts across it", "V", above=0, at_most=1e5, slide=(20, 250), chosen=True
    )
    amps: float = asked("Amps", "A", above=0, at_most=1e4, slide=(0.5, 20), chosen=True)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    tongue_mm: float = asked("Tongue", "mm", above=0, at_most=1000, start=starts.tongue_mm)
    stack_mm: float = asked("Stack", "mm", above=0, at_most=1000, start=starts.stack_mm)
    window_width_mm: float = asked(
        "Window, width", "mm", above=0, at_most=1000, start=starts.window_width_mm
    )
    window_height_mm: float = asked(
        "Window, height", "mm", above=0, at_most=1000, start=starts.window_height_mm
    )
    stacking_factor: float = asked("Stacking factor", aside=True, default=0.95, above=0, at_most=1)
    peak_tesla: float = asked(
        "Peak flux density", "T", aside=True, default=1.2, at_least=0.1, at_most=2
    )
    crest: float = asked("Crest of the current", aside=True, default=1.414, at_least=1, at_most=5)
    a_per_mm2: float = asked("Amps a mm²", aside=True, default=2.5, above=0, at_most=100)
    former_mm: float = asked(
        "Former and its clearance", "mm", aside=True, default=1.5, at_least=0, at_most=50
    )
    material: str = asked("Wire", aside=True, default="copper", choices=tuple(METALS))
    permeability: float = asked(
        "Permeability of the steel", aside=True, default=4000.0, at_least=10, at_most=1e6
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The winding, the gap, whether it fits, and how it behaves."""

    turns: int = shown("Turns", lead=True)
    card_mm: Quantity = shown("Card under all legs", "mm", lead=True)
    henries: Quantity = shown("Inductance", "H")
    gap_total_mm: Quantity = shown("Gap in the path", "mm")
    fringing: Quantity = shown("Fringing")
    wire_mm: Quantity = shown("Wire, bare", "mm")
    fill: Quantity = shown("Fill factor")
    fits: bool = shown("Fits the window")
    amps_that_fit: Quantity = shown("Amps that the window takes", "A")
    winding_ohms: Quantity = shown("Copper, cold", "Ω")
    copper_watts: Quantity = shown("Lost in copper", "W")
    core_watts: Quantity = shown("Lost in iron", "W")
    rise_kelvin: Quantity = shown("Rise in still air", "K")
    copper_kg: Quantity = shown("Metal", "kg")
    pull_newtons: Quantity = shown("Pull of the gap, at the peak", "N")
    henries_at_double_amps: Quantity = shown("Inductance at twice the amps", "H")


@dataclass(frozen=True)
class Core:
    """The iron in metres: net section, mean path, free window, mean turn's frame."""

    area: float
    path: float
    wide_mm: float
    high_mm: float


def work(given: Given) -> Found:
    """L = V/(2πfI); N = L·I_pk/(B·A); the gap by L with fringing, iterated. REF-M-06 to M-09, M-14,
    M-16, M-18, M-19. V, A, mm, T.

    Raises FieldError where this core takes no gap that gives the inductance.

    >>> told = Given(volts=exact(200.0), amps=3.5, supply_hertz=50.0, tongue_mm=38.0, stack_mm=50.0,
    ...              window_width_mm=19.0, window_height_mm=57.0)
    >>> found = work(told)
    >>> found.turns, round(found.card_mm.value, 2), found.fits
    (416, 1.3, True)
    """
    return merged(_worked(given), map(_worked, at_ends(given)))


def _worked(given: Given) -> Found:
    """At the volts' middle."""
    core = _core(given)
    henries = given.volts.value / given.amps / (2 * math.pi * given.supply_hertz)
    peak = given.crest * given.amps
    turns = max(1, math.ceil(henries * peak / (given.peak_tesla * core.area) - 1e-9))
    gap, spread = _gap(given, core, turns, henries)
    bare, overall = _wire(given.amps / given.a_per_mm2)
    fits = _turns_that_fit(core, overall) >= turns
    metal = METALS[given.material]
    metres = turns * _mean_turn(given, core, turns, overall)
    ohms = metres * ohms_per_metre(area_mm2(bare), metal)
    hot = metres * ohms_per_metre(area_mm2(bare), metal, 75.0)
    copper = given.amps**2 * hot
    kilograms = STEEL_KG_M3 * core.area * core.path
    iron = kilograms * watts_per_kg(given.peak_tesla, given.supply_hertz)
    tesla = henries * peak / (turns * core.area)
    pull = tesla**2 * core.area / (2 * MU0)
    basis = ("REF-M-06", "REF-M-07")
    return Found(
        turns=turns,
        card_mm=_ranged(gap * 500, basis),
        henries=_ranged(henries, ("V/(2πfI), REF-B-01",)),
        gap_total_mm=_ranged(gap * 1e3, basis),
        fringing=exact(spread, "REF-M-07"),
        wire_mm=exact(bare, "IEC 60317-0-1"),
        fill=exact(turns * area_mm2(overall) / (core.wide_mm * core.high_mm), "overall area"),
        fits=fits,
        amps_that_fit=exact(_amps_that_fit(given, core, turns), "REF-M-16"),
        winding_ohms=exact(ohms, "REF-M-14, REF-W-02"),
        copper_watts=Quantity(copper, given.amps**2 * ohms, copper * 1.1, ("I²R at 75 °C",)),
        core_watts=Quantity(iron, 0.6 * iron, 1.6 * iron, ("REF-M-18, sheet assumed",)),
        rise_kelvin=_rise(given, copper + iron),
        copper_kg=exact(metres * area_mm2(bare) * 1e-6 * metal.kg_m3, "REF-W-16"),
        pull_newtons=exact(pull, "B²A/2μ0 on the tongue"),
        henries_at_double_amps=_at(given, core, turns, gap, 2 * peak),
    )


def _ranged(value: float, basis: tuple[str, ...]) -> Quantity:
    return Quantity(value, value * (1 - GAP_SPREAD), value * (1 + GAP_SPREAD), basis)


def _core(given: Given) -> Core:
    """The iron of a shell core. Raises FieldError where the former leaves no window."""
    wide = given.window_width_mm - given.former_mm
    high = given.window_height_mm - 2 * given.former_mm
    if wide <= 0 or high <= 0:
        raise FieldError("former_mm", "The former leaves nothing of the window.")
    path = 2 * (given.window_width_mm + given.window_height_mm) + 2 * given.tongue_mm
    area = given.tongue_mm * given.stack_mm * given.stacking_factor * 1e-6
    return Core(area, path * 1e-3, wide, high)


def _henries(given: Given, core: Core, turns: int, gap: float) -> float:
    """Inductance with a gap, fringing in it."""
    spread = fringing(gap, core.area, given.window_height_mm * 1e-3)
    bare = gapped_henries(turns, core.area, gap, core.path, given.permeability)
    return bare * spread


def _gap(given: Given, core: Core, turns: int, henries: float) -> tuple[float, float]:
    """Total gap in m that gives the inductance, and its fringing. Raises FieldError."""
    if _henries(given, core, turns, 0.0) < henries:
        raise FieldError(
            "permeability",
            f"Even closed, {turns} turns on this core give less than the {henries:.3g} H wanted: "
            "a larger core, a lower flux density, or steel that is better known.",
        )
    most = MOST_SHARE * 8 * math.sqrt(core.area)
    gap = crossing(lambda air: _henries(given, core, turns, air) <= henries, 0.0, most).at
    return gap, fringing(gap, core.area, given.window_height_mm * 1e-3)


def _wire(mm2: float) -> tuple[float, float]:
    """Bare and overall diameter of the next wire that has the section, mm."""
    for bare, overall in ENAMELLED_MM:
        if area_mm2(bare) >= mm2 * (1 - 1e-9):
            return bare, overall
    bare = math.sqrt(4 * mm2 / math.pi)
    return bare, bare * SKIN


def _turns_that_fit(core: Core, overall: float) -> int:
    """Turns of round wire in the hollows of the layer below. REF-M-16."""
    if overall > core.wide_mm or overall > core.high_mm:
        return 0
    layers = 1 + math.floor((core.wide_mm - overall) / (ROW * overall) + 1e-9)
    odd = math.floor(core.high_mm / overall + 1e-9)
    even = math.floor((core.high_mm - overall / 2) / overall + 1e-9)
    return (layers + 1) // 2 * odd + layers // 2 * even


def _amps_that_fit(given: Given, core: Core, turns: int) -> float:
    """Amps of the thickest wire of which so many turns fit."""
    fitting = [b for b, o in ENAMELLED_MM if _turns_that_fit(core, o) >= turns]
    if not fitting:
        return 0.0
    return area_mm2(fitting[-1]) * given.a_per_mm2


def _mean_turn(given: Given, core: Core, turns: int, overall: float) -> float:
    """Metres of a mean turn. REF-M-14."""
    per_layer = max(1, math.floor(core.high_mm / overall))
    layers = -(-turns // per_layer)
    build = overall * (1 + ROW * (layers - 1))
    sides = 2 * (given.tongue_mm + 2 * given.former_mm) + 2 * (given.stack_mm + 2 * given.former_mm)
    return (sides + math.pi * build) * 1e-3


def _rise(given: Given, watts: float) -> Quantity:
    """Rise of the whole part by its outside. REF-M-19, ± a third."""
    wide = 2 * (given.tongue_mm + given.window_width_mm)
    high = given.tongue_mm + given.window_height_mm
    deep = given.stack_mm + 2 * given.window_width_mm
    surface = 2 * (wide * high + wide * deep + high * deep) * 1e-6
    rise = rise_kelvin(watts, surface)
    return Quantity(rise, rise / 1.35, rise * 1.35, ("REF-M-19",))


def henries_at(given: Given, turns: int, gap_m: float, peak_amps: float) -> float:
    """Inductance at a peak of current, the steel saturating: N·I = B·l_g/(μ0·F) + H(B)·l_m, but
    never stiffer than its permeability. REF-M-10, REF-M-11.
    """
    core = _core(given)
    spread = fringing(gap_m, core.area, given.window_height_mm * 1e-3)

    def driven(tesla: float) -> bool:
        steel = max(steel_field(tesla), tesla / (MU0 * given.permeability))
        needed = tesla * gap_m / (MU0 * spread) + steel * core.path / spread
        return needed >= turns * peak_amps

    tesla = crossing(driven, 0.0, MOST_TESLA).at
    return turns * tesla * core.area / peak_amps


def _at(given: Given, core: Core, turns: int, gap: float, peak: float) -> Quantity:
    """Inductance there, with what steel of another make does."""
    value = min(henries_at(given, turns, gap, peak), _henries(given, core, turns, gap))
    return Quantity(value, 0.75 * value, 1.15 * value, ("REF-M-11, ± 30 % of field",))


CHOKE = Planner(
    name="choke",
    title="A choke of one's own",
    purpose="Turns, gap and wire on a core at hand, and whether the window takes them.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="L = V/(2πfI); N = L·I_pk/(B·A); L = F·μ0·N²·A/(l_g + l_m/μr)",
        source="REF-M-06, REF-M-07, REF-M-08, REF-M-14, REF-M-16, REF-M-18, REF-M-19",
        put="{henries} with {turns} turns and {gap_total_mm} of gap, F = {fringing}",
    ),
    cautions=(
        Caution(
            code="does-not-fit",
            severity="stop",
            sentence=(
                "{turns} turns of {wire_mm} do not go into this window: it takes {amps_that_fit} "
                "of amps. The window decides the amps."
            ),
            when=lambda given, found: not found.fits,
        ),
        Caution(
            code="too-hot",
            severity="stop",
            sentence="It rises by {rise_kelvin} in still air: minutes, not hours, or a fan.",
            when=lambda given, found: found.rise_kelvin.low > MOST_HOT,
        ),
        Caution(
            code="hot",
            severity="caution",
            sentence="It may rise by more than a plain winding bears ({rise_kelvin}): time it.",
            when=lambda given, found: found.rise_kelvin.low <= MOST_HOT < found.rise_kelvin.high,
        ),
        Caution(
            code="gap-pulls",
            severity="caution",
            sentence=(
                "The gap pulls with {pull_newtons} at twice the mains frequency: clamp hard and "
                "glue, wind back one gap's length from it, several small gaps are better."
            ),
        ),
        Caution(
            code="crest",
            severity="caution",
            sentence=(
                "Ahead of a core that saturates the current's crest is up to 2.4: put that in, or "
                "the choke saturates with it."
            ),
            when=lambda given, found: given.crest < CREST,
        ),
        Caution(
            code="joints",
            severity="note",
            sentence=(
                "Joints of 0.05 to 0.1 mm each belong to the gap: measure the finished choke at "
                "its amps, and change the card."
            ),
        ),
    ),
    of_piece=(starts.POTTED,),
    example={
        "volts": 200.0,
        "amps": 3.5,
        "supply_hertz": 50.0,
        "tongue_mm": 38.0,
        "stack_mm": 50.0,
        "window_width_mm": 19.0,
        "window_height_mm": 57.0,
    },
    checks=(
        Check(
            given={
                "volts": 2 * math.pi * 50 * 4.4 * 0.12,
                "amps": 4.4,
                "supply_hertz": 50.0,
                "tongue_mm": 33.0,
                "stack_mm": 35.088,
                "window_width_mm": 30.0,
                "window_height_mm": 60.0,
                "peak_tesla": 1.3580,
                "crest": 1.41421,
            },
            expected={"henries": 0.120, "turns": 500},
            source="REF-M-08b: 120 mH at 4.40 A, 500 turns on 11 cm² are 1.358 T",
            rel=1e-3,
        ),
        Check(
            given={
                "volts": 2 * math.pi * 50 * 5 * 0.04787 * 1.1418,
                "amps": 5.0,
                "supply_hertz": 50.0,
                "tongue_mm": 30.0,
                "stack_mm": 35.088,
                "window_width_mm": 25.0,
                "window_height_mm": 45.0,
                "peak_tesla": 1.9328,
                "crest": 1.41421,
            },
            expected={"gap_total_mm": 1.0, "fringing": 1.142},
            source="REF-M-06a, REF-M-07a: 200 turns, 10 cm², 1 mm, 0.20 m: 47.87 mH, F 1.142",
            rel=3e-3,
        ),
    ),
)
