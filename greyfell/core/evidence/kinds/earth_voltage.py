"""Volts from a lead or the core to earth, on a meter of known ohms, with a winding driven."""

from typing import Literal

from pydantic import ConfigDict, Field

from greyfell.core.evidence.kinds.reading import AnyReading
from greyfell.core.evidence.part import NoVolts, Ohms, Pair, Volts
from greyfell.core.evidence.typed_line import AMPS, Arrow, Form, Said
from greyfell.core.figures.notation import as_read, parse_quantity


def _tells(arrow: Arrow) -> bool:
    return arrow.to_earth and AMPS.search(arrow.behind) is None


def _read(arrow: Arrow) -> Said:
    """Volts, and the meter's own ohms behind “on”."""
    pair, rest = arrow.sensed
    text, _, meter = rest.partition(" on ")
    volts = parse_quantity(text, "volt", field="volts")
    own = {"meter_ohms": parse_quantity(meter, "ohm", field="meter ohms")} if meter else {}
    return {
        "kind": "earth_voltage",
        "from": next(x for x in pair if x != "earth"),
        "to": "earth",
        "volts": volts,
        **own,
        **arrow.source,
    }


class EarthVoltage(AnyReading):
    """Volts from a point to earth or the core, on a meter of some ohms."""

    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["earth_voltage"] = "earth_voltage"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    volts: NoVolts
    meter_ohms: Ohms | None = None
    driven: Pair | None = None
    driven_volts: Volts | None = None

    across_arrow = (Form(_tells, _read),)
    meets = frozenset(("leakage",))

    def words(self) -> str:
        """As it is read out."""
        meter = "" if self.meter_ohms is None else f" by {as_read(self.meter_ohms, 'Ω')}"
        return f"{self.from_} to {self.to} {as_read(self.volts, 'V')}{meter}"
