"""What a piece as it is does under load, shorted, in series, and to earth."""

import math

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.constants import COOLING, DAY_CELSIUS, IRON_HEAT, IRON_SURFACE, MU0
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.piece import Piece
from greyfell.core.truth.readings import _reluctance, flux_density, induced_volts, no_load

SHORTED_TESLA = 1.3
"""Iron of a shunted core is driven no further than this while a winding behind the shunts is
shorted: the flux goes through the shunts. From memory; an oven's HV winding then passes half an amp
to one, M-T4."""


def source_impedance(
    piece: Piece, driven: tuple[str, str], shorted: tuple[str, str], hertz: float
) -> complex:
    """Series impedance seen at the driven pair with another shorted, Ω: both coppers and the
    leakage. REF-T-02, T-03.

    Leakage is what the coupling at rated flux leaves over of the magnetising reactance, plus the
    tight windings' own. Shorted, the iron beyond the shunts is no longer driven to its knee.

    >>> from greyfell.core.truth.sample import BELL
    >>> z = source_impedance(BELL, ("A", "B"), ("C", "D"), 50.0)
    >>> round(z.real, 1), round(z.imag, 1)
    (49.7, 4.0)
    """
    d, s = piece.locate(*driven), piece.locate(*shorted)
    if d is None or s is None:
        raise FieldError("shorted", "Both pairs must lie on a winding.")
    n_driven, n_shorted = d[0].turns * abs(d[1] - d[2]), s[0].turns * abs(s[1] - s[2])
    ratio = n_driven / n_shorted
    reach = (
        piece.leakage_ohms
        * (n_driven / piece.winding(piece.primary).turns) ** 2
        * hertz
        / piece.rated_hertz
    )
    if d[0].shunted != s[0].shunted and piece.coupling < 1:
        reach += shorted_reactance(piece, n_driven, hertz) * (1 - piece.coupling**2)
    resistance = dc_ohms(piece, *driven) + ratio**2 * dc_ohms(piece, *shorted)
    return complex(resistance, reach)


def shorted_reactance(piece: Piece, turns: float, hertz: float) -> float:
    """Magnetising reactance of a winding of so many turns while one behind the shunts is shorted,
    Ω: the iron is then no longer driven to its knee. REF-M-06.

    >>> from greyfell.core.truth.sample import BELL
    >>> round(shorted_reactance(BELL, 1000.0, 50.0))
    4493
    """
    primary = piece.winding(piece.primary)
    rated = flux_density(piece, primary.turns, piece.rated_volts, piece.rated_hertz)
    path = _reluctance(piece, min(rated, SHORTED_TESLA))
    return 2 * math.pi * hertz * MU0 * turns**2 * piece.iron.area_m2 / path


def short_circuit(
    piece: Piece, driven: tuple[str, str], shorted: tuple[str, str], volts: float, hertz: float
) -> tuple[float, float, float]:
    """Amps, watts and amps in the short at reduced volts. Linear: shunts saturate at full volts,
    and more flows. Ohm's law, REF-T-02.

    >>> from greyfell.core.truth.sample import BELL
    >>> [round(x, 2) for x in short_circuit(BELL, ("A", "B"), ("C", "D"), 23.0, 50.0)]
    [0.46, 10.58, 4.2]
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

    >>> from greyfell.core.truth.sample import BELL
    >>> [round(x, 2) for x in loaded(BELL, ("A", "B"), 230.0, ("C", "D"), 10.0, 50.0)]
    [23.77, 2.38]
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

    >>> from greyfell.core.truth.sample import BELL
    >>> round(series_volts(BELL, ("A", "B"), 12.0, ("C", "D"), 50.0, alike=False), 2)
    10.69
    """
    second = induced_volts(piece, driven, volts, other, hertz)
    return volts + second if alike else abs(volts - second)


INTERWINDING_FARADS = 3e-10
"""Between two windings, or a winding and the core: 50 pF to 2 nF. REF-Q-05, common practice."""


def soaked_ohms(
    piece: Piece, driven: tuple[str, str], volts: float, hertz: float, minutes: float
) -> float:
    """Ohms of the fed winding after minutes at no load in air of 20 °C: a lump of iron cooled by
    its surface. Newton's law of cooling; REF-W-03.

    >>> from greyfell.core.truth.sample import BELL
    >>> cold = dc_ohms(BELL, "A", "B")
    >>> round(soaked_ohms(BELL, ("A", "B"), 230.0, 50.0, 30.0) / cold, 2)
    1.03
    """
    _, watts = no_load(piece, driven, volts, hertz)
    mass = piece.iron.mass_kg
    surface: float = IRON_SURFACE * mass ** (2 / 3)
    lag = mass * IRON_HEAT / (COOLING * surface)
    rise = watts / (COOLING * surface) * -math.expm1(-60 * minutes / lag)
    return dc_ohms(piece, *driven, celsius=DAY_CELSIUS + rise)


def earth_volts(
    driven_volts: float, meter_ohms: float, hertz: float, farads: float = INTERWINDING_FARADS
) -> float:
    """Ghost volts of a floating winding to earth through a meter of so many ohms and 100 pF.
    REF-Q-05.

    >>> round(earth_volts(230.0, 10e6, 50.0))
    135
    """
    omega = 2 * math.pi * hertz
    meter = 1 / (1 / meter_ohms + 1j * omega * 1e-10)
    return driven_volts * abs(meter / (meter + 1 / (1j * omega * farads)))


def leakage_amps(driven_volts: float, hertz: float, farads: float = INTERWINDING_FARADS) -> float:
    """Touch current by capacitance alone: I = 2πfCV. REF-Q-10.

    >>> round(1e6 * leakage_amps(230.0, 50.0), 1)  # µA
    21.7
    """
    return 2 * math.pi * hertz * farads * driven_volts
