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

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.observations import Array, Row, mean_turn
from greyfell.core.belief.priors import A0, FLUX_EXPONENT, V0
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import model_of
from greyfell.core.families.row import FamilyModel
from greyfell.core.figures.constants import COPPER_OHM_M, FLUX_FACTOR
from greyfell.core.figures.mains import high_region

METER_GAMMA = (0.065, 0.035)
"""A meter's equal volts mean unequal flux, and μ rises with flux: √(L1/L2) falls short of the turns
ratio n like n^−0.065. Common practice (it reads low); exponent from memory."""
BEND_FROM = 0.7
"""From this share of rated flux saturated iron bends: a ratio read a little below rated volts does
not hold to scale."""
ASIDE_SD = 0.012
"""Spread of the logarithm of a ratio between two windings neither of which is the primary: both
couplings are in it. From memory."""
HALVES_SD = 0.003
"""Spread of the logarithm of volts between two primary halves: they are wound together."""
TWIN_SD = 0.008
"""Spread of the logarithm of volts between two windings wound alike: a turn or so. From memory."""
SLIP_SPREAD = 3.0
"""A slip lands anywhere within a factor of twenty: standard deviation of its logarithm. From
memory."""
LEAST_VARIANCE = 1e-8
"""Keeps an observation without error of its own from being taken for exact."""
NO_SPREAD = 1e-10
"""Keeps the variance of what is known for certain a divisor."""
LEAST_PRECISION = 1e-12
"""Keeps what one observation is to the others a divisor."""
FIXED = 5
"""Unknowns of the piece as a whole; three for each winding follow."""
A, EV, LAM, GAM, MLT = range(FIXED)
"""Size, ln volts per turn off its line, ln √permeance, meter's γ, ln mean turn."""
LOG_V_OFFSET = V0 + FLUX_EXPONENT * A0
"""ln v = its own unknown − 0.47 a + this."""


class Unknowns(Struct, frozen=True):
    """The unknowns of a piece of n windings as unit vectors, so that a line reads as it is said."""

    n: int

    @property
    def count(self) -> int:
        """How many they are."""
        return FIXED + 3 * self.n

    def unit(self, *terms: tuple[int, float]) -> Array:
        """A vector with these factors at these places."""
        out = np.zeros(self.count)
        for index, factor in terms:
            out[index] += factor
        return out

    def w(self, i: int) -> int:
        """Place of winding i's ln design volts."""
        return FIXED + i

    def q(self, i: int) -> int:
        """Place of winding i's ln copper share."""
        return FIXED + self.n + i

    def c(self, i: int) -> int:
        """Place of winding i's ln coupling."""
        return FIXED + 2 * self.n + i

    def log_v(self) -> Array:
        """ln volts per turn, but for its offset."""
        return self.unit((EV, 1), (A, -FLUX_EXPONENT))

    def turns(self, i: int) -> Array:
        """ln turns of winding i, but for the offset of ln v."""
        return self.unit((self.w(i), 1), (self.c(i), -1)) - self.log_v()

    def ohms(self, i: int) -> Array:
        """ln ohms of winding i."""
        return self.unit((A, 1), (self.w(i), 2), (self.c(i), -2), (self.q(i), 1))

    def volts(self, sensed: int, driven: int) -> Array:
        """ln volts sensed over driven by turns alone."""
        there = self.unit((self.w(sensed), 1), (self.c(sensed), -1))
        return there - self.unit((self.w(driven), 1), (self.c(driven), -1))


class Solution(Struct):
    """The posterior of every hypothesis, and what each observation is to the others.

    Shapes, for k hypotheses, m rows and d unknowns: log_evidence (k,), prior_mean and mean (k, d),
    prior_cov and cov (k, d, d), design (k, m, d), offset, misfit and noise (k, m). With Σ the
    covariance of the observations, `pulled` is Σ⁻¹ misfit and `precision` the diagonal of Σ⁻¹
    (k, m).
    """

    log_evidence: Array
    prior_mean: Array
    prior_cov: Array
    mean: Array
    cov: Array
    design: Array
    offset: Array
    misfit: Array
    noise: Array
    pulled: Array
    precision: Array
    rows: list[Row]
    unknowns: Unknowns

    @property
    def n(self) -> int:
        """How many windings it solves."""
        return self.unknowns.n

    def posterior(self, k: int, contrast: Array) -> tuple[float, float]:
        """Mean and standard deviation of contrast·unknowns under hypothesis k. Bayes' rule, linear
        and Gaussian.
        """
        variance = float(contrast @ self.cov[k] @ contrast)
        return float(contrast @ self.mean[k]), math.sqrt(max(variance, NO_SPREAD))

    def gain(self, k: int, contrast: Array) -> Array:
        """How far contrast·unknowns follows each observation under hypothesis k (m,)."""
        return np.asarray((self.design[k] @ (self.cov[k] @ contrast)) / self.noise[k])

    def left_out(self, k: int) -> Array:
        """How far each observation lies from what all the others say, in standard deviations, under
        hypothesis k.
        """
        return np.asarray(self.pulled[k] / np.sqrt(self.precision[k]), dtype=np.float64)

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
        left = self.pulled / self.precision
        variance = 1 / self.precision
        belongs = _log_density(left, variance)
        slipped = _log_density(left, variance + SLIP_SPREAD**2)
        log_odds = np.log(slip_odds)
        gain = slipped - belongs + log_odds
        charge = np.logaddexp(belongs - slipped, log_odds)
        gain[:, list(open_already)] = -np.inf
        worst = np.argmax(gain, axis=1)
        best = gain[np.arange(k), worst]
        evidence = self.log_evidence + np.logaddexp(0.0, np.logaddexp.reduce(gain, axis=1))
        return np.asarray(evidence), np.where(best > 0, worst, -1), charge

    def predicted(self, k: int, row: int) -> tuple[float, float]:
        """What all the other observations say this one should be, and its standard deviation (in
        the row's logarithm). Bayes' rule without this row.
        """
        precision = float(self.precision[k, row])
        others = max(1 / precision - float(self.noise[k, row]), 1e-8)
        spread = math.sqrt(others + self.rows[row].sd ** 2)
        return self.rows[row].value - float(self.pulled[k, row]) / precision, spread

    def w(self, i: int) -> int:
        """Place of winding i's ln design volts among the unknowns."""
        return self.unknowns.w(i)

    def unit(self, *terms: tuple[int, float]) -> Array:
        """A contrast with these factors at these places."""
        return self.unknowns.unit(*terms)

    def log_v(self) -> Array:
        """The contrast for ln volts per turn, but for its offset."""
        return self.unknowns.log_v()


def _log_density(x: Array, variance: Array) -> Array:
    """ln of a normal's density, but for the constant."""
    return np.asarray(-0.5 * (x**2 / variance + np.log(variance)))


def solve(
    record: Transformer, found: list[Hypothesis], rows: list[Row], n: int, loose: frozenset[int]
) -> Solution:
    """Solve every hypothesis at once. `loose` are rows whose error is opened wide because they do
    not belong. Weighted least squares (Gaussian posterior) in logarithms.
    """
    m = len(rows)
    unknowns = Unknowns(n)
    mean, cov = _priors(record, found, unknowns)
    lines = _Lines.blank(found, rows, unknowns, mean)
    for j, row in enumerate(rows):
        lines.write(j, row)
        if j in loose:
            lines.noise[:, j] += SLIP_SPREAD**2
    value = np.array([row.value for row in rows])
    misfit = value[None, :] - lines.offset - (lines.design @ mean[:, :, None])[:, :, 0]
    noise = np.maximum(lines.noise, LEAST_VARIANCE)
    way = _by_observations if m <= unknowns.count else _by_unknowns
    found_out = way(lines.design, cov, noise, misfit)
    chi2 = np.einsum("km,km->k", misfit, found_out.pulled)
    pull = lines.design.transpose(0, 2, 1) @ found_out.pulled[:, :, None]
    return Solution(
        log_evidence=-0.5 * (chi2 + found_out.logdet + m * math.log(2 * math.pi)),
        prior_mean=mean,
        prior_cov=cov,
        mean=mean + (cov @ pull)[:, :, 0],
        cov=found_out.cov,
        design=lines.design,
        offset=lines.offset,
        misfit=misfit,
        noise=noise,
        pulled=found_out.pulled,
        precision=np.maximum(found_out.precision, LEAST_PRECISION),
        rows=rows,
        unknowns=unknowns,
    )


class _Solved(Struct, kw_only=True):
    """Posterior covariance (k, d, d), Σ⁻¹ misfit and the diagonal of Σ⁻¹ (k, m), ln |Σ| (k,)."""

    cov: Array
    pulled: Array
    precision: Array
    logdet: Array


def _by_observations(design: Array, prior: Array, noise: Array, misfit: Array) -> _Solved:
    """By the covariance of the observations, Σ = X P Xᵀ + N: the shorter way for few of them."""
    k, m = misfit.shape
    if not m:
        none = np.zeros((k, 0))
        return _Solved(cov=prior, pulled=none, precision=none, logdet=np.zeros(k))
    spread = design @ prior
    total = spread @ design.transpose(0, 2, 1)
    total[:, np.arange(m), np.arange(m)] += noise
    inverse = np.linalg.inv(total)
    return _Solved(
        cov=prior - spread.transpose(0, 2, 1) @ inverse @ spread,
        pulled=(inverse @ misfit[:, :, None])[:, :, 0],
        precision=np.einsum("kmm->km", inverse),
        logdet=np.linalg.slogdet(total)[1],
    )


def _by_unknowns(design: Array, prior: Array, noise: Array, misfit: Array) -> _Solved:
    """By the unknowns, linear in the observations, with P = S Sᵀ and C the posterior covariance:

    C = S (1 + Sᵀ Xᵀ N⁻¹ X S)⁻¹ Sᵀ, Σ⁻¹ = N⁻¹ − N⁻¹ X C Xᵀ N⁻¹, ln |Σ| = ln |N| + ln |1 + …|
    (Woodbury's identity, and the determinant lemma).
    """
    count = prior.shape[1]
    exact = LEAST_VARIANCE**2 * np.eye(count)  # what is known for certain has a root too
    root = np.linalg.cholesky(prior + exact)
    across = design @ root
    told = across.transpose(0, 2, 1) @ (across / noise[:, :, None]) + np.eye(count)
    inner = np.linalg.inv(told)
    whitened = misfit / noise
    drawn = inner @ (across.transpose(0, 2, 1) @ whitened[:, :, None])
    leverage = np.einsum("kmd,kmd->km", across @ inner, across)
    return _Solved(
        cov=root @ inner @ root.transpose(0, 2, 1),
        pulled=whitened - (across @ drawn)[:, :, 0] / noise,
        precision=(1 - leverage / noise) / noise,
        logdet=np.log(noise).sum(axis=1) + np.linalg.slogdet(told)[1],
    )


class Foreseen(Struct, frozen=True, kw_only=True):
    """What a reading not taken yet would be: its logarithm's mean and spread under every hypothesis
    (k,), its line (k, d), and the covariance of the unknowns before it is taken (k, d, d).
    """

    mean: Array
    sd: Array
    line: Array
    cov: Array

    def narrows(self, k: int, contrast: Array) -> float:
        """ln of the spread of contrast·unknowns before the reading over after it: in nats.
        Shannon's definition for a Gaussian.
        """
        before = float(contrast @ self.cov[k] @ contrast)
        told = float(contrast @ self.cov[k] @ self.line[k]) ** 2 / self.sd[k] ** 2
        return 0.5 * math.log(max(before, NO_SPREAD) / max(before - told, NO_SPREAD))


def foresee(solution: Solution, places: list[int], found: list[Hypothesis], row: Row) -> Foreseen:
    """What a row would be, from all that is read, under hypotheses at these places of a solution.

    The posterior's own prediction: mean x·μ + offset, variance x C x + noise.
    """
    mean, cov = solution.mean[places], solution.cov[places]
    lines = _Lines.blank(found, [row], solution.unknowns, solution.prior_mean[places])
    lines.write(0, row)
    line = lines.design[:, 0]
    noise = np.maximum(lines.noise[:, 0], LEAST_VARIANCE)
    return Foreseen(
        mean=lines.offset[:, 0] + np.einsum("kd,kd->k", line, mean),
        sd=np.sqrt(noise + np.einsum("kd,kde,ke->k", line, cov, line)),
        line=line,
        cov=cov,
    )


def _priors(
    record: Transformer, found: list[Hypothesis], unknowns: Unknowns
) -> tuple[Array, Array]:
    """Means (k, d) and covariances (k, d, d) of the unknowns before any observation."""
    k, d, n = len(found), unknowns.count, unknowns.n
    mean, cov = np.zeros((k, d)), np.zeros((k, d, d))
    turn = mean_turn(record)
    known = {h.family: _of_the_piece(model_of(h.family), turn) for h in found}
    fixed = np.array([known[h.family] for h in found])
    at = np.arange(FIXED)
    mean[:, at] = fixed[:, 0::2]
    cov[:, at, at] = fixed[:, 1::2] ** 2
    moments = np.array([m.moments for h in found for m in h.models]).reshape(k, n, 6)
    reference = np.array([h.reference for h in found])
    # copper share and coupling are counted from the reference winding
    moments[np.arange(k), reference, 2:] = 0.0
    for part in range(3):
        at = FIXED + part * n + np.arange(n)
        mean[:, at] = moments[:, :, 2 * part]
        cov[:, at, at] = moments[:, :, 2 * part + 1]
    for x, h in enumerate(found):
        if h.halves is not None:
            _tie(cov[x], [unknowns.w(i) for i in h.halves], HALVES_SD)
        for group in h.twins:  # wound for the same volts, to a turn or so
            _tie(cov[x], [unknowns.w(i) for i in group], TWIN_SD, each=True)
    return mean, cov


def _of_the_piece(f: FamilyModel, turn: tuple[float, float]) -> tuple[float, ...]:
    """Mean and spread of the unknowns of the piece as a whole, in the order of their places."""
    permeance, spread = f.permeance
    return (*f.a, *f.v_offset, permeance / 2, spread / 2, *METER_GAMMA, *turn)


def _tie(cov: Array, places: list[int], sd: float, *, each: bool = False) -> None:
    """Make unknowns of one covariance alike to within a spread: all of them off the first, or with
    `each` every one off what they have in common.
    """
    at = np.array(places)
    common = cov[at[0], at[0]]
    cov[at[:, None], at] = common
    own = at if each else at[1:]
    cov[own, own] = common + sd**2


def _plate_targets(found: list[Hypothesis], rows: list[Row]) -> list[int]:
    """Which winding a single plate output is likeliest to mean: the one whose expected volts are
    nearest.
    """
    said = next((row.value for row in rows if row.kind == "plate output"), None)
    return [] if said is None else [_nearest_output(h, said) for h in found]


def _nearest_output(h: Hypothesis, said: float) -> int:
    """The winding besides the primary whose expected ln volts are nearest to a figure."""
    outs = [i for i, role in enumerate(h.roles) if i != h.reference and role != "primary-half"]
    return min(outs, key=lambda i: abs(h.models[i].volts.mean - said), default=h.reference)


class _Lines(Struct):
    """Writes observations into the design matrix (k, m, d), offsets (k, m) and noise (k, m) of all
    hypotheses at once.
    """

    design: Array
    offset: Array
    noise: Array
    found: list[Hypothesis]
    unknowns: Unknowns
    mean: Array
    plates: list[int]
    families: list[FamilyModel]
    reference: NDArray[np.int_]
    low_flux: Array
    bends: Array

    @classmethod
    def blank(
        cls, found: list[Hypothesis], rows: list[Row], unknowns: Unknowns, mean: Array
    ) -> "_Lines":
        """Nothing written yet."""
        k, m = len(found), len(rows)
        families = [model_of(h.family) for h in found]
        return cls(
            design=np.zeros((k, m, unknowns.count)),
            offset=np.zeros((k, m)),
            noise=np.zeros((k, m)),
            found=found,
            unknowns=unknowns,
            mean=mean,
            plates=_plate_targets(found, rows),
            families=families,
            reference=np.array([h.reference for h in found]),
            low_flux=np.array([f.low_flux for f in families]),
            bends=np.array([f.bend for f in families]),
        )

    def write(self, j: int, row: Row) -> None:
        """Row j: its line, offset and noise under every hypothesis."""
        self.noise[:, j] = row.sd**2
        WRITERS[row.kind](self, j, row)

    def ohms(self, j: int, row: Row) -> None:
        """ln R = a + 2w − 2c + q."""
        self.design[:, j] = self.unknowns.ohms(row.coils[0])

    def turns(self, j: int, row: Row) -> None:
        """T = w − c − ln v."""
        self.design[:, j] = self.unknowns.turns(row.coils[0])
        self.offset[:, j] = -LOG_V_OFFSET

    def inductance(self, j: int, row: Row) -> None:
        """½ ln L = T + λ − γ ½ ln L."""
        self.turns(j, row)
        self.design[:, j, LAM] = 1
        self.design[:, j, GAM] = -row.value

    def wire(self, j: int, row: Row) -> None:
        """ln A = ln ρ + T + ln mlt − ln R."""
        i = row.coils[0]
        u = self.unknowns
        self.design[:, j] = u.turns(i) + u.unit((MLT, 1)) - u.ohms(i)
        self.offset[:, j] = math.log(COPPER_OHM_M) - LOG_V_OFFSET

    def ratio(self, j: int, row: Row) -> None:
        """ln(V_S/V_D) by turns, and m (c_S + c_D) where one of the two is the primary.

        At low flux the coupling is k^m; saturated iron bends it near rated flux.
        """
        driven, sensed = row.coils
        u, k = self.unknowns, np.arange(len(self.found))
        back = self.reference == sensed
        through = (self.reference == driven) | back
        primary = np.where(back, sensed, driven)
        other = np.where(back, driven, sensed)
        on_primary = np.where(back, row.volts[1], row.volts[0])
        flux = on_primary / np.exp(self.mean[k, u.w(0) + primary])
        faded = (1 - np.minimum(flux, 1.0)) ** 2
        m, m_spread = self.low_flux[:, 0], self.low_flux[:, 1]
        exponent = np.where(through, 1 + (m - 1) * faded, 0.0)
        self.design[:, j] = u.volts(sensed, driven)
        self.design[:, j, u.c(sensed)] += exponent
        self.design[:, j, u.c(driven)] += exponent
        near = through & (flux > BEND_FROM) & (flux < 1 / BEND_FROM)
        off = np.where(near, flux - 1, 0.0)
        self.offset[:, j] = -self.bends[:, 0] * off
        unsure = m_spread * np.abs(self.mean[k, u.c(0) + other]) * faded
        bent = self.bends[:, 1] * off
        self.noise[:, j] += np.where(through, unsure**2 + bent**2, ASIDE_SD**2)

    def plate_primary(self, j: int, row: Row) -> None:
        """w of the primary; a plate of the whole of two halves in series says twice as much."""
        self.design[np.arange(len(self.found)), j, FIXED + self.reference] = 1
        whole = high_region(math.exp(row.value))
        self.offset[:, j] = [math.log(2) if h.halves and whole else 0.0 for h in self.found]

    def plate_output(self, j: int, row: Row) -> None:
        """w of the winding that the plate is likeliest to mean."""
        self.design[np.arange(len(self.found)), j, FIXED + np.array(self.plates)] = 1

    def plate_va(self, j: int, row: Row) -> None:
        """a falls with size."""
        self.design[:, j, A] = 1

    def mass(self, j: int, row: Row) -> None:
        """a = value + the family's offset."""
        self.design[:, j, A] = 1
        self.offset[:, j] = [-f.mass_offset[0] for f in self.families]
        self.noise[:, j] = [f.mass_offset[1] ** 2 for f in self.families]

    def core_area(self, j: int, row: Row) -> None:
        """ln v = ln(4.443 f B A): the row holds ln A."""
        self.design[:, j] = self.unknowns.log_v()
        flux = [math.log(FLUX_FACTOR * h.hertz) for h in self.found]
        tesla = [f.tesla.mean for f in self.families]
        self.offset[:, j] = LOG_V_OFFSET - np.array(flux) - np.array(tesla)
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
"""Every kind of observation with its line."""
