"""Everything on record that bears on turns and volts, as rows: a value, its spread, the windings it
touches.

Limits are rectangular (JCGM 100:2008 4.3.7, REF-Q-08): ± (percent of the value + digits in the
value's unit).
"""

import math
from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from greyfell.core.belief.priors import MASS_A
from greyfell.core.belief.size import log_size
from greyfell.core.evidence.accuracy import limit, limit_parts, ohms_of
from greyfell.core.evidence.record import (
    Core,
    Direct,
    Inductance,
    Load,
    Loop,
    Nameplate,
    Ratio,
    ShortCircuit,
    TestTurn,
    Transformer,
    Turns,
)
from greyfell.core.wiring.coil import Coil, Topology

Array = NDArray[np.float64]
SELF_FARADS = (1.5e-10, 0.8)
"""A winding's own capacitance and the spread of its logarithm: an inductance meter reads L/(1 −
ω²LC), more of it the nearer the winding is to its resonance. REF-Q-05's range for windings, common
practice."""
RESONANT = 0.3
"""From this share of the way to its own resonance an inductance reading tells nothing: beyond it
the meter shows the winding's capacitance, and the figure alone does not say which. HV windings
resonate near 1 kHz (common practice)."""
SPOILT_Q = 1.0
"""Below this Q the figure for the henries is spoilt: by resistance, by a loop, or by the winding's
own resonance. Common practice."""
ALUMINIUM = 1.64
"""Aluminium has so many times copper's ohms: its section counts for so much less. REF-W-01."""
UNKNOWN_HERTZ = 1000.0
"""What an inductance meter is taken to use where nobody wrote it down: the common one that tells
least. Common practice."""
PLATE_VA_SD = 0.45
"""Spread of ln R/V² of a primary of which the plate tells the volt-amperes. From memory."""
PLATED_OPEN_VOLTS = 1500.0
"""From this on a plate states open volts: a sign transformer's volts and milliamps are of its open
and its shorted output. Common practice; T-15."""
OPEN_PLATE, LOADED_PLATE = (0.0, 0.03), (0.08, 0.12)
"""How far a winding's open volts stand above the plate's, in logarithms, and the spread. Common
practice."""
READ_APART, LINE_APART = 0.004, 0.006
"""Both volts of a ratio are read within a minute: what a small source and what the line itself
wander in it, relative standard deviation. The line is read in that moment;
figures from memory."""
ALONE = 1.0
"""A ratio that no other reading agrees with: so much of that wander again, in quadrature, for what
one pair of figures cannot show. Learned on the worlds of `make evaluate`."""
AGREEING, VOUCHES = 2.0, 0.02
"""Two ratios agree within so many times what the line or source may wander between them, and one of
no more than this spread vouches for the other; whatever the meters' limits, so that a coarser
meter never narrows a range. House rule."""
LOADED_DROP = (0.10, 0.15)
"""How far loaded volts stand below open ones, in logarithms, and the spread: a part drops a
twentieth to a third. REF-M-05; common practice."""
SHORTED_APART = 0.05
"""Amps of a short and of what feeds it differ from the turns by the magnetising amps: spread of
the logarithm. From memory."""
LINE_VOLTS = 60.0
"""Drives above this come from the line, by a variac or straight. Common practice."""
SHARED_GAIN = 0.6
"""Both volts of a ratio are read with one meter: its gain error partly cancels. REF-Q-09; share
from memory."""
OHMMETER_FLOOR_OHMS = 1e-3
"""No winding of interest here is below about a milliohm; keeps logarithms finite."""
LOW_HERTZ = 130.0
"""Inductance meters' low frequencies, 100 and 120 Hz, lie below this."""
LAMINATED_SD = (0.015, 0.05)
"""Spread of ½ ln L by laminations and habit, at low frequency and above. From memory."""
SPOILT_SD = 0.3
"""Added where resistance or a low Q spoils the figure. From memory."""
PLACE_SD = 0.006
"""Spread of the logarithm of a test turn's volts by where it lies. From memory."""
COUNTED_TURNS, COUNTED_SD, ESTIMATED_SD = 10, 0.03, 0.08
"""Up to so many turns are counted, more are estimated; spreads of the logarithm. From memory."""
WARMTH_SD = 0.02
"""Spread of the logarithm of ohms by the winding's temperature: 5 K. REF-W-01."""
HALF_WITHIN = 0.06
"""A point this near to the middle by ohms is the middle by turns. Common practice."""
WIRE_SD = (0.28, 0.22)
"""Spread of the logarithm of a conductor's area by one gauge, and by two or more. From memory."""
STACKING = 0.95
"""Net over gross area of a stack of laminations. REF-M-04."""


class Row(Struct, frozen=True):
    """One observation: its kind, the readings behind it, the windings it touches, its value and
    standard deviation; of a ratio, what of that is the line's or source's wander.
    """

    kind: str
    readings: tuple[str, ...]
    coils: tuple[int, ...]
    value: float
    sd: float
    volts: tuple[float, float] = (0.0, 0.0)
    apart: float = 0.0


def observations(record: Transformer, topology: Topology) -> list[Row]:
    """Everything on record that bears on turns and volts, one row each: ohms first, inductances
    and what was seen last.
    """
    rows: list[Row] = []
    for i, coil in enumerate(topology.coils):
        if coil.readings and not coil.broken:
            mean, sd = _best_ohms(record, coil)
            rows.append(Row(kind="ohms", readings=coil.readings, coils=(i,), value=mean, sd=sd))
    late: list[Row] = []
    for r in record.standing:
        observe = OBSERVERS.get(r.kind)
        row = observe(r, topology) if observe is not None else None
        if row is not None:
            (late if r.kind == "inductance" else rows).append(row)
    return [*_vouched(rows), *late, *_seen(record, topology)]


def _vouched(rows: list[Row]) -> list[Row]:
    """The same rows, wider where a ratio stands alone: what line and hand did between its two
    volts shows only beside another reading of the same two windings.
    """
    ratios = [row for row in rows if row.kind == "ratio"]
    alone = {r.readings for r in ratios if not any(_agree(r, other) for other in ratios)}
    return [
        replace(row, sd=math.hypot(row.sd, ALONE * row.apart)) if row.readings in alone else row
        for row in rows
    ]


def _agree(row: Row, other: Row) -> bool:
    """Whether another ratio of the same two windings, itself fine enough, is the same within what
    the line or source does.
    """
    if other is row or set(other.coils) != set(row.coils) or other.sd > VOUCHES:
        return False
    told = other.value if other.coils == row.coils else -other.value
    return abs(row.value - told) <= AGREEING * math.hypot(row.apart, other.apart)


def near_resonance(r: Any) -> float:
    """How near an inductance reading lies to the winding's own resonance, as ω²·L·C with the usual
    self-capacitance. Resonance of L and C; the capacitance common practice.

    >>> from types import SimpleNamespace
    >>> round(near_resonance(SimpleNamespace(hertz=1000.0, henries=50.0)), 2)
    0.3
    """
    hertz = r.hertz or UNKNOWN_HERTZ
    return float((2 * math.pi * hertz) ** 2 * r.henries * SELF_FARADS[0])


def _test_turn(r: TestTurn, topology: Topology) -> Row | None:
    """Turns of the driven winding over those of the few turns wound on."""
    at = _locate(topology, r.driven)
    if at is None:
        return None
    limits = limit(r, "driven_volts") / r.driven_volts + limit(r, "turn_volts") / r.turn_volts
    value = math.log(r.driven_volts * r.turns / r.turn_volts / at.share)
    sd = math.hypot(limits / 2.4, PLACE_SD)
    return Row(kind="test turn", readings=(r.id,), coils=(at.coil,), value=value, sd=sd)


def _turns(r: Turns, topology: Topology) -> Row | None:
    """Turns counted, or estimated by eye."""
    at = _locate(topology, r.across)
    if at is None:
        return None
    sd = COUNTED_SD if r.turns <= COUNTED_TURNS else ESTIMATED_SD
    return Row(
        kind="turns", readings=(r.id,), coils=(at.coil,), value=math.log(r.turns / at.share), sd=sd
    )


def _inductance(r: Inductance, topology: Topology) -> Row | None:
    """½ ln L of one winding: freed of its own capacitance, wide where resistance or laminations
    spoil it.
    """
    at = _locate(topology, r.across)
    near = near_resonance(r)
    if at is None or r.shorted or near > RESONANT:
        return None
    hertz = r.hertz or UNKNOWN_HERTZ
    reactance = 2 * math.pi * hertz * r.henries
    habit = LAMINATED_SD[0] if hertz <= LOW_HERTZ else LAMINATED_SD[1]
    sd = math.hypot(limit(r, "henries") / r.henries / 3.5, habit)
    coil = topology.coils[at.coil]
    resistive = not coil.unread and coil.ohms.value > 0.5 * reactance
    if resistive or (r.q is not None and r.q < SPOILT_Q):
        sd += SPOILT_SD
    sd = math.hypot(sd, 0.5 * SELF_FARADS[1] * near / (1 + near))
    value = 0.5 * math.log(r.henries / (1 + near)) - math.log(at.share)
    return Row(kind="inductance", readings=(r.id,), coils=(at.coil,), value=value, sd=sd)


def _best_ohms(record: Transformer, coil: Coil) -> tuple[float, float]:
    """ln ohms of a winding and its spread, a low-current DC measurement before an ohmmeter."""
    for r in record.standing:
        if r.kind == "dc_drop" and {*r.across} == {*coil.leads}:
            o = ohms_of(r)
            if o.ohms > 0:
                mean, sd = log_moments(max(o.low, 0.5 * o.ohms), o.ohms, o.high)
                return mean, math.hypot(sd, WARMTH_SD)
    mean, sd = log_moments(coil.ohms.low, coil.ohms.value, max(coil.ohms.high, 2e-3))
    return mean, math.hypot(sd, WARMTH_SD)


class _Spot(Struct, frozen=True):
    """Where a pair of points lies: which winding, what share of its turns, and that share's
    relative spread.
    """

    coil: int
    share: float
    spread: float


def _locate(topology: Topology, pair: tuple[str, str]) -> _Spot | None:
    """Which winding a pair of points spans; None where none, or where its place is not known."""
    core = topology.iron
    x, y = ("core" if p in core else p for p in pair)
    for i, coil in enumerate(topology.coils):
        names = {("core" if p in core else p): p for p in coil.positions}
        if x not in names or y not in names or x == y:
            continue
        share = coil.fraction_between(names[x], names[y])
        if share is None or coil.broken:
            return None
        if {names[x], names[y]} == set(coil.leads):
            return _Spot(i, 1.0, 0.0)
        if not coil.resolved:
            return None
        if coil.bond == "middle" or abs(share - 0.5) < HALF_WITHIN:
            return _Spot(i, 0.5, 0.005)
        return _Spot(i, max(share, 0.02), 0.04)
    return None


def _ratio(r: Ratio, topology: Topology) -> Row | None:
    """ln of volts sensed over driven, both as of the whole winding."""
    driven, sensed = _locate(topology, r.driven), _locate(topology, r.sensed)
    volts, out = r.driven_volts, r.sensed_volts
    if driven is None or sensed is None or driven.coil == sensed.coil or out <= 0:
        return None
    if r.where not in (None, "piece") or r.links:
        return None  # not the volts of these windings alone
    (gain_in, counts_in), (gain_out, counts_out) = (
        limit_parts(r, f) for f in ("driven_volts", "sensed_volts")
    )
    gain = SHARED_GAIN * math.hypot(gain_in / volts, gain_out / out)
    counts = math.hypot(counts_in / volts, counts_out / out)
    meter = min(math.hypot(gain, counts) / math.sqrt(6), 1.0)  # triangular, JCGM 100:2008 4.3.9
    apart = LINE_APART if volts > LINE_VOLTS else READ_APART
    sd = math.hypot(meter, driven.spread, sensed.spread, apart)
    value = math.log(out / volts) - math.log(sensed.share / driven.share)
    whole = (volts / driven.share, out / sensed.share)
    return Row(
        kind="ratio",
        readings=(r.id,),
        coils=(driven.coil, sensed.coil),
        value=value,
        sd=sd,
        volts=whole,
        apart=apart,
    )


def _load(r: Load, topology: Topology) -> Row | None:
    """A loaded output's volts over the driven: less than the open ones by what the load takes."""
    driven, loaded = _locate(topology, r.driven), _locate(topology, r.loaded)
    if driven is None or loaded is None or driven.coil == loaded.coil or r.load_volts <= 0:
        return None
    limits = limit(r, "load_volts") / r.load_volts + limit(r, "driven_volts") / r.driven_volts
    value = math.log(r.load_volts / r.driven_volts) - math.log(loaded.share / driven.share)
    return Row(
        kind="ratio",
        readings=(r.id,),
        coils=(driven.coil, loaded.coil),
        value=value + LOADED_DROP[0],
        sd=math.hypot(limits / 2.4, LOADED_DROP[1]),
        volts=(r.driven_volts / driven.share, r.load_volts / loaded.share),
    )


def _short_circuit(r: ShortCircuit, topology: Topology) -> Row | None:
    """Amps of the fed winding over those of the one shorted winding are its turns over theirs."""
    if len(r.shorted) != 1 or not r.shorted_amps:
        return None
    driven, shorted = _locate(topology, r.driven), _locate(topology, r.shorted[0])
    if driven is None or shorted is None or driven.coil == shorted.coil:
        return None
    limits = limit(r, "amps") / r.amps + limit(r, "shorted_amps") / r.shorted_amps
    value = math.log(r.amps / r.shorted_amps) - math.log(shorted.share / driven.share)
    return Row(
        kind="ratio",
        readings=(r.id,),
        coils=(driven.coil, shorted.coil),
        value=value,
        sd=math.hypot(limits / 2.4, SHORTED_APART),
        volts=(r.volts / driven.share, r.volts / driven.share * math.exp(value)),
    )


def _direct(r: Direct, topology: Topology) -> Row | None:
    """A winding's volts by the direct volts behind its rectifier: its crest less the diodes', the
    line's crest flatter than a sine's; loaded, less by what ohms and ripple take. REF-R-02, R-03.
    """
    driven, whole = _locate(topology, r.driven), _locate(topology, r.rectified)
    if driven is None or whole is None or driven.coil == whole.coil:
        return None
    crests, diodes = RECTIFIED[r.rectifier]
    volts = (r.direct_volts + diodes * DIODE_VOLTS) / (crests * math.sqrt(2))
    drop, apart = LOADED_DIRECT if r.direct_amps else OPEN_DIRECT
    limits = limit(r, "direct_volts") / r.direct_volts + limit(r, "driven_volts") / r.driven_volts
    diode = diodes * DIODE_APART / (r.direct_volts + diodes * DIODE_VOLTS)
    value = math.log(volts / r.driven_volts) - math.log(whole.share / driven.share)
    return Row(
        kind="ratio",
        readings=(r.id,),
        coils=(driven.coil, whole.coil),
        value=value + drop,
        sd=math.hypot(limits / 2.4, apart, diode),
        volts=(r.driven_volts / driven.share, volts * math.exp(drop) / whole.share),
    )


RECTIFIED = {
    "bridge": (1.0, 2),
    "half-wave": (1.0, 1),
    "centre-tap": (0.5, 1),
    "doubler": (2.0, 2),
}
"""Crests of the whole winding that the output has, and diodes in its way. REF-R-02, R-03, R-T1."""
DIODE_VOLTS, DIODE_APART = 0.6, 0.15
"""A silicon diode's drop at the amps of a meter, and its spread, V. Common practice."""
OPEN_DIRECT, LOADED_DIRECT = (0.025, 0.02), (0.14, 0.07)
"""What a line's crest, flattened by what hangs on it, is short of a sine's, as a logarithm, and
the spread; the same with a load on the reservoir. Common practice; from memory."""


def _loop(r: Loop, topology: Topology) -> Row | None:
    """Amps of the fed winding over those of the loop are its turns over theirs, its idle amps
    besides.
    """
    if not r.driven_amps:
        return None
    driven, loaded = _locate(topology, r.driven), _locate(topology, r.loaded)
    if driven is None or loaded is None or driven.coil == loaded.coil:
        return None
    limits = limit(r, "driven_amps") / r.driven_amps + limit(r, "loop_amps") / r.loop_amps
    value = math.log(r.driven_amps / r.loop_amps) - math.log(loaded.share / driven.share)
    value -= IDLE_BESIDE[0]
    return Row(
        kind="ratio",
        readings=(r.id,),
        coils=(driven.coil, loaded.coil),
        value=value,
        sd=math.hypot(limits / 2.4, IDLE_BESIDE[1]),
        volts=(r.driven_volts / driven.share, r.driven_volts / driven.share * math.exp(value)),
    )


IDLE_BESIDE = (0.06, 0.08)
"""What idle amps add to a fed winding's under load, as a logarithm, and the spread. From memory."""


OBSERVERS: dict[str, Callable[[Any, Topology], Row | None]] = {
    "ratio": _ratio,
    "test_turn": _test_turn,
    "turns": _turns,
    "inductance": _inductance,
    "load": _load,
    "short_circuit": _short_circuit,
    "direct": _direct,
    "loop": _loop,
}
"""Kinds of reading that bear on turns and volts, besides ohms."""


# ------------------------------------------------------------------ what can be seen


def _seen(record: Transformer, topology: Topology) -> list[Row]:
    """Plate, mass, core area and wire gauge as observations."""
    rows = [*_of_plate(record.nameplate), *_of_core(record.core)]
    leads = {lead.id: lead for lead in record.leads}
    for i, coil in enumerate(topology.coils):
        seen = [leads[x].wire_mm for x in coil.members if x in leads]
        gauges = [d for d in seen if d]
        if gauges and not coil.broken:
            area = math.pi / 4 * (float(np.median(gauges)) * 1e-3) ** 2
            if any(leads[x].material == "aluminium" for x in coil.members if x in leads):
                area /= ALUMINIUM
            sd = WIRE_SD[1] if len(gauges) > 1 else WIRE_SD[0]
            rows.append(Row(kind="wire", readings=(), coils=(i,), value=math.log(area), sd=sd))
    return rows


def _of_plate(plate: Nameplate | None) -> Iterable[Row]:
    if plate is None:
        return
    if plate.primary_volts:
        yield Row(
            kind="plate primary",
            readings=(),
            coils=(),
            value=math.log(plate.primary_volts),
            sd=0.03,
        )
    outputs = [o.volts for o in plate.outputs if o.volts]
    if not outputs and plate.secondary_volts:
        outputs = [plate.secondary_volts]
    if len(outputs) == 1:
        rise, sd = OPEN_PLATE if outputs[0] >= PLATED_OPEN_VOLTS else LOADED_PLATE
        yield Row(
            kind="plate output", readings=(), coils=(), value=math.log(outputs[0]) + rise, sd=sd
        )
    if plate.va:
        yield Row(kind="plate va", readings=(), coils=(), value=log_size(plate.va), sd=PLATE_VA_SD)


def _of_core(core: Core | None) -> Iterable[Row]:
    if core is None:
        return
    if core.mass_kg:
        a = math.log(MASS_A[0]) - MASS_A[1] * math.log(core.mass_kg)
        yield Row(kind="mass", readings=(), coils=(), value=a, sd=0.0)
    if core.tongue_mm and core.stack_mm:
        net = core.tongue_mm * core.stack_mm * 1e-6 * STACKING
        yield Row(kind="core area", readings=(), coils=(), value=math.log(net), sd=0.02)


def mean_turn(record: Transformer) -> tuple[float, float]:
    """ln of the mean turn's length in metres and its spread, from the core where it was measured.
    REF-M-14.

    >>> from greyfell.core.evidence.record import Core, Transformer
    >>> core = Core(tongue_mm=28.0, stack_mm=40.0)
    >>> round(math.exp(mean_turn(Transformer.model_construct(core=core))[0]), 3)
    0.17
    """
    core = record.core
    if core is not None and core.tongue_mm and core.stack_mm:
        build = 0.4 * (core.window_width_mm or 0.5 * core.tongue_mm)
        turn_mm = 2 * (core.tongue_mm + core.stack_mm + 8.0) + math.pi * build
        return math.log(turn_mm * 1e-3), 0.12
    if core is not None and core.mass_kg:
        return math.log(0.15 * core.mass_kg ** (1 / 3)), 0.25
    return math.log(0.20), 0.35


@lru_cache(maxsize=4096)
def log_moments(low: float, value: float, high: float) -> tuple[float, float]:
    """Mean and standard deviation of ln x for a figure read between two limits; a floor keeps both
    finite.

    Likelihood triangular between the limits, peak at the figure (JCGM 100:2008 4.3.9: makers state
    limits that nearly every meter keeps well within); before looking every size is as likely as
    another (uniform in ln x). Where the limits reach down to nothing, that says what a plain
    average of the limits would not: most of it lies near the figure.

    >>> tuple(round(v, 3) for v in log_moments(0.9, 1.0, 1.1))
    (-0.003, 0.041)
    >>> tuple(round(v, 2) for v in log_moments(0.0, 0.3, 0.6))
    (-1.81, 0.93)
    """
    low = max(low, min(OHMMETER_FLOOR_OHMS, high / 10))
    value = min(max(value, low), high)
    u = np.linspace(math.log(low), math.log(high), 64)
    x = np.exp(u)
    rise = (x - low) / max(value - low, 1e-12)
    fall = (high - x) / max(high - value, 1e-12)
    weight = np.clip(np.minimum(rise, fall), 0.0, 1.0) + 1e-9
    weight /= weight.sum()
    mean = float(weight @ u)
    return mean, max(math.sqrt(float(weight @ (u - mean) ** 2)), 1e-4)
