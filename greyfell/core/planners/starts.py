"""Facts of a piece that fill a planner's inputs, each with the basis that says from where."""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import Known
from greyfell.core.planner_kit.declare import OfPiece

if TYPE_CHECKING:
    from greyfell.core.judgement.identification import Identification

# What reads a piece is imported where a piece fills a plan: one without it starts at once.

BOND_END, BOND_MIDDLE = "an end", "its middle"
BOND_NONE, BOND_UNKNOWN = "no point of it", "not known"
LINE = 0.02
"""How far the line's volts stray in a day's work, ±: the minute's reading is better. IEC 60038
allows ± 10 %; common practice."""


def supply_volts(known: Known) -> Quantity:
    """The record's supply, with what the line strays. IEC 60038."""
    volts = known.ident.record.supply.volts
    return Quantity(volts, volts * (1 - LINE), volts * (1 + LINE), ("supply",))


def supply_volts_plain(known: Known) -> float:
    """The record's supply by its name."""
    return known.ident.record.supply.volts


def supply_hertz(known: Known) -> float:
    """The record's mains frequency."""
    return known.ident.record.supply.hertz


def volts_per_turn(known: Known) -> Quantity | None:
    """Volts per turn on the record's supply, from everything on record."""
    return known.ident.belief.volts_per_turn


def volts_per_turn_at(known: Known) -> float:
    """The volts that they are at."""
    return known.ident.record.supply.volts


def source_resistance(known: Known) -> Quantity | None:
    """Resistance on the primary's side: by a short-circuit test, else the primary's copper."""
    from greyfell.core.circuit.equivalent import own_impedance
    from greyfell.core.circuit.fed_winding import fed_whole

    own = own_impedance(known.ident.record, known.ident.belief)
    if own is not None:
        return own.resistance_ohms
    primary = fed_whole(known.ident.record, known.ident.belief)
    if primary is None or primary.coil.broken:
        return None
    ohms = primary.coil.ohms
    return Quantity(ohms.value, ohms.low, ohms.high, (f"copper of {primary.name}",))


def source_reactance(known: Known) -> Quantity | None:
    """Leakage reactance on the primary's side, by a short-circuit test; without one, unknown."""
    from greyfell.core.circuit.equivalent import own_impedance

    own = own_impedance(known.ident.record, known.ident.belief)
    return None if own is None else own.reactance_ohms


def leakage_reactance(known: Known) -> Quantity | None:
    """Leakage reactance on the primary's side: by a short-circuit test, else by the model of the
    output of most volts, wide.
    """
    from greyfell.core.judgement.outputs import models

    read = source_reactance(known)
    if read is not None:
        return read
    found = models(known.ident)
    leak = found[0].get("leakage_henries") if found else None
    if leak is None:
        return None
    omega = 2 * math.pi * known.ident.record.supply.hertz
    return Quantity(leak.value * omega, leak.low * omega, leak.high * omega, leak.basis)


def high_volts(known: Known) -> Quantity | None:
    """Open volts of the output of most volts, by its model."""
    from greyfell.core.judgement.outputs import models

    found = models(known.ident)
    return found[0].line.open_volts if found else None


def high_resistance(known: Known) -> float | None:
    """Its resistance, all on its own side, Ω."""
    from greyfell.core.judgement.outputs import models

    found = models(known.ident)
    return found[0].line.resistance_ohms.value if found else None


def high_reactance(known: Known) -> float | None:
    """Its leakage reactance, all on its own side, Ω."""
    from greyfell.core.judgement.outputs import models

    found = models(known.ident)
    return found[0].line.reactance_ohms.value if found else None


def high_bond(known: Known) -> str | None:
    """What of it stands on the core: as it was read; clear of it only where it was read open on a
    range that counts, to iron that was proved.
    """
    from greyfell.core.judgement.outputs import models
    from greyfell.core.judgement.screening import HIGH_RANGE_OHMS

    found = models(known.ident)
    if not found:
        return None
    coil, topology = found[0].winding.coil, known.ident.topology
    if coil.bond is not None:
        return {"end": BOND_END, "middle": BOND_MIDDLE}[coil.bond]
    opened = (topology.open_to_core.get(x, 0.0) for x in coil.members)
    clear = topology.core_proved and any(r >= HIGH_RANGE_OHMS for r in opened)
    return BOND_NONE if clear else BOND_UNKNOWN


def plate_volts(known: Known) -> float | None:
    """The plate's primary volts."""
    plate = known.ident.record.nameplate
    return None if plate is None else plate.primary_volts


def borne_volts(known: Known) -> float | None:
    """The plate's primary volts; without them what the primary is concluded to be for, at its
    least.
    """
    told, primary = plate_volts(known), known.ident.belief.primary
    if told is not None or primary is None or primary.volts is None:
        return told
    return round(min(primary.volts.value, known.ident.record.supply.volts), 1)


def plate_hertz(known: Known) -> float | None:
    """The plate's hertz."""
    plate = known.ident.record.nameplate
    return None if plate is None else plate.hertz


def plate_secondary_volts(known: Known) -> float | None:
    """The plate's secondary volts, where it names one."""
    plate = known.ident.record.nameplate
    return None if plate is None else plate.secondary_volts


def plate_secondary_amps(known: Known) -> float | None:
    """The plate's secondary amps, where it names one."""
    plate = known.ident.record.nameplate
    return None if plate is None else plate.secondary_amps


def plate_kind(known: Known) -> str:
    """Whether the plate tells open or loaded volts: sign transformers' plates tell open ones."""
    from greyfell.core.families.registry import family_of

    family = family_of(known.ident.family)
    return "rated" if family is None else family.plate_kind


def primary_ohms(known: Known) -> Quantity | None:
    """The primary's ohms as they were read cold; of two halves the first's."""
    primary = known.ident.belief.primary
    if primary is None or primary.coil.broken or not primary.coil.resolved:
        return None
    return primary.coil.ohms


def primary_turns(known: Known) -> float | None:
    """The primary's turns, by its volts over the volts per turn. REF-M-02."""
    from greyfell.core.circuit.fed_winding import fed_whole

    belief = known.ident.belief
    per_turn, primary = belief.volts_per_turn, fed_whole(known.ident.record, belief)
    if per_turn is None or primary is None or primary.volts is None:
        return None
    return round(primary.volts.value / per_turn.value, 1)


def magnetising_amps(known: Known) -> float | None:
    """Amps at no load on the supply, where they or a sweep were read."""
    from greyfell.core.circuit.idle import idle_of

    idle = idle_of(known.ident.record, known.ident.belief)
    return None if idle is None else round(idle.middle.amps, 3)


def sweep_points(known: Known) -> list[dict[str, float]] | None:
    """Points of the fed winding's sweep, where at least two at different volts were read."""
    fed = set(known.ident.belief.fed)
    read = [r for r in known.ident.record.standing if r.kind == "no_load" and r.amps]
    points: dict[float, dict[str, float]] = {}
    for r in (r for r in read if set(r.driven) <= fed):
        told = {"volts": r.volts, "amps": r.amps} | ({"watts": r.watts} if r.watts else {})
        points[r.volts] = {key: float(value) for key, value in told.items() if value is not None}
    return [points[v] for v in sorted(points)] if len(points) > 1 else None


def breaker_amps(known: Known) -> float | None:
    """The socket's breaker, where it is told."""
    return known.ident.record.supply.breaker_amps


def _of_core(key: str) -> Callable[[Known], float | None]:
    """The start that is one figure of the core."""

    def start(known: Known) -> float | None:
        core = known.ident.record.core
        value = None if core is None else getattr(core, key)
        return None if value is None else float(value)

    return start


tongue_mm = _of_core("tongue_mm")
stack_mm = _of_core("stack_mm")
window_width_mm = _of_core("window_width_mm")
window_height_mm = _of_core("window_height_mm")


def _potted(ident: "Identification") -> bool:
    core = ident.record.core
    return core is not None and (bool(core.potted) or core.assembly == "potted")


def _no_test_turn(ident: "Identification") -> bool:
    from greyfell.core.evidence.kinds.registry import meeting

    return not meeting("test turn", ident.record.standing)


def _unsettled(ident: "Identification") -> bool:
    from greyfell.core.judgement.contradictions import undecided_polarity

    return bool(undecided_polarity(ident.record, ident.belief))


CONDEMNED = OfPiece(
    code="condemned",
    severity="stop",
    sentence=(
        "A stop fault stands on this piece: nothing is built on it. A better reading of what "
        "stopped it comes first."
    ),
    when=lambda ident: ident.stopped,
)
POTTED = OfPiece(
    code="potted",
    severity="stop",
    sentence=(
        "This piece is potted: its windings do not come out whole, and old potting may hold PCBs. "
        "Choose another piece to rewind."
    ),
    when=_potted,
)
NO_TEST_TURN = OfPiece(
    code="no-test-turn",
    severity="note",
    sentence=(
        "Volts per turn rest on no test turn. Wind five turns of thin wire through both windows "
        "and read them: the range shrinks to a percent."
    ),
    when=_no_test_turn,
)
UNSETTLED = OfPiece(
    code="polarity-unsettled",
    severity="stop",
    sentence=(
        "The readings of this piece contradict each other on which ends are alike: none of its "
        "coils are joined before another reading decides. Joined wrongly they are a dead short."
    ),
    when=_unsettled,
)
DOUBTFUL = OfPiece(
    code="doubtful",
    severity="caution",
    sentence="An open question stands on this piece: settle it before anything is built on it.",
    when=lambda ident: ident.verdict == "doubtful",
)
