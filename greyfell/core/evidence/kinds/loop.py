"""Amps round a closed loop of an output: a weld, a rod, a clamp around it."""

import math
import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading, TurnsTold, ends, fed, spread_of
from greyfell.core.evidence.part import Amps, NoAmps, Pair, Volts
from greyfell.core.evidence.typed_line import Arrow, Form, Said
from greyfell.core.figures.notation import as_read, parse_quantity

IDLE_BESIDE = (0.06, 0.08)
"""What idle amps add to a fed winding's under load, as a logarithm, and the spread. From memory."""
_LOOP = re.compile(r"^\s*loop\b", re.I)


def _tells(arrow: Arrow) -> bool:
    return _LOOP.match(arrow.behind) is not None


def _read(arrow: Arrow) -> Said:
    pair, rest = arrow.sensed
    drawn = {} if arrow.amps is None else {"driven_amps": arrow.amps}
    amps = parse_quantity(_LOOP.sub("", rest), "ampere", field="amps")
    return {"kind": "loop", **arrow.source, **drawn, "loaded": pair, "loop_amps": amps}


class Loop(AnyReading):
    """Amps round the loop of an output by themselves: a weld in place, a rod, a clamp around it."""

    kind: Literal["loop"] = "loop"
    driven: Pair
    driven_volts: Volts
    driven_amps: NoAmps | None = None
    loaded: Pair
    loop_amps: Amps

    lines = (("A-B 230V 3.1A > C-D loop 420A", "amps round a loop: a weld, a rod"),)
    across_arrow = (Form(_tells, _read),)
    usual_percent = 3.0
    moves = "loop_amps"
    weighs_turns = True

    def words(self) -> str:
        """As it is read out."""
        taken = "" if self.driven_amps is None else f" {as_read(self.driven_amps, 'A')}"
        driven = fed(self.driven, self.driven_volts) + taken
        return f"{driven} > {ends(self.loaded)} loop {as_read(self.loop_amps, 'A')}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven and what is loaded, each with its volts."""
        yield self.driven, self.driven_volts
        yield self.loaded, 0.0

    def turns_told(self) -> TurnsTold | None:
        """Amps of the fed winding over those of the loop are its turns over theirs, its idle amps
        besides.
        """
        if not self.driven_amps:
            return None
        spread = spread_of(self, "driven_amps", "loop_amps")
        idle, apart = IDLE_BESIDE
        value = math.log(self.driven_amps / self.loop_amps) - idle
        return TurnsTold(
            row="ratio",
            pairs=(self.driven, self.loaded),
            value=value,
            spreads=(spread, apart),
            volts=(self.driven_volts, self.driven_volts * math.exp(value)),
        )
