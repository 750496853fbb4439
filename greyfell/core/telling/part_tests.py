"""Cold tests of what else a donor holds, none of them by the mains: what to read, the band a sound
one falls into, and what other readings mean. Common practice where no source stands.
"""

import math
from typing import Literal

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import as_read, parse_quantity, span


class PartTest(Struct, frozen=True, kw_only=True):
    """One test of a kind of part: what is done, the unit, the band of a sound one (`open` where it
    must read OL), and what a reading below or above the band means.
    """

    key: str
    kind: str
    title: str
    do: str
    unit: Literal["ohm", "farad", "volt"]
    low: float
    high: float
    below: str
    above: str


OPEN = math.inf
PART_TESTS = (
    PartTest(
        key="capacitor-farads",
        kind="capacitor",
        title="Capacitor: farads",
        do="Only after the salvage gate: capacitance range, both leads off.",
        unit="farad",
        low=0.5e-6,
        high=1.3e-6,
        below="Below: open inside, or not an oven's. Compare with the label and its tolerance.",
        above="Above: not an oven's, or a range misread. Compare with the label.",
    ),
    PartTest(
        key="capacitor-bleeder",
        kind="capacitor",
        title="Capacitor: across its terminals",
        do="Highest ohms range, wait until it stands still: the resistor inside.",
        unit="ohm",
        low=5e6,
        high=15e6,
        below="Below: leaking or shorted. Condemned.",
        above="OL: no bleeder, or it is open. It keeps its charge for days.",
    ),
    PartTest(
        key="capacitor-can",
        kind="capacitor",
        title="Capacitor: each terminal to the can",
        do="Highest ohms range, one terminal to the can, then the other.",
        unit="ohm",
        low=20e6,
        high=OPEN,
        below="Ohms: the can is live in use. Condemned.",
        above="",
    ),
    PartTest(
        key="diode-forward",
        kind="diode",
        title="HV diode: forward",
        do=(
            "An oven's diode is a row of junctions: it needs 6 to 9 V before it conducts, so an "
            "ordinary meter reads OL both ways. Isolated 12 to 24 V DC through 10 kΩ, anode to "
            "plus: volts across the diode."
        ),
        unit="volt",
        low=4.0,
        high=10.0,
        below="Under 4 V: shorted. Condemned.",
        above="The whole source: open, or the wrong way round. Turn it; both ways is open.",
    ),
    PartTest(
        key="diode-reverse",
        kind="diode",
        title="HV diode: reverse",
        do="Turn it round, the same source through 10 kΩ: volts across the diode.",
        unit="volt",
        low=11.5,
        high=25.0,
        below="Less than the source: it leaks. Condemned.",
        above="More than the source of 12 to 24 V: look at the range.",
    ),
    PartTest(
        key="fuse",
        kind="fuse",
        title="Fuse, line or HV",
        do="Out of its clips, lowest ohms range, probes zeroed.",
        unit="ohm",
        low=0.0,
        high=10.0,
        below="",
        above="OL: blown. Find what blew it before the next one goes in.",
    ),
    PartTest(
        key="cut-out",
        kind="cut-out",
        title="Thermal cut-out",
        do="Both tabs free, at room temperature, lowest ohms range.",
        unit="ohm",
        low=0.0,
        high=0.5,
        below="",
        above="OL: tripped. One-shot links stay so; others close again when cold.",
    ),
    PartTest(
        key="relay-coil",
        kind="relay",
        title="Relay: its coil",
        do="The two coil pins.",
        unit="ohm",
        low=20.0,
        high=20e3,
        below="Few ohms: these are its contacts, or turns are shorted.",
        above="OL: its coil is open, or these are not its pins.",
    ),
    PartTest(
        key="switch",
        kind="switch",
        title="Switch: its contacts, closed",
        do="Press it, lowest ohms range, probes zeroed.",
        unit="ohm",
        low=0.0,
        high=0.5,
        below="",
        above="Ohms: burnt contacts. Not for switching mains.",
    ),
)
BY_KEY = {test.key: test for test in PART_TESTS}
"""Every test by its key."""
OPEN_WORDS = ("ol", "open", "o")
SIGNS = {"ohm": "Ω", "farad": "F", "volt": "V"}


class TestTold(Struct, frozen=True):
    """What a reading of a part says: sound or not, and the sentence."""

    sound: bool
    sentence: str


def expected(test: PartTest) -> str:
    """The band of a sound one, in words."""
    if test.high == OPEN:
        return f"OL, or above {as_read(test.low, SIGNS[test.unit])}"
    return span(test.low, test.high, SIGNS[test.unit])


def judge_part(test: PartTest, text: str) -> TestTold:
    """What a reading says of a part. Raises FieldError where it is no figure.

    >>> judge_part(BY_KEY["diode-forward"], "7.1V").sound
    True
    """
    text = text.strip()
    if not text:
        raise FieldError("value", "Type what was read, or OL; nothing was given.")
    opened = text.lower() in OPEN_WORDS
    if opened and test.unit != "ohm":
        raise FieldError("value", f"OL is no reading of {test.unit}s; type the figure.")
    value = OPEN if opened else abs(parse_quantity(text, test.unit, field="value"))
    if value < test.low:
        return TestTold(False, test.below)
    if value > test.high:
        return TestTold(False, test.above)
    return TestTold(True, f"Inside {expected(test)}: as a sound one reads. Cold says no more.")
