"""What a piece is worth as metal: copper, aluminium and steel in kilograms, at prices typed in."""

from dataclasses import dataclass

from greyfell.core.families.registry import scrap_of
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import Input, Known, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

SHARES = {
    "EI or UI iron": (0.12, 0.32),
    "ring core": (0.18, 0.45),
    "variac": (0.15, 0.35),
    "choke": (0.10, 0.30),
    "potted": (0.05, 0.18),
}
"""How much of a piece's mass is its winding, wound in copper, by how it is built. From memory,
broad: an oven's 4.5 kg hold some 0.7 to 1.2 kg."""
ALUMINIUM_SHARE = 0.5
"""An aluminium winding of like ohms weighs half as much as copper: 0.304 times the density, 1.64
times the section. REF-W-01."""
STEEL_OF_REST = (0.85, 1.0)
"""So much of the rest is steel where nothing is potted; the rest is paper, varnish, brackets."""
STEEL_OF_POTTED = (0.4, 0.75)
"""The same where tar and a can are weighed along. From memory."""
MASS_SPREAD = 0.02
"""How far a kitchen scale is off. From memory."""
BASIS = ("mass", "winding's share from memory")
FROM_SHAPE = {"shell": "EI or UI iron", "core": "EI or UI iron", "toroid": "ring core"}


def mass(known: Known) -> Quantity | None:
    """The mass on record, with what a scale is off."""
    core = known.ident.record.core
    if core is None or not core.mass_kg:
        return None
    kilograms = core.mass_kg
    low, high = kilograms * (1 - MASS_SPREAD), kilograms * (1 + MASS_SPREAD)
    return Quantity(kilograms, low, high, ("mass",))


def build(known: Known) -> str | None:
    """How it is built: by its family, else the shape of its core."""
    core = known.ident.record.core
    if core is not None and core.potted:
        return "potted"
    by_family = scrap_of(known.ident.family)
    return by_family or FROM_SHAPE.get(getattr(core, "shape", None) or "")


def metal(known: Known) -> str | None:
    """What was scraped, where all that was scraped is alike."""
    seen = {lead.material for lead in known.ident.record.leads if lead.material}
    return seen.pop() if len(seen) == 1 else None


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Kilograms, how it is built, the metal of its windings, money for a kilogram of each."""

    mass_kg: Quantity = asked("Mass", "kg", above=0, at_most=1000, slide=(0.5, 30), start=mass)
    build: str = asked("Built as", default="EI or UI iron", choices=tuple(SHARES), start=build)
    metal: str = asked(
        "Windings of",
        default="not known",
        choices=("copper", "aluminium", "not known"),
        start=metal,
        help="scrape the lacquer off, and see",
    )
    copper_price: float = asked("Copper, money a kg", at_least=0, at_most=1e6)
    aluminium_price: float = asked("Aluminium, money a kg", default=0.0, at_least=0, at_most=1e6)
    steel_price: float = asked("Steel, money a kg", default=0.0, at_least=0, at_most=1e6)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Kilograms of each metal, and what they bring at the prices given, in the same money."""

    copper_kg: Quantity = shown("Copper", "kg", lead=True)
    aluminium_kg: Quantity = shown("Aluminium", "kg")
    steel_kg: Quantity = shown("Steel", "kg")
    worth: Quantity = shown("It brings, in that money", lead=True)


def work(given: Given) -> Found:
    """Mass times the winding's share, at its price; kilograms. Common practice; limits at their
    worst.

    >>> from greyfell.core.figures.quantity import exact
    >>> given = Given(mass_kg=exact(4.5), metal="copper", copper_price=7.0)
    >>> found = work(given)
    >>> round(found.copper_kg.low, 2), round(found.copper_kg.high, 2)
    (0.54, 1.44)
    """
    low, high = SHARES[given.build]
    light = (low * ALUMINIUM_SHARE, high * ALUMINIUM_SHARE)
    none = (0.0, 0.0)
    copper, aluminium = {
        "copper": ((low, high), none),
        "aluminium": (none, light),
        "not known": ((0.0, high), (0.0, light[1])),
    }[given.metal]
    wound = light if given.metal == "aluminium" else (low, high)
    if given.metal == "not known":
        wound = (light[0], high)
    rest = STEEL_OF_POTTED if given.build == "potted" else STEEL_OF_REST
    steel = (rest[0] * (1 - wound[1]), rest[1] * (1 - wound[0]))
    kilograms = {
        "copper": _of(given.mass_kg, copper),
        "aluminium": _of(given.mass_kg, aluminium),
        "steel": _of(given.mass_kg, steel),
    }
    return Found(
        copper_kg=kilograms["copper"],
        aluminium_kg=kilograms["aluminium"],
        steel_kg=kilograms["steel"],
        worth=_worth(given, kilograms),
    )


def _of(kilograms: Quantity, share: tuple[float, float]) -> Quantity:
    """A share of a mass."""
    middle = kilograms.value * (share[0] + share[1]) / 2
    return Quantity(middle, kilograms.low * share[0], kilograms.high * share[1], BASIS)


def _at(kilograms: Quantity, price: float) -> Quantity:
    """Kilograms at a price."""
    low, high = kilograms.low * price, kilograms.high * price
    return Quantity(kilograms.value * price, low, high, kilograms.basis)


def _worth(given: Given, kilograms: dict[str, Quantity]) -> Quantity:
    """What the metals bring; of windings that may be either metal the one or the other."""
    copper, aluminium = kilograms["copper"], kilograms["aluminium"]
    prices = (given.copper_price, given.aluminium_price)
    if given.metal == "not known":
        share = SHARES[given.build]
        light = (share[0] * ALUMINIUM_SHARE, share[1] * ALUMINIUM_SHARE)
        copper, aluminium = _of(given.mass_kg, share), _of(given.mass_kg, light)
    ways = [_at(copper, prices[0]), _at(aluminium, prices[1])]
    if given.metal != "not known":
        ways = [_at(kilograms[given.metal], prices[given.metal == "aluminium"])]
    steel = _at(kilograms["steel"], given.steel_price)
    low = min(way.low for way in ways) + steel.low
    high = max(way.high for way in ways) + steel.high
    return Quantity((low + high) / 2, low, high, (*BASIS, "prices given"))


SCRAP = Planner(
    name="scrap",
    title="Scrap",
    purpose="What a piece holds of copper, aluminium and steel, and what it brings as metal.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="kilograms of winding = mass × share",
        source="REF-W-01 for the densities; shares from memory",
        put="{mass_kg} × the winding's share for {build} = {copper_kg} of copper",
    ),
    cautions=(
        Caution(
            code="first-a-use",
            severity="note",
            sentence="Sound iron is worth more wound than melted: look what it could become first.",
        ),
        Caution(
            code="tar",
            severity="caution",
            sentence=(
                "Potted pieces and old oil-filled parts may hold PCBs: no melting, no burning out; "
                "they go to the collection for hazardous waste."
            ),
            when=lambda given, found: given.build == "potted",
        ),
        Caution(
            code="no-burning",
            severity="note",
            sentence="Insulation is stripped or cut, never burnt off: its smoke is poison.",
        ),
    ),
    example={"mass_kg": 4.5, "metal": "copper", "copper_price": 7.0},
    checks=(
        Check(
            given={"mass_kg": 10.0, "metal": "copper", "copper_price": 5.0, "steel_price": 0.2},
            expected={"copper_kg": 2.2, "worth": 12.458},
            source="the shares above, by hand",
        ),
        Check(
            given={"mass_kg": 10.0, "metal": "aluminium", "copper_price": 5.0},
            expected={"aluminium_kg": 1.1, "worth": 0.0},
            source="the shares above, by hand",
        ),
    ),
)
