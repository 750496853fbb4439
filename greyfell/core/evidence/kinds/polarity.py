"""Two windings joined at one end and the volts over both: whether they add or buck."""

from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import (
    VOLTS_KEYS,
    WINDINGS_STAY,
    AnyReading,
    HookUp,
    Pad,
    ends,
    fed,
)
from greyfell.core.evidence.part import NoVolts, Pair, Volts
from greyfell.core.evidence.typed_line import ANYWHERE, Arrow, Form, Said, volts_and_hertz
from greyfell.core.figures.notation import as_read


def _read(arrow: Arrow) -> Said:
    across, rest = arrow.sensed
    volts, _ = volts_and_hertz(rest, "volts across both")
    joined = {"joined": arrow.joined, "across": across, "across_volts": volts}
    return {"kind": "polarity", **arrow.source, **joined}


class Polarity(AnyReading):
    """Volts across two windings joined at one end, one of them driven."""

    kind: Literal["polarity"] = "polarity"
    driven: Pair
    driven_volts: Volts
    joined: Pair
    across: Pair
    across_volts: NoVolts

    lines = (("A-B 12V B=C > A-D 24V", "polarity: B joined to C, volts over both"),)
    across_arrow = (Form(lambda arrow: arrow.joined is not None, _read, ANYWHERE),)
    pad = Pad(units=VOLTS_KEYS)
    usual_percent = 1.5
    hookup = HookUp(shape="joined")

    def words(self) -> str:
        """As it is read out."""
        driven = fed(self.driven, self.driven_volts)
        over = f"{ends(self.across)} {as_read(self.across_volts, 'V')}"
        return f"{driven}, {ends(self.joined)} joined: {over}"

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven, with its volts."""
        yield self.driven, self.driven_volts

    def holds_after(self, change: str) -> bool:
        """Where both windings stay as they are wound."""
        return change in WINDINGS_STAY
