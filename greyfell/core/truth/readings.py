"""What a test with nothing loaded would show on a piece as it is: volts, magnetising amps,
henries.
"""

import math

import numpy as np

from greyfell.core.errors import FieldError
from greyfell.core.figures.constants import FLUX_FACTOR, MU0
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.piece import _SINE, Piece, Wound


def flux_density(piece: Piece, turns: float, volts: float, hertz: float) -> float:
    """Peak B in T: volts RMS over 4.443 f N A. REF-M-02.

    >>> from greyfell.core.truth.sample import BELL
    >>> round(flux_density(BELL, 1000.0, 230.0, 50.0), 2)
    1.15
    """
    return volts / (FLUX_FACTOR * hertz * turns * piece.iron.area_m2)


def coupling_at(piece: Piece, tesla: float) -> float:
    """k of a shunted winding at a flux: what the shunt path takes grows where the iron's
    permeability is low. REF-T-17 in spirit.

    >>> from greyfell.core.truth.sample import BELL
    >>> coupling_at(BELL, 1.2)
    1.0
    """
    if piece.coupling >= 1:
        return 1.0
    rated = flux_density(
        piece, piece.winding(piece.primary).turns, piece.rated_volts, piece.rated_hertz
    )
    if piece.low_flux is not None:  # k^m at few volts, k at rated ones, evenly between
        share = min(1.0, tesla / rated)
        return float(piece.coupling ** (share + (1 - share) * piece.low_flux))
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

    Raises FieldError where a pair is not on one winding. REF-M-01, Kirchhoff.

    >>> from greyfell.core.truth.sample import BELL
    >>> round(induced_volts(BELL, ("A", "B"), 230.0, ("C", "D"), 50.0), 1)
    25.2
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

    >>> from greyfell.core.truth.sample import BELL
    >>> round(test_turn_volts(BELL, ("A", "B"), 230.0, 5.0, 50.0), 2)
    1.15
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
    shorted turns, a capacitor still across it.

    REF-M-10, M-12, M-18. Valid to about 1.95 T.

    >>> from greyfell.core.truth.sample import BELL
    >>> amps, watts = no_load(BELL, ("A", "B"), 230.0, 50.0)
    >>> round(1e3 * amps), round(watts, 1)  # mA, W
    (53, 3.5)
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
    reactive -= volts * 2 * math.pi * hertz * piece.farads_across(*driven)
    amps = math.hypot(active, reactive)
    ohms = dc_ohms(piece, *driven)
    copper = amps**2 * (0.0 if math.isinf(ohms) else ohms)
    return amps, active * volts + copper


LOW_LOSS = 0.02
"""Loss tangent of the iron at an inductance meter's low flux and 100 Hz, per W/kg of its loss at
1.5 T and 50 Hz; eddy currents make it grow with frequency. From memory: 0.03 for grain-oriented
rings, 0.13 for plain laminations."""


def _with_shorted_turns(piece: Piece, z: complex, turns: float) -> complex:
    # each ring of shorted turns beside it, in turns squared
    for x in piece.damage:
        if x.kind == "shorted-turns":
            w = piece.winding(x.winding)
            loop = w.ohms * x.turns / w.turns * (1 + 0.25j) * (turns / x.turns) ** 2
            z = z * loop / (z + loop)
    return z


def _henries(piece: Piece, turns: float, tesla: float, hertz: float) -> float:
    iron = piece.iron
    lamination = 1 / (1 + (hertz / 2500.0) ** 0.9)
    mu = iron.permeability(tesla) * lamination
    reluctance: float = (iron.gap_m + iron.path_m / mu) / iron.area_m2
    return MU0 * turns * turns / reluctance


def inductance(
    piece: Piece, across: tuple[str, str], hertz: float, test_volts: float = 0.6
) -> tuple[float, float]:
    """Series henries and Q as a meter shows them: initial permeability, the winding's own
    capacitance, shorted turns.

    The meter holds its volts, so windings of fewer turns see more flux and more permeability.
    REF-M-06, T-08.

    >>> from greyfell.core.truth.sample import BELL
    >>> henries, q = inductance(BELL, ("A", "B"), 100.0)
    >>> round(henries, 2), round(q, 1)
    (6.21, 8.9)
    """
    d = piece.locate(*across)
    if d is None:
        raise FieldError("across", "The pair must lie on a winding.")
    turns, omega = d[0].turns * abs(d[1] - d[2]), 2 * math.pi * hertz
    tesla = min(0.6, flux_density(piece, turns, test_volts, hertz))
    henries = _henries(piece, turns, tesla, hertz)
    z = (1j + LOW_LOSS * piece.iron.loss_w_per_kg * math.sqrt(hertz / 100.0)) * omega * henries
    z = _with_shorted_turns(piece, z, turns)
    ohms = dc_ohms(piece, *across)
    z += 0.0 if math.isinf(ohms) else ohms
    z = 1 / (1 / z + 1j * omega * (d[0].stray_farads + piece.farads_across(*across)))
    return z.imag / omega, abs(z.imag / z.real) if z.real else 999.0


def open_circuit_volts(
    piece: Piece, fed: tuple[str, str], supply: float, pair: tuple[str, str]
) -> float:
    """Open-circuit volts RMS of a pair with the primary on the supply at rated frequency."""
    if set(fed) == set(pair):
        return supply
    return induced_volts(piece, fed, supply, pair, piece.rated_hertz)
