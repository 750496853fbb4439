"""Volts over a small direct current: ohms below what a meter's probes let it see."""

from collections.abc import Mapping
from typing import Literal

from greyfell.core.evidence.accuracy import OhmReading, limit
from greyfell.core.evidence.kinds.reading import (
    VOLTS_KEYS,
    WIRE_STAYS,
    AnyReading,
    HookUp,
    Pad,
    ends,
)
from greyfell.core.evidence.part import Amps, NoVolts, Pair
from greyfell.core.evidence.typed_line import Form, Heard, Said, first, named
from greyfell.core.figures.notation import as_read

CONTACT_OHMS = 1e-4
"""What clips on a joint may add at the most, Ω. Common practice."""
FLOOR_VOLTS = 1e-9
"""Keeps the share of an error finite where nothing was read."""


def _read(heard: Heard) -> Said:
    amps, volts = named(heard.rest[2:], {"ampere": "amps", "volt": "volts"})
    return {"kind": "dc_drop", "across": heard.pair, "amps": amps, "volts": volts}


class DcDrop(AnyReading):
    """Volts across two points at a direct current through them."""

    kind: Literal["dc_drop"] = "dc_drop"
    across: Pair
    volts: NoVolts
    amps: Amps

    lines = (("A-B dc 0.1A 9.3mV", "volts over amps"),)
    after_pair = (Form(first("dc"), _read),)
    pad = Pad(units=(*VOLTS_KEYS, ("µV", "uV")))
    moves = "volts"
    of_wire = True
    reaches = "low"
    told_at_low = True
    hookup = HookUp(shape="source", shows="=")
    meets = frozenset(("bond",))

    def words(self) -> str:
        """As it is read out."""
        return f"{ends(self.across)} {as_read(self.volts, 'V')} at {as_read(self.amps, 'A')} DC"

    @property
    def ohms_between(self) -> Pair:
        """The two points of the current."""
        return self.across

    @property
    def ohms_shown(self) -> float:
        """R = V/I. REF-Q-02."""
        return self.volts / self.amps

    @property
    def test_amps(self) -> float:
        """The direct current, A."""
        return self.amps

    def ohms_read(self, probes: Mapping[str | None, float] | None = None) -> OhmReading:
        """R = V/I; no probe stands in it. REF-Q-02."""
        ohms = self.ohms_shown
        relative = (
            limit(self, "volts") / max(self.volts, FLOOR_VOLTS) + limit(self, "amps") / self.amps
        )
        return OhmReading(self, ohms, ohms * relative + CONTACT_OHMS)

    def holds_after(self, change: str) -> bool:
        """Where the wire stays."""
        return change in WIRE_STAYS
