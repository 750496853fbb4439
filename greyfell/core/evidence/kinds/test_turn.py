"""A few turns wound on and their volts with a winding driven: volts per turn."""

import math
import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import (
    VOLTS_KEYS,
    AnyReading,
    HookUp,
    Pad,
    TurnsTold,
    fed,
    spread_of,
)
from greyfell.core.evidence.part import Counted, Pair, Volts
from greyfell.core.evidence.typed_line import Arrow, Form, Said
from greyfell.core.figures.notation import as_read, parse_quantity

PLACE_SD = 0.006
"""Spread of the logarithm of a test turn's volts by where it lies. From memory."""
_FEW_TURNS = re.compile(r"^([\d.,]+)\s*(?:turns?|t)\s+(.+)$", re.I)


def _read(arrow: Arrow) -> Said:
    count, volts = _FEW_TURNS.findall(arrow.right)[0]
    turns = parse_quantity(count, "turn", field="turns")
    turn_volts = parse_quantity(volts, "volt", field="turn volts")
    return {"kind": "test_turn", **arrow.source, "turns": turns, "turn_volts": turn_volts}


class TestTurn(AnyReading):
    """Volts of a few turns wound on, with a winding driven."""

    __test__ = False  # a reading, not a test of ours
    kind: Literal["test_turn"] = "test_turn"
    driven: Pair
    driven_volts: Volts
    turns: Counted
    turn_volts: Volts

    lines = (("A-B 120V > 5 turns 4.6V", "test turn"),)
    across_arrow = (Form(lambda arrow: _FEW_TURNS.match(arrow.right), _read),)
    pad = Pad(units=VOLTS_KEYS)
    usual_percent = 1.5
    moves = "turn_volts"
    weighs_turns = True
    counts_turns = True
    reaches = "low"
    told_at_low = True
    hookup = HookUp(shape="turns")
    meets = frozenset(("volts per turn", "test turn", "new turns"))

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        return f"{driven} > {self.turns:g} turns {as_read(self.turn_volts, 'V')}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven, with its volts."""
        yield self.driven, self.driven_volts

    def turns_told(self) -> TurnsTold:
        """Turns of the driven winding over those of the few turns wound on."""
        spread = spread_of(self, "driven_volts", "turn_volts")
        return TurnsTold(
            row="test turn",
            pairs=(self.driven,),
            value=math.log(self.driven_volts * self.turns / self.turn_volts),
            spreads=(spread, PLACE_SD),
        )
