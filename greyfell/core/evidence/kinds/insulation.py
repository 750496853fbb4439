"""What parts two points, by an insulation tester's hundreds of volts."""

import math
from typing import Any, Literal

from greyfell.core.evidence.kinds.reading import (
    OPEN,
    OVER_RANGE,
    AnyReading,
    HookUp,
    Pad,
    ends,
)
from greyfell.core.evidence.part import NoOhms, Ohms, Pair, Volts
from greyfell.core.evidence.typed_line import OPEN_WORDS, Form, Heard, Said, first, refuse
from greyfell.core.figures.notation import as_read, parse_quantity


def _read(heard: Heard) -> Said:
    """Test volts, and ohms or open."""
    words = heard.rest.split()[1:]
    if len(words) < 2:
        refuse("An insulation test needs its volts and its ohms: “A-core ins 500V 200M”.")
    volts = parse_quantity(words[0], "volt", field="test volts")
    ohms: Any = OPEN
    if words[1].lower() not in OPEN_WORDS:
        ohms = parse_quantity(" ".join(words[1:]), "ohm", field="ohms")
    return {"kind": "insulation", "between": heard.pair, "test_volts": volts, "ohms": ohms}


class Insulation(AnyReading):
    """Ohms between two points at a tester's volts, DC."""

    kind: Literal["insulation"] = "insulation"
    between: Pair
    ohms: NoOhms | Literal["open"]
    test_volts: Volts
    range_ohms: Ohms | None = None

    lines = (("A-core ins 500V 200M", "insulation test"),)
    after_pair = (Form(first("ins", "insulation"), _read),)
    pad = Pad(units=(("MΩ", "M"), ("GΩ", "G"), ("kΩ", "k")), words=(OVER_RANGE,))
    usual_percent = 10.0
    moves = "ohms"
    may_open = True
    station = "cold"
    reaches = "cold"
    told_at_low = True
    hookup = HookUp(shape="tester", shows="MΩ", set_to="500 V")
    meets = frozenset(("open to the core", "insulation tested"))
    again_in_time = True

    def words(self) -> str:
        """As it is read out."""
        ohms = OPEN if isinstance(self.ohms, str) else as_read(self.ohms, "Ω")
        return f"{ends(self.between)} {ohms} at {as_read(self.test_volts, 'V')}"

    @property
    def ohms_between(self) -> Pair:
        """The two points of the tester."""
        return self.between

    @property
    def ohms_shown(self) -> float:
        """Ohms that the display showed; infinite where it showed none."""
        return math.inf if isinstance(self.ohms, str) else self.ohms

    @property
    def proof_volts(self) -> float:
        """The tester's volts."""
        return self.test_volts

    @property
    def ages(self) -> bool:
        """Insulation dries and gets damp by itself."""
        return True
