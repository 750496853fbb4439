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
from functools import cached_property, lru_cache
from typing import Literal

from msgspec import Struct, field

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


class Spread(Struct, frozen=True, dict=True):
    """A log-normal expectation: median and standard deviation of the logarithm."""

    median: float
    sd: float

    @cached_property
    def mean(self) -> float:
        """Mean of the natural logarithm."""
        return math.log(self.median)


class RoleModel(Struct, frozen=True, kw_only=True, dict=True):
    """What a winding of this role is like: design volts, copper share q, coupling ln k, and its
    bond to the core.
    """

    volts: Spread
    copper: Spread
    coupling: tuple[float, float]
    bonds: dict[str | None, float]
    ohms: tuple[float, float]
    centre_tap: float = 0.05
    other_tap: float = 0.05

    @cached_property
    def moments(self) -> tuple[float, ...]:
        """Mean and variance of ln volts, ln q and ln k, in a row."""
        pairs = (
            (self.volts.mean, self.volts.sd),
            (self.copper.mean, self.copper.sd),
            self.coupling,
        )
        return tuple(x for mean, sd in pairs for x in (mean, sd**2))


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
    "other": 0.08,
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


class FamilyModel(Struct, frozen=True, kw_only=True):
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
    # M-T4: 0.8–2.5 Ω at 230 V, 0.2–0.6 Ω at 120 V; M-T1: 1.5–1.75 T
    "microwave": FamilyModel(
        a=(math.log(3.3e-5), 0.35),
        v_offset=(-0.07, 0.15),
        tesla=Spread(1.62, 0.09),
        mass_offset=(-0.4, 0.35),
        permeance=(math.log(7e-6), 0.6),
        low_flux=(0.6, 0.5),
        bend=(0.4, 0.25),
    ),
    # common practice
    "sign": FamilyModel(
        a=(math.log(7e-5), 0.80),
        v_offset=(-0.42, 0.21),
        tesla=Spread(1.30, 0.13),
        mass_offset=(0.5, 0.85),
        permeance=(math.log(6e-6), 0.7),
        low_flux=(1.1, 0.38),
    ),
    # M-T1, M-T2, M-T3: from 3 VA to some kVA
    "mains": FamilyModel(
        a=(math.log(7e-4), 2.3),
        v_offset=(0.0, 0.20),
        tesla=Spread(1.22, 0.13),
        mass_offset=(0.0, 0.45),
        permeance=(math.log(5e-6), 0.7),
        low_flux=(1.15, 0.3),
    ),
    # common practice: a ring without a gap
    "variable": FamilyModel(
        a=(math.log(6e-5), 1.4),
        v_offset=(-0.5, 0.3),
        tesla=Spread(1.3, 0.15),
        mass_offset=(0.0, 0.5),
        permeance=(math.log(1.7e-5), 0.8),
    ),
    # common practice: the gap decides
    "choke": FamilyModel(
        a=(math.log(2e-4), 1.4),
        v_offset=(-0.2, 0.6),
        tesla=Spread(1.1, 0.3),
        mass_offset=(-0.6, 0.9),
        permeance=(math.log(1.0e-6), 0.45),
    ),
    # anything at all
    "other": FamilyModel(
        a=(math.log(2e-4), 2.5),
        v_offset=(0.0, 1.2),
        tesla=Spread(0.8, 0.8),
        mass_offset=(0.0, 1.5),
        permeance=(math.log(3e-6), 2.0),
    ),
}


# ------------------------------------------------------------------ kinds of winding

COPPER_ALLOWANCE, COUPLING_ALLOWANCE = 0.19, 0.006
"""Our idea of transformers is not the world: how far, in logarithms, a winding's copper and a
shunted winding's coupling may stand off these tables beyond their spread. Learned on the worlds of
`make evaluate`."""
SHUNTED = -0.02
"""Windings that couple worse than this lie behind shunts or a gap."""
VoltsOf = Literal["own", "supply", "half", "other region"]


class RoleRow(Struct, frozen=True, kw_only=True):
    """What a winding of a role is usually like, for any supply.

    `volts` is a median and spread of its own, or times the volts that `of` names; `copper` the
    share q of copper, times the windings that share it where `shared`; the others as in
    `RoleModel`.
    """

    volts: tuple[float, float]
    of: VoltsOf = "own"
    copper: tuple[float, float] = (1.0, 0.0)
    shared: bool = False
    coupling: tuple[float, float] = TIGHT
    bonds: dict[str | None, float] = field(default_factory=lambda: FREE)
    ohms: tuple[float, float]
    centre_tap: float = 0.05
    other_tap: float = 0.05

    def model(self, supply_volts: float, share: int) -> RoleModel:
        """The expectation on one supply, with so many windings sharing the copper."""
        times = {
            "own": 1.0,
            "supply": supply_volts,
            "half": half_volts(supply_volts),
            "other region": 120.0 if high_region(supply_volts) else 235.0,
        }[self.of]
        copper, copper_sd = self.copper
        copper_sd = math.hypot(copper_sd, COPPER_ALLOWANCE)
        coupling, coupling_sd = self.coupling
        if coupling < SHUNTED:
            coupling_sd = math.hypot(coupling_sd, COUPLING_ALLOWANCE)
        return RoleModel(
            volts=Spread(self.volts[0] * times, self.volts[1]),
            copper=Spread(copper * share if self.shared else copper, copper_sd),
            coupling=(coupling, coupling_sd),
            bonds=self.bonds,
            ohms=self.ohms,
            centre_tap=self.centre_tap,
            other_tap=self.other_tap,
        )


ITSELF = (0.0, 0.0)
"""Coupling of the winding that others are counted from."""
PRIMARY = RoleRow(
    volts=(1.0, 0.035),
    of="supply",
    coupling=ITSELF,
    ohms=(0.03, 16e3),
    centre_tap=0.06,
    other_tap=0.14,
)
"""A winding meant for the mains of the region. IEC 60038, M-T4; taps common practice."""
HALF = RoleRow(
    volts=(1.0, 0.035),
    of="half",
    copper=(1.08, 0.07),
    ohms=(0.03, 5000.0),
    centre_tap=0.02,
)
"""One of two equal mains windings: 115 or 120 V each, whatever the region. Common practice."""


def _secondary(
    copper: float, spread: float, *, centre: float = 0.35, other: float = 0.12
) -> RoleRow:
    """A low-voltage secondary: some volts to a hundred, its copper shared. Common practice."""
    return RoleRow(
        volts=(20.0, 0.75),
        copper=(copper, spread),
        shared=True,
        ohms=(0.0, 3000.0),
        centre_tap=centre,
        other_tap=other,
    )


KINDS: dict[str, dict[Role, RoleRow]] = {
    # M-T4: some 2.1 kV, 50 to 200 Ω, its end on the core; the heater 3.1 to 3.4 V
    "oven": {
        "primary": PRIMARY,
        "hv-secondary": RoleRow(
            volts=(2080.0, 0.077),
            copper=(0.77, 0.155),
            coupling=(-0.040, 0.015),
            bonds={"end": 0.93, None: 0.06, "middle": 0.01},
            ohms=(15.0, 900.0),
            centre_tap=0.01,
            other_tap=0.01,
        ),
        "filament": RoleRow(
            volts=(3.2, 0.09),
            copper=(21.0, 0.33),
            coupling=(-0.032, 0.022),
            ohms=(0.0, 1.0),
            centre_tap=0.01,
            other_tap=0.0,
        ),
        # the owner's own turns of cable
        "lv-secondary": RoleRow(
            volts=(3.0, 1.3), copper=(1.0, 1.8), coupling=(-0.03, 0.03), ohms=(0.0, 5.0)
        ),
    },
    # M-T6: 2 to 15 kV, bonded in the middle
    "sign": {
        "primary": PRIMARY,
        "hv-secondary": RoleRow(
            volts=(7500.0, 0.50),
            copper=(0.94, 0.18),
            coupling=(-0.117, 0.030),
            bonds={"middle": 0.86, "end": 0.11, None: 0.03},
            ohms=(150.0, 60e3),
            centre_tap=0.0,
            other_tap=0.0,
        ),
    },
    # the valve trade: 250-0-250 to 450-0-450 V, heaters of 5 and 6.3 V. Common practice
    "valve": {
        "primary": PRIMARY,
        "hv-secondary": RoleRow(
            volts=(680.0, 0.27),
            copper=(1.5, 0.23),
            ohms=(4.0, 5000.0),
            centre_tap=0.8,
            other_tap=0.08,
        ),
        "filament": RoleRow(
            volts=(6.1, 0.09),
            copper=(4.6, 0.36),
            shared=True,
            ohms=(0.0, 6.0),
            centre_tap=0.25,
        ),
        "bias": RoleRow(volts=(55.0, 0.35), copper=(75.0, 0.6), ohms=(0.4, 900.0)),
    },
    "lv": {"primary": PRIMARY, "lv-secondary": _secondary(1.2, 0.33)},
    "lv-uneven": {"primary": PRIMARY, "lv-secondary": _secondary(1.7, 0.8)},
    "dual": {
        "primary-half": HALF,
        "lv-secondary": _secondary(0.62, 0.22, centre=0.3, other=0.1),
    },
    # open volts a little above the supply's: the drop under load is wound in. Common practice
    "isolating": {
        "primary": PRIMARY,
        "lv-secondary": RoleRow(
            volts=(1.08, 0.07), of="supply", copper=(1.16, 0.14), ohms=(0.05, 5000.0)
        ),
    },
    "step": {
        "primary": PRIMARY,
        "lv-secondary": RoleRow(
            volts=(1.06, 0.10), of="other region", copper=(1.2, 0.18), ohms=(0.05, 5000.0)
        ),
    },
    "dual-step": {
        "primary-half": HALF,
        "lv-secondary": RoleRow(volts=(130.0, 0.10), copper=(1.25, 0.16), ohms=(0.05, 5000.0)),
    },
    # the whole ring bears some 117 % of the mains, tapped for it. Common practice
    "variable": {
        "primary": RoleRow(
            volts=(1.08, 0.10),
            of="supply",
            coupling=ITSELF,
            ohms=(0.02, 400.0),
            centre_tap=0.2,
            other_tap=0.95,
        ),
    },
    "choke": {
        "choke": RoleRow(
            volts=(1.0, 0.4),
            of="supply",
            coupling=ITSELF,
            ohms=(0.02, 3000.0),
            centre_tap=0.02,
            other_tap=0.06,
        ),
    },
    # insect killers, oil igniters, test parts: 2 to 10 kV, often floating. Common practice
    "igniter": {
        "primary": PRIMARY,
        "hv-secondary": RoleRow(
            volts=(4500.0, 0.55),
            copper=(1.0, 0.4),
            coupling=(-0.04, 0.03),
            bonds={None: 0.6, "end": 0.37, "middle": 0.03},
            ohms=(150.0, 60e3),
        ),
    },
    # inverter ovens: ferrite at tens of kilohertz, half a kilogram. Common practice
    "inverter": {
        "unknown": RoleRow(volts=(160.0, 0.3), copper=(0.05, 1.5), ohms=(0.0, 0.3)),
        "hv-secondary": RoleRow(
            volts=(2200.0, 0.25),
            coupling=ITSELF,
            bonds={"end": 0.6, None: 0.4},
            ohms=(4.0, 60.0),
        ),
        "filament": RoleRow(volts=(3.3, 0.15), copper=(5.0, 1.5), ohms=(0.0, 0.3)),
    },
    # ferroresonant parts: the capacitor's winding has most ohms and most volts. Common practice
    "resonant": {
        "primary": PRIMARY,
        "hv-secondary": RoleRow(
            volts=(650.0, 0.25),
            copper=(1.0, 0.5),
            coupling=(-0.1, 0.15),
            ohms=(0.5, 400.0),
            other_tap=0.2,
        ),
        "lv-secondary": RoleRow(
            volts=(110.0, 0.9), copper=(1.5, 0.6), coupling=(-0.1, 0.15), ohms=(0.0, 100.0)
        ),
    },
    # anything at all
    "other": {
        "unknown": RoleRow(
            volts=(30.0, 1.8),
            copper=(1.5, 1.6),
            coupling=(-0.03, 0.03),
            bonds={None: 0.6, "end": 0.2, "middle": 0.2},
            ohms=(0.0, 1e9),
            centre_tap=0.2,
            other_tap=0.2,
        ),
    },
}
"""Every kind of piece with the windings it has."""


@lru_cache(maxsize=512)
def models(subtype: str, supply_volts: float, secondaries: int) -> dict[Role, RoleModel]:
    """The role models of one kind of piece on one supply, V RMS. `secondaries` is how many windings
    share the secondary (or heater) copper.

    Expectations of the trade, common practice; sources beside the rows.

    >>> models("oven", 230.0, 1)["primary"].volts.median
    230.0
    """
    rows = KINDS.get(subtype, KINDS["other"])
    return {role: row.model(supply_volts, max(1, secondaries)) for role, row in rows.items()}


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
    "other": ("other", 0.577),
    "igniter": ("other", 0.12),
    "inverter": ("other", 0.30),
    "resonant": ("other", 0.003),
}
"""Kinds of piece within a family and how common they are among it. Common practice."""
