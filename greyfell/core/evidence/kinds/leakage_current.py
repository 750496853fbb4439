"""Amps from a lead or the core to earth, through a meter, with a winding driven."""

from typing import Literal

from pydantic import ConfigDict, Field

from greyfell.core.evidence.kinds.reading import AnyReading, fed
from greyfell.core.evidence.part import NoAmps, Pair, Volts
from greyfell.core.evidence.typed_line import AMPS, Arrow, Form, Said
from greyfell.core.figures.notation import as_read, parse_quantity


def _tells(arrow: Arrow) -> bool:
    return arrow.to_earth and AMPS.search(arrow.behind) is not None


def _read(arrow: Arrow) -> Said:
    pair, rest = arrow.sensed
    lead = next(x for x in pair if x != "earth")
    amps = parse_quantity(rest, "ampere", field="amps")
    return {"kind": "leakage_current", "from": lead, "to": "earth", "amps": amps, **arrow.source}


class LeakageCurrent(AnyReading):
    """Amps from a point to earth or the core, through a meter."""

    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["leakage_current"] = "leakage_current"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    amps: NoAmps
    driven: Pair
    driven_volts: Volts

    lines = (
        (
            "A-B 230V > C-earth 0.1mA",
            "leakage to earth; in volts with the meter's ohms: 61V on 10M",
        ),
    )
    across_arrow = (Form(_tells, _read),)
    meets = frozenset(("leakage", "leakage amps"))

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        return f"{driven} > {self.from_} to {self.to} {as_read(self.amps, 'A')}"
