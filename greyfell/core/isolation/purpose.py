"""Before anything is isolated: what it is for, and what answers that better; which of earth, float
and neutral suits, and what that costs.
"""

from msgspec import Struct

from greyfell.core.errors import FieldError

EARTH, FLOAT, NEUTRAL = "earth", "float", "neutral"
TIES = {
    EARTH: "pin to earth: the case is earthed, both conductors float",
    FLOAT: "pin to nothing: case and conductors float",
    NEUTRAL: "pin to one pole: as a socket in the wall",
}
"""What the outlet's earth pin is tied to; the core stays earthed in all three."""


class Purpose(Struct, frozen=True, kw_only=True):
    """What isolation is wanted for: what is advised instead or with it, the reason, the tie that
    suits where it is built, and what that costs.
    """

    key: str
    title: str
    advice: str
    reason: str
    tie: str
    cost: str
    builds: bool


PURPOSES: tuple[Purpose, ...] = (
    Purpose(
        key="scope-live",
        title="Measure on a live circuit with an earthed scope",
        advice="A differential probe, or two probes with one inverted and added, and no clip.",
        reason="The scope stays earthed. Floating the circuit lets the clip choose what becomes "
        "earth; floating the scope puts its case at the clip's volts.",
        tie=FLOAT,
        cost="Added probes leave some per cent of what is common to both, and less bandwidth.",
        builds=False,
    ),
    Purpose(
        key="appliance",
        title="Repair an appliance of two pins",
        advice="A residual-current device of 30 mA ahead of the bench first; then an isolated "
        "outlet, pin floating, one appliance at a time.",
        reason="Isolation makes one touch harmless and hides the first fault; the device sees no "
        "more behind it, so it does not replace care with two points.",
        tie=FLOAT,
        cost="The first fault is silent: leakage is tested again each month.",
        builds=True,
    ),
    Purpose(
        key="earthed-appliance",
        title="Repair an appliance with an earthed case",
        advice="A residual-current device of 30 mA, no isolation: its case is earthed already.",
        reason="Isolated with its pin to earth a fault to the case is silent; with the pin cut its "
        "case floats and no one knows at what.",
        tie=EARTH,
        cost="With the pin to earth the first fault ties one pole to the case, unseen.",
        builds=False,
    ),
    Purpose(
        key="hot-chassis",
        title="A set whose chassis is on the line",
        advice="An isolated outlet, pin floating; better one marked to IEC 61558-2-4.",
        reason="Its chassis is a pole of what feeds it: behind isolation one hand on it closes "
        "nothing, two points still do.",
        tie=FLOAT,
        cost="An earthed clip on the chassis makes the other pole live to earth again.",
        builds=True,
    ),
    Purpose(
        key="bench-meter",
        title="A bench meter with an earthed case",
        advice="Nothing: the meter goes on the wall's outlet, its inputs float by themselves.",
        reason="Isolating the meter protects nobody; its leads are what touches the circuit.",
        tie=NEUTRAL,
        cost="None.",
        builds=False,
    ),
    Purpose(
        key="surge-strip",
        title="A strip with surge arresters or filters",
        advice="Not behind isolation: its arresters tie both poles to the pin.",
        reason="Varistors and capacitors from each pole to the pin end the isolation at the first "
        "surge, and leak a milliampere before.",
        tie=NEUTRAL,
        cost="Leakage and a second path to earth.",
        builds=False,
    ),
    Purpose(
        key="low-volts",
        title="Something that needs few volts",
        advice="A supply of 12 or 24 V marked SELV: below what a hand may meet.",
        reason="What cannot shock needs no isolation of mains volts; two barriers are in the mark.",
        tie=FLOAT,
        cost="None; cheaper than any build.",
        builds=False,
    ),
    Purpose(
        key="other",
        title="Something else",
        advice="Buy one marked to IEC 61558-2-4, and use it as the wall is used: one point, one "
        "hand.",
        reason="A home-made one is no safety isolating transformer however well it reads.",
        tie=FLOAT,
        cost="A test again each year, and after a fall, water or smoke.",
        builds=True,
    ),
)
"""Common practice; IEC 61140, IEC 60364-4-41 cl. 413, IEC 61558-2-4, from memory."""


def purpose_of(key: str) -> Purpose | None:
    """A purpose by its key; None where none was said. Raises FieldError where it is none."""
    if not key:
        return None
    found = next((p for p in PURPOSES if p.key == key), None)
    if found is None:
        known = ", ".join(p.key for p in PURPOSES)
        raise FieldError("purpose", f"It is for one of: {known}; “{key[:20]}” is none.")
    return found
