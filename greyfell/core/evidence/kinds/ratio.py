"""Volts of one winding with another driven: the ratio of their turns."""

import math
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.accuracy import limit_parts
from greyfell.core.evidence.kinds.reading import (
    VOLTS_KEYS,
    AnyReading,
    HookUp,
    Pad,
    TurnsTold,
    ends,
    fed,
)
from greyfell.core.evidence.kinds.shown import SHOWN_SHARE
from greyfell.core.evidence.part import Hertz, NoVolts, Pair, Volts
from greyfell.core.evidence.typed_line import ELSE, Arrow, Form, Said, volts_and_hertz
from greyfell.core.figures.notation import as_read

READ_APART, LINE_APART = 0.004, 0.006
"""Both volts of a ratio are read within a minute: what a small source and what the line itself
wander in it, relative standard deviation. The line is read in that moment;
figures from memory."""
LINE_VOLTS = 60.0
"""Drives above this come from the line, by a variac or straight. Common practice."""
SHARED_GAIN = 0.6
"""Both volts of a ratio are read with one meter: its gain error partly cancels. REF-Q-09; share
from memory."""


def _read(arrow: Arrow) -> Said:
    sensed, rest = arrow.sensed
    volts, also = volts_and_hertz(rest, "sensed volts")
    hertz = arrow.hertz or also
    at = {"hertz": hertz} if hertz else {}
    return {"kind": "ratio", **arrow.source, "sensed": sensed, "sensed_volts": volts, **at}


class Ratio(AnyReading):
    """Volts sensed on one pair with another driven."""

    kind: Literal["ratio"] = "ratio"
    driven: Pair
    driven_volts: Volts
    sensed: Pair
    sensed_volts: NoVolts
    hertz: Hertz | None = None

    lines = (("E-core 124.5V > A-B 5.9V", "ratio: driven > sensed"),)
    across_arrow = (Form(lambda arrow: True, _read, ELSE),)
    pad = Pad(units=VOLTS_KEYS)
    usual_percent = 1.2
    moves = "sensed_volts"
    weighs_turns = True
    reaches = "low"
    told_at_low = True
    hookup = HookUp(shape="source", shows="≈")
    meets = frozenset(("family told", "volts per turn", "new turns", "output volts", "open volts"))

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        return f"{driven} > {ends(self.sensed)} {as_read(self.sensed_volts, 'V')}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven and what gives volts, each with its volts."""
        yield self.driven, self.driven_volts
        if self.sensed_volts > 0:
            yield self.sensed, self.sensed_volts

    def more_than_wire(self) -> Iterable[Pair]:
        """Both, where the volts sensed are none that are picked up."""
        if self.sensed_volts >= SHOWN_SHARE * self.driven_volts:
            yield from (self.driven, self.sensed)

    def turns_told(self) -> TurnsTold | None:
        """ln of volts sensed over driven; nothing where they were not of these windings alone."""
        volts, out = self.driven_volts, self.sensed_volts
        if out <= 0 or self.where not in (None, "piece") or self.links:
            return None
        (gain_in, counts_in), (gain_out, counts_out) = (
            limit_parts(self, f) for f in ("driven_volts", "sensed_volts")
        )
        gain = SHARED_GAIN * math.hypot(gain_in / volts, gain_out / out)
        counts = math.hypot(counts_in / volts, counts_out / out)
        meter = min(math.hypot(gain, counts) / math.sqrt(6), 1.0)  # JCGM 100:2008 4.3.9
        apart = LINE_APART if volts > LINE_VOLTS else READ_APART
        return TurnsTold(
            row="ratio",
            pairs=(self.driven, self.sensed),
            value=math.log(out / volts),
            spreads=(meter, apart),
            volts=(volts, out),
            placed=True,
            apart=apart,
        )
