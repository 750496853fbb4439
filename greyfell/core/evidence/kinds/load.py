"""Volts of a loaded winding with another driven, and the amps or ohms of its load."""

import math
import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading, TurnsTold, ends, fed, spread_of
from greyfell.core.evidence.part import NoAmps, NoVolts, Ohms, Pair, Volts, Watts
from greyfell.core.evidence.typed_line import AMPS, BY_FIGURES, Arrow, Form, Said, named
from greyfell.core.figures.notation import as_read

LOADED_DROP = (0.10, 0.15)
"""How far loaded volts stand below open ones, in logarithms, and the spread: a part drops a
twentieth to a third. REF-M-05; common practice."""
_OHMS_AT_END = re.compile(r"\d\s*[mkM]?(?:Ω|ohms?)\s*$", re.I)


def _tells(arrow: Arrow) -> bool:
    return bool(AMPS.search(arrow.behind) or _OHMS_AT_END.search(arrow.behind))


def _read(arrow: Arrow) -> Said:
    """Volts of the loaded winding, with its amps or the ohms they go into."""
    pair, rest = arrow.sensed
    found: Said = {"kind": "load", **arrow.source, "loaded": pair}
    drawn = {"driven_amps": arrow.amps, "driven_watts": arrow.watts}
    found |= {k: v for k, v in drawn.items() if v is not None}
    if AMPS.search(rest):
        volts, amps = named(rest, {"volt": "volts", "ampere": "amps"})
        return {**found, "load_volts": volts, "load_amps": amps}
    volts, ohms = named(rest, {"volt": "volts", "ohm": "ohms"})
    return {**found, "load_volts": volts, "load_ohms": ohms}


class Load(AnyReading):
    """Volts of a loaded winding, with its amps or its load's ohms."""

    kind: Literal["load"] = "load"
    driven: Pair
    driven_volts: Volts
    driven_amps: NoAmps | None = None
    driven_watts: Watts | None = None
    loaded: Pair
    load_volts: NoVolts
    load_amps: NoAmps | None = None
    load_ohms: Ohms | None = None

    lines = (("A-B 230V 1.2A > C-D 12.1V 4A", "load: driven > loaded, its amps or ohms"),)
    across_arrow = (Form(_tells, _read, BY_FIGURES),)
    moves = "load_volts"
    weighs_turns = True
    station = "sweep"
    live_station = "sweep"
    meets = frozenset(("open volts",))

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        taken = ""
        if self.load_amps is not None:
            taken = f" {as_read(self.load_amps, 'A')}"
        elif self.load_ohms is not None:
            taken = f" into {as_read(self.load_ohms, 'Ω')}"
        return f"{driven} > {ends(self.loaded)} {as_read(self.load_volts, 'V')}{taken}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven and what is loaded, each with its volts."""
        yield self.driven, self.driven_volts
        yield self.loaded, self.load_volts

    def turns_told(self) -> TurnsTold | None:
        """A loaded output's volts over the driven: less than the open ones by what the load
        takes.
        """
        if self.load_volts <= 0:
            return None
        spread = spread_of(self, "load_volts", "driven_volts")
        drop, apart = LOADED_DROP
        return TurnsTold(
            row="ratio",
            pairs=(self.driven, self.loaded),
            value=math.log(self.load_volts / self.driven_volts) + drop,
            spreads=(spread, apart),
            volts=(self.driven_volts, self.load_volts),
        )
