"""What each family usually looks like: the expectations that evidence is weighed against.

Everything here is a broad expectation of the trade, not a standard. Sources per line: M-T4, T-09
and M-04/M-05 of docs/references.md (there marked common practice), else "common practice". Spreads
are standard deviations of natural logarithms and are kept wide on purpose: a spread of 0.3 means
about ± 30 %.

Symbols. V: design volts of a winding, open circuit. a = ln(R/V²) of the primary: small for big
iron. v: volts per turn. q = ln of (R/N²) of a winding over that of the primary: copper share and
mean turn length. k: output volts over what turns alone would give (leakage and magnetising drop at
rated volts).
"""

import math
from dataclasses import dataclass, field
from functools import lru_cache

from greyfell.core.evidence.record import Family
from greyfell.core.figures.mains import half_volts, high_region

Role = str
ROLES: tuple[Role, ...] = (
    "primary",
    "primary-half",
    "hv-secondary",
    "lv-secondary",
    "filament",
    "bias",
    "screen",
    "choke",
    "unknown",
)
MAINS_ROLES = ("primary", "primary-half")
"""Roles of windings that carry the mains."""
HV = "hv-secondary"
"""The role of a high-voltage winding."""
SMALL_ROLES = ("lv-secondary", "filament", "bias")
"""Roles of windings that put out little."""


@dataclass(frozen=True, slots=True)
class Spread:
    """A log-normal expectation: median and standard deviation of the logarithm."""

    median: float
    sd: float
    mean: float = field(init=False, default=0.0)
    """Mean of the natural logarithm."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "mean", math.log(self.median))


@dataclass(frozen=True, slots=True)
class RoleModel:
    """What a winding of this role is like: design volts, copper share q, coupling ln k, and its
    bond to the core.
    """

    volts: Spread
    q: Spread
    coupling: tuple[float, float]
    bonds: dict[str | None, float]
    ohms: tuple[float, float]
    centre_tap: float = 0.05
    other_tap: float = 0.05
    moments: tuple[float, ...] = field(init=False, default=())
    """Mean and variance of ln volts, ln q and ln k, in a row."""

    def __post_init__(self) -> None:
        pairs = ((self.volts.mean, self.volts.sd), (self.q.mean, self.q.sd), self.coupling)
        object.__setattr__(self, "moments", tuple(x for mean, sd in pairs for x in (mean, sd**2)))


FREE = {None: 0.97, "end": 0.02, "middle": 0.01}
"""Windings that are not meant to meet the core: a bond is a fault, and faults are rare. Common
practice."""


VARNISHED = 0.2
"""How often "bare" iron under a probe is varnish: an open reading to a core not proved says that
much less. From memory."""


MISSED = 0.01
"""How often a probe on a lead does not reach its metal all the same. From memory."""


TIGHT = (-0.008, 0.009)
"""ln k of interleaved or concentric mains windings: under 1 % to some 2 %. Common practice."""


FAMILY_PRIOR: dict[Family, float] = {
    "microwave": 0.28,
    "mains": 0.36,
    "sign": 0.12,
    "choke": 0.10,
    "variable": 0.07,
    "other": 0.01,
}
"""What hobbyists pull out of old equipment, before looking. Common practice."""


MASS_A = (5.6e-4, 1.5)
"""ln(R/V²) of a primary falls with kilograms of iron: a = ln 5.6e-4 − 1.5 ln kg. REF-M-05, from
memory, ± 50 %."""
OTHER_REGION = 0.03
"""How often a piece was made for the other region's mains (120 V on a 230 V bench, or the reverse).
Common practice."""


FLUX_EXPONENT = 0.47
"""v falls with a: ln v = ln v0 − 0.47 (a − a0). From M-04 and M-05 (A ∝ √S, regulation falling with
size)."""


A0, V0 = math.log(8e-5), math.log(0.60)
"""Anchor of that line: at a = ln 8e-5 (some 120 VA) ln v0 of 0.60 V per turn. From memory, ± 15
%."""


@dataclass(frozen=True, slots=True)
class FamilyModel:
    """Size and flux of a family: a = ln(R/V²) of its primary, offset of ln v, and flux density for
    a known core.

    `low_flux` is the exponent m and its spread: at a few volts the coupling reads k^m. Oven iron is
    saturated at rated volts and couples better at few (m below 1); a sign transformer's shunts take
    more at low permeability (m above 1). Common practice says several per cent; exponents from
    memory. `bend` and its spread: saturated iron couples worse the further it is driven, so a ratio
    read at 3 % over rated volts is 0.4 × 3 % low.
    """

    a: tuple[float, float]
    v_offset: tuple[float, float]
    tesla: Spread
    mass_offset: tuple[float, float]
    permeance: tuple[float, float]
    low_flux: tuple[float, float] = (1.3, 0.6)
    bend: tuple[float, float] = (0.0, 0.0)


FAMILY: dict[str, FamilyModel] = {
    # REF M-T4: 0.8–2.5 Ω at 230 V, 0.2–0.6 Ω at 120 V; M-T1: 1.5–1.75 T
    "microwave": FamilyModel(
        (math.log(3.3e-5), 0.35),
        (-0.07, 0.15),
        Spread(1.62, 0.09),
        (-0.4, 0.35),
        (math.log(7e-6), 0.6),
        (0.55, 0.45),
        (0.4, 0.25),
    ),
    "sign": FamilyModel(
        (math.log(7e-5), 0.80),
        (-0.38, 0.17),
        Spread(1.30, 0.13),
        (0.9, 0.6),
        (math.log(6e-6), 0.7),
        (1.6, 0.65),
    ),
    "mains": FamilyModel(
        (math.log(7e-4), 2.3),
        (0.0, 0.20),
        Spread(1.22, 0.13),
        (0.0, 0.45),
        (math.log(5e-6), 0.7),
        (1.15, 0.3),
    ),
    "variable": FamilyModel(
        (math.log(6e-5), 1.4), (-0.5, 0.3), Spread(1.3, 0.15), (0.0, 0.5), (math.log(1.7e-5), 0.8)
    ),
    "choke": FamilyModel(
        (math.log(2e-4), 1.4), (-0.2, 0.6), Spread(1.1, 0.3), (-0.6, 0.9), (math.log(1.0e-6), 0.45)
    ),
    "other": FamilyModel(
        (math.log(2e-4), 2.5), (0.0, 1.2), Spread(0.8, 0.8), (0.0, 1.5), (math.log(3e-6), 2.0)
    ),
}


def primary(supply_volts: float) -> RoleModel:
    """A winding meant for the mains of the region."""
    return RoleModel(
        Spread(supply_volts, 0.035), Spread(1.0, 0.0), (0.0, 0.0), FREE, (0.03, 12e3), 0.06, 0.14
    )


def half(supply_volts: float) -> RoleModel:
    """One of two equal mains windings: 115 or 120 V each, whatever the region."""
    volts = half_volts(supply_volts)
    return RoleModel(
        Spread(volts, 0.035), Spread(1.08, 0.07), (-0.008, 0.009), FREE, (0.03, 5000.0), 0.02, 0.05
    )


@lru_cache(maxsize=512)
def models(subtype: str, supply_volts: float, secondaries: int) -> dict[Role, RoleModel]:
    """The role models of one kind of piece. `secondaries` is how many windings share the secondary
    (or heater) copper.
    """
    share = max(1, secondaries)
    if subtype == "oven":
        return {
            "primary": primary(supply_volts),
            "hv-secondary": RoleModel(
                Spread(2080.0, 0.077),
                Spread(0.77, 0.155),
                (-0.040, 0.018),
                {"end": 0.93, None: 0.06, "middle": 0.01},
                (15.0, 900.0),
                0.01,
                0.01,
            ),
            "filament": RoleModel(
                Spread(3.2, 0.09), Spread(21.0, 0.33), (-0.032, 0.022), FREE, (0.0, 1.0), 0.01, 0.0
            ),
        }
    if subtype == "sign":
        return {
            "primary": primary(supply_volts),
            "hv-secondary": RoleModel(
                Spread(7500.0, 0.50),
                Spread(0.94, 0.18),
                (-0.065, 0.025),
                {"middle": 0.86, "end": 0.11, None: 0.03},
                (150.0, 60e3),
                0.0,
                0.0,
            ),
        }
    if subtype == "valve":
        return {
            "primary": primary(supply_volts),
            "hv-secondary": RoleModel(
                Spread(680.0, 0.27), Spread(1.5, 0.20), TIGHT, FREE, (4.0, 5000.0), 0.8, 0.08
            ),
            "filament": RoleModel(
                Spread(6.25, 0.125), Spread(4.6 * share, 0.36), TIGHT, FREE, (0.0, 6.0), 0.25, 0.05
            ),
            "bias": RoleModel(
                Spread(55.0, 0.35), Spread(75.0, 0.6), TIGHT, FREE, (0.4, 900.0), 0.05, 0.05
            ),
        }
    if subtype == "lv":
        return {
            "primary": primary(supply_volts),
            "lv-secondary": RoleModel(
                Spread(20.0, 0.75),
                Spread(1.3 * share, 0.21),
                TIGHT,
                FREE,
                (0.0, 3000.0),
                0.35,
                0.12,
            ),
        }
    if subtype == "lv-uneven":
        return {
            "primary": primary(supply_volts),
            "lv-secondary": RoleModel(
                Spread(20.0, 0.75), Spread(1.7 * share, 0.8), TIGHT, FREE, (0.0, 3000.0), 0.35, 0.12
            ),
        }
    if subtype == "dual":
        return {
            "primary-half": half(supply_volts),
            "lv-secondary": RoleModel(
                Spread(20.0, 0.75), Spread(0.62 * share, 0.22), TIGHT, FREE, (0.0, 3000.0), 0.3, 0.1
            ),
        }
    if subtype == "isolating":
        return {
            "primary": primary(supply_volts),
            "lv-secondary": RoleModel(
                Spread(supply_volts * 1.08, 0.07), Spread(1.16, 0.14), TIGHT, FREE, (0.05, 5000.0)
            ),
        }
    if subtype == "step":
        other = 120.0 if high_region(supply_volts) else 235.0
        return {
            "primary": primary(supply_volts),
            "lv-secondary": RoleModel(
                Spread(other * 1.06, 0.10), Spread(1.2, 0.18), TIGHT, FREE, (0.05, 5000.0)
            ),
        }
    if subtype == "dual-step":
        out = 130.0
        return {
            "primary-half": half(supply_volts),
            "lv-secondary": RoleModel(
                Spread(out, 0.10), Spread(1.25, 0.16), TIGHT, FREE, (0.05, 5000.0)
            ),
        }
    if subtype == "variable":
        return {
            "primary": RoleModel(
                Spread(supply_volts * 1.08, 0.10),
                Spread(1.0, 0.0),
                (0.0, 0.0),
                FREE,
                (0.02, 400.0),
                0.2,
                0.95,
            )
        }
    if subtype == "choke":
        return {
            "choke": RoleModel(
                Spread(supply_volts, 0.4),
                Spread(1.0, 0.0),
                (0.0, 0.0),
                FREE,
                (0.02, 3000.0),
                0.02,
                0.06,
            )
        }
    return {
        "unknown": RoleModel(
            Spread(30.0, 1.8),
            Spread(1.5, 1.6),
            (-0.03, 0.03),
            {None: 0.6, "end": 0.2, "middle": 0.2},
            (0.0, 1e9),
            0.2,
            0.2,
        )
    }


SUBTYPES: dict[str, tuple[Family, float]] = {
    "oven": ("microwave", 1.0),
    "sign": ("sign", 1.0),
    "variable": ("variable", 1.0),
    "choke": ("choke", 1.0),
    "valve": ("mains", 0.32),
    "lv": ("mains", 0.42),
    "dual": ("mains", 0.10),
    "isolating": ("mains", 0.08),
    "step": ("mains", 0.05),
    "dual-step": ("mains", 0.03),
    "other": ("other", 1.0),
}
"""Kinds of piece within a family and how common they are among it. Common practice."""
