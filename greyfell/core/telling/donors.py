"""Donors: what a piece comes out of, how each is taken apart, what else it holds, and what its
fuses and mass tell of it before the case is open.

Sequences and figures are common practice; masses and classes from memory.
"""

from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import checked
from greyfell.core.evidence.record import Donor
from greyfell.core.figures.quantity import Quantity


class Dismantle(Struct, frozen=True, kw_only=True):
    """One card of taking a donor apart: what is done, and whether a photo is worth taking first."""

    do: str
    photo: bool = False


class DonorKind(Struct, frozen=True, kw_only=True):
    """A kind of donor: its key, what it is called, the family its iron has, the stores' kinds it
    usually holds, and how it is taken apart, in order.
    """

    key: str
    words: str
    family: str
    holds: tuple[str, ...]
    cards: tuple[Dismantle, ...]


PLUG = Dismantle(do="Plug out and in sight; cut it off if the case will lie about open.")
LABEL = Dismantle(
    do="Label both sides of every lead, note where it went and what it fed; then cut or pull.",
    photo=True,
)
DONORS = (
    DonorKind(
        key="oven",
        words="microwave oven",
        family="microwave",
        holds=("capacitor", "diode", "fuse", "cut-out", "relay", "switch", "wire", "lamp"),
        cards=(
            PLUG,
            Dismantle(do="Door off or taped shut, loose parts out, then the cover.", photo=True),
            Dismantle(do="Walk the salvage gate; the bracket stays on until it is done."),
            LABEL,
            Dismantle(do="Two screws and two tabs hold the transformer; it weighs some kilograms."),
            Dismantle(do="Magnetron whole to the recycling point; the rest to Stores."),
        ),
    ),
    DonorKind(
        key="sign",
        words="sign supply",
        family="sign",
        holds=("capacitor", "switch", "wire"),
        cards=(
            PLUG,
            Dismantle(do="Plate first: volts, milliamps, middle earthed or not.", photo=True),
            Dismantle(do="Tubes off at both bushings; their ends stay covered.", photo=True),
            LABEL,
            Dismantle(do="Lift by the case. The potting stays where it is."),
        ),
    ),
    DonorKind(
        key="welder",
        words="welding set",
        family="other",
        holds=("wire", "switch", "lug", "capacitor"),
        cards=(
            PLUG,
            Dismantle(do="Crank fully in, cables off, cover off out of doors.", photo=True),
            Dismantle(do="Cloth and board around the coils are wetted, not brushed."),
            Dismantle(do="Mark where the moving iron stood before it is moved.", photo=True),
            LABEL,
        ),
    ),
    DonorKind(
        key="valve set",
        words="valve amplifier or set",
        family="mains",
        holds=("capacitor", "resistor", "fuse", "switch", "wire"),
        cards=(
            PLUG,
            Dismantle(do="Reservoir capacitors let down one by one, and measured; some keep days."),
            Dismantle(do="Valves out, each socket noted: which pins are heaters.", photo=True),
            LABEL,
            Dismantle(do="Count the valves of each heater winding: that is its amps."),
        ),
    ),
    DonorKind(
        key="cabinet",
        words="control cabinet",
        family="mains",
        holds=("breaker", "fuse", "relay", "switch", "wire", "residual-current-device"),
        cards=(
            Dismantle(do="Dead from a person who may switch it off, locked, proved dead, told."),
            Dismantle(do="Plate and terminal strip first.", photo=True),
            LABEL,
            Dismantle(do="Capacitors and a battery may sit behind the power supply."),
        ),
    ),
    DonorKind(
        key="other",
        words="something else",
        family="",
        holds=("capacitor", "fuse", "switch", "wire"),
        cards=(PLUG, Dismantle(do="Look for capacitors before you touch.", photo=True), LABEL),
    ),
)
BY_KEY = {kind.key: kind for kind in DONORS}
"""Every kind by its key."""

MASS_VA = {
    "oven": ((9.0, 18.0), (600.0, 1800.0)),
    "sign": ((2.0, 25.0), (100.0, 1000.0)),
}
"""Mass of the whole donor, kg, and the volt-amperes of its iron. From memory."""
LIGHT_OVEN = 10.0
"""A full-sized oven of fewer kilograms more often has an inverter than iron. Common practice."""
FUSE_SHARE = (0.35, 0.8)
"""Share of a line fuse's volt-amperes that the transformer behind it draws. Common practice."""
HIGH_SHARE = (0.4, 0.9)
"""Share of a high-voltage fuse's volt-amperes that are drawn. Common practice."""


def parse_donor(document: Mapping[str, Any]) -> Donor:
    """A donor, checked. Raises FieldError that names the field."""
    if document.get("kind") not in BY_KEY:
        raise FieldError("kind", f"Say what it is: {', '.join(k.words for k in DONORS)}.")
    donor: Donor = checked(Donor, document)
    return donor


def _told_of_class(donor: Donor) -> Iterator[tuple[float, float, str]]:
    if donor.line_fuse_amps and donor.volts:
        va = donor.line_fuse_amps * donor.volts
        why = f"line fuse {donor.line_fuse_amps:g} A × {donor.volts:g} V"
        yield FUSE_SHARE[0] * va, FUSE_SHARE[1] * va, why
    if donor.high_fuse_amps and donor.high_fuse_volts:
        va = donor.high_fuse_amps * donor.high_fuse_volts
        why = f"HV fuse {donor.high_fuse_amps:g} A × {donor.high_fuse_volts:g} V"
        yield HIGH_SHARE[0] * va, HIGH_SHARE[1] * va, why
    if donor.mass_kg and donor.kind in MASS_VA:
        (_, heavy), (least, most) = MASS_VA[donor.kind]
        top = most * min(1.0, donor.mass_kg / heavy)
        yield min(least, top / 2), max(top, least), f"{donor.mass_kg:g} kg of it"


def class_of(donor: Donor) -> Quantity | None:
    """The volt-amperes its iron is made for, before the case is open: by the line fuse, by the
    high-voltage fuse, by the mass of the whole; what all of them allow. None where nothing is said.
    Shares common practice.

    Line fuse × volts, high-voltage fuse × its volts: apparent power S = U·I.

    >>> class_of(Donor(kind="oven", volts=230.0, line_fuse_amps=10.0)).basis
    ('line fuse 10 A × 230 V',)
    """
    said = list(_told_of_class(donor))
    if not said:
        return None
    low, high = max(x for x, _, _ in said), min(y for _, y, _ in said)
    if low > high:  # they contradict each other: all of what they say
        low, high = min(x for x, _, _ in said), max(y for _, y, _ in said)
    return Quantity((low * high) ** 0.5, low, high, tuple(why for _, _, why in said))


def iron_or_inverter(donor: Donor) -> str:
    """Whether an oven has iron or an inverter, as far as can be told from outside."""
    if donor.kind != "oven":
        return ""
    if donor.inverter:
        return (
            "An inverter: its small ferrite transformer never goes on the mains, and its board "
            "holds charge of its own."
        )
    if donor.inverter is False:
        return "Iron, as you saw."
    if donor.mass_kg is not None and donor.mass_kg < LIGHT_OVEN:
        return (
            f"Under {LIGHT_OVEN:g} kg: more likely an inverter than iron. Look for a fan over a "
            "board before you count on it."
        )
    if donor.mass_kg is not None:
        return f"{LIGHT_OVEN:g} kg and more: more likely iron than an inverter. Lift one corner."
    return "Iron or inverter is not known: an oven with iron is heavy on one side."
