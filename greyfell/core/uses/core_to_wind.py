"""A piece of iron as somebody sees it who would wind on it: volts per turn, window, what stands
ahead of the new turns, the socket; each figure with its basis.
"""

import math

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.equivalent import own_impedance
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.circuit.idle import idle_of
from greyfell.core.coil_design.window import Window
from greyfell.core.evidence.kinds.registry import meeting
from greyfell.core.families.registry import bars_of, chance, does, has
from greyfell.core.figures.constants import FLUX_FACTOR, Z95
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.judgement.identification import Identification
from greyfell.core.planner_kit.asking import Known
from greyfell.core.planners.starts import leakage_reactance
from greyfell.core.uses.catalogue import BASIC

WINDOW_SHARES = (0.5, 1.5)
"""Width and height of a shell core's window over its tongue: scrapless sheet. REF-M-13."""
STACKED, OBLONG = 0.95, 1.3
"""Iron of a stack, and stack over tongue where nobody measured. REF-M-20; common practice."""
PRIMARY_SHARE, SHUNT_SHARE = 0.45, 0.10
"""Height of a window that its primary and its shunts take, where nobody measured. Common
practice."""
SHUNTS_OUT = Quantity(0.257, 0.203, 0.325, ("shunts out, common practice",))
"""Leakage reactance left once shunts are out: a third to a fifth, nineteen in twenty of that. 3.3
of the references."""
USUAL_REACTANCE_SHARE = (0.03, 0.06, 0.15)
"""Leakage reactance where nothing was read, over the primary's volts by its amps for a minute. From
memory."""
USUAL_BREAKER = 16.0
OF_TEST_TURNS = 0.7
"""What is left of the range of volts per turn where test turns were read on this primary: one meter
reads both volts within a minute, and what it errs in common cancels. As simulated, meters and line
together: `make projects`."""
SHUNTED = Quantity(0.962, 0.937, 0.988, ("beyond the shunts",))
APART = Quantity(0.989, 0.983, 0.995, ("coils apart",))
TIGHT = Quantity(0.992, 0.985, 1.0, ("coils side by side",))
SAME_PLACE = Quantity(1.0, 0.997, 1.003, ("test turns in the same place",))
"""What of the volts per turn reaches a winding where the old coil stood, open, at rated flux:
beyond shunts, with them out, where there were none. REF-T-10 as `ratio_check` has it; from memory.
"""


class CoreToWind(Struct, frozen=True, kw_only=True):
    """One core to wind on. `coupling` is what of the volts per turn reaches the new winding, where
    the old coil stood. A new winding has one barrier to the mains until somebody built and
    proved two; `fused` is an output behind a fuse; `oven` is iron that may be an oven's, which
    isolates no mains volts ever. `cores` alike stand in series; `primary_minute`
    are the amps that its primary bears for a minute; resistance and reactance on the primary's side
    in Ω.
    """

    title: str
    volts_per_turn: Quantity
    supply_volts: float
    hertz: float
    window: Window
    resistance_ohms: Quantity
    reactance_ohms: Quantity
    primary_turns: float
    magnetising_amps: float
    primary_minute: float
    breaker_amps: float
    curve: str = "B"
    coupling: Quantity = TIGHT
    shunts_in: bool = False
    barrier: str = BASIC
    fused: bool = False
    oven: bool = False
    cores: int = 1
    assumed: tuple[str, ...] = ()

    def without_shunts(self) -> "CoreToWind":
        """Its shunts out: more room, less leakage reactance."""
        x, k = self.reactance_ohms, SHUNTS_OUT
        less = Quantity(x.value * k.value, x.low * k.low, x.high * k.high, (*x.basis, *k.basis))
        return replace(
            self,
            shunts_in=False,
            window=self.window.without_shunts(),
            reactance_ohms=less,
            coupling=APART,
        )

    @property
    def new_volts_per_turn(self) -> Quantity:
        """Volts per turn where the new winding stands: volts belong to a place in the window.
        Common practice.
        """
        v, k = self.volts_per_turn, self.coupling
        half = math.hypot(*(math.log(q.high / q.low) / 2 for q in (v, k)))
        value = v.value * k.value
        basis = (*v.basis, *k.basis)
        return Quantity(value, value * math.exp(-half), value * math.exp(half), basis)

    def scaled(self, factor: float) -> "CoreToWind":
        """A core so many times as large every way, wound alike: volts per turn and section of
        copper by the square, impedance of a turn against it.
        """
        w = self.window
        window = Window(
            width_mm=w.width_mm * factor,
            height_mm=w.height_mm * factor,
            tongue_mm=w.tongue_mm * factor,
            stack_mm=w.stack_mm * factor,
            primary_mm=w.primary_mm * factor,
            shunts_mm=w.shunts_mm * factor,
            former_mm=w.former_mm,
        )
        turns = self.primary_turns / factor**2
        r, x = (factor**-5, factor**-3)
        return replace(
            self,
            title=f"a core {factor:.2g} times as large",
            window=window,
            volts_per_turn=_times(self.volts_per_turn, factor**2),
            primary_turns=turns,
            resistance_ohms=_times(self.resistance_ohms, r),
            reactance_ohms=_times(self.reactance_ohms, x),
            primary_minute=self.primary_minute * factor**4,
            magnetising_amps=self.magnetising_amps * factor**3,
        )


def _times(q: Quantity, k: float) -> Quantity:
    return Quantity(q.value * k, q.low * k, q.high * k, q.basis)


def _shunts_in(ident: Identification) -> bool:
    core = ident.record.core
    seen_out = core is not None and core.shunts in ("absent", "removed")
    return has(ident.family, "shunted") and not seen_out


def _unshunted(family: str) -> Quantity:
    return APART if has(family, "coils_apart") else TIGHT


def _minute_amps(ident: Identification, primary: Winding) -> float:
    rating = ident.belief.ratings.get(primary.id)
    return 4.0 if rating is None else rating.minute.value


def _idle_amps(ident: Identification) -> float:
    idle = idle_of(ident.record, ident.belief)
    return 0.0 if idle is None else idle.middle.amps


def iron_of(ident: Identification) -> CoreToWind | None:
    """A piece as iron to wind on; None where neither volts per turn nor a primary is known."""
    belief, record = ident.belief, ident.record
    primary, per_turn = fed_whole(record, belief), belief.volts_per_turn
    if primary is None or primary.volts is None or primary.coil.broken or per_turn is None:
        return None
    assumed: list[str] = []
    window = _window(ident, assumed)
    minute = _minute_amps(ident, primary)
    shunts = _shunts_in(ident)
    if record.supply.breaker_amps is None:
        assumed.append(f"a socket of {USUAL_BREAKER:g} A")
    return CoreToWind(
        title=record.title or record.tag,
        volts_per_turn=_tested(ident, per_turn),
        supply_volts=record.supply.volts,
        hertz=record.supply.hertz,
        window=window,
        resistance_ohms=primary.coil.ohms,
        reactance_ohms=_reactance(ident, minute, assumed),
        primary_turns=primary.volts.value / per_turn.value,
        magnetising_amps=_idle_amps(ident),
        primary_minute=minute,
        breaker_amps=record.supply.breaker_amps or USUAL_BREAKER,
        shunts_in=shunts,
        oven=chance(belief.families, "exposed_never") >= NOT_EXCLUDED,
        coupling=SHUNTED if shunts else _unshunted(belief.family),
        assumed=tuple(assumed),
    )


def _tested(ident: Identification, per_turn: Quantity) -> Quantity:
    """Volts per turn, their range drawn in where test turns were read on the primary."""
    fed = set(ident.belief.fed[:2])
    if not any(set(r.driven) == fed for r in meeting("test turn", ident.record.standing)):
        return per_turn
    low = per_turn.value * (per_turn.low / per_turn.value) ** OF_TEST_TURNS
    high = per_turn.value * (per_turn.high / per_turn.value) ** OF_TEST_TURNS
    return Quantity(per_turn.value, low, high, per_turn.basis)


def _window(ident: Identification, assumed: list[str]) -> Window:
    core = ident.record.core
    read = {
        "tongue": getattr(core, "tongue_mm", None),
        "stack": getattr(core, "stack_mm", None),
        "width": getattr(core, "window_width_mm", None),
        "height": getattr(core, "window_height_mm", None),
    }
    section = _section_mm2(ident)
    tongue = read["tongue"] or math.sqrt(section / OBLONG)
    usual = {
        "tongue": tongue,
        "stack": section / tongue,
        "width": WINDOW_SHARES[0] * tongue,
        "height": WINDOW_SHARES[1] * tongue,
    }
    missing = [k for k, v in read.items() if v is None]
    if missing:
        assumed.append(f"{', '.join(missing)} of the core")
    mm = {k: float(v) if v is not None else usual[k] for k, v in read.items()}
    assumed.append("how high primary and shunts stand")
    shunts = SHUNT_SHARE * mm["height"] if _shunts_in(ident) else 0.0
    return Window(
        width_mm=mm["width"],
        height_mm=mm["height"],
        tongue_mm=mm["tongue"],
        stack_mm=mm["stack"],
        primary_mm=PRIMARY_SHARE * mm["height"],
        shunts_mm=shunts,
    )


def _section_mm2(ident: Identification) -> float:
    """Section of the iron by its volts per turn. REF-M-02."""
    per_turn = ident.belief.volts_per_turn
    assert per_turn is not None
    tesla = does(ident.family).tesla
    area = per_turn.value / (FLUX_FACTOR * ident.record.supply.hertz * tesla)
    return area * 1e6 / STACKED


def barred(ident: Identification) -> str:
    """Why nothing is wound on this piece, in a sentence; empty where it may be."""
    core = ident.record.core
    if ident.stopped:
        return "A stop fault stands on this piece: nothing is built on it before it is cleared."
    if core is not None and (core.potted or core.assembly == "potted"):
        return "It is potted: its windings do not come out whole, and old potting may hold PCBs."
    bars = bars_of(ident.family)
    if bars.wound:
        return bars.wound
    iron = iron_of(ident)
    if iron is None:
        return (
            "Volts per turn are not known yet: a ratio at a low drive, or five test turns of thin "
            "wire through the windows, tell them."
        )
    if iron.magnetising_amps > iron.primary_minute:
        return (
            f"On {iron.supply_volts:g} V its iron is far past its knee: idle alone it would draw "
            f"{iron.magnetising_amps:.0f} A. What may feed it comes first (planner feed)."
        )
    return ""


def _reactance(ident: Identification, minute: float, assumed: list[str]) -> Quantity:
    """By a short circuit, the model, or its kind."""
    own = own_impedance(ident.record, ident.belief)
    if own is not None:
        x = own.reactance_ohms
        wide = math.exp(Z95 * math.sqrt(float(own.covariance[1, 1])))
        return Quantity(x.value, x.value / wide, x.value * wide, x.basis)
    assumed.append("leakage reactance: no short circuit was read")
    told = leakage_reactance(Known(ident))
    if told is not None:
        return told
    whole = ident.record.supply.volts / minute
    low, value, high = (s * whole for s in USUAL_REACTANCE_SHARE)
    return Quantity(value, low, high, ("its kind, assumed",))


def exact_iron(window: Window, volts_per_turn: float, **more: object) -> CoreToWind:
    """Iron by plain figures, for trials."""
    given: dict[str, object] = {
        "title": "iron",
        "volts_per_turn": exact(volts_per_turn),
        "supply_volts": 230.0,
        "hertz": 50.0,
        "window": window,
        "resistance_ohms": exact(1.5),
        "reactance_ohms": exact(4.0),
        "primary_turns": 230.0 / volts_per_turn,
        "magnetising_amps": 1.5,
        "primary_minute": 12.0,
        "breaker_amps": 16.0,
    }
    return CoreToWind(**(given | more))  # type: ignore[arg-type]
