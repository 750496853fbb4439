"""Turns and volts from every observation at once.

The unknowns of a piece are logarithms: its size a, volts per turn v, and per winding its design
volts w, copper share q and coupling c = ln k. In logarithms every observation is a straight line in
them, with an error model of its own, so one weighted least-squares solution (a Gaussian posterior)
carries all of them, and its misfit says how well a reading of the piece as a certain family, with
certain roles, agrees with what was measured.

    turns of winding i        T_i = w_i − c_i − ln v
    resistance                ln R_i = a + 2 w_i − 2 c_i + q_i
    ratio, D driven, S sensed ln(V_S/V_D) = w_S − w_D − c_S + c_D + m (c_S + c_D); low flux k^m
    test turn, counted turns  T_i
    inductance                ½ ln L_i = T_i + λ − γ ½ ln (L_i / 1 H); equal volts, unequal flux
    wire gauge                ln A_w = ln ρ + T_i + ln(mean turn) − ln R_i
    plate, mass, core area    w, a, ln v

Sources: M-01, M-02, T-01 to T-09, W-02 of docs/references.md; the low-flux exponent m and γ are
common practice.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from greyfell.core.coil import Coil, Topology
from greyfell.core.family import Hypothesis
from greyfell.core.instruments import limit, limit_parts, log_moments, ohms_of
from greyfell.core.priors import A0, FAMILY, FLUX_EXPONENT, V0, FamilyModel
from greyfell.core.record import Transformer

Array = NDArray[np.float64]

RHO_HOT_ROOM = 1.72e-8
"""Resistivity of copper at 20 °C, Ω·m. REF-W-01, IEC 60028."""
METER_GAMMA = (0.065, 0.035)
"""A meter's equal volts mean unequal flux, and μ rises with flux: √(L1/L2) falls short of the turns
ratio n like n^−0.065. Domain rule (it reads low); exponent from memory."""
SELF_FARADS = (1.5e-10, 0.8)
"""A winding's own capacitance and the spread of its logarithm: an inductance meter reads L/(1 −
ω²LC), more of it the nearer the winding is to its resonance. REF-Q-05's range for windings, common
practice."""
RESONANT = 0.3
"""From this share of the way to its own resonance an inductance reading tells nothing: beyond it
the meter shows the winding's capacitance, and the figure alone does not say which. HV windings
resonate near 1 kHz (domain rule)."""
SPOILT_Q = 1.0
"""Below this Q the figure for the henries is spoilt: by resistance, by a loop, or by the winding's
own resonance. Domain rule."""
READ_APART, LINE_APART = 0.004, 0.006
"""Both volts of a ratio are read within a minute: what a small source and what the line itself
wander in it, relative standard deviation. The domain rule says to read the line in that moment;
figures from memory."""
LINE_VOLTS = 60.0
"""Drives above this come from the line, by a variac or straight. Common practice."""
SHARED_GAIN = 0.6
"""Both volts of a ratio are read with one meter: its gain error partly cancels. REF-Q-09; share
from memory."""
BEND_FROM = 0.7
"""From this share of rated flux saturated iron bends: a ratio read a little below rated volts does
not hold to scale."""
TWIN_SD = 0.008
"""Spread of the logarithm of volts between two windings wound alike: a turn or so. From memory."""
SLIP_SPREAD = 3.0
"""A slip lands anywhere within a factor of twenty: standard deviation of its logarithm. From
memory."""
FIXED = 5
A, EV, LAM, GAM, MLT = range(FIXED)


@dataclass(frozen=True, slots=True)
class Row:
    """One observation: its kind, the readings behind it, the windings it touches, its value and
    standard deviation.
    """

    kind: str
    readings: tuple[str, ...]
    coils: tuple[int, ...]
    value: float
    sd: float
    volts: tuple[float, float] = (0.0, 0.0)


@dataclass
class Solution:
    """The posterior of every hypothesis: log evidence per hypothesis, and the matrices to ask for
    more.
    """

    log_evidence: Array
    prior_mean: Array
    prior_cov: Array
    design: Array
    offset: Array
    inverse: Array
    misfit: Array
    noise: Array
    rows: list[Row]
    n: int
    weights: Array = field(default_factory=lambda: np.zeros(0))

    def posterior(self, k: int, contrast: Array) -> tuple[float, float]:
        """Mean and standard deviation of contrast·unknowns under hypothesis k."""
        gain = self.prior_cov[k] @ self.design[k].T
        middle = contrast @ gain
        mean = float(contrast @ self.prior_mean[k] + middle @ self.inverse[k] @ self.misfit[k])
        variance = float(
            contrast @ self.prior_cov[k] @ contrast - middle @ self.inverse[k] @ middle
        )
        return mean, math.sqrt(max(variance, 1e-10))

    def means(self) -> Array:
        """Posterior mean of every unknown under every hypothesis (k, d)."""
        pull = self.design.transpose(0, 2, 1) @ (self.inverse @ self.misfit[:, :, None])
        return np.asarray(self.prior_mean + (self.prior_cov @ pull)[:, :, 0], dtype=np.float64)

    def left_out(self, k: int) -> Array:
        """How far each observation lies from what all the others say, in standard deviations, under
        hypothesis k.
        """
        solved = self.inverse[k] @ self.misfit[k]
        diagonal = np.diag(self.inverse[k])
        return np.asarray(solved / np.sqrt(np.maximum(diagonal, 1e-12)), dtype=np.float64)

    def robust(
        self, slip_odds: Array, open_already: frozenset[int]
    ) -> tuple[Array, NDArray[np.int_], Array]:
        """Log evidence of every hypothesis if any one observation may be a slip, and which one is
        blamed (-1: none); also ln p of every observation as it stands, slip or not, over its
        density as a slip (k, m): what opening it wide leaves out.

        p(y) = p(y without j) p(y_j | the rest); a slip replaces the last factor by a broad density
        (a factor of twenty either way), at the price of its odds. Closed form from the inverse
        covariance.
        """
        k, m = self.misfit.shape
        if m == 0:
            return self.log_evidence, np.full(k, -1), np.zeros((k, 0))
        diagonal = np.maximum(np.einsum("kmm->km", self.inverse), 1e-12)
        left = (self.inverse @ self.misfit[:, :, None])[:, :, 0] / diagonal
        variance = 1 / diagonal
        belongs = -0.5 * (left**2 / variance + np.log(variance))
        slipped = -0.5 * (left**2 / (variance + SLIP_SPREAD**2) + np.log(variance + SLIP_SPREAD**2))
        gain = slipped - belongs + np.log(slip_odds)
        charge = np.logaddexp(belongs - slipped, np.log(slip_odds))
        gain[:, list(open_already)] = -np.inf
        worst = np.argmax(gain, axis=1)
        best = gain[np.arange(k), worst]
        evidence = self.log_evidence + np.logaddexp(0.0, np.logaddexp.reduce(gain, axis=1))
        return np.asarray(evidence), np.where(best > 0, worst, -1), charge

    def predicted(self, k: int, row: int) -> tuple[float, float]:
        """What all the other observations say this one should be, and its standard deviation (in
        the row's logarithm).
        """
        solved = float((self.inverse[k] @ self.misfit[k])[row])
        diagonal = max(float(self.inverse[k][row, row]), 1e-12)
        variance = max(1 / diagonal - float(self.noise[k, row]), 1e-8) + self.rows[row].sd ** 2
        return self.rows[row].value - solved / diagonal, math.sqrt(variance)

    def w(self, i: int) -> int:
        return FIXED + i

    def unit(self, *terms: tuple[int, float]) -> Array:
        out = np.zeros(FIXED + 3 * self.n)
        for index, factor in terms:
            out[index] += factor
        return out

    def log_turns(self, i: int) -> Array:
        """The contrast for ln turns of winding i, but for the offset of ln v."""
        return self.unit((FIXED + i, 1), (FIXED + 2 * self.n + i, -1), (EV, -1), (A, FLUX_EXPONENT))

    def log_v(self) -> Array:
        """The contrast for ln volts per turn, but for its offset."""
        return self.unit((EV, 1), (A, -FLUX_EXPONENT))


LOG_V_OFFSET = V0 + FLUX_EXPONENT * A0


def observations(
    record: Transformer, topology: Topology, skip: frozenset[str] = frozenset()
) -> list[Row]:
    """Everything on record that bears on turns and volts, one row each; `skip` leaves out kinds or
    reading ids.
    """
    coils = topology.coils
    rows: list[Row] = []
    for i, coil in enumerate(coils):
        if coil.broken or not coil.readings:
            continue
        mean, sd = _best_ohms(record, topology, i, coil)
        rows.append(Row("ohms", coil.readings, (i,), mean, sd))
    inductances: list[Row] = []
    for r in record.standing:
        if r.kind in skip or r.id in skip:
            continue
        if r.kind == "ratio":
            rows += _ratio(r, topology)
        elif r.kind == "test_turn":
            at = _locate(topology, r.driven)
            if at:
                relative = (
                    limit(r, "driven_volts") / r.driven_volts
                    + limit(r, "turn_volts") / r.turn_volts
                )
                value = math.log(r.driven_volts * r.turns / r.turn_volts / at[1])
                rows.append(
                    Row("test turn", (r.id,), (at[0],), value, math.hypot(relative / 2.4, 0.006))
                )
        elif r.kind == "turns":
            at = _locate(topology, r.across)
            if at:
                rows.append(
                    Row(
                        "turns",
                        (r.id,),
                        (at[0],),
                        math.log(r.turns / at[1]),
                        0.03 if r.turns <= 10 else 0.08,
                    )
                )
        elif r.kind == "inductance" and not r.shorted:
            inductances += _inductance(r, topology)
    rows += inductances
    rows += _seen(record, topology, skip)
    return [row for row in rows if row.kind not in skip and not set(row.readings) & skip]


def near_resonance(r: Any) -> float:
    """How near an inductance reading lies to the winding's own resonance, as ω²·L·C with the usual
    self-capacitance.
    """
    return float((2 * math.pi * r.hertz) ** 2 * r.henries * SELF_FARADS[0])


def _inductance(r: Any, topology: Topology) -> list[Row]:
    """½ ln L of one winding: freed of its own capacitance, wide where resistance or laminations
    spoil it.
    """
    at = _locate(topology, r.across)
    if at is None:
        return []
    omega = 2 * math.pi * r.hertz
    sd = math.hypot(limit(r, "henries") / r.henries / 3.5, 0.015 if r.hertz <= 130 else 0.05)
    if topology.coils[at[0]].ohms.value > 0.5 * omega * r.henries or (
        r.q is not None and r.q < SPOILT_Q
    ):
        sd += 0.3
    near = near_resonance(r)
    if near > RESONANT:
        return []
    sd = math.hypot(sd, 0.5 * SELF_FARADS[1] * near / (1 + near))
    return [
        Row(
            "inductance",
            (r.id,),
            (at[0],),
            0.5 * math.log(r.henries / (1 + near)) - math.log(at[1]),
            sd,
        )
    ]


def _best_ohms(record: Transformer, topology: Topology, i: int, coil: Coil) -> tuple[float, float]:
    """ln ohms of a winding and its spread, a low-current DC measurement before an ohmmeter."""
    for r in record.standing:
        if r.kind == "dc_drop" and {*r.across} == {*coil.leads}:
            o = ohms_of(r)
            if o.ohms > 0:
                mean, sd = log_moments(max(o.low, 0.5 * o.ohms), o.ohms, o.high)
                return mean, math.hypot(sd, 0.02)
    mean, sd = log_moments(coil.ohms.low, coil.ohms.value, max(coil.ohms.high, 2e-3))
    return mean, math.hypot(sd, 0.02)


def _locate(topology: Topology, pair: tuple[str, str]) -> tuple[int, float, float] | None:
    """Which winding a pair of points spans, what share of its turns, and the share's relative
    uncertainty.
    """
    core = set(topology.core_leads) | {"core", "earth"}
    x, y = ("core" if p in core else p for p in pair)
    for i, coil in enumerate(topology.coils):
        names = {("core" if p in core else p): p for p in coil.positions}
        if x in names and y in names and x != y:
            share = coil.fraction_between(names[x], names[y])
            if share is None or coil.broken:
                return None
            whole = {names[x], names[y]} == set(coil.leads)
            if whole:
                return i, 1.0, 0.0
            if not coil.resolved:
                return None
            half = coil.bond == "middle" or abs(share - 0.5) < 0.06
            return (i, 0.5, 0.005) if half else (i, max(share, 0.02), 0.04)
    return None


def _ratio(r: Any, topology: Topology) -> list[Row]:
    driven, sensed = _locate(topology, r.driven), _locate(topology, r.sensed)
    volts, out = float(r.driven_volts), float(r.sensed_volts)
    if driven is None or sensed is None or driven[0] == sensed[0] or out <= 0:
        return []
    parts = [limit_parts(r, f) for f in ("driven_volts", "sensed_volts")]
    gain = SHARED_GAIN * math.hypot(parts[0][0] / volts, parts[1][0] / out)
    counts = math.hypot(parts[0][1] / volts, parts[1][1] / out)
    relative = math.hypot(gain, counts) / math.sqrt(6)  # triangular, JCGM 100:2008 4.3.9
    sd = math.hypot(
        min(relative, 1.0),
        math.hypot(driven[2], sensed[2], LINE_APART if volts > LINE_VOLTS else READ_APART),
    )
    value = math.log(out / volts) - math.log(sensed[1] / driven[1])
    return [
        Row(
            "ratio",
            (r.id,),
            (driven[0], sensed[0]),
            value,
            sd,
            (volts / driven[1], out / sensed[1]),
        )
    ]


def _seen(record: Transformer, topology: Topology, skip: frozenset[str]) -> list[Row]:
    """Plate, mass, core area and wire gauge as observations."""
    rows: list[Row] = []
    plate, core = record.nameplate, record.core
    if plate is not None:
        if plate.primary_volts:
            rows.append(Row("plate primary", (), (), math.log(plate.primary_volts), 0.03))
        outputs = [o.volts for o in plate.outputs if o.volts] or (
            [plate.secondary_volts] if plate.secondary_volts else []
        )
        if len(outputs) == 1:
            rows.append(Row("plate output", (), (), math.log(outputs[0]) + 0.08, 0.12))
        if plate.va:
            rows.append(
                Row("plate va", (), (), math.log(3e-3) - 1.5 * math.log(plate.va / 14.0), 0.55)
            )
    if core is not None:
        if core.mass_kg:
            rows.append(Row("mass", (), (), math.log(5.6e-4) - 1.5 * math.log(core.mass_kg), 0.0))
        if core.tongue_mm and core.stack_mm:
            rows.append(
                Row(
                    "core area",
                    (),
                    (),
                    math.log(core.tongue_mm * core.stack_mm * 1e-6 * 0.95),
                    0.02,
                )
            )
    leads = {lead.id: lead for lead in record.leads}
    for i, coil in enumerate(topology.coils):
        gauges = [d for d in (leads[x].wire_mm for x in coil.members if x in leads) if d]
        if gauges and not coil.broken:
            area = math.pi / 4 * (float(np.median(gauges)) * 1e-3) ** 2
            rows.append(Row("wire", (), (i,), math.log(area), 0.22 if len(gauges) > 1 else 0.28))
    return rows


def mean_turn(record: Transformer) -> tuple[float, float]:
    """ln of the mean turn's length in metres and its spread, from the core where it was measured.
    REF-M-14.
    """
    core = record.core
    if core is not None and core.tongue_mm and core.stack_mm:
        build = 0.4 * (core.window_width_mm or 0.5 * core.tongue_mm)
        return math.log((2 * (core.tongue_mm + core.stack_mm + 8.0) + math.pi * build) * 1e-3), 0.12
    if core is not None and core.mass_kg:
        return math.log(0.15 * core.mass_kg ** (1 / 3)), 0.25
    return math.log(0.20), 0.35


def solve(
    record: Transformer, found: list[Hypothesis], rows: list[Row], n: int, loose: frozenset[int]
) -> Solution:
    """Solve every hypothesis at once. `loose` are rows whose error is opened wide because they do
    not belong.
    """
    k, m, d = len(found), len(rows), FIXED + 3 * n
    mean, cov = _priors(record, found, n)
    design, offset, noise = np.zeros((k, m, d)), np.zeros((k, m)), np.zeros((k, m))
    reference = np.array([h.reference for h in found])
    families = [FAMILY[h.family] for h in found]
    lines = _Lines(
        design, offset, noise, found, n, mean, _plate_targets(found, rows), reference, families
    )
    for j, row in enumerate(rows):
        lines.write(j, row)
        if j in loose:
            noise[:, j] += SLIP_SPREAD**2
    value = np.array([row.value for row in rows])
    misfit = value[None, :] - offset - (design @ mean[:, :, None])[:, :, 0]
    total = design @ cov @ design.transpose(0, 2, 1)
    total[:, np.arange(m), np.arange(m)] += np.maximum(noise, 1e-8)
    _, logdet = np.linalg.slogdet(total) if m else (np.ones(k), np.zeros(k))
    inverse = np.asarray(np.linalg.inv(total), dtype=np.float64) if m else np.zeros((k, 0, 0))
    chi2 = (misfit[:, None, :] @ inverse @ misfit[:, :, None])[:, 0, 0]
    evidence = -0.5 * (chi2 + logdet + m * math.log(2 * math.pi))
    return Solution(
        evidence, mean, cov, design, offset, inverse, misfit, np.maximum(noise, 1e-8), rows, n
    )


def _priors(record: Transformer, found: list[Hypothesis], n: int) -> tuple[Array, Array]:
    k, d = len(found), FIXED + 3 * n
    mean, cov = np.zeros((k, d)), np.zeros((k, d, d))
    families = [FAMILY[h.family] for h in found]
    turn = mean_turn(record)
    known = {
        id(f): (*f.a, *f.v_offset, f.permeance[0] / 2, f.permeance[1] / 2, *METER_GAMMA, *turn)
        for f in families
    }
    fixed = np.array([known[id(f)] for f in families])
    mean[:, :FIXED] = fixed[:, 0::2]
    at = np.arange(FIXED)
    cov[:, at, at] = fixed[:, 1::2] ** 2
    moments = np.array([m.moments for h in found for m in h.models]).reshape(k, n, 6)
    reference = np.array([h.reference for h in found])
    moments[np.arange(k), reference, 2:] = (
        0.0  # copper share and coupling are counted from the reference winding
    )
    for part in range(3):
        at = FIXED + part * n + np.arange(n)
        mean[:, at] = moments[:, :, 2 * part]
        cov[:, at, at] = moments[:, :, 2 * part + 1]
    for x, h in enumerate(found):
        if h.halves is not None:
            p, s = FIXED + h.halves[0], FIXED + h.halves[1]
            cov[x, p, s] = cov[x, s, p] = cov[x, p, p]
            cov[x, s, s] = cov[x, p, p] + 0.003**2
        for group in h.twins:  # wound for the same volts, to a turn or so
            at = FIXED + np.array(group)
            common = cov[x, at[0], at[0]]
            cov[x, at[:, None], at] = common
            cov[x, at, at] = common + TWIN_SD**2
    return mean, cov


def _plate_targets(found: list[Hypothesis], rows: list[Row]) -> list[int]:
    """Which winding a single plate output is likeliest to mean: the one whose expected volts are
    nearest.
    """
    outs = [row.value for row in rows if row.kind == "plate output"]
    if not outs:
        return []
    targets = []
    for h in found:
        others = [
            i for i in range(len(h.roles)) if i != h.reference and h.roles[i] != "primary-half"
        ]
        targets.append(
            min(others, key=lambda i: abs(h.models[i].volts.mean - outs[0]), default=h.reference)
        )
    return targets


@dataclass(slots=True)
class _Lines:
    """Writes observations into the design matrix (k, m, d), offsets (k, m) and noise (k, m) of all
    hypotheses at once.
    """

    design: Array
    offset: Array
    noise: Array
    found: list[Hypothesis]
    n: int
    mean: Array
    plates: list[int]
    reference: NDArray[np.int_]
    families: list[FamilyModel]
    low_flux: Array = field(init=False)
    bends: Array = field(init=False)

    def __post_init__(self) -> None:
        self.low_flux = np.array([f.low_flux for f in self.families])
        self.bends = np.array([f.bend for f in self.families])

    def write(self, j: int, row: Row) -> None:
        """Row j: its line, offset and noise under every hypothesis."""
        self.noise[:, j] = row.sd**2
        WRITERS[row.kind](self, j, row)

    def _turns(self, j: int, i: int) -> None:
        """ln turns: w − c − ln v, with ln v = its own offset − 0.47 a."""
        w, c = FIXED, FIXED + 2 * self.n
        (
            self.design[:, j, w + i],
            self.design[:, j, c + i],
            self.design[:, j, EV],
            self.design[:, j, A],
        ) = 1, -1, -1, FLUX_EXPONENT
        self.offset[:, j] = -LOG_V_OFFSET

    def ohms(self, j: int, row: Row) -> None:
        (i,) = row.coils
        w, q, c = FIXED, FIXED + self.n, FIXED + 2 * self.n
        (
            self.design[:, j, A],
            self.design[:, j, w + i],
            self.design[:, j, c + i],
            self.design[:, j, q + i],
        ) = 1, 2, -2, 1

    def ratio(self, j: int, row: Row) -> None:
        driven, sensed = row.coils
        w, c, k = FIXED, FIXED + 2 * self.n, np.arange(len(self.found))
        self.design[:, j, w + sensed], self.design[:, j, w + driven] = 1, -1
        self.design[:, j, c + sensed], self.design[:, j, c + driven] = -1, 1
        back = self.reference == sensed
        through = (self.reference == driven) | back
        flux_coil = np.where(back, sensed, driven)
        flux = np.where(back, row.volts[1], row.volts[0]) / np.exp(self.mean[k, w + flux_coil])
        low = self.low_flux
        faded = (1 - np.minimum(flux, 1.0)) ** 2
        exponent = np.where(through, 1 + (low[:, 0] - 1) * faded, 0.0)
        self.design[:, j, c + sensed] += exponent
        self.design[:, j, c + driven] += exponent
        other = np.where(back, driven, sensed)
        unsure = low[:, 1] * np.abs(self.mean[k, c + other]) * faded
        off = np.where(through & (flux > BEND_FROM) & (flux < 1 / BEND_FROM), flux - 1, 0.0)
        self.offset[:, j] = -self.bends[:, 0] * off
        bend = self.bends[:, 1] * off
        self.noise[:, j] += np.where(through, unsure**2 + bend**2, 0.012**2)

    def turns(self, j: int, row: Row) -> None:
        self._turns(j, row.coils[0])

    def inductance(self, j: int, row: Row) -> None:
        self._turns(j, row.coils[0])
        self.design[:, j, LAM] = 1
        self.design[:, j, GAM] = -row.value

    def wire(self, j: int, row: Row) -> None:
        """ln A = ln ρ + T + ln mlt − ln R, with T = w − c − ln v and ln R = a + 2w − 2c + q."""
        (i,) = row.coils
        w, q, c = FIXED, FIXED + self.n, FIXED + 2 * self.n
        self.design[:, j, w + i], self.design[:, j, c + i], self.design[:, j, q + i] = -1, 1, -1
        self.design[:, j, EV], self.design[:, j, A], self.design[:, j, MLT] = (
            -1,
            FLUX_EXPONENT - 1,
            1,
        )
        self.offset[:, j] = math.log(RHO_HOT_ROOM) - LOG_V_OFFSET

    def plate_primary(self, j: int, row: Row) -> None:
        self.design[np.arange(len(self.found)), j, FIXED + self.reference] = 1
        self.offset[:, j] = [
            math.log(2) if h.halves and row.value > math.log(180) else 0.0 for h in self.found
        ]

    def plate_output(self, j: int, row: Row) -> None:
        self.design[np.arange(len(self.found)), j, FIXED + np.array(self.plates)] = 1

    def plate_va(self, j: int, row: Row) -> None:
        self.design[:, j, A] = 1

    def mass(self, j: int, row: Row) -> None:
        """a = value + the family's offset."""
        self.design[:, j, A] = 1
        self.offset[:, j] = [-f.mass_offset[0] for f in self.families]
        self.noise[:, j] = [f.mass_offset[1] ** 2 for f in self.families]

    def core_area(self, j: int, row: Row) -> None:
        """ln v = ln(4.443 f B A): the row holds ln A."""
        self.design[:, j, EV], self.design[:, j, A] = 1, -FLUX_EXPONENT
        self.offset[:, j] = [
            LOG_V_OFFSET - math.log(4.443 * h.hertz) - f.tesla.mean
            for h, f in zip(self.found, self.families, strict=True)
        ]
        self.noise[:, j] += [f.tesla.sd**2 for f in self.families]


WRITERS: dict[str, Callable[[_Lines, int, Row], None]] = {
    "ohms": _Lines.ohms,
    "ratio": _Lines.ratio,
    "test turn": _Lines.turns,
    "turns": _Lines.turns,
    "inductance": _Lines.inductance,
    "wire": _Lines.wire,
    "plate primary": _Lines.plate_primary,
    "plate output": _Lines.plate_output,
    "plate va": _Lines.plate_va,
    "mass": _Lines.mass,
    "core area": _Lines.core_area,
}
