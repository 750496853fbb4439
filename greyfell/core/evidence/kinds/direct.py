"""Direct volts behind a rectifier and its reservoir on a winding: the winding's crest."""

import math
import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading, TurnsTold, ends, fed, spread_of
from greyfell.core.evidence.part import NoAmps, Pair, Volts
from greyfell.core.evidence.typed_line import AMPS, Arrow, Form, Said, named
from greyfell.core.figures.notation import as_read, parse_quantity

RECTIFIED = {
    "bridge": (1.0, 2),
    "half-wave": (1.0, 1),
    "centre-tap": (0.5, 1),
    "doubler": (2.0, 2),
}
"""Crests of the whole winding that the output has, and diodes in its way. REF-R-02, R-03, R-T1."""
DIODE_VOLTS, DIODE_APART = 0.6, 0.15
"""A silicon diode's drop at the amps of a meter, and its spread, V. Common practice."""
OPEN_DIRECT, LOADED_DIRECT = (0.025, 0.02), (0.14, 0.07)
"""What a line's crest, flattened by what hangs on it, is short of a sine's, as a logarithm, and
the spread; the same with a load on the reservoir. Common practice; from memory."""
_RECTIFIER = re.compile(r"^\s*(bridge|half-wave|centre-tap|doubler)\b", re.I)


def _tells(arrow: Arrow) -> bool:
    return _RECTIFIER.match(arrow.behind) is not None


def _read(arrow: Arrow) -> Said:
    """Direct volts behind a rectifier, and the amps they gave where something was joined."""
    pair, said = arrow.sensed
    rectifier = said.split()[0].lower()
    rest = _RECTIFIER.sub("", said)
    found: Said = {"kind": "direct", **arrow.source, "rectified": pair, "rectifier": rectifier}
    if AMPS.search(rest):
        volts, amps = named(rest, {"volt": "volts", "ampere": "amps"})
        return {**found, "direct_volts": volts, "direct_amps": amps}
    return {**found, "direct_volts": parse_quantity(rest, "volt", field="direct volts")}


class Direct(AnyReading):
    """Direct volts behind a rectifier with its reservoir on a winding's ends; `direct_amps` where
    something was joined to it.
    """

    kind: Literal["direct"] = "direct"
    driven: Pair
    driven_volts: Volts
    rectified: Pair
    rectifier: Literal["bridge", "half-wave", "centre-tap", "doubler"]
    direct_volts: Volts
    direct_amps: NoAmps | None = None

    lines = (
        (
            "A-B 230V > C-D bridge 16.2V",
            "direct volts behind a rectifier, its amps where loaded",
        ),
    )
    across_arrow = (Form(_tells, _read),)
    usual_percent = 1.0
    moves = "direct_volts"
    weighs_turns = True

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        taken = "" if self.direct_amps is None else f" {as_read(self.direct_amps, 'A')}"
        gives = f"{self.rectifier} {as_read(self.direct_volts, 'V')}{taken}"
        return f"{driven} > {ends(self.rectified)} {gives}"

    @property
    def drive(self) -> tuple[Pair, float]:
        """The pair that is driven, and its volts RMS."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven and what is rectified, each with its volts."""
        yield self.driven, self.driven_volts
        yield self.rectified, self.direct_volts

    def turns_told(self) -> TurnsTold:
        """A winding's volts by the direct volts behind its rectifier: its crest less the diodes',
        the line's crest flatter than a sine's; loaded, less by what ohms and ripple take. REF-R-02,
        R-03.
        """
        crests, diodes = RECTIFIED[self.rectifier]
        crest = self.direct_volts + diodes * DIODE_VOLTS
        volts = crest / (crests * math.sqrt(2))
        drop, apart = LOADED_DIRECT if self.direct_amps else OPEN_DIRECT
        spread = spread_of(self, "direct_volts", "driven_volts")
        return TurnsTold(
            row="ratio",
            pairs=(self.driven, self.rectified),
            value=math.log(volts / self.driven_volts) + drop,
            spreads=(spread, apart, diodes * DIODE_APART / crest),
            volts=(self.driven_volts, volts * math.exp(drop)),
        )
