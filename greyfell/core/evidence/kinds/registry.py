"""Every kind of reading there is, in the order of the format."""

from collections.abc import Iterable
from typing import Any

from pydantic_core import core_schema

from greyfell.core.evidence.kinds.core_proof import CoreProof
from greyfell.core.evidence.kinds.dc_drop import DcDrop
from greyfell.core.evidence.kinds.direct import Direct
from greyfell.core.evidence.kinds.earth_voltage import EarthVoltage
from greyfell.core.evidence.kinds.inductance import Inductance
from greyfell.core.evidence.kinds.insulation import Insulation
from greyfell.core.evidence.kinds.lamp import Lamp
from greyfell.core.evidence.kinds.leakage_current import LeakageCurrent
from greyfell.core.evidence.kinds.load import Load
from greyfell.core.evidence.kinds.loop import Loop
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.kinds.path import Path
from greyfell.core.evidence.kinds.polarity import Polarity
from greyfell.core.evidence.kinds.ratio import Ratio
from greyfell.core.evidence.kinds.reading import AnyReading, Demand
from greyfell.core.evidence.kinds.resistance import Resistance
from greyfell.core.evidence.kinds.short_circuit import ShortCircuit
from greyfell.core.evidence.kinds.soak import Soak
from greyfell.core.evidence.kinds.test_turn import TestTurn
from greyfell.core.evidence.kinds.turns import Turns

EVERY: list[type[AnyReading]] = [
    Resistance,
    CoreProof,
    DcDrop,
    Insulation,
    Inductance,
    Lamp,
    Ratio,
    Polarity,
    NoLoad,
    ShortCircuit,
    Load,
    TestTurn,
    Turns,
    LeakageCurrent,
    EarthVoltage,
    Soak,
    Direct,
    Loop,
    Path,
]
"""All kinds. One that is appended is known from then on, once records are built anew."""


def key_of(kind: type[AnyReading]) -> str:
    """The key of a kind, as records say it."""
    return str(kind.model_fields["kind"].default)


def by_key() -> dict[str, type[AnyReading]]:
    """Every kind by its key."""
    return {key_of(kind): kind for kind in EVERY}


def kind_of(key: str) -> type[AnyReading] | None:
    """A kind by its key; None of one that is not known, as of steps that ask for no reading."""
    return next((kind for kind in EVERY if key_of(kind) == key), None)


def keys(trait: str) -> tuple[str, ...]:
    """Kinds that have a trait, by key.

    >>> keys("counts_turns")
    ('test_turn', 'turns')
    """
    return tuple(key_of(kind) for kind in EVERY if getattr(kind, trait))


def that_meet(demand: Demand) -> tuple[str, ...]:
    """Kinds whose readings meet a demand, by key.

    >>> that_meet("bond")
    ('dc_drop',)
    """
    return tuple(key_of(kind) for kind in EVERY if demand in kind.meets)


def meeting(demand: Demand, readings: Iterable[Any]) -> list[Any]:
    """Those of these readings that meet a demand."""
    return [r for r in readings if demand in r.meets]


class OneOfTheKinds:
    """A reading in a record: whichever kind its key names."""

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, handler: Any) -> core_schema.CoreSchema:
        """What every kind declares, told apart by the key."""
        choices = {key_of(kind): handler.generate_schema(kind) for kind in EVERY}
        return core_schema.tagged_union_schema(choices=choices, discriminator="kind")
