"""A lamp in series with a winding on the line, and how it glows."""

import re
from collections.abc import Iterable
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading, HookUp, Pad, ends
from greyfell.core.evidence.part import NoVolts, Pair, VoltAmperes, Volts
from greyfell.core.evidence.typed_line import Form, Heard, Said, ending, first, refuse
from greyfell.core.figures.notation import as_read, parse_quantity

GLOWS = ("dark", "dim", "bright")
_TAKES = re.compile(r"\btakes\s+([\d.,]+\s*V?)\s+leaves\s+([\d.,]+\s*V?)", re.I)
"""Volts of the lamp and of the winding behind it."""


def _read(heard: Heard) -> Said:
    """A lamp's watts and how it glows, on the supply unless volts are given."""
    rest = heard.rest
    both = _TAKES.search(rest)
    left: Said = {}
    if both:
        rest = rest.replace(both[0], " ")
        left = {
            "lamp_volts": parse_quantity(both[1], "volt", field="volts of the lamp"),
            "winding_volts": parse_quantity(both[2], "volt", field="volts of the winding"),
        }
    words = rest.split()[1:]
    glow = next((w.lower() for w in words if w.lower() in GLOWS), None)
    watts = ending(words, "w", "watt", "lamp watts")
    if glow is None or watts is None:
        refuse("A lamp test needs the lamp's watts and how it glows: “A-B lamp 40W dark”.")
    volts = ending(words, "v", "volt", "supply volts")
    return {
        "kind": "lamp",
        "across": heard.pair,
        "supply_volts": heard.supply_volts if volts is None else volts,
        "lamp_watts": watts,
        "glow": glow,
        **left,
    }


class Lamp(AnyReading):
    """A lamp's glow ahead of a winding; its volts and the winding's where both were read."""

    kind: Literal["lamp"] = "lamp"
    across: Pair
    supply_volts: Volts
    lamp_watts: VoltAmperes
    lamp_volts: NoVolts | None = None
    winding_volts: NoVolts | None = None
    glow: Literal["dark", "dim", "bright"]

    lines = (
        ("A-B lamp 40W dark", "lamp in series"),
        ("A-B lamp 40W dim takes 62V leaves 205V", "the same with volts of lamp and winding"),
    )
    after_pair = (Form(first("lamp"), _read),)
    pad = Pad(words=(("dark", "dark"), ("dim", "dim"), ("bright", "bright")))
    station = "power"
    told_at_low = True
    hookup = HookUp(shape="lamp")

    def words(self) -> str:
        """As it is read out."""
        left = ""
        if self.lamp_volts is not None and self.winding_volts is not None:
            taken, rest = as_read(self.lamp_volts, "V"), as_read(self.winding_volts, "V")
            left = f", takes {taken}, leaves {rest}"
        return f"{ends(self.across)} lamp {as_read(self.lamp_watts, 'W')} {self.glow}{left}"

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """The pair behind the lamp, with the supply's volts."""
        yield self.across, self.supply_volts
