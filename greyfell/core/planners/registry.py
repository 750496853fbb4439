"""The planners there are, by name, in the order they are listed: a name here is a module beside
this one, which declares it under the same name in capitals. A module is imported when its planner
is first asked for.
"""

from collections.abc import Iterator, Mapping
from importlib import import_module

from greyfell.core.errors import Missing
from greyfell.core.planner_kit.declare import Planner

PARTS: dict[str, tuple[str, ...]] = {
    "Salvage and measuring": (
        "discharge",
        "metering",
        "temperature",
        "nameplate",
        "ratio_check",
        "peak",
        "leakage",
    ),
    "The source and what it puts out": (
        "source",
        "circuit_from_tests",
        "reflected_short",
        "output",
        "dc_supply",
        "dc_routes",
        "valve_supply",
        "gap",
        "claim",
    ),
    "Limiting": (
        "limiter",
        "lamp",
        "ballast",
        "ballast_bank",
        "choke",
        "sliding_choke",
        "crank_welder",
        "saturable_reactor",
        "series_capacitor",
        "variac",
        "breaker",
        "feed",
    ),
    "Isolation and connections": ("halves", "two_primaries", "touch_map", "autotransformer"),
    "Rewinding and metal": (
        "rewind",
        "weld_match",
        "pulse_weld",
        "turns_scale",
        "current_path",
        "duty",
        "primary_turns",
        "wire",
        "scrap",
    ),
}
"""Planners by what they are about."""


class Planners(Mapping[str, Planner]):
    """Planners by name, each imported when it is first asked for."""

    def __init__(self, names: tuple[str, ...]) -> None:
        self.names = names

    def __getitem__(self, name: str) -> Planner:
        if name not in self.names:
            raise KeyError(name)
        module = import_module(f"{__package__}.{name}")
        planner: Planner = getattr(module, name.upper())
        return planner

    def __iter__(self) -> Iterator[str]:
        return iter(self.names)

    def __len__(self) -> int:
        return len(self.names)


PLANNERS = Planners(tuple(name for part in PARTS.values() for name in part))
"""Every planner, in the order they are listed."""


def by_part() -> dict[str, tuple[Planner, ...]]:
    """Every planner under what it is about."""
    return {part: tuple(PLANNERS[name] for name in names) for part, names in PARTS.items()}


def planner_of(name: str) -> Planner:
    """The planner of a name. Raises Missing where there is none."""
    if name not in PLANNERS:
        raise Missing("name", f"There is no planner {name[:40]} (known: {', '.join(PLANNERS)}).")
    return PLANNERS[name]
