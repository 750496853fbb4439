"""The voltage model, line by line: what each observation says of turns and volts, against the
formula in plain quantities; and that it moves the posterior there and no further.
"""

import math

import numpy as np
import pytest

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.observations import Row, mean_turn, observations
from greyfell.core.belief.priors import A0, V0
from greyfell.core.belief.solution import (
    GAM,
    LAM,
    MLT,
    A,
    Unknowns,
    _by_observations,
    _by_unknowns,
    _Lines,
    foresee,
    solve,
)
from greyfell.core.evidence.parse import parse_record
from greyfell.core.families.registry import model_of, models
from greyfell.core.wiring.topology import find_windings
from tests.conftest import piece

RECORD = parse_record(piece("ABCD", supply={"volts": 230, "hertz": 50}))
FEW = 1e-6
"""A reading without error to speak of."""


def believed(subtype="oven", roles=("primary", "hv-secondary"), reference=0, **more):
    """One hypothesis with the expectations of its kind."""
    known = models(subtype, 230.0, 1)
    family = {"oven": "microwave", "lv": "mains"}.get(subtype, subtype)
    return Hypothesis(
        family=family,
        subtype=subtype,
        roles=roles,
        models=tuple(known[r] for r in roles),
        reference=reference,
        volts=230.0,
        hertz=50.0,
        here=True,
        log_prior=0.0,
        **{"halves": None, **more},
    )


class Piece:
    """A piece in plain quantities, drawn at random, and its unknowns."""

    def __init__(self, seed):
        rng = np.random.default_rng(seed)
        u = Unknowns(2)
        self.x = rng.normal(0.0, 0.3, u.count)
        self.size = math.exp(self.x[A])
        self.gamma, self.permeance = self.x[GAM], math.exp(2 * self.x[LAM])
        self.mean_turn = math.exp(self.x[MLT])
        self.design = [math.exp(self.x[u.w(i)]) for i in (0, 1)]
        self.copper = [math.exp(self.x[u.q(i)]) for i in (0, 1)]
        self.k = [math.exp(self.x[u.c(i)]) for i in (0, 1)]
        trend = math.exp(V0) * (self.size / math.exp(A0)) ** -0.47
        self.per_turn = math.exp(self.x[1]) * trend

    def turns(self, i):
        """Design volts over coupling and volts per turn."""
        return self.design[i] / self.k[i] / self.per_turn

    def ohms(self, i):
        """Size times the square of design volts over coupling, times the copper share."""
        return self.size * (self.design[i] / self.k[i]) ** 2 * self.copper[i]


def line(row, hypothesis=None):
    """The line of one observation: factors, offset, and noise."""
    found = [hypothesis or believed()]
    mean = np.zeros((1, Unknowns(2).count))
    lines = _Lines.blank(found, [row], Unknowns(2), mean)
    lines.write(0, row)
    return lines.design[0, 0], float(lines.offset[0, 0]), float(lines.noise[0, 0])


def said(row, made, hypothesis=None):
    """What the line says that the observation's logarithm should be, of a piece."""
    factors, offset, _ = line(row, hypothesis)
    return float(factors @ made.x) + offset


def row(kind, coils=(), value=0.0, volts=(0.0, 0.0), sd=0.01):
    """An observation of a kind."""
    return Row(kind, ("r1",), tuple(coils), value, sd, volts)


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("i", [0, 1])
def test_ohms_and_turns_and_wire(seed, i):
    """R = a (w/k)² q; N = w/(k v); A = ρ N mlt / R. M-01, T-01, W-02."""
    made = Piece(seed)

    assert said(row("ohms", (i,)), made) == pytest.approx(math.log(made.ohms(i)))
    for kind in ("turns", "test turn"):
        assert said(row(kind, (i,)), made) == pytest.approx(math.log(made.turns(i)))
    area = 1.724e-8 * made.turns(i) * made.mean_turn / made.ohms(i)
    assert said(row("wire", (i,)), made) == pytest.approx(math.log(area), abs=1e-3)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_inductance(seed):
    """L = N² Λ L^−γ: equal volts mean unequal flux, and μ rises with it."""
    made, value = Piece(seed), 0.5 * math.log(1.7)
    expected = math.log(made.turns(1)) + 0.5 * math.log(made.permeance) - made.gamma * value

    assert said(row("inductance", (1,), value), made) == pytest.approx(expected)


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize(("driven", "sensed"), [(0, 1), (1, 0)])
@pytest.mark.parametrize("subtype", ["oven", "lv"])
def test_a_ratio_at_low_flux(seed, driven, sensed, subtype):
    """V_S/V_D = N_S/N_D · (k_S k_D)^m, either way round, m of the family at next to no flux."""
    made = Piece(seed)
    roles = ("primary", "hv-secondary" if subtype == "oven" else "lv-secondary")
    told = row("ratio", (driven, sensed), volts=(1e-9, 1e-9))
    m = model_of({"oven": "microwave", "lv": "mains"}[subtype]).low_flux[0]
    ratio = made.turns(sensed) / made.turns(driven) * (made.k[0] * made.k[1]) ** m

    assert said(told, made, believed(subtype, roles)) == pytest.approx(math.log(ratio))


@pytest.mark.parametrize("driven", [0, 1])
def test_a_ratio_between_two_others_knows_no_coupling_to_the_primary(driven):
    """Neither is the primary: turns alone, and 1.2 % of doubt for both couplings."""
    made, sensed = Piece(4), 1 - driven
    hypothesis = believed(reference=0)._replace(reference=2)
    told = row("ratio", (driven, sensed), volts=(1.0, 1.0), sd=0.0)
    ratio = math.log(made.turns(sensed) / made.turns(driven))

    assert said(told, made, hypothesis) == pytest.approx(ratio)
    assert line(told, hypothesis)[2] == pytest.approx(0.012**2)


@pytest.mark.parametrize(
    ("volts", "bent"),
    [(0.69, 0.0), (0.71, -0.29), (1.42, 0.42), (1.44, 0.0)],
)
def test_saturated_iron_bends_a_ratio_near_rated_volts_only(volts, bent):
    """From 0.7 of rated flux to its inverse; an oven's iron by 0.4 a unit of flux, within 0.25. The
    design volts are e^0 = 1 here.
    """
    factors, offset, noise = line(row("ratio", (0, 1), volts=(volts, 1.0), sd=0.0))

    assert offset == pytest.approx(-0.4 * bent)
    assert noise == pytest.approx((0.25 * bent) ** 2)
    faded = (1 - min(volts, 1.0)) ** 2
    at = Unknowns(2)
    assert factors[at.c(0)] == pytest.approx(1 + 1 + (0.6 - 1) * faded)
    assert factors[at.c(1)] == pytest.approx(-1 + 1 + (0.6 - 1) * faded)


def test_the_doubt_of_a_coupling_at_low_flux_is_in_the_noise():
    """The exponent's spread times the coupling expected, 0.5 · 0.04 of an oven's HV winding."""
    hypothesis = believed()
    told = row("ratio", (0, 1), volts=(1e-9, 1e-9), sd=0.0)
    mean = np.zeros((1, Unknowns(2).count))
    mean[0, Unknowns(2).c(1)] = -0.04
    lines = _Lines.blank([hypothesis], [told], Unknowns(2), mean)
    lines.write(0, told)

    assert lines.noise[0, 0] == pytest.approx((0.5 * 0.04) ** 2)


@pytest.mark.parametrize("seed", [1, 2])
def test_plate_mass_and_core(seed):
    """A plate names the primary's and an output's design volts; VA and mass the size; V/N = 4.443 f
    B A the core. REF-M-01.
    """
    made = Piece(seed)
    oven = believed()

    assert said(row("plate primary", (), math.log(230.0)), made) == pytest.approx(
        math.log(made.design[0])
    )
    assert said(row("plate output", (), math.log(2000.0)), made) == pytest.approx(
        math.log(made.design[1])
    )
    assert said(row("plate va"), made) == pytest.approx(math.log(made.size))
    mass = row("mass", sd=0.0)
    assert said(mass, made) == pytest.approx(math.log(made.size) + 0.4)
    assert line(mass)[2] == pytest.approx(0.35**2)
    area = made.per_turn / (4.443 * 50 * 1.62)
    assert said(row("core area"), made) == pytest.approx(math.log(area), abs=1e-3)
    assert line(row("core area", sd=0.02), oven)[2] == pytest.approx(0.02**2 + 0.09**2, rel=0.02)


@pytest.mark.parametrize(("volts", "doubled"), [(120.0, False), (230.0, True)])
def test_a_plate_of_two_halves_may_name_both_in_series(volts, doubled):
    """230 V on the plate of 2 × 115 V: the half's design volts and ln 2 more."""
    made = Piece(5)
    halves = believed(halves=(0, 1))
    told = row("plate primary", (), math.log(volts))

    expected = math.log(made.design[0]) + (math.log(2) if doubled else 0.0)
    assert said(told, made, halves) == pytest.approx(expected)


def test_a_plates_one_output_is_the_nearest_winding():
    """3.2 V on an oven's plate is the heater's, 2 kV the HV winding's."""
    hypothesis = believed(roles=("primary", "hv-secondary", "filament"))
    for volts, i in ((3.2, 2), (2000.0, 1)):
        told = row("plate output", (), math.log(volts))
        lines = _Lines.blank([hypothesis], [told], Unknowns(3), np.zeros((1, Unknowns(3).count)))
        lines.write(0, told)
        assert np.flatnonzero(lines.design[0, 0]).tolist() == [Unknowns(3).w(i)]


# ------------------------------------------------------------------ what it does to the posterior

KINDS = {
    "ohms": (1,),
    "turns": (1,),
    "test turn": (0,),
    "ratio": (0, 1),
    "wire": (0,),
    "plate primary": (),
    "plate output": (),
    "plate va": (),
}


@pytest.mark.parametrize(("kind", "coils"), KINDS.items())
@pytest.mark.parametrize("shift", [-0.3, 0.2])
def test_an_observation_alone_moves_its_line_by_its_share(kind, coils, shift):
    """Bayes' rule for one straight line: of what it is off, the prior's share of the variance; and
    the same share of the doubt goes.
    """
    hypothesis = believed()
    probe = row(kind, coils, math.log(230.0) if kind.startswith("plate") else 0.0, (10.0, 10.0))
    before = solve(RECORD, [hypothesis], [probe], 2, frozenset())
    factors = before.design[0, 0]
    prior = float(factors @ before.prior_mean[0])
    variance = float(factors @ before.prior_cov[0] @ factors)
    noise = float(before.noise[0, 0])
    value = prior + float(before.offset[0, 0]) + shift
    told = Row(kind, ("r1",), tuple(coils), value, probe.sd, probe.volts)
    after = solve(RECORD, [hypothesis], [told], 2, frozenset())

    mean, sd = after.posterior(0, factors)
    share = variance / (variance + noise)
    assert mean - prior == pytest.approx(shift * share, abs=1e-6)
    assert sd**2 == pytest.approx(variance * (1 - share), rel=1e-6)
    assert after.log_evidence[0] == pytest.approx(
        -0.5 * (shift**2 / (variance + noise) + math.log(2 * math.pi * (variance + noise)))
    )


def test_a_reading_set_aside_hardly_moves_anything():
    """Opened wide by a factor of twenty: ln spread 3."""
    told = row("turns", (0,), 9.0)
    kept = solve(RECORD, [believed()], [told], 2, frozenset())
    loose = solve(RECORD, [believed()], [told], 2, frozenset({0}))

    assert loose.noise[0, 0] - kept.noise[0, 0] == pytest.approx(9.0)


def some_rows():
    """A handful of every kind, over and over with other figures."""
    for n in range(6):
        yield row("ohms", (0,), 0.5 + 0.01 * n, sd=0.02)
        yield row("turns", (0,), 5.0 + 0.02 * n)
        yield row("ratio", (0, 1), 2.0 + 0.01 * n, (10.0, 10.0))
        yield row("inductance", (1,), 1.0 + 0.05 * n, sd=0.02)


def test_both_ways_to_solve_give_the_same():
    """By the observations' covariance and by the unknowns': Woodbury's identity (Hager, Updating
    the inverse of a matrix, SIAM Review 31, 1989), where observations are many and where few.
    """
    found = [believed(), believed("sign")]
    made = solve(RECORD, found, list(some_rows()), 2, frozenset({3}))
    given = made.design, made.prior_cov, made.noise, made.misfit
    one, other = _by_observations(*given), _by_unknowns(*given)

    for part in ("cov", "pulled", "precision", "logdet"):
        assert getattr(one, part) == pytest.approx(getattr(other, part), rel=1e-6, abs=1e-7), part


@pytest.mark.parametrize("kind", ["turns", "ratio", "inductance"])
def test_a_reading_foreseen_is_what_taking_it_shows(kind):
    """Its mean and spread are those that all the others give it once it is taken; and the volts
    narrow as they then do.
    """
    coils = (0, 1) if kind == "ratio" else (1,)
    told = [row("ohms", (0,), 0.5), row("turns", (0,), 5.0)]
    new = row(kind, coils, 1.0, (10.0, 10.0))
    before = solve(RECORD, [believed()], told, 2, frozenset())
    after = solve(RECORD, [believed()], [*told, new], 2, frozenset())
    foreseen = foresee(before, [0], [believed()], new)
    contrast = before.unit((before.w(1), 1.0), (before.w(0), -1.0))

    off = after.pulled[0, 2] / after.precision[0, 2]
    assert foreseen.mean[0] == pytest.approx(new.value - off)
    assert foreseen.sd[0] ** 2 == pytest.approx(1 / after.precision[0, 2])
    spreads = before.posterior(0, contrast)[1], after.posterior(0, contrast)[1]
    assert foreseen.narrows(0, contrast) == pytest.approx(math.log(spreads[0] / spreads[1]))


# ------------------------------------------------------------------ a reading's own error


def seen(reading, ohms=(("A", "B", 9.0), ("C", "D", 60.0)), **more):
    """The one observation that a reading makes."""
    record = parse_record(piece("ABCD", [*ohms, reading], **more))
    return next(r for r in observations(record, find_windings(record)) if r.kind != "ohms")


def test_a_ratio_carries_the_meters_limits_as_triangular():
    """2 % each by one meter: 0.6 of the quadrature over √6, and 0.4 % for the minute between, twice
    for a reading that stands alone. JCGM 100:2008 4.3.9.
    """
    reading = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 12.0, "sensed": ["C", "D"]}
    exact = {"percent": 2.0, "digits": 0.0}
    told = seen({**reading, "sensed_volts": 40.0, **exact})
    line_fed = seen({**reading, "driven_volts": 61.0, "sensed_volts": 200.0, **exact})
    small = seen({**reading, "driven_volts": 59.0, "sensed_volts": 200.0, **exact})

    meter = 0.6 * math.hypot(0.02, 0.02) / math.sqrt(6)
    assert told.value == pytest.approx(math.log(40.0 / 12.0))
    assert told.sd == pytest.approx(math.hypot(meter, 0.004, 0.004))
    assert small.sd == pytest.approx(told.sd)
    assert line_fed.sd == pytest.approx(math.hypot(meter, 0.006, 0.006))


def test_digits_of_a_ratio_do_not_cancel():
    """Counts of two readings are two errors, whole."""
    reading = {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 10.0,
        "sensed": ["C", "D"],
        "sensed_volts": 1.0,
        "percent": 0.0,
        "digits": 0.05,
    }
    counts = math.hypot(0.05 / 10.0, 0.05 / 1.0)

    assert seen(reading).sd == pytest.approx(math.hypot(counts / math.sqrt(6), 0.004, 0.004))


def test_a_test_turn_and_turns_counted():
    """N = V_D n / V_n; place 0.6 %; to ten turns counted (3 %), above estimated (8 %)."""
    reading = {
        "kind": "test_turn",
        "driven": ["A", "B"],
        "driven_volts": 6.0,
        "turns": 5.0,
        "turn_volts": 0.2,
        "percent": 1.0,
        "digits": 0.0,
    }
    told = seen(reading)

    assert told.value == pytest.approx(math.log(6.0 * 5 / 0.2))
    assert told.sd == pytest.approx(math.hypot(0.02 / math.sqrt(6), 0.006), rel=0.02)
    for turns, sd in ((10.0, 0.03), (11.0, 0.08)):
        counted = seen({"kind": "turns", "across": ["A", "B"], "turns": turns})
        assert (counted.value, counted.sd) == (pytest.approx(math.log(turns)), sd)


@pytest.mark.parametrize(
    ("hertz", "q", "ohms", "sd"),
    [
        (100.0, 4.0, 9.0, 0.015),
        (130.0, 4.0, 9.0, 0.015),
        (131.0, 4.0, 9.0, 0.05),
        (100.0, 1.01, 9.0, 0.015),
        (100.0, 0.99, 9.0, 0.315),
        (100.0, 4.0, 310.0, 0.015),  # half of 628.3 Ω is 314.2 Ω
        (100.0, 4.0, 318.0, 0.315),
    ],
)
def test_what_spoils_an_inductance(hertz, q, ohms, sd):
    """Laminations above 130 Hz, a Q below one, ohms above half the reactance."""
    reading = {"kind": "inductance", "across": ["A", "B"], "henries": 1.0, "hertz": hertz, "q": q}
    told = seen({**reading, "percent": 0.0, "digits": 0.0}, (("A", "B", ohms), ("C", "D", 60.0)))

    assert told.sd == pytest.approx(sd, abs=5e-4)
    assert told.value == pytest.approx(0.0, abs=1e-4)


def test_an_inductances_limits_are_halved_by_the_root():
    """½ ln L of ± 7 % rectangular: 0.07/(2√3), near 0.07/3.5."""
    reading = {"kind": "inductance", "across": ["A", "B"], "henries": 1.0, "hertz": 100.0, "q": 4.0}

    sd = seen({**reading, "percent": 7.0, "digits": 0.0}).sd
    assert sd == pytest.approx(math.hypot(0.07 / (2 * math.sqrt(3)), 0.015), rel=0.02)


@pytest.mark.parametrize(("henries", "counts"), [(50.0, True), (51.5, False)])
def test_an_inductance_near_resonance_counts_for_nothing(henries, counts):
    """ω²LC of 0.3 with 150 pF at 1 kHz: 50.66 H."""
    reading = {"kind": "inductance", "across": ["A", "B"], "henries": henries, "hertz": 1000.0}
    record = parse_record(piece("ABCD", [("A", "B", 9.0), reading]))
    kinds = {r.kind for r in observations(record, find_windings(record))}

    assert ("inductance" in kinds) is counts


# ------------------------------------------------------------------ before anything was read


def prior_of(hypothesis, n=2):
    """Means and covariance of the unknowns before any observation."""
    solution = solve(RECORD, [hypothesis], [], n, frozenset())
    return solution.prior_mean[0], solution.prior_cov[0]


def test_a_meters_gamma_before_it_was_read():
    """0.065 ± 0.035, from memory."""
    mean, cov = prior_of(believed())

    assert mean[GAM] == pytest.approx(0.065)
    assert cov[GAM, GAM] == pytest.approx(0.035**2)


@pytest.mark.parametrize(
    ("more", "spread"), [({"halves": (0, 1)}, 0.003), ({"twins": ((0, 1),)}, 0.008 * math.sqrt(2))]
)
def test_windings_wound_together_differ_by_a_turn_or_so(more, spread):
    """Halves by 0.3 %, windings wound alike by 0.8 % each."""
    _mean, cov = prior_of(believed("lv", ("primary", "lv-secondary"), **more))
    apart = Unknowns(2).unit((Unknowns(2).w(0), 1), (Unknowns(2).w(1), -1))

    assert apart @ cov @ apart == pytest.approx(spread**2, rel=1e-6)


def test_a_piece_has_five_unknowns_and_three_for_each_winding():
    """Size, volts per turn, permeance, γ, mean turn; volts, copper share and coupling."""
    u = Unknowns(3)
    places = [*range(5), *(place(i) for place in (u.w, u.q, u.c) for i in range(3))]

    assert places == list(range(14))
    assert u.count == 14


def test_copper_and_coupling_are_counted_from_the_reference():
    """The reference winding has a share of one and couples to itself, without doubt."""
    mean, cov = prior_of(believed())
    u = Unknowns(2)

    for place in (u.q(0), u.c(0)):
        assert mean[place] == cov[place, place] == 0.0
    assert mean[u.c(1)] == pytest.approx(-0.04)
    # the spread of the table, and what our idea of couplings may be off by
    assert cov[u.c(1), u.c(1)] == pytest.approx(0.015**2 + 0.006**2)
    assert cov[u.q(1), u.q(1)] == pytest.approx(0.155**2 + 0.19**2)


def test_what_the_others_say_of_one():
    """Two readings of one winding's turns: the second is predicted by the first and its own error,
    and lies off by their difference over both.
    """
    told = [row("turns", (0,), 5.0, sd=0.03), row("turns", (0,), 5.2, sd=0.04)]
    solution = solve(RECORD, [believed()], told, 2, frozenset())
    mean, sd = solution.predicted(0, 1)
    wide = float(solution.design[0, 1] @ solution.prior_cov[0] @ solution.design[0, 1])
    prior = float(solution.design[0, 1] @ solution.prior_mean[0]) + float(solution.offset[0, 1])
    share = wide / (wide + 0.03**2)

    assert mean == pytest.approx(prior + share * (5.0 - prior))
    assert sd**2 == pytest.approx(wide * (1 - share) + 0.04**2)
    assert solution.left_out(0)[1] == pytest.approx((5.2 - mean) / sd)


def test_a_slip_is_blamed_where_its_odds_are_better():
    """A reading ten deviations off is a slip at odds of one in a hundred; one that fits is none."""
    far = [row("turns", (0,), 5.0), row("turns", (0,), 5.2), row("turns", (0,), 5.0)]
    solution = solve(RECORD, [believed()], far, 2, frozenset())
    evidence, blame, charge = solution.robust(np.full((1, 3), 0.01), frozenset())

    assert blame.tolist() == [1]
    assert evidence[0] > solution.log_evidence[0]
    left = (5.2 - solution.predicted(0, 1)[0]) ** 2
    variance = solution.predicted(0, 1)[1] ** 2
    slipped = -0.5 * (left / (variance + 9.0) + math.log(variance + 9.0))
    belongs = -0.5 * (left / variance + math.log(variance))
    assert charge[0, 1] == pytest.approx(np.logaddexp(belongs - slipped, math.log(0.01)), rel=1e-6)
    assert solution.robust(np.full((1, 3), 0.01), frozenset({1}))[1].tolist() != [1]


def test_a_reading_that_fits_is_charged_its_own_density():
    """ln p as it stands, slip or not, over its density as a slip."""
    told = [row("turns", (0,), 5.0), row("turns", (0,), 5.003)]
    solution = solve(RECORD, [believed()], told, 2, frozenset())
    charge = solution.robust(np.full((1, 2), 0.01), frozenset())[2]
    mean, sd = solution.predicted(0, 1)
    belongs = -0.5 * ((5.003 - mean) ** 2 / sd**2 + math.log(sd**2))
    slipped = -0.5 * ((5.003 - mean) ** 2 / (sd**2 + 9.0) + math.log(sd**2 + 9.0))

    assert charge[0, 1] == pytest.approx(np.logaddexp(belongs - slipped, math.log(0.01)), rel=1e-5)
    assert charge[0, 1] > 3


def test_the_means_of_all_unknowns_are_those_of_each():
    """Worked out together or one by one."""
    told = [row("turns", (0,), 5.0), row("ratio", (0, 1), 2.0, (10.0, 10.0))]
    solution = solve(RECORD, [believed()], told, 2, frozenset())
    u = Unknowns(2)
    one_by_one = [solution.posterior(0, u.unit((i, 1.0)))[0] for i in range(u.count)]

    assert solution.mean[0] == pytest.approx(one_by_one)


@pytest.mark.parametrize(
    ("core", "metres", "spread"),
    [
        ({"tongue_mm": 28.0, "stack_mm": 40.0}, 2 * 76 + math.pi * 5.6, 0.12),
        (
            {"tongue_mm": 28.0, "stack_mm": 40.0, "window_width_mm": 20.0},
            2 * 76 + math.pi * 8,
            0.12,
        ),
        ({"mass_kg": 8.0}, 300.0, 0.25),
        ({}, 200.0, 0.35),
    ],
)
def test_the_mean_turn_before_it_was_wound(core, metres, spread):
    """2 (tongue + stack + 8 mm) + π · 0.4 window, half a tongue where it was not measured; 0.15 m
    times the cube root of kilograms; else 20 cm. REF-M-14; from memory.
    """
    record = parse_record(piece("AB", core={"shape": "shell", **core}))
    value, sd = mean_turn(record)

    assert math.exp(value) == pytest.approx(metres * 1e-3)
    assert sd == spread


@pytest.mark.parametrize(
    ("core", "kind", "value", "sd"),
    [
        ({"mass_kg": 2.0}, "mass", math.log(5.6e-4) - 1.5 * math.log(2.0), 0.0),
        (
            {"tongue_mm": 30.0, "stack_mm": 40.0},
            "core area",
            math.log(30e-3 * 40e-3 * 0.95),
            0.02,
        ),
    ],
)
def test_what_is_seen_of_the_core(core, kind, value, sd):
    """R/V² falls with kilograms (REF-M-05); the net area of a stack is 95 % of it (REF-M-04)."""
    record = parse_record(piece("AB", core={"shape": "shell", **core}))
    (seen_row,) = (r for r in observations(record, find_windings(record)) if r.kind == kind)

    assert (seen_row.value, seen_row.sd) == (pytest.approx(value), sd)


def test_what_is_read_off_a_plate():
    """Loaded volts, some 8 % less than open; R/V² of 0.0305/VA^1.05, more below 60 VA. REF-M-05."""
    plate = {"primary_volts": 230.0, "secondary_volts": 24.0, "va": 50.0}
    record = parse_record(piece("AB", nameplate=plate))
    told = {r.kind: (r.value, r.sd) for r in observations(record, find_windings(record))}

    assert told["plate primary"] == (pytest.approx(math.log(230.0)), 0.03)
    assert told["plate output"] == (pytest.approx(math.log(24.0) + 0.08), 0.12)
    size = math.log(0.0305) - 1.05 * math.log(50) + 0.45 * math.log(60 / 50)
    assert told["plate va"] == (pytest.approx(size), 0.45)


@pytest.mark.parametrize(("leads", "sd"), [("A", 0.28), ("AB", 0.22)])
def test_a_gauge_by_one_lead_or_two(leads, sd):
    """π/4 d²; two gauges are worth a little more than one. From memory."""
    named = [{"id": x, "wire_mm": 0.5} if x in leads else x for x in "AB"]
    record = parse_record(piece(named, [("A", "B", 9.0)]))
    (wire,) = (r for r in observations(record, find_windings(record)) if r.kind == "wire")

    assert (wire.value, wire.sd) == (pytest.approx(math.log(math.pi / 4 * 0.25e-6)), sd)


DIRECT = {"kind": "direct", "driven": ["A", "B"], "driven_volts": 230.0, "rectified": ["C", "D"]}


@pytest.mark.parametrize(
    ("rectifier", "direct"),
    [
        ("bridge", 12.0 * math.sqrt(2) - 1.2),
        ("half-wave", 12.0 * math.sqrt(2) - 0.6),
        ("centre-tap", 6.0 * math.sqrt(2) - 0.6),
        ("doubler", 24.0 * math.sqrt(2) - 1.2),
    ],
)
def test_direct_volts_tell_the_windings(rectifier, direct):
    """12 V behind each rectifier, by its crests and diodes (REF-R-02, R-03), 2.5 % for a flattened
    line; loaded they are 14 % short, and tell less.
    """
    opened = seen({**DIRECT, "rectifier": rectifier, "direct_volts": direct})
    loaded = seen({**DIRECT, "rectifier": rectifier, "direct_volts": direct, "direct_amps": 0.5})

    assert opened.value == pytest.approx(math.log(12 / 230) + 0.025)
    assert opened.volts == pytest.approx((230.0, 12.0 * math.exp(0.025)))
    assert loaded.value == pytest.approx(math.log(12 / 230) + 0.14)
    assert opened.sd < 0.05 < loaded.sd
    idle = seen({**DIRECT, "rectifier": rectifier, "direct_volts": direct, "direct_amps": 0.0})
    assert idle.value == opened.value


def test_direct_volts_count_for_less_the_fewer_they_are():
    """A diode's drop is a part of few volts: two of 0.15 V in 4.2 V, and in 301.2."""
    exact = {"rectifier": "bridge", "percent": 0.0, "digits": 0.0}
    few, many = (seen({**DIRECT, **exact, "direct_volts": v}) for v in (3.0, 300.0))

    assert few.sd == pytest.approx(math.hypot(0.02, 0.3 / 4.2))
    assert many.sd == pytest.approx(math.hypot(0.02, 0.3 / 301.2))


def test_amps_round_a_loop_tell_turns_where_the_feed_was_read():
    """3.1 A in, 420 A round: their ratio, less 6 % that idle amps add; alone they tell none."""
    loop = {"kind": "loop", "driven": ["A", "B"], "driven_volts": 230.0, "loaded": ["C", "D"]}
    row = seen({**loop, "loop_amps": 420.0, "driven_amps": 3.1, "percent": 0.0, "digits": 0.0})

    assert row.value == pytest.approx(math.log(3.1 / 420) - 0.06)
    assert row.sd == pytest.approx(0.08)
    assert row.volts == pytest.approx((230.0, 230.0 * math.exp(row.value)))
    alone = parse_record(piece("ABCD", [("A", "B", 9.0), {**loop, "loop_amps": 420.0}]))
    assert {r.kind for r in observations(alone, find_windings(alone))} == {"ohms"}
