"""Every family there is, in the order in which they are tried."""

from collections.abc import Mapping
from functools import lru_cache

from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.families import choke, mains, microwave, other, sign, variable
from greyfell.core.families.row import (
    Bars,
    Behaviour,
    Family,
    FamilyModel,
    PieceKind,
    Role,
    RoleModel,
    RoleRow,
    SaidWord,
)

EVERY: list[Family] = [
    microwave.ROW,
    sign.ROW,
    variable.ROW,
    choke.ROW,
    mains.ROW,
    other.ROW,
]
"""All families; the public list of them stands in the format. One that is appended is known from
then on."""
UNKNOWN = "unknown"
"""What a piece is called before anything is known of it."""
UNEVEN = "-uneven"
"""Behind a kind's key: the same with windings that do not share the copper evenly."""


def family_of(key: str | None) -> Family | None:
    """A family by its key; None of one that is not known."""
    return next((family for family in EVERY if family.key == key), None)


def model_of(key: str) -> FamilyModel:
    """Size and flux of a family; of anything at all where it is not known."""
    return (family_of(key) or other.ROW).model


def does(key: str) -> Behaviour:
    """What pieces of a family do; of one that is not known what is usual."""
    family = family_of(key)
    return Behaviour() if family is None else family.does


def bars_of(key: str) -> Bars:
    """What a family is never used for."""
    family = family_of(key)
    return Bars() if family is None else family.bars


def scrap_of(key: str) -> str:
    """As which kind of scrap a family goes; empty where its shape tells."""
    family = family_of(key)
    return "" if family is None else family.scrap


def usual_shape(key: str) -> str:
    """The core's shape that a family usually has; a shell of one that is not known."""
    family = family_of(key)
    return "shell" if family is None else family.look.usual_shape


def drawn_shape(key: str) -> str:
    """The core that is drawn where nobody said its shape: a ring for one winding under a brush."""
    return "toroid" if has(key, "isolates_nothing") else "shell"


def has(key: str | None, trait: str) -> bool:
    """Whether a family has a trait; one that is not known has none.

    >>> has("mains", "for_mains"), has("unknown", "for_mains")
    (True, False)
    """
    family = family_of(key)
    return family is not None and bool(getattr(family, trait))


def chance(families: Mapping[str, float], trait: str) -> float:
    """The chance of all families that have a trait.

    >>> chance({"mains": 0.75, "choke": 0.25}, "for_mains")
    0.75
    """
    return sum(families.get(family.key, 0.0) for family in EVERY if getattr(family, trait))


def hv_bond(key: str) -> str:
    """Where the HV winding of a family meets the iron: `end`, `middle`; empty where it has none."""
    family = family_of(key)
    return "" if family is None else family.hv_bond


def keys(**wanted: object) -> tuple[str, ...]:
    """Families of which these things hold, by key.

    >>> keys(scrap="choke")
    ('choke',)
    """
    return tuple(
        family.key
        for family in EVERY
        if all(getattr(family, name) == value for name, value in wanted.items())
    )


def kinds() -> tuple[tuple[Family, PieceKind], ...]:
    """Every kind of piece with its family."""
    return tuple((family, kind) for family in EVERY for kind in family.kinds)


def kind_of(key: str) -> PieceKind | None:
    """A kind by its key; None where there is none."""
    return next((kind for _, kind in kinds() if kind.key == key), None)


def names() -> tuple[str, ...]:
    """Every family by its key, those of the format first, in its order."""
    return tuple(dict.fromkeys((*FAMILIES, *(family.key for family in EVERY))))


def words() -> tuple[SaidWord, ...]:
    """Every word that speaks for some kind."""
    return tuple(dict.fromkeys(word for _, kind in kinds() for word in kind.said_by))


@lru_cache(maxsize=512)
def models(kind: str, supply_volts: float, secondaries: int) -> dict[Role, RoleModel]:
    """The role models of one kind of piece on one supply, V RMS. `secondaries` is how many windings
    share the secondary (or heater) copper.

    Expectations of the trade, common practice; sources beside the rows.

    >>> models("oven", 230.0, 1)["primary"].volts.median
    230.0
    """
    rows = _rows(kind)
    return {role: row.model(supply_volts, max(1, secondaries)) for role, row in rows.items()}


def _rows(kind: str) -> dict[Role, RoleRow]:
    """The windings of a kind, or of its uneven variant."""
    found = kind_of(kind.removesuffix(UNEVEN)) or other.UNKNOWN_KIND
    if kind.endswith(UNEVEN) and found.uneven is not None:
        return found.uneven[1]
    return found.roles
