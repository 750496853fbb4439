"""What declares a family: what speaks for it, its kinds with their windings and who gets which
role, coupling, loss, the bundle of its leads, its words, what it is never used for.

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
import re
from collections.abc import Callable, Iterator
from functools import cached_property
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

from greyfell.core.figures.mains import half_volts, high_region

if TYPE_CHECKING:
    from greyfell.core.evidence.record import Transformer
    from greyfell.core.wiring.coil import Coil, Topology

Role = str
HV = "hv-secondary"
"""The role of a high-voltage winding."""


class Spread(Struct, frozen=True, dict=True):
    """A log-normal expectation: median and standard deviation of the logarithm."""

    median: float
    sd: float

    @cached_property
    def mean(self) -> float:
        """Mean of the natural logarithm. By definition."""
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
        """Mean and variance of ln volts, ln q and ln k, in a row. Log-normal, by definition."""
        pairs = (
            (self.volts.mean, self.volts.sd),
            (self.copper.mean, self.copper.sd),
            self.coupling,
        )
        return tuple(x for mean, sd in pairs for x in (mean, sd**2))


FREE = {None: 0.97, "end": 0.02, "middle": 0.01}
"""Windings that are not meant to meet the core: a bond is a fault, and faults are rare. Common
practice."""
TIGHT = (-0.008, 0.009)
"""ln k of interleaved or concentric mains windings: under 1 % to some 2 %. Common practice."""


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


class ToAssign(Struct, frozen=True, kw_only=True):
    """What roles are given out by: the windings, the record and the wiring they were found in;
    pairs of leads that no winding was found for, and how much a missing winding counts.
    """

    coils: "tuple[Coil, ...]"
    record: "Transformer"
    topology: "Topology"
    hidden: int
    short: float

    @property
    def count(self) -> int:
        """How many windings there are."""
        return len(self.coils)


Given = tuple[tuple[Role, ...], float]
"""A role for every winding, and the log-odds of it."""
Assign = Callable[[ToAssign], Iterator[Given]]


class Plated(Struct, frozen=True, kw_only=True):
    """Output volts that plates of a kind state, and how often its middle is earthed."""

    low: float
    high: float
    midpoint: float = 0.02


LOW_PLATE = Plated(low=1.0, high=150.0, midpoint=0.1)
"""What plates state that state no more than a hundred volts or so. Common practice."""
ODD_PLATE = 0.02
"""How often a plate states volts that its kind does not have, and how often leads end in large
insulators where a kind has none. Common practice."""


class SaidWord(Struct, frozen=True):
    """Words of a plate, a title or a part that speak for some kinds of piece and against all
    others, as a pattern.
    """

    pattern: str

    def within(self, text: str) -> bool:
        """Whether a text says it."""
        return bool(text) and re.search(self.pattern, text, re.I) is not None


class PieceKind(Struct, frozen=True, kw_only=True):
    """A kind of piece within a family: how common it is in it, its windings, how roles are given
    out, what plates and leads of it look like, what it is called.

    `said_by` are the words that speak for it; `named_nats` what its name counts for where it is
    hardly met otherwise; `called` the family owners call it by, where that is another. Kinds that
    are `here_only` are not tried as made for the other region's mains: its own would be as likely.
    `shares` is the role whose windings share the copper; `uneven` how often they do so unevenly,
    with whose rows; `twins` whether some may be wound alike. Of `has_high` an HV winding is missed
    where none is found.
    """

    key: str
    words: str
    share: float
    roles: dict[Role, RoleRow]
    assign: Assign
    said_by: tuple[SaidWord, ...] = ()
    named_nats: float = 0.0
    called: str = ""
    here_only: bool = True
    plated: Plated = LOW_PLATE
    bushings: float = ODD_PLATE
    shares: Role = "lv-secondary"
    uneven: tuple[float, dict[Role, RoleRow]] | None = None
    twins: bool = False
    has_high: bool = False


class Strand(Struct, frozen=True, kw_only=True):
    """One winding of an expected bundle: its words, roles, so many leads, whether a sound piece may
    lack it, and what its absence means. `leads` are those on the bench that fill it.
    """

    words: str
    roles: tuple[str, ...]
    count: int
    optional: bool = False
    absent: str = ""
    leads: tuple[str, ...] = ()


PRIMARY_STRAND = Strand(
    words="primary", roles=("primary", "primary-half"), count=2, absent="no primary is known yet"
)


class Look(Struct, frozen=True, kw_only=True):
    """What pieces of a family look like, as shares: the core's shape, shunts and assembly, where a
    winding of a role lies, how its leads end.
    """

    shape: dict[str, float]
    shunts: dict[str, float]
    assembly: dict[str, float]
    place: dict[Role, dict[str, float]] = field(default_factory=dict)
    end: dict[Role, dict[str, float]] = field(default_factory=dict)
    usual_shape: str = "shell"


class Behaviour(Struct, frozen=True, kw_only=True):
    """What pieces of a family do, where nobody read it.

    `own_share` is a part's own impedance, shorted, over its rated volts by its rated amps: least,
    usual, most; `at_full` the same with its high voltage shorted at full volts; `reactive` how many
    times its resistance the leakage reactance is. `coupling` is what open volts are of the turns'
    ratio; `saturates` a dead short at full volts against what reduced volts let expect. `power` is
    the power of flux that idle amps go by; `loss_per_kg` no-load watts per kilogram at rated volts
    and their spread; `tesla` the flux density by which volts per turn tell the section. `ratios`
    are HV over primary turns for 220 to 240 V, and for 100 to 127 V; `rated` whether volt-amperes
    follow from its size; `most_amps` the most that it gives shorted.
    """

    own_share: tuple[float, float, float] = (0.02, 0.15, 0.60)
    at_full: float | None = None
    reactive: float = 1.0
    coupling: tuple[float, float] = (0.98, 1.0)
    saturates: tuple[float, float] | None = None
    power: tuple[float, float, float] = (11.0, 8.0, 14.0)
    loss_per_kg: tuple[float, float] | None = None
    tesla: float = 1.25
    ratios: dict[bool, tuple[float, float]] = field(default_factory=dict)
    rated: bool = False
    most_amps: float | None = None
    shunts_give_way: bool = False


class Bars(Struct, frozen=True, kw_only=True):
    """What a family is never used for, each with its reason; empty where it may be."""

    bench: str = ""
    wound: str = ""
    amps: str = ""
    lamps: str = ""
    isolation: str = ""


class Family(Struct, frozen=True, kw_only=True):
    """A family: how common it is before looking, its size and flux, its kinds, its look, what it
    does, its bundle of leads, its words, handling and bars.

    `handling` are the codes of what handling it asks for, `donors` the donors that hold it. `slack`
    is room for a reading ten times off in the ohms of its windings. Of one that is `high` an HV
    winding is expected, which returns by the iron, bonded at `hv_bond`; `shunted` iron limits
    itself. A `stores` family has a capacitor beside it, None where it may; `magnetron`, `old_oil`
    and `ground_fault_unit` say what else is met with it. `heater_never_fed` is of a heater of a few
    turns; `coils_apart` lie beside each other; bare HV of an `exposed_never` family is never
    planned. `primary_leads` is how many its primary has, `lightest_kg` what its iron weighs at
    least. `for_mains` says that a plate for the mains bears it out; `rewound` that its volts per
    turn are worth a few test turns; `isolates_nothing` that it is one winding for both sides.
    """

    key: str
    word: str
    name: str
    choice: str
    told: str
    prior: float
    model: FamilyModel
    kinds: tuple[PieceKind, ...]
    look: Look
    does: Behaviour = Behaviour()
    bars: Bars = Bars()
    leads: tuple[Strand, ...] = ()
    more_leads: str = ""
    handling: tuple[str, ...] = ()
    donors: tuple[str, ...] = ()
    theirs: str = ""
    primary_words: str = "mains "
    slack: float = 1.0
    high: bool = False
    shunted: bool = False
    hv_bond: str = ""
    heater_never_fed: bool = False
    coils_apart: bool = False
    exposed_never: bool = False
    magnetron: bool = False
    old_oil: bool = False
    ground_fault_unit: bool = False
    primary_leads: int | None = None
    lightest_kg: float | None = None
    stores: bool | None = False
    for_mains: bool = False
    rewound: bool = False
    isolates_nothing: bool = False
    plate_kind: str = "rated"
    scrap: str = ""
