"""Which meters of the stores answer at an address, and what each may be asked for."""

from msgspec import Struct

from greyfell.core.evidence.stores import Item
from greyfell.instruments.declared import INSTRUMENTS, Instrument
from greyfell.web.stores import stores

METERED = ("meter", "wattmeter", "inductance-meter", "clamp", "panel-meter")
"""Kinds of the stores that may have an address."""
ALL = "all"
"""Every figure of an instrument at once."""


class Answering(Struct, frozen=True, kw_only=True):
    """A meter of the stores that has an address, and the class it is read as."""

    item: Item
    address: str
    instrument: Instrument

    @property
    def functions(self) -> list[tuple[str, str]]:
        """What it may be asked for, in words; all at once where that is a line of its own."""
        found = [(f.key, f.title) for f in self.instrument.functions.values()]
        whole = [(ALL, "volts, amps, watts")] if "watts" in self.instrument.functions else []
        return [*whole, *found]


def answering() -> list[Answering]:
    """Every meter that can be asked."""
    out = []
    for item in stores().of(METERED):
        address, speaks = item.more.get("address"), item.more.get("speaks")
        known = next((i for i in INSTRUMENTS if i.key == speaks), None)
        if isinstance(address, str) and known is not None:
            out.append(Answering(item=item, address=address, instrument=known))
    return out
