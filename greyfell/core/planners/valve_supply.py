"""A valve supply from a transformer with HV halves, heaters and a bias tap: direct volts with a
capacitor and with a choke first, heaters against the valves, rails against their targets.
"""

from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.never import SAID, Asked
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import dc_supply, starts

HEATER_TOLERANCE = 0.10
"""Heater volts may stray so far. Common practice of the valve trade."""
USUAL_VALVE_VOLTS = 6.3


@dataclass(frozen=True, kw_only=True)
class Valve(Input):
    """One kind of valve: its heater."""

    title: str = asked("Valve")
    heater_amps: float = asked("heater amps", "A", above=0, at_most=100)
    count: int = asked("how many", default=1, at_least=1, at_most=100)


@dataclass(frozen=True, kw_only=True)
class Rail(Input):
    """One rail that is wanted, and how far it may stray."""

    title: str = asked("Rail")
    volts: float = asked("volts wanted", "V", above=0, at_most=1e4)
    tolerance: float = asked("share it may stray", default=0.1, above=0, at_most=1)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The transformer, the filter, the load, the valves, the rails."""

    side_volts: Quantity = asked("HV, each side", "V", above=0, at_most=1e4)
    load_amps: float = asked(
        "HV load, direct", "A", above=0, at_most=10, slide=(0.01, 0.5), chosen=True
    )
    supply_hertz: float = asked(
        "Frequency", "Hz", default=50.0, at_least=1, at_most=1000, start=starts.supply_hertz
    )
    side_ohms: float = asked("Ohms, each side, all in", "Ω", at_least=0, at_most=1e6)
    reservoir_farads: float = asked("Reservoir", "F", above=0, at_most=1)
    choke_henries: float | None = asked("Choke", "H", default=None, above=0, at_most=1e3)
    heater_volts: Quantity | None = asked("Heaters", "V", default=None, above=0, at_most=100)
    heater_rated_amps: float | None = asked("made for", "A", default=None, above=0, at_most=1000)
    valves: tuple[Valve, ...] = asked(
        "Valves", default=(), help="name, heater amps, how many: as EL34 1.5A 2; ECC83 0.3A 3"
    )
    bias_volts: Quantity | None = asked(
        "Bias tap to the middle", "V", default=None, above=0, at_most=1000
    )
    rails: tuple[Rail, ...] = asked(
        "Rails wanted", default=(), help="name, volts, share: as anode 350V 0.1"
    )
    diode_volts: float = asked(
        "Drop of a diode", "V", aside=True, default=0.9, at_least=0, at_most=100
    )
    bled: bool = asked(SAID["bled"], default=False)
    enclosed: bool = asked(SAID["enclosed"], default=False)
    proved: bool = asked(SAID["proved"], default=False)


@dataclass(frozen=True, kw_only=True)
class Held(ShownRow):
    """One rail against its target."""

    title: str = shown("Rail")
    wanted_volts: Quantity = shown("Wanted", "V")
    nearest: str = shown("Nearest circuit")
    volts: Quantity = shown("It gives", "V")
    within: bool = shown("Within")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Direct volts three ways, heaters, bias, rails."""

    capacitor_input_volts: Quantity = shown("Both sides, capacitor first", "V", lead=True)
    choke_input_volts: Quantity | None = shown("Both sides, choke first", "V", lead=True)
    least_choke_amps: Quantity | None = shown("The choke needs at least", "A")
    bridge_volts: Quantity = shown("Bridge over the whole winding", "V")
    bridge_amps: Quantity = shown("at half the amps, so at most", "A")
    open_volts: Quantity = shown("Before the valves are warm", "V")
    ripple_volts: Quantity = shown("Ripple, capacitor first", "V")
    bias_volts_direct: Quantity | None = shown("Bias, rectified", "V")
    heater_amps: Quantity | None = shown("Heaters take", "A")
    heaters_within: bool | None = shown("Heaters within what it gives")
    rails_held: tuple[Held, ...] = shown("Rails")


def work(given: Given) -> Found:
    """Two sides and two diodes, capacitor or choke first, and a bridge over the whole winding at
    half the amps, each solved in time as `dc_supply` does. REF-R-02, R-T1. V, A, F, H, Ω.

    Raises FieldError where the winding cannot give the amps.

    >>> told = Given(side_volts=exact(300.0), load_amps=0.1, side_ohms=120.0,
    ...              reservoir_farads=32e-6, choke_henries=10.0)
    >>> found = work(told)
    >>> round(found.capacitor_input_volts.value, -1), round(found.choke_input_volts.value, -1)
    (370.0, 260.0)
    """
    first = _supply(given, "centre-tap", given.side_volts, given.load_amps)
    choked = None
    if given.choke_henries is not None:
        choked = _supply(given, "centre-tap", given.side_volts, given.load_amps, choke=True)
    whole = corners(lambda v: 2 * v, given.side_volts)
    bridge = _supply(given, "bridge", whole, given.load_amps / 2)
    heater = _heaters(given)
    circuits = {"capacitor first": first.loaded_volts, "bridge": bridge.loaded_volts}
    if choked is not None:
        circuits["choke first"] = choked.loaded_volts
    return Found(
        capacitor_input_volts=first.loaded_volts,
        choke_input_volts=None if choked is None else choked.loaded_volts,
        least_choke_amps=None if choked is None else choked.least_choke_amps,
        bridge_volts=bridge.loaded_volts,
        bridge_amps=exact(given.load_amps / 2, "the same copper, twice the volts"),
        open_volts=first.open_volts,
        ripple_volts=first.ripple_volts,
        bias_volts_direct=_bias(given),
        heater_amps=heater,
        heaters_within=_within(given, heater),
        rails_held=tuple(_held(rail, circuits) for rail in given.rails),
    )


def _supply(
    given: Given, kind: str, volts: Quantity, amps: float, *, choke: bool = False
) -> dc_supply.Found:
    """One circuit. Raises FieldError."""
    whole = kind == "bridge"
    return dc_supply.work(
        dc_supply.Given(
            winding_volts=volts,
            load_amps=amps,
            supply_hertz=given.supply_hertz,
            rectifier=kind,
            reservoir_farads=given.reservoir_farads / (2 if whole else 1),
            source_resistance_ohms=given.side_ohms * (2 if whole else 1),
            filter="choke" if choke else "capacitor",
            choke_henries=given.choke_henries if choke else None,
            diode_volts=given.diode_volts,
        )
    )


def _bias(given: Given) -> Quantity | None:
    """Half-wave from the bias tap, hardly loaded. REF-R-01."""
    if given.bias_volts is None:
        return None
    return corners(lambda v: 2**0.5 * v - given.diode_volts, given.bias_volts)


def _heaters(given: Given) -> Quantity | None:
    """Amps of all heaters."""
    if not given.valves:
        return None
    amps = sum(v.heater_amps * v.count for v in given.valves)
    return Quantity(amps, 0.95 * amps, 1.05 * amps, ("valves listed",))


def _within(given: Given, amps: Quantity | None) -> bool | None:
    """Whether the heater winding gives them; None where one of the two is not known."""
    if amps is None or given.heater_rated_amps is None:
        return None
    return amps.value <= given.heater_rated_amps


def _held(rail: Rail, circuits: dict[str, Quantity]) -> Held:
    """The circuit that comes nearest."""
    name, volts = min(circuits.items(), key=lambda c: abs(c[1].value - rail.volts))
    return Held(
        title=rail.title,
        wanted_volts=exact(rail.volts, "given"),
        nearest=name,
        volts=volts,
        within=abs(volts.value / rail.volts - 1) <= rail.tolerance,
    )


def _stray(given: Given) -> bool:
    volts = given.heater_volts
    if volts is None:
        return False
    return abs(volts.value / USUAL_VALVE_VOLTS - 1) > HEATER_TOLERANCE


def _asked(given: Given, found: Found) -> Asked:
    """What it is to the list of what is never planned, its capacitors at the cold valves' volts."""
    most = found.open_volts.high
    return Asked(
        open_dc=found.open_volts.value,
        held_volts=most,
        held_joules=given.reservoir_farads * most**2 / 2,
        bled=given.bled,
        enclosed=given.enclosed,
        proved=given.proved,
    )


VALVE_SUPPLY = Planner(
    name="valve_supply",
    title="A valve supply",
    purpose="Direct volts three ways, heaters against the valves, rails against their targets.",
    given=Given,
    found=Found,
    work=work,
    heavy=True,
    why=Formula(
        text="two sides: √2·V open, solved in time under load; choke first: 0.9·V; bridge: twice",
        source="REF-R-01, REF-R-02, R-T1",
        put="{side_volts} a side at {load_amps}: {capacitor_input_volts}, {choke_input_volts}",
    ),
    cautions=(
        Caution(
            code="over-heaters",
            severity="stop",
            sentence="The heaters take {heater_amps}, and the winding was made for less.",
            when=lambda given, found: found.heaters_within is False,
        ),
        Caution(
            code="rail-off",
            severity="caution",
            sentence="A rail misses its target: found now, before the valves are in.",
            when=lambda given, found: any(not r.within for r in found.rails_held),
        ),
        Caution(
            code="heater-volts",
            severity="caution",
            sentence="Heaters are for 6.3 V within a tenth: {heater_volts} is not.",
            when=lambda given, found: _stray(given),
        ),
        Caution(
            code="cold-volts",
            severity="caution",
            sentence=(
                "Until the valves are warm every capacitor stands at {open_volts}: it must bear "
                "that, and a bleeder must let it go."
            ),
        ),
        Caution(
            code="below-choke",
            severity="caution",
            sentence="Below {least_choke_amps} the choke lets go and the volts climb.",
            when=lambda given, found: (
                found.least_choke_amps is not None
                and given.load_amps < found.least_choke_amps.value
            ),
        ),
        Caution(
            code="kills",
            severity="caution",
            sentence="Direct volts of a valve set kill with it switched off: discharge and prove.",
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    never=_asked,
    example={
        "side_volts": {"value": 300.0, "low": 295.0, "high": 306.0},
        "load_amps": 0.12,
        "supply_hertz": 50.0,
        "side_ohms": 110.0,
        "reservoir_farads": 3.2e-5,
        "choke_henries": 10.0,
        "heater_volts": 6.4,
        "heater_rated_amps": 4.5,
        "valves": [
            {"title": "EL34", "heater_amps": 1.5, "count": 2},
            {"title": "ECC83", "heater_amps": 0.3, "count": 3},
        ],
        "bias_volts": 38.0,
        "rails": [{"title": "anode", "volts": 360.0, "tolerance": 0.1}],
    },
    checks=(
        Check(
            given={
                "side_volts": 300.0,
                "load_amps": 0.1,
                "side_ohms": 1.0,
                "reservoir_farads": 1e-4,
                "choke_henries": 20.0,
                "diode_volts": 0.0,
            },
            expected={"choke_input_volts": 270.1},
            source="REF-R-01a: full-wave mean is 0.9003 of the RMS",
            rel=5e-3,
        ),
        Check(
            given={
                "side_volts": 300.0,
                "load_amps": 1e-4,
                "side_ohms": 10.0,
                "reservoir_farads": 1e-4,
                "diode_volts": 0.0,
                "bias_volts": 12.0,
            },
            expected={
                "capacitor_input_volts": 424.3,
                "bridge_volts": 848.5,
                "bias_volts_direct": 16.97,
            },
            source="REF-R-01a: the peak is 1.414 of the RMS",
            rel=5e-3,
        ),
    ),
)
