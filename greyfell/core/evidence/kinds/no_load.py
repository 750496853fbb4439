"""Volts on one winding with nothing joined to the rest, and the amps or watts it takes."""

from collections.abc import Iterable
from typing import Literal

from pydantic import model_validator

from greyfell.core.evidence.kinds.reading import AnyReading, HookUp, Pad, ends
from greyfell.core.evidence.kinds.shown import SHOWN_OHMS
from greyfell.core.evidence.part import Hertz, NoAmps, Pair, Volts, Watts
from greyfell.core.evidence.typed_line import (
    AMPS,
    BY_FIGURES,
    VOLTS,
    WATTS,
    Form,
    Heard,
    Said,
    ending,
    named,
)
from greyfell.core.figures.notation import as_read


def _tells(heard: Heard) -> bool:
    taken = AMPS.search(heard.rest) or WATTS.search(heard.rest)
    return bool(VOLTS.search(heard.rest) and taken)


def fed_by(pair: Pair, rest: str) -> Said:
    """Volts on a pair, with amps and watts where they were read. Raises FieldError."""
    wanted = {"volt": "volts"} | ({"ampere": "amps"} if AMPS.search(rest) else {})
    volts, *amps = named(rest, wanted)
    watts = ending(rest.split(), "w", "watt", "watts")
    read: Said = {} if watts is None else {"watts": watts}
    if amps:
        read["amps"] = amps[0]
    return {"driven": pair, "volts": volts, **read}


def _read(heard: Heard) -> Said:
    return {"kind": "no_load", **fed_by(heard.pair, heard.rest)}


class NoLoad(AnyReading):
    """Volts, amps and watts of a driven winding, all others open."""

    kind: Literal["no_load"] = "no_load"
    driven: Pair
    volts: Volts
    amps: NoAmps | None = None
    watts: Watts | None = None
    hertz: Hertz | None = None

    lines = (("A-B 230V 1.9A 75W", "no load"),)
    after_pair = (Form(_tells, _read, BY_FIGURES),)
    pad = Pad(units=(("A", "A"), ("mA", "mA"), ("W", "W")))
    moves = "amps"
    live_station = "sweep"
    reaches = "sweep"
    told_at_low = True
    hookup = HookUp(shape="wound up")
    meets = frozenset(("idle amps",))

    @model_validator(mode="after")
    def _something_flows(self) -> "NoLoad":
        if self.amps is None and self.watts is None:
            raise ValueError("no load needs amps or watts")
        return self

    def words(self) -> str:
        """As it is read out."""
        taken = ((self.amps, "A"), (self.watts, "W"))
        read = [as_read(x, u) for x, u in taken if x is not None]
        return f"{ends(self.driven)} {as_read(self.volts, 'V')}: {', '.join(read)}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven, with its volts."""
        yield self.driven, self.volts

    def more_than_wire(self) -> Iterable[Pair]:
        """What is driven, where few amps flow."""
        if self.amps and self.volts / self.amps >= SHOWN_OHMS:
            yield self.driven
