"""Two bare spots of the core read with an ohmmeter: that it touches iron and no lacquer."""

import re
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading, HookUp, Pad
from greyfell.core.evidence.part import NoOhms
from greyfell.core.evidence.typed_line import Form, Heard, Said, refuse
from greyfell.core.figures.notation import as_read, parse_quantity

_PROOF = re.compile(r"^(core proof|proof|core-core|fe-fe)\s*", re.I)


def _read(heard: Heard) -> Said:
    figure = _PROOF.sub("", heard.rest)
    if not figure:
        refuse("What did two bare spots of the iron read? Ohms: “proof 0.1”.")
    return {"kind": "core_proof", "ohms": parse_quantity(figure, "ohm", field="ohms")}


class CoreProof(AnyReading):
    """Ohms between two bare spots of the core."""

    kind: Literal["core_proof"] = "core_proof"
    ohms: NoOhms

    lines = (("proof 0.1", "two bare spots of the core"),)
    alone = (Form(lambda heard: _PROOF.match(heard.rest), _read),)
    pad = Pad(units=(("Ω", ""), ("kΩ", "k")))
    station = "cold"
    reaches = "cold"
    hookup = HookUp(shape="proof")
    meets = frozenset(("core proved",))

    def words(self) -> str:
        """As it is read out."""
        return f"core proof {as_read(self.ohms, 'Ω')}"

    def holds_after(self, change: str) -> bool:
        """Bare iron stays bare, whatever is done to it."""
        return True
