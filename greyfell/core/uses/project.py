"""A rewinding from the job to the sheet: both designs, shunts in and out; the winding in figures;
every number of turns; what is in the stores; the mistake beside the answer.
"""

import math
from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.coil_design.conductors import Conductor
from greyfell.core.coil_design.loop import LOOP_REACTANCE, Shot, WeldLoop, shot
from greyfell.core.coil_design.thickest import thickest, ways
from greyfell.core.coil_design.window import Packed, pack
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.uses.catalogue import Use
from greyfell.core.uses.core_to_wind import CoreToWind
from greyfell.core.uses.fit import Fit, best, source_of, tried

HOT_CELSIUS = 75.0
WOUND = 0.06
"""How far a winding's ohms stray from its plan, ±: length, stranding, the day. Common practice."""
LOOP = 0.3
"""How far cables and joints that nobody read stray, ±. From memory; the path reads them."""
TAILS_M = 0.6
"""Metres of tails besides the turns. Common practice."""
CONTINUOUS, MINUTES, SECONDS = "for hours", "for minutes", "for seconds"
CLASSES = ((3.5, CONTINUOUS), (12.0, MINUTES))
"""A/mm² of copper by how long it bears them; above, seconds. W-T6."""
MOST_COMPARED = 6


class Design(Struct, frozen=True, kw_only=True):
    """One design: its iron (shunts in or out), how it fits, the winding packed and in figures. V,
    A, Ω, m, kg, A/mm².
    """

    iron: CoreToWind
    found: Fit
    packed: Packed | None
    metres: float
    tails_m: float
    ohms_cold: float
    ohms_hot: float
    kilograms: float
    fill: float
    density: float
    bears: str
    open_volts: Quantity
    one_fewer: float
    one_more: float
    short_amps: Quantity
    load: "Loaded"
    stiffness: float

    @property
    def conductor(self) -> Conductor | None:
        """What is wound."""
        return self.found.conductor


class Loaded(Struct, frozen=True, kw_only=True):
    """What a design gives into its load, over the range of the load too. A, V, W."""

    amps: Quantity
    volts: Quantity
    watts: Quantity


class Held(Struct, frozen=True, kw_only=True):
    """An entry of the stores against what a winding wants: enough metres, or how many are missing;
    metres left.
    """

    item: Item
    metres: float | None
    enough: bool | None
    left: float | None
    words: str


def design(
    iron: CoreToWind, use: Use, turns: int | None = None, made: Sequence[str] = ()
) -> Design:
    """The best of a use on an iron, or so many turns of it; the conductor of these makes only."""
    asked = replace(use, made=tuple(made)) if made else use
    found = best(iron, asked) if turns is None else tried(iron, asked, turns)
    conductor, at = found.conductor, found.shot
    if conductor is None or at is None:
        return _empty(iron, found)
    packed = pack(iron.window, conductor, found.turns)
    turn = iron.window.mean_turn_m(packed.build_mm)
    metres = turn * found.turns * iron.cores
    whole = conductor.whole_mm2
    density = at.amps / whole / conductor.metal.derating
    per_turn = iron.new_volts_per_turn
    k = found.turns * iron.cores
    free = iron.window.free.wide * iron.window.free.high
    taken = math.pi / 4 * conductor.overall_mm**2 * conductor.in_hand * found.turns
    ends = _ends(iron, conductor.ohms(metres) / found.turns, use)
    bolted = {name: pair for name, pair in ends.items() if name not in LOAD_SIDE}
    return Design(
        iron=iron,
        found=found,
        packed=packed,
        metres=metres,
        tails_m=TAILS_M,
        ohms_cold=conductor.ohms(metres),
        ohms_hot=conductor.ohms(metres, HOT_CELSIUS),
        kilograms=metres * whole * 1e-6 * conductor.metal.kg_m3,
        fill=taken / free if free > 0 else 0.0,
        density=density,
        bears=next((words for most, words in CLASSES if density <= most), SECONDS),
        open_volts=Quantity(
            per_turn.value * k, per_turn.low * k, per_turn.high * k, per_turn.basis
        ),
        one_fewer=per_turn.value * (k - iron.cores),
        one_more=per_turn.value * (k + iron.cores),
        short_amps=_moved(iron, found.turns, bolted, lambda at: at.short_amps),
        load=Loaded(
            amps=_moved(iron, found.turns, ends, lambda at: at.amps),
            volts=_moved(iron, found.turns, ends, lambda at: at.job_volts),
            watts=_moved(iron, found.turns, ends, lambda at: at.job_watts),
        ),
        stiffness=1 - at.amps * use.load_ohms.value / at.open_volts if at.open_volts else 0.0,
    )


LOAD_SIDE = ("load", "loop")
"""What stands beyond the winding's own ends."""


def _ends(iron: CoreToWind, turn_ohms: float, use: Use) -> dict[str, Quantity]:
    """Everything a winding's amps hang on, each with its range. V, Ω."""
    turn = Quantity(turn_ohms, turn_ohms * (1 - WOUND), turn_ohms * (1 + WOUND))
    loop = use.loop_ohms
    return {
        "v": iron.new_volts_per_turn,
        "r": iron.resistance_ohms,
        "x": iron.reactance_ohms,
        "turn": turn,
        "load": use.load_ohms,
        "loop": Quantity(loop, loop * (1 - LOOP), loop * (1 + LOOP)),
    }


def _moved(
    iron: CoreToWind, turns: int, ends: Mapping[str, Quantity], read: Callable[[Shot], float]
) -> Quantity:
    """A figure of the loop with each thing it hangs on at both ends of its range by itself, the
    effects added in quadrature; without a load, at the winding's own ends. JCGM 100:2008 5.1.2.
    """

    def at(moved: Mapping[str, float]) -> float:
        source = replace(
            source_of(iron),
            volts_per_turn=moved["v"] * iron.cores,
            resistance_ohms=moved["r"] * iron.cores,
            reactance_ohms=moved["x"] * iron.cores,
        )
        ohms = moved.get("loop", 0.0)
        loop = WeldLoop(
            turn_ohms=moved["turn"], ohms=ohms, reactance_ohms=LOOP_REACTANCE if ohms else 0.0
        )
        return read(shot(source, loop, moved.get("load", 0.0), turns))

    return _in_quadrature(at, ends)


def _in_quadrature(
    at: Callable[[Mapping[str, float]], float], ends: Mapping[str, Quantity]
) -> Quantity:
    middle = {name: q.value for name, q in ends.items()}
    value = at(middle)
    down = up = 0.0
    for name, q in ends.items():
        moved = [math.log(at(middle | {name: end}) / value) for end in (q.low, q.high)]
        down += min(*moved, 0.0) ** 2
        up += max(*moved, 0.0) ** 2
    basis = tuple(dict.fromkeys(word for q in ends.values() for word in q.basis))
    low, high = value * math.exp(-math.sqrt(down)), value * math.exp(math.sqrt(up))
    return Quantity(value, low, high, basis)


def _empty(iron: CoreToWind, found: Fit) -> Design:
    """A design of which no conductor goes in."""
    k = max(found.turns, 1) * iron.cores
    v = iron.new_volts_per_turn
    return Design(
        iron=iron,
        found=found,
        packed=None,
        metres=0.0,
        tails_m=TAILS_M,
        ohms_cold=0.0,
        ohms_hot=0.0,
        kilograms=0.0,
        fill=0.0,
        density=0.0,
        bears=SECONDS,
        open_volts=Quantity(v.value * k, v.low * k, v.high * k, v.basis),
        one_fewer=v.value * (k - 1),
        one_more=v.value * (k + 1),
        short_amps=exact(0.0),
        load=Loaded(amps=exact(0.0), volts=exact(0.0), watts=exact(0.0)),
        stiffness=0.0,
    )


def both(
    iron: CoreToWind, use: Use, turns: int | None = None, made: Sequence[str] = ()
) -> list[Design]:
    """Shunts in and out where they are in; else the one there is."""
    irons = [iron, iron.without_shunts()] if iron.shunts_in else [iron]
    return [design(i, use, turns, made) for i in irons]


def better(designs: Sequence[Design]) -> Design:
    """The design that leaves least undone; of those alike the one of least work: what is in stays
    in.
    """
    return min(designs, key=lambda d: len(d.found.failing))


def compared(iron: CoreToWind, use: Use) -> list[Fit]:
    """Two, three, four … turns side by side, each with its own thickest conductor."""
    middle = best(iron, use).turns
    least = max(1, middle - 2)
    return [tried(iron, use, n) for n in range(least, least + MOST_COMPARED)]


def into(iron: CoreToWind, use: Use, turns: int) -> Callable[[float], Shot]:
    """One number of turns, of the thickest that goes in, into any ohms."""
    conductor = thickest(iron.window, turns, made=use.made)
    loop = WeldLoop(
        turn_ohms=NO_ROOM_OHMS if conductor is None else conductor.ohms(_turn(iron), 50.0),
        ohms=use.loop_ohms,
        reactance_ohms=LOOP_REACTANCE if use.loop_ohms else 0.0,
    )
    source = source_of(iron)
    return lambda ohms: shot(source, loop, ohms, turns)


NO_ROOM_OHMS = 0.1
"""Ohms of a turn for which there is no room, for a curve that shows it."""


def _turn(iron: CoreToWind) -> float:
    return iron.window.mean_turn_m(iron.window.free.wide / 2) * iron.cores


def alternatives(iron: CoreToWind, turns: int) -> list[Conductor]:
    """The thickest of every make for so many turns."""
    return ways(iron.window, turns)


def mistaken_amps(iron: CoreToWind, found: Fit) -> float:
    """What the primary's volt-amperes over the open volts would say: the mistake. A. Common
    practice, and wrong.
    """
    assert found.shot is not None
    return iron.primary_minute * iron.supply_volts / found.shot.open_volts


def in_hand(items: Sequence[Item], conductor: Conductor, metres: float) -> list[Held]:
    """Entries of the stores that would do, the nearest in section first, with what is left of
    them.
    """
    out = []
    for item in items:
        mm2 = item.figures.get("mm2")
        if item.kind.key not in ("wire", "strands") or not isinstance(mm2, int | float):
            continue
        if not 0.8 * conductor.mm2 <= mm2 <= 1.3 * conductor.mm2:
            continue
        out.append(_held(item, conductor, metres))
    return sorted(out, key=lambda h: abs(float(h.item.figures["mm2"]) - conductor.mm2))


def _held(item: Item, conductor: Conductor, metres: float) -> Held:
    wanted = (metres + TAILS_M) * conductor.in_hand
    has = item.figures.get("metres")
    if not isinstance(has, int | float):
        return Held(
            item=item,
            metres=None,
            enough=None,
            left=None,
            words=f"its length is not told; {wanted:.1f} m are wanted",
        )
    left = float(has) - wanted
    said = f"{left:.1f} m are left of {has:g}" if left >= 0 else f"{-left:.1f} m are missing"
    return Held(item=item, metres=float(has), enough=left >= 0, left=left, words=said)
