"""How many turns for the volts wanted, what one turn more or fewer gives, and whether they fit.

A turn is whole: through a shell core it passes both windows, and half a turn does not exist there.
V = v·N (REF-M-02), v the volts per turn; another supply moves v in proportion (REF-M-03).
"""

import math
from dataclasses import dataclass

from greyfell.core.coil_design.conductors import Conductor as Wound
from greyfell.core.coil_design.window import Packed, Window, pack
from greyfell.core.errors import FieldError, within
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.figures.wire import METALS, area_mm2, ohms_per_metre
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts

MOST_TURNS = 100_000
"""More turns than this are no winding by hand: a figure is off."""
MOST_MM = 2000.0
"""No iron that is lifted by hand is larger, mm."""
SQUARE, CLOSEST = "square", "closest"
"""How round conductors are laid: layer on layer, or in each other's hollows where that takes
more.
"""
REACHED = 1e-9
"""A target missed by no more than this share is reached."""


@dataclass(frozen=True, kw_only=True)
class Conductor(Input):
    """What is wound: bare area of one strand bundle in mm², overall diameter in mm, metal, in
    hand.
    """

    area_mm2: float = asked("Conductor", "mm²", aside=True, above=0, at_most=2000)
    overall_mm: float = asked("over its insulation", "mm", aside=True, above=0, at_most=100)
    material: str = asked("Metal", aside=True, default="copper", choices=tuple(METALS))
    strands: int = asked("Strands", aside=True, default=1, at_least=1, at_most=10_000)
    in_hand: int = asked("Wound in hand", aside=True, default=1, at_least=1, at_most=100)


@dataclass(frozen=True, kw_only=True)
class SourcePerTurn2(Input):
    """The core's own impedance referred to one turn, Ω."""

    resistance_ohms: float = asked(
        "Core's resistance, one turn", "Ω", aside=True, at_least=0, at_most=10
    )
    reactance_ohms: float = asked(
        "Core's reactance, one turn", "Ω", aside=True, at_least=0, at_most=10
    )


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts RMS; `volts_per_turn` at `volts_per_turn_at_volts`, else at the supply; the window as
    it is free, the conductor, the load in amps RMS, resistive.
    """

    target_volts: float = asked(
        "Open-circuit volts", "V", above=0, at_most=1e5, slide=(0.5, 60), chosen=True
    )
    at_least: bool = asked("at least so many", default=False)
    supply_volts: Quantity = asked(
        "On this supply", "V", above=0, at_most=1e5, start=starts.supply_volts
    )
    volts_per_turn: Quantity = asked(
        "Volts per turn", "V", above=0, at_most=1e3, start=starts.volts_per_turn
    )
    volts_per_turn_at_volts: float | None = asked(
        "read with so many on the primary",
        "V",
        default=None,
        above=0,
        at_most=1e5,
        start=starts.volts_per_turn_at,
        help="the supply where not given",
    )
    load_amps: float | None = asked("Load", "A", aside=True, default=None, above=0, at_most=1e5)
    window_width_mm: float | None = asked(
        "Window, width",
        "mm",
        aside=True,
        default=None,
        above=0,
        at_most=MOST_MM,
        start=starts.window_width_mm,
    )
    window_height_mm: float | None = asked(
        "Window, free height",
        "mm",
        aside=True,
        default=None,
        above=0,
        at_most=MOST_MM,
        start=starts.window_height_mm,
    )
    tongue_mm: float | None = asked(
        "Tongue", "mm", aside=True, default=None, above=0, at_most=MOST_MM, start=starts.tongue_mm
    )
    stack_mm: float | None = asked(
        "Stack", "mm", aside=True, default=None, above=0, at_most=MOST_MM, start=starts.stack_mm
    )
    former_mm: float = asked(
        "Former and its clearance", "mm", aside=True, default=1.5, at_least=0, at_most=50
    )
    insulation_mm: float = asked(
        "Insulation between layers", "mm", aside=True, default=0.0, at_least=0, at_most=20
    )
    packing: str = asked("Laid", aside=True, default=SQUARE, choices=(SQUARE, CLOSEST))
    primary_mm: float = asked(
        "Below it the primary stands", "mm", aside=True, default=0.0, at_least=0, at_most=MOST_MM
    )
    shunts_mm: float = asked(
        "and the shunts", "mm", aside=True, default=0.0, at_least=0, at_most=MOST_MM
    )
    conductor: Conductor | None = asked("Conductor", default=None)
    source_per_turn2: SourcePerTurn2 | None = asked("The core's own impedance", default=None)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Turns and their volts, whether they fit, and what the winding is like."""

    turns: int = shown("Turns", lead=True)
    open_circuit_volts: Quantity = shown("Open circuit", "V", lead=True)
    one_turn_fewer_volts: Quantity = shown("One turn fewer", "V")
    one_turn_more_volts: Quantity = shown("One turn more", "V")
    least_turns: int = shown("Least turns that reach it")
    fits: bool | None = shown("Fits the window")
    turns_that_fit: int | None = shown("Turns that fit")
    turns_per_layer: int | None = shown("Turns a layer")
    layers: int | None = shown("Layers")
    fill: Quantity | None = shown("Fill factor")
    length_metres: Quantity | None = shown("Length of wire", "m")
    winding_ohms: Quantity | None = shown("Ohms, cold", "Ω")
    mass_kg: Quantity | None = shown("Metal", "kg")
    drop_volts: Quantity | None = shown("Drop under load", "V")
    loaded_volts: Quantity | None = shown("Under load", "V")
    copper_watts: Quantity | None = shown("Lost in the winding", "W")
    amps_per_mm2: Quantity | None = shown("Density", "A/mm²")


@dataclass(frozen=True)
class Packing:
    """How round wire packs into a free window: turns a layer, layers that fit, turns that fit."""

    per_layer: int
    layers: int
    turns: int


def work(given: Given) -> Found:
    """Nearest whole number of turns for the target, or the least that reaches it. Volts RMS, mm, Ω.

    REF-M-02, M-03 for the volts; M-14 for the mean turn, M-16 for the packing (square), W-02 for
    the ohms; a load by phasors, REF-T-06. At least one turn. Raises FieldError where the turns
    would pass 100 000, or the load takes more than the winding gives.

    >>> from greyfell.core.figures.quantity import exact
    >>> supply, turn = exact(230.0), exact(0.86)
    >>> work(Given(target_volts=2.5, supply_volts=supply, volts_per_turn=turn)).turns
    3
    """
    per_turn = _at_supply(given)
    wanted = given.target_volts / per_turn.value
    within("target_volts", wanted, at_most=MOST_TURNS, unit="turns")
    least = max(1, math.ceil(wanted * (1 - REACHED)))
    turns = least if given.at_least else max(1, math.floor(wanted + 0.5))
    packing = _packing(given)
    metres = _length(given, turns, packing)
    open_volts = _volts(per_turn, turns)
    electrical = _electrical(given, turns, metres, open_volts)
    return Found(
        turns=turns,
        open_circuit_volts=open_volts,
        one_turn_fewer_volts=_volts(per_turn, turns - 1),
        one_turn_more_volts=_volts(per_turn, turns + 1),
        least_turns=least,
        fits=None if packing is None else turns <= packing.turns,
        turns_that_fit=None if packing is None else packing.turns,
        turns_per_layer=None if packing is None else packing.per_layer,
        layers=_layers(turns, packing),
        fill=_fill(given, turns),
        length_metres=metres,
        **electrical,
    )


def _at_supply(given: Given) -> Quantity:
    """Volts per turn on this supply: they follow the volts on the primary. REF-M-03."""
    read_at = given.volts_per_turn_at_volts
    if read_at is None:
        return given.volts_per_turn
    scale = exact(given.supply_volts.value / read_at)
    q = corners(lambda v, k: v * k, given.volts_per_turn, scale)
    basis = given.volts_per_turn.basis
    if abs(scale.value - 1) > 1e-9:
        basis = (*basis, f"read at {read_at:g} V, REF-M-03")
    return Quantity(q.value, q.low, q.high, basis)


def _volts(per_turn: Quantity, turns: int) -> Quantity:
    """Open-circuit volts of so many turns. REF-M-02."""
    basis = (f"{turns} turns × volts per turn", *per_turn.basis)
    return Quantity(per_turn.value * turns, per_turn.low * turns, per_turn.high * turns, basis)


def _free(given: Given) -> tuple[float, float] | None:
    """Width and height of the window that are left inside the former, mm."""
    if given.window_width_mm is None or given.window_height_mm is None:
        return None
    width = given.window_width_mm - given.former_mm
    height = given.window_height_mm - 2 * given.former_mm
    return max(0.0, width), max(0.0, height)


def _packing(given: Given) -> Packing | None:
    """How the conductor packs, square or as close as it goes; None where window or conductor is not
    known. REF-M-16.
    """
    free = _free(given)
    if free is None or given.conductor is None:
        return None
    width, height = free
    overall, gap = given.conductor.overall_mm, given.insulation_mm
    per_layer = math.floor(height / overall + REACHED) // given.conductor.in_hand
    layers = math.floor((width + gap) / (overall + gap) + REACHED)
    if given.packing == SQUARE or not per_layer:
        return Packing(per_layer, layers, per_layer * layers)
    laid = packed(given, 1)
    assert laid is not None
    return Packing(per_layer, -(-laid.turns_that_fit // per_layer), laid.turns_that_fit)


def window_of(given: Given) -> Window | None:
    """The window with what stands in it; None where it is not known."""
    if given.window_width_mm is None or given.window_height_mm is None:
        return None
    return Window(
        width_mm=given.window_width_mm,
        height_mm=given.window_height_mm + given.primary_mm + given.shunts_mm,
        tongue_mm=given.tongue_mm or 2 * given.window_width_mm,
        stack_mm=given.stack_mm or 2 * given.window_width_mm,
        primary_mm=given.primary_mm,
        shunts_mm=given.shunts_mm,
        former_mm=given.former_mm,
    )


def packed(given: Given, turns: int) -> Packed | None:
    """So many turns in the window, circle by circle; None where window or conductor is not told."""
    window, told = window_of(given), given.conductor
    if window is None or told is None:
        return None
    conductor = Wound(
        title="conductor",
        made="cable",
        mm2=told.area_mm2,
        overall_mm=told.overall_mm,
        in_hand=told.in_hand,
        material=told.material,
    )
    pattern = "square" if given.packing == SQUARE else ""
    return pack(window, conductor, turns, given.insulation_mm, pattern)


def _layers(turns: int, packing: Packing | None) -> int | None:
    """Layers that the turns take; None where it is not known, or none fits."""
    if packing is None or packing.per_layer == 0:
        return None
    return -(-turns // packing.per_layer)


def _fill(given: Given, turns: int) -> Quantity | None:
    """Conductors' overall area over the free window."""
    free, conductor = _free(given), given.conductor
    if free is None or conductor is None or free[0] * free[1] == 0:
        return None
    taken = turns * conductor.in_hand * area_mm2(conductor.overall_mm)
    return exact(taken / (free[0] * free[1]), "overall area over free window")


def _length(given: Given, turns: int, packing: Packing | None) -> Quantity | None:
    """Metres of one conductor in hand, by the mean turn. REF-M-14."""
    conductor = given.conductor
    if given.tongue_mm is None or given.stack_mm is None or conductor is None:
        return None
    layers = _layers(turns, packing) or 1
    build = layers * conductor.overall_mm + (layers - 1) * given.insulation_mm
    c = given.former_mm
    turn_mm = 2 * (given.tongue_mm + 2 * c) + 2 * (given.stack_mm + 2 * c) + math.pi * build
    return exact(turns * turn_mm / 1e3, "mean turn, REF-M-14")


def _electrical(
    given: Given, turns: int, metres: Quantity | None, open_volts: Quantity
) -> dict[str, Quantity | None]:
    """Ohms, mass, and under load the volts, by key."""
    conductor, amps = given.conductor, given.load_amps
    out: dict[str, Quantity | None] = dict.fromkeys(ELECTRICAL)
    if conductor is None:
        return out
    metal = METALS[conductor.material]
    area = conductor.area_mm2 * conductor.in_hand
    if amps is not None:
        out["amps_per_mm2"] = exact(amps / area, "I/A")
    if metres is None:
        return out
    ohms = metres.value * ohms_per_metre(area, metal)
    out["winding_ohms"] = exact(ohms, "REF-W-02")
    out["mass_kg"] = exact(metres.value * area * 1e-6 * metal.kg_m3, "REF-W-16")
    if amps is not None:
        out["copper_watts"] = exact(amps**2 * ohms, "I²R")
        loaded = _loaded(given, turns, ohms, open_volts)
        out["loaded_volts"] = loaded
        out["drop_volts"] = _drop(open_volts, loaded)
    return out


def _drop(open_volts: Quantity, loaded: Quantity) -> Quantity:
    low, high = open_volts.low - loaded.low, open_volts.high - loaded.high
    drop = open_volts.value - loaded.value
    return Quantity(drop, min(low, high, drop), max(low, high, drop), loaded.basis)


ELECTRICAL = (
    "winding_ohms",
    "mass_kg",
    "drop_volts",
    "loaded_volts",
    "copper_watts",
    "amps_per_mm2",
)


def _loaded(given: Given, turns: int, ohms: float, open_volts: Quantity) -> Quantity:
    """Volts under a resistive load, by phasors: E² = (V + IR)² + (IX)². REF-T-06."""
    amps = given.load_amps or 0.0
    own = given.source_per_turn2
    r = ohms + (own.resistance_ohms * turns**2 if own is not None else 0.0)
    x = own.reactance_ohms * turns**2 if own is not None else 0.0

    def volts_of(e: float) -> float:
        left = e * e - (amps * x) ** 2
        return math.sqrt(left) - amps * r if left > 0 else -amps * r

    if volts_of(open_volts.low) <= 0:
        raise FieldError(
            "load_amps",
            f"The winding cannot give {amps:g} A: its own {r:.3g} Ω and {x:.3g} Ω of reactance "
            "take all of its volts.",
        )
    return corners(volts_of, open_volts)


REWIND = Planner(
    name="rewind",
    title="Rewind",
    purpose="How many whole turns for the volts wanted, and what one turn more or fewer gives.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="V = v · N; v follows the volts on the primary",
        source="REF-M-02, REF-M-03, REF-M-14, REF-M-16, REF-W-02",
        put="{turns} turns of {volts_per_turn}: {open_circuit_volts}",
    ),
    cautions=(
        Caution(
            code="does-not-fit",
            severity="stop",
            sentence=(
                "{turns} turns do not fit: the window takes {turns_that_fit} of this conductor. "
                "Thinner wire, or fewer volts."
            ),
            when=lambda given, found: found.fits is False,
        ),
        Caution(
            code="fit-unknown",
            severity="note",
            sentence=(
                "Whether they fit is not worked out: give the window and the conductor over its "
                "insulation."
            ),
            when=lambda given, found: found.fits is None,
        ),
        Caution(
            code="below-target",
            severity="note",
            sentence=(
                "{open_circuit_volts} is below the {target_volts} wanted; {least_turns} turns "
                "reach it."
            ),
            when=lambda given, found: found.turns < found.least_turns,
        ),
        Caution(
            code="hv-still-on",
            severity="caution",
            sentence=(
                "With the HV winding still on, a test turn means kilovolts at its ends: low drive "
                "only, and wire with insulation for kilovolts. Never nick the primary."
            ),
        ),
        Caution(
            code="half-turn",
            severity="note",
            sentence=(
                "Half a turn does not exist through a shell core: a wire that passes one window "
                "only comes back outside. A load takes its drop off these volts."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.POTTED, starts.DOUBTFUL, starts.NO_TEST_TURN),
    example={
        "supply_volts": {"value": 230.0, "low": 225.0, "high": 235.0},
        "volts_per_turn": {"value": 0.86, "low": 0.84, "high": 0.88},
        "target_volts": 2.5,
    },
    checks=(
        Check(
            given={"supply_volts": 230.0, "volts_per_turn": 0.86, "target_volts": 2.5},
            expected={"turns": 3, "open_circuit_volts": 2.58, "one_turn_fewer_volts": 1.72},
            source="REF-M-02, by hand: 3 × 0.86 V",
        ),
        Check(
            given={
                "supply_volts": 115.0,
                "volts_per_turn": 0.9,
                "volts_per_turn_at_volts": 230.0,
                "target_volts": 4.5,
            },
            expected={"turns": 10, "open_circuit_volts": 4.5},
            source="REF-M-03, by hand: half the volts, half the volts per turn",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "volts_per_turn": 1.0,
                "target_volts": 80.0,
                "window_width_mm": 22.0,
                "window_height_mm": 66.0,
                "former_mm": 0.0,
                "conductor": {"area_mm2": 8.0, "overall_mm": 4.0},
            },
            expected={"turns_that_fit": 80, "fits": True},
            source="REF-M-16a: 22 × 66 mm and 4.0 mm, square, take 80 turns",
        ),
    ),
)
