"""One winding fed with few volts, another bolted short: leakage, copper, ratio by amps."""

import math
import re
from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field

from greyfell.core.evidence.kinds.no_load import fed_by
from greyfell.core.evidence.kinds.reading import (
    MOST_FEW,
    AnyReading,
    HookUp,
    TurnsTold,
    ends,
    spread_of,
)
from greyfell.core.evidence.part import Amps, Hertz, NoAmps, Pair, Volts, Watts
from greyfell.core.evidence.typed_line import ANYWHERE, Form, Heard, Said, refuse
from greyfell.core.figures.notation import as_read, parse_quantity

SHORTED_APART = 0.05
"""Amps of a short and of what feeds it differ from the turns by the magnetising amps: spread of
the logarithm. From memory."""
_SHORT = re.compile(r"\bshort(?:ed)?\b", re.I)


def _read(heard: Heard) -> Said:
    """Volts, amps and watts of the fed pair, and the pair that was shorted."""
    fed, shorted = _SHORT.split(heard.rest, maxsplit=1)
    other, left = heard.points(shorted.strip())
    if not fed.strip():
        fed, left = left, ""
    said = fed_by(heard.pair, fed)
    if "amps" not in said:
        refuse("A short-circuit test needs volts and amps: “A-B short C-D 24V 2.1A 30W”.")
    passed = {"shorted_amps": parse_quantity(left, "ampere", field="amps")} if left else {}
    return {"kind": "short_circuit", **said, "shorted": [other], **passed}


class ShortCircuit(AnyReading):
    """Volts, amps and watts of a fed winding with others bolted short."""

    kind: Literal["short_circuit"] = "short_circuit"
    driven: Pair
    shorted: Annotated[list[Pair], Field(max_length=MOST_FEW)]
    volts: Volts
    amps: Amps
    watts: Watts | None = None
    shorted_amps: NoAmps | None = None
    hertz: Hertz | None = None

    lines = (("A-B short C-D 24V 2.1A 30W", "short circuit: what is fed, what is shorted"),)
    after_pair = (Form(lambda heard: _SHORT.search(heard.rest), _read, ANYWHERE),)
    moves = "amps"
    weighs_turns = True
    station = "sweep"
    live_station = "sweep"
    hookup = HookUp(shape="wound up", below="the other bolted")
    meets = frozenset(("short circuit",))

    def words(self) -> str:
        """As it is read out."""
        watts = "" if self.watts is None else f", {as_read(self.watts, 'W')}"
        shorted = ", ".join(ends(pair) for pair in self.shorted)
        fed = f"{as_read(self.volts, 'V')} {as_read(self.amps, 'A')}{watts}"
        return f"{ends(self.driven)} {fed} with {shorted} shorted"

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is fed and what is shorted, each with its volts."""
        yield self.driven, self.volts
        for pair in self.shorted:
            yield pair, 0.0

    def turns_told(self) -> TurnsTold | None:
        """Amps of the fed winding over those of the one shorted winding are its turns over
        theirs.
        """
        if len(self.shorted) != 1 or not self.shorted_amps:
            return None
        spread = spread_of(self, "amps", "shorted_amps")
        ratio = self.amps / self.shorted_amps
        return TurnsTold(
            row="ratio",
            pairs=(self.driven, self.shorted[0]),
            value=math.log(ratio),
            spreads=(spread, SHORTED_APART),
            volts=(self.volts, self.volts * ratio),
        )
