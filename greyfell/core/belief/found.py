"""What is believed of a piece: its windings with roles, taps and volts, its family, how sure."""

from collections.abc import Mapping

from msgspec import Struct, field

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.polarity import PolarityFound
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.belief.solution import Solution
from greyfell.core.families.row import HV
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import Coil, Topology


class TapFound(Struct, frozen=True):
    """A tap: share of the turns from the first end, kind, and volts from the first end."""

    lead: str
    fraction: float
    kind: str
    volts: Quantity | None


class Rating(Struct, frozen=True):
    """Amps that a winding bears for good, and for one minute."""

    continuous: Quantity
    minute: Quantity

    def as_json(self) -> dict[str, object]:
        """The public form."""
        return {"continuous": self.continuous.as_json(), "minute": self.minute.as_json()}


class Winding(Struct, frozen=True):
    """One winding: its coil as the ohmmeter sees it, roles with probabilities, open-circuit volts
    on the fed primary.
    """

    id: str
    coil: Coil
    roles: dict[str, float]
    taps: tuple[TapFound, ...]
    volts: Quantity | None

    @property
    def role(self) -> str:
        """The likeliest role."""
        return max(self.roles, key=lambda r: self.roles[r]) if self.roles else "unknown"

    @property
    def sure(self) -> float:
        """The chance of the likeliest role, as a share of one."""
        return self.roles.get(self.role, 0.0)

    @property
    def on_mains(self) -> bool:
        """Whether it is likeliest a winding that carries the mains."""
        return self.role in MAINS_ROLES

    @property
    def mains_chance(self) -> float:
        """The chance that it carries the mains."""
        return sum(self.roles.get(role, 0.0) for role in MAINS_ROLES)

    @property
    def hv_chance(self) -> float:
        """The chance that it is an HV winding."""
        return self.roles.get(HV, 0.0)

    @property
    def name(self) -> str:
        """Its two ends, as they are said."""
        return "–".join(self.coil.leads)


class Belief(Struct, frozen=True):
    """What the record lets believe: windings, families, and the hypotheses behind them.

    `best` is the leading hypothesis, `index` its place in `solution`; `outliers` are observations
    opened wide, by row, with how many standard deviations off they lie; `scored` the hypotheses
    that weigh most, with their weights, and `places` where they stand in `solution`;
    `other_region` the chance of other mains than here; `ratings` are by winding; `hidden` says why
    an HV winding that belongs to it may be there though none was found, and is empty where not.
    """

    topology: Topology
    best: Hypothesis | None
    index: int
    roles: tuple[dict[str, float], ...]
    solution: Solution | None
    outliers: tuple[tuple[int, float], ...]
    families: dict[str, float]
    windings: tuple[Winding, ...] = ()
    fed: tuple[str, ...] = ()
    volts_per_turn: Quantity | None = None
    other_region: float = 0.0
    polarity: tuple[PolarityFound, ...] = ()
    voltamperes: Quantity | None = None
    ratings: Mapping[str, Rating] = field(default_factory=dict)
    scored: tuple[tuple[Hypothesis, float], ...] = ()
    places: tuple[int, ...] = ()
    hidden: str = ""

    @property
    def family(self) -> str:
        """The likeliest family; `unknown` before anything is known."""
        most = max(self.families.values())
        if not self.windings and most <= 1.01 / len(self.families):
            return "unknown"
        return max(self.families, key=lambda f: self.families[f])

    def kind(self, name: str) -> float:
        """The chance of a kind within its family, as far as the leading hypotheses tell."""
        return sum(weight for h, weight in self.scored if h.subtype == name)

    @property
    def primary(self) -> Winding | None:
        """The winding that the leading hypothesis feeds; None where it feeds none."""
        best = self.best
        if best is None or best.roles[best.reference] not in MAINS_ROLES:
            return None
        return self.windings[best.reference]

    def winding_of(self, lead: str) -> Winding | None:
        """The winding a lead belongs to, or None."""
        i = self.topology.coil_of(lead)
        return None if i is None else self.windings[i]
