"""The forward model: a physical description of a transformer, and what each test would truly show
on it.

Independent of how identification reasons: windings are wire on iron, direct current flows through a
network of segments, flux follows volts per hertz, permeability follows flux. Instruments and their
errors are `simulate`'s.

Symbols. B peak flux density T, v volts per turn, A net iron area m², l flux path m, g total gap m,
μr relative permeability, p loss W/kg. Sources: REF-M-01 (4.44 f N B A), M-10 (gap), M-11 (H(B)),
M-12 (magnetising current), M-18 (loss), W-02 (ohms), T-17 in spirit (shunt path); see
docs/references.md.
"""

import itertools
import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from greyfell.core.errors import FieldError, within

MU0 = 4e-7 * math.pi
"""H/m. Exact to the figures used here."""
COPPER_OHM_M = 1 / 58e6
"""1/58 Ω·mm²/m at 20 °C, 0.393 % per K. REF-W-01, IEC 60028."""
COPPER_PER_K = 0.00393
_THETA = (np.arange(64) + 0.5) * (math.pi / 2 / 64)
_SINE = np.sin(_THETA)


@dataclass(frozen=True, slots=True, kw_only=True)
class Iron:
    """The core: net area m², flux path m, total gap m, mass kg, steel (loss at 1.5 T 50 Hz W/kg,
    initial μr).
    """

    shape: str
    area_m2: float
    path_m: float
    gap_m: float
    mass_kg: float
    loss_w_per_kg: float = 5.3
    mu_initial: float = 1100.0
    softness: float = 1.0

    def __post_init__(self) -> None:
        for name in ("area_m2", "path_m", "mass_kg", "loss_w_per_kg", "mu_initial"):
            within(name, getattr(self, name), above=0)
        within("gap_m", self.gap_m, at_least=0)

    def field_strength(self, tesla: NDArray[np.float64]) -> NDArray[np.float64]:
        """H in A/m for B in T: REF-M-11 above 0.7 T; below it permeability rises from its initial
        value about like √B.

        Measured curves of silicon steel rise so from a millitesla on, steeper than Rayleigh's
        straight line. From memory.
        """
        b = np.abs(tesla)
        upper = self.softness * (110.0 * b + 12.0 * b**12)
        knee = self.softness * (110.0 * 0.7 + 12.0 * 0.7**12)
        mu_knee = 0.7 / (MU0 * knee)
        mu = self.mu_initial + (mu_knee - self.mu_initial) * np.sqrt(np.minimum(b, 0.7) / 0.7)
        return np.where(b < 0.7, b / (MU0 * mu), upper)

    def permeability(self, tesla: float) -> float:
        """Effective μr at a sine flux of peak B: B over the fundamental of μ0·H."""
        b = max(tesla, 1e-6)
        h = self.field_strength(b * _SINE)
        fundamental = 2 * float(np.mean(h * _SINE))
        return b / (MU0 * fundamental)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wound:
    """One winding: its leads at fractions of the turns from 0 to 1 ("core" allowed), turns, bare
    wire, mean turn.
    """

    name: str
    role: str
    leads: tuple[tuple[str, float], ...]
    turns: float
    wire_mm: float
    mean_turn_m: float
    growth: float = 0.06
    shunted: bool = False
    stray_farads: float = 50e-12

    @property
    def ohms(self) -> float:
        """DC ohms at 20 °C end to end. REF-W-02."""
        return (
            COPPER_OHM_M
            * self.turns
            * self.mean_turn_m
            / (math.pi / 4 * (self.wire_mm * 1e-3) ** 2)
        )

    def ohms_at(self, fraction: float) -> float:
        """Ohms from the first end to a fraction of the turns: outer turns are longer, so it
        bends.
        """
        return self.ohms * (fraction + self.growth * (fraction * fraction - fraction))


@dataclass(frozen=True, slots=True, kw_only=True)
class Damage:
    """One fault: kind `open`, `shorted-turns`, `to-core`, `between`, `leak`; where, and through how
    many ohms.
    """

    kind: str
    winding: str
    other: str = "core"
    place: float = 0.5
    other_place: float = 0.5
    ohms: float = 0.0
    turns: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Piece:
    """A transformer as it is: iron, windings, coupling of the shunted ones at rated flux, damage,
    leads on the core.
    """

    family: str
    subtype: str
    iron: Iron
    windings: tuple[Wound, ...]
    rated_volts: float
    rated_hertz: float
    coupling: float = 1.0
    leakage_ohms: float = 0.0
    damage: tuple[Damage, ...] = ()
    core_leads: tuple[str, ...] = ()
    loose_leads: tuple[str, ...] = ()
    primary: str = "primary"
    _network: dict[str, float] = field(default_factory=dict, compare=False, repr=False)

    def winding(self, name: str) -> Wound:
        """The winding of that name. Raises FieldError where there is none."""
        for w in self.windings:
            if w.name == name:
                return w
        raise FieldError("winding", f"This piece has no winding {name}.")

    def locate(self, x: str, y: str) -> tuple[Wound, float, float] | None:
        """The winding that a pair of points spans, and both points' fractions of its turns."""
        core = {"core", "earth", *self.core_leads}
        x, y = ("core" if p in core else p for p in (x, y))
        for w in self.windings:
            at = {("core" if lead in core else lead): f for lead, f in w.leads}
            if x in at and y in at and x != y:
                return w, at[x], at[y]
        return None


# ------------------------------------------------------------------ direct current


def dc_ohms(piece: Piece, x: str, y: str, celsius: float = 20.0) -> float:
    """Ohms between two points by nodal analysis of every segment, bond and fault; infinite where
    nothing conducts.
    """
    names, conductance = _network(piece)
    a, b = _node(piece, x), _node(piece, y)
    if a not in names or b not in names:
        return math.inf
    i, j = names[a], names[b]
    if i == j:
        return 0.0
    reach = _reachable(conductance, i)
    if j not in reach:
        return math.inf
    keep = sorted(reach - {j})
    laplacian = np.diag(conductance.sum(axis=1)) - conductance
    inject = np.array([1.0 if n == i else 0.0 for n in keep])
    volts = np.linalg.solve(laplacian[np.ix_(keep, keep)], inject)
    ohms = float(volts[keep.index(i)])
    return ohms * (1 + COPPER_PER_K * (celsius - 20.0)) if ohms < 1e5 else ohms


def _node(piece: Piece, point: str) -> str:
    return "core" if point in ("core", "earth", *piece.core_leads) else point


def _network(piece: Piece) -> tuple[dict[str, int], NDArray[np.float64]]:
    """Nodes and a conductance matrix: every winding cut at its leads and at its faults."""
    edges: list[tuple[str, str, float]] = []
    for w in piece.windings:
        points: list[tuple[float, str]] = [(f, _node(piece, lead)) for lead, f in w.leads]
        cuts = []
        for n, d in enumerate(piece.damage):
            if d.winding == w.name and d.kind in ("to-core", "between", "leak"):
                points.append((d.place, f"@{n}"))
            if d.kind == "between" and d.other == w.name:
                points.append((d.other_place, f"@{n}b"))
            if d.kind == "open" and d.winding == w.name:
                cuts.append(d.place)
        points.sort()
        for (f, a), (g, b) in itertools.pairwise(points):
            if any(f < c <= g for c in cuts):
                continue
            ohms = w.ohms_at(g) - w.ohms_at(f)
            for d in piece.damage:
                if d.kind == "shorted-turns" and d.winding == w.name and f <= d.place < g:
                    ohms *= max(0.0, 1 - d.turns / (w.turns * max(g - f, 1e-9)))
            edges.append((a, b, max(ohms, 1e-6)))
    for n, d in enumerate(piece.damage):
        if d.kind in ("to-core", "leak") and d.other == "core":
            edges.append((f"@{n}", "core", max(d.ohms, 1e-6)))
        elif d.kind in ("between", "leak"):
            edges.append((f"@{n}", f"@{n}b", max(d.ohms, 1e-6)))
    names: dict[str, int] = {"core": 0}
    for a, b, _ in edges:
        names.setdefault(a, len(names))
        names.setdefault(b, len(names))
    matrix = np.zeros((len(names), len(names)))
    for a, b, ohms in edges:
        if a != b:
            matrix[names[a], names[b]] += 1 / ohms
            matrix[names[b], names[a]] += 1 / ohms
    return names, matrix


def _reachable(conductance: NDArray[np.float64], start: int) -> set[int]:
    seen, stack = {start}, [start]
    while stack:
        for n in np.nonzero(conductance[stack.pop()])[0]:
            if int(n) not in seen:
                seen.add(int(n))
                stack.append(int(n))
    return seen


# ------------------------------------------------------------------ flux and turns


def flux_density(piece: Piece, turns: float, volts: float, hertz: float) -> float:
    """Peak B in T: volts RMS over 4.443 f N A. REF-M-02."""
    return volts / (4.4429 * hertz * turns * piece.iron.area_m2)


def coupling_at(piece: Piece, tesla: float) -> float:
    """k of a shunted winding at a flux: what the shunt path takes grows where the iron's
    permeability is low.
    """
    if piece.coupling >= 1:
        return 1.0
    rated = flux_density(
        piece, piece.winding(piece.primary).turns, piece.rated_volts, piece.rated_hertz
    )
    far = _reluctance(piece, tesla) / _reluctance(piece, rated)
    return 1 / (1 + (1 / piece.coupling - 1) * far)


def _reluctance(piece: Piece, tesla: float) -> float:
    return piece.iron.path_m / piece.iron.permeability(tesla) + piece.iron.gap_m


def _between(piece: Piece, driven: Wound, sensed: Wound, tesla: float) -> float:
    """Voltage coupling between two windings: the shunt path counts where exactly one of them lies
    behind it.
    """
    return coupling_at(piece, tesla) if driven.shunted != sensed.shunted else 0.9985


def induced_volts(
    piece: Piece, driven: tuple[str, str], volts: float, sensed: tuple[str, str], hertz: float
) -> float:
    """Open-circuit volts RMS on one pair with another driven: turns, coupling at that flux, and the
    driven winding's drop.

    Raises FieldError where a pair is not on one winding.
    """
    d, s = piece.locate(*driven), piece.locate(*sensed)
    if d is None or s is None:
        raise FieldError("sensed", "Both pairs must lie on a winding.")
    n_driven, n_sensed = d[0].turns * abs(d[1] - d[2]), s[0].turns * abs(s[1] - s[2])
    if _open_between(piece, d) or n_driven == 0:
        return 0.0
    tesla = flux_density(piece, n_driven, volts, hertz)
    if d[0].name == s[0].name:
        return volts * n_sensed / n_driven
    kept = _kept(piece, d[0], driven, volts, hertz)
    short = _shorted_loading(piece, d[0], n_driven, hertz)
    return volts * n_sensed / n_driven * _between(piece, d[0], s[0], tesla) * kept * short


def _open_between(piece: Piece, spot: tuple[Wound, float, float]) -> bool:
    low, high = sorted(spot[1:])
    return any(
        x.kind == "open" and x.winding == spot[0].name and low < x.place <= high
        for x in piece.damage
    )


def _kept(piece: Piece, w: Wound, pair: tuple[str, str], volts: float, hertz: float) -> float:
    """Share of the driven volts that stands behind the winding's own copper and leakage: phasor V −
    (R + jX)·I over V.

    Kirchhoff; the no-load current lags, so the copper takes little and the leakage reactance its
    part in full. REF-T-02.
    """
    amps, watts = no_load(piece, pair, volts, hertz)
    active = min(watts / volts, amps)
    current = complex(active, -math.sqrt(max(0.0, amps**2 - active**2)))
    ohms = dc_ohms(piece, *pair)
    ohms = w.ohms if math.isinf(ohms) else ohms
    leak = (
        piece.leakage_ohms
        * (w.turns / piece.winding(piece.primary).turns) ** 2
        * hertz
        / piece.rated_hertz
    )
    return max(0.5, abs(1 - complex(ohms, leak) * current / volts))


def _shorted_loading(piece: Piece, driven: Wound, turns: float, hertz: float) -> float:
    """How far shorted turns pull every ratio down: a loop of N_s turns against the leakage to the
    driven winding.
    """
    out = 1.0
    for d in piece.damage:
        if d.kind == "shorted-turns":
            w = piece.winding(d.winding)
            loop = w.ohms * d.turns / w.turns * (turns / d.turns) ** 2
            leak = (
                0.12
                * (
                    driven.ohms
                    + piece.leakage_ohms * (turns / piece.winding(piece.primary).turns) ** 2
                )
                + 0.3 * driven.ohms
            )
            out *= loop / (loop + leak)
    return out


def test_turn_volts(
    piece: Piece, driven: tuple[str, str], volts: float, turns: float, hertz: float
) -> float:
    """Volts of a few turns wound through the window, through both windows of a shell core.
    REF-M-02.
    """
    d = piece.locate(*driven)
    if d is None:
        raise FieldError("driven", "The driven pair must lie on a winding.")
    return (
        volts
        * turns
        / (d[0].turns * abs(d[1] - d[2]))
        * _kept(piece, d[0], driven, volts, hertz)
        * 0.999
    )


def no_load(
    piece: Piece, driven: tuple[str, str], volts: float, hertz: float
) -> tuple[float, float]:
    """Amps RMS and watts with everything else open: magnetising current of iron and gap, core loss,
    shorted turns.

    REF-M-10, M-12, M-18. Valid to about 1.95 T.
    """
    d = piece.locate(*driven)
    if d is None:
        raise FieldError("driven", "The driven pair must lie on a winding.")
    turns = d[0].turns * abs(d[1] - d[2])
    tesla = min(flux_density(piece, turns, volts, hertz), 2.2)
    b = tesla * _SINE
    ampere_turns = piece.iron.field_strength(b) * piece.iron.path_m + b * piece.iron.gap_m / MU0
    magnetising = float(np.sqrt(np.mean(ampere_turns**2))) / turns
    exponent = 2.0 + 0.8 * max(0.0, tesla - 1.2)
    watts = (
        piece.iron.mass_kg
        * piece.iron.loss_w_per_kg
        * (tesla / 1.5) ** exponent
        * (hertz / 50.0) ** 1.35
    )
    active, reactive = watts / volts, magnetising
    for x in piece.damage:
        if x.kind == "shorted-turns":
            w = piece.winding(x.winding)
            induced = volts / turns * x.turns
            resistance = w.ohms * x.turns / w.turns
            reactance = 0.25 * resistance + 1e-6
            z2 = resistance**2 + reactance**2
            active += induced * resistance / z2 * x.turns / turns
            reactive += induced * reactance / z2 * x.turns / turns
    amps = math.hypot(active, reactive)
    ohms = dc_ohms(piece, *driven)
    copper = amps**2 * (0.0 if math.isinf(ohms) else ohms)
    return amps, active * volts + copper


LOW_LOSS = 0.02
"""Loss tangent of the iron at an inductance meter's low flux and 100 Hz, per W/kg of its loss at
1.5 T and 50 Hz; eddy currents make it grow with frequency. From memory: 0.03 for grain-oriented
rings, 0.13 for plain laminations."""


def inductance(
    piece: Piece, across: tuple[str, str], hertz: float, test_volts: float = 0.6
) -> tuple[float, float]:
    """Series henries and Q as a meter shows them: initial permeability, the winding's own
    capacitance, shorted turns.

    The meter holds its volts, so windings of fewer turns see more flux and more permeability.
    REF-M-06, T-08.
    """
    d = piece.locate(*across)
    if d is None:
        raise FieldError("across", "The pair must lie on a winding.")
    turns, omega = d[0].turns * abs(d[1] - d[2]), 2 * math.pi * hertz
    tesla = min(0.6, flux_density(piece, turns, test_volts, hertz))
    lamination = 1 / (1 + (hertz / 2500.0) ** 0.9)
    mu = piece.iron.permeability(tesla) * lamination
    henries = MU0 * turns**2 * piece.iron.area_m2 / (piece.iron.gap_m + piece.iron.path_m / mu)
    z = (1j + LOW_LOSS * piece.iron.loss_w_per_kg * math.sqrt(hertz / 100.0)) * omega * henries
    for x in piece.damage:
        if x.kind == "shorted-turns":
            w = piece.winding(x.winding)
            loop = w.ohms * x.turns / w.turns * (1 + 0.25j) * (turns / x.turns) ** 2
            z = z * loop / (z + loop)
    ohms = dc_ohms(piece, *across)
    z += 0.0 if math.isinf(ohms) else ohms
    z = 1 / (1 / z + 1j * omega * d[0].stray_farads)
    return z.imag / omega, abs(z.imag / z.real) if z.real else 999.0


def open_circuit_volts(
    piece: Piece, fed: tuple[str, str], supply: float, pair: tuple[str, str]
) -> float:
    """Open-circuit volts RMS of a pair with the primary on the supply at rated frequency."""
    if set(fed) == set(pair):
        return supply
    return induced_volts(piece, fed, supply, pair, piece.rated_hertz)


# ------------------------------------------------------------------ loaded, shorted, joined, and to
# earth


def source_impedance(
    piece: Piece, driven: tuple[str, str], shorted: tuple[str, str], hertz: float
) -> complex:
    """Series impedance seen at the driven pair with another shorted, Ω: both coppers and the
    leakage. REF-T-02, T-03.

    Leakage is what the coupling at rated flux leaves over of the magnetising reactance, plus the
    tight windings' own.
    """
    d, s = piece.locate(*driven), piece.locate(*shorted)
    if d is None or s is None:
        raise FieldError("shorted", "Both pairs must lie on a winding.")
    n_driven, n_shorted = d[0].turns * abs(d[1] - d[2]), s[0].turns * abs(s[1] - s[2])
    ratio = n_driven / n_shorted
    omega = 2 * math.pi * hertz
    reach = (
        piece.leakage_ohms
        * (n_driven / piece.winding(piece.primary).turns) ** 2
        * hertz
        / piece.rated_hertz
    )
    if d[0].shunted != s[0].shunted and piece.coupling < 1:
        rated = flux_density(
            piece, piece.winding(piece.primary).turns, piece.rated_volts, piece.rated_hertz
        )
        henries = MU0 * n_driven**2 * piece.iron.area_m2 / _reluctance(piece, rated)
        reach += omega * henries * (1 - piece.coupling**2)
    resistance = dc_ohms(piece, *driven) + ratio**2 * dc_ohms(piece, *shorted)
    return complex(resistance, reach)


def short_circuit(
    piece: Piece, driven: tuple[str, str], shorted: tuple[str, str], volts: float, hertz: float
) -> tuple[float, float, float]:
    """Amps, watts and amps in the short at reduced volts. Linear: shunts saturate at full volts,
    and more flows.
    """
    z = source_impedance(piece, driven, shorted, hertz)
    amps = volts / abs(z)
    d, s = piece.locate(*driven), piece.locate(*shorted)
    assert d is not None
    assert s is not None
    ratio = d[0].turns * abs(d[1] - d[2]) / (s[0].turns * abs(s[1] - s[2]))
    return amps, amps**2 * z.real, amps * ratio


def loaded(
    piece: Piece,
    driven: tuple[str, str],
    volts: float,
    pair: tuple[str, str],
    load_ohms: float,
    hertz: float,
) -> tuple[float, float]:
    """Volts and amps of a resistive load on one pair: the open-circuit volts behind the source
    impedance. REF-T-06.
    """
    within("load_ohms", load_ohms, above=0, unit="Ω")
    open_volts = induced_volts(piece, driven, volts, pair, hertz)
    d, s = piece.locate(*driven), piece.locate(*pair)
    assert d is not None
    assert s is not None
    ratio = s[0].turns * abs(s[1] - s[2]) / (d[0].turns * abs(d[1] - d[2]))
    z = source_impedance(piece, driven, pair, hertz) * ratio**2
    amps = open_volts / abs(z + load_ohms)
    return amps * load_ohms, amps


def series_volts(
    piece: Piece,
    driven: tuple[str, str],
    volts: float,
    other: tuple[str, str],
    hertz: float,
    *,
    alike: bool,
) -> float:
    """Volts across two windings in series with one driven: they add where the joined ends are
    unlike, else buck. REF-T-11.
    """
    second = induced_volts(piece, driven, volts, other, hertz)
    return volts + second if alike else abs(volts - second)


INTERWINDING_FARADS = 3e-10
"""Between two windings, or a winding and the core: 50 pF to 2 nF. REF-Q-05, common practice."""


def earth_volts(
    driven_volts: float, meter_ohms: float, hertz: float, farads: float = INTERWINDING_FARADS
) -> float:
    """Ghost volts of a floating winding to earth through a meter of so many ohms and 100 pF.
    REF-Q-05.
    """
    omega = 2 * math.pi * hertz
    meter = 1 / (1 / meter_ohms + 1j * omega * 1e-10)
    return driven_volts * abs(meter / (meter + 1 / (1j * omega * farads)))


def leakage_amps(driven_volts: float, hertz: float, farads: float = INTERWINDING_FARADS) -> float:
    """Touch current by capacitance alone: I = 2πfCV. REF-Q-10."""
    return 2 * math.pi * hertz * farads * driven_volts
