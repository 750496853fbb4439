"""Turns of a winding counted, or estimated by eye."""

import math
import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import WIRE_STAYS, AnyReading, TurnsTold, ends
from greyfell.core.evidence.part import Counted, Pair
from greyfell.core.evidence.typed_line import BY_FIGURES, Form, Heard, Said
from greyfell.core.figures.notation import parse_quantity

COUNTED_TURNS, COUNTED_SD, ESTIMATED_SD = 10, 0.03, 0.08
"""Up to so many turns are counted, more are estimated; spreads of the logarithm. From memory."""
_COUNTED = re.compile(r"^([\d.,]+)\s*(?:turns?|t)$", re.I)


def _read(heard: Heard) -> Said:
    count = parse_quantity(_COUNTED.sub(r"\1", heard.rest), "turn", field="turns")
    return {"kind": "turns", "across": heard.pair, "turns": count}


class Turns(AnyReading):
    """Turns of a winding, counted or estimated."""

    kind: Literal["turns"] = "turns"
    across: Pair
    turns: Counted

    lines = (("E-F 3 turns", "counted turns"),)
    after_pair = (Form(lambda heard: _COUNTED.match(heard.rest), _read, BY_FIGURES),)
    weighs_turns = True
    counts_turns = True
    told_at_low = True
    meets = frozenset(("new turns",))

    def words(self) -> str:
        """As it is read out."""
        return f"{ends(self.across)} {self.turns:g} turns"

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """The winding that was counted; no volts stood on it."""
        yield self.across, 0.0

    def turns_told(self) -> TurnsTold:
        """The count."""
        sd = COUNTED_SD if self.turns <= COUNTED_TURNS else ESTIMATED_SD
        return TurnsTold(
            row="turns", pairs=(self.across,), value=math.log(self.turns), spreads=(sd,)
        )

    def holds_after(self, change: str) -> bool:
        """Where the wire stays."""
        return change in WIRE_STAYS
