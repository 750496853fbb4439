"""What on a piece can hurt, said plainly. Never "only" of any HV output, and never "safe" for want
of data.

Local codes and licensed practice stand above anything said here.
"""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from greyfell.core.quantity import Quantity, engineering, span
from greyfell.core.record import Transformer

if TYPE_CHECKING:
    from greyfell.core.identify import Identification, Winding

TOUCH_VOLTS = 50.0
"""Conventional touch voltage limit, AC. REF-H, IEC 61140 and IEC 60364-4-41."""
LIVE_VOLTS = 30.0
"""Above 30 V RMS accessible parts count as live. REF-H, IEC 61010-1 cl. 6.3."""
HIGH_VOLTS = 600.0
"""Above this no ordinary 600 V meter may be put on. Domain rule."""
NOT_RULED_OUT = 0.15
"""From this chance of being an HV winding a winding is treated as one. From memory."""


@dataclass(frozen=True)
class Hazard:
    """A danger: its code, a headline of few words, and a sentence saying what, why and what to do
    instead.
    """

    code: str
    headline: str
    sentence: str


def volts_words(volts: Quantity | None) -> str:
    """Volts for a sentence: about so many, with the range."""
    if volts is None:
        return "unknown volts"
    return f"about {engineering(volts.value, 'V')} ({span(volts.low, volts.high, 'V')})"


def find_hazards(record: Transformer, ident: "Identification") -> list[Hazard]:
    """Every danger the present beliefs imply, the gravest first. Never empty: what is not known is
    said to be unknown.
    """
    if not ident.windings:
        return [
            Hazard(
                "unknown",
                "Not yet known.",
                (
                    "Nothing is known of this piece yet: treat every lead as able to carry "
                    "kilovolts, and its capacitor, if one is near, as charged."
                ),
            )
        ]
    high = [
        w
        for w in ident.windings
        if (w.volts is not None and w.volts.high > HIGH_VOLTS)
        or w.roles.get("hv-secondary", 0) > NOT_RULED_OUT
    ]
    out = [_high(w, ident) for w in high]
    out += _stored(ident)
    out += [_above_touch(w) for w in ident.windings if w not in high and _reaches_touch(w)]
    out += _of_the_mains(record, ident)
    return out or [
        Hazard(
            "unknown",
            "Not yet known.",
            (
                "What this piece can put out is not known: until it is, treat every lead as "
                "live when powered."
            ),
        )
    ]


def _high(w: "Winding", ident: "Identification") -> Hazard:
    """An HV winding, or one that may yet be: where its kilovolts stand depends on how it meets the
    iron.
    """
    words, ends = volts_words(w.volts), "–".join(w.coil.leads)
    sign = ident.families.get("sign", 0.0)
    if w.coil.bond == "end" and ident.families.get("microwave", 0.0) >= sign:
        return Hazard(
            "core-live",
            "Live core when powered.",
            (
                f"The HV end is bonded to the iron; expect {words}. The core carries the "
                "return: bond it to protective earth before any power. One touch can kill."
            ),
        )
    if w.coil.bond == "middle" or (sign > 0.5 and w.coil.bond is not None):
        half = volts_words(_half(w.volts)) if w.volts else "half of it"
        return Hazard(
            "hv-to-case",
            "Kilovolts to the case.",
            (
                f"Expect {words} between the bushings and {half} from each to the case. The "
                "case must be earthed. A touch of one terminal is not survivable by design."
            ),
        )
    if w.role == "hv-secondary" or (w.volts is not None and w.volts.value > HIGH_VOLTS):
        return Hazard(
            "hv",
            "High voltage.",
            (
                f"{ends} is likely an HV winding: expect {words} with the primary on the "
                "supply. Current and volts are lethal; no ordinary meter belongs on it."
            ),
        )
    chance = w.roles.get("hv-secondary", 0.0)
    return Hazard(
        "hv-not-ruled-out",
        "HV not ruled out.",
        (
            f"{ends} may yet be an HV winding ({100 * chance:.0f} %), with kilovolts between "
            "its ends. Treat it as one until low-energy tests have told."
        ),
    )


def _stored(ident: "Identification") -> list[Hazard]:
    """What strikes with the plug pulled, and what has no second winding to stand between."""
    out = []
    if ident.families.get("microwave", 0.0) > 0.3:
        out.append(
            Hazard(
                "capacitor",
                "Capacitor may hold charge.",
                (
                    "An oven's HV capacitor stays charged, whatever its age: discharge it "
                    "through a resistor, then short it, then measure, before touching anything."
                ),
            )
        )
    if ident.families.get("choke", 0.0) > 0.3:
        out.append(
            Hazard(
                "kick",
                "It kicks when opened.",
                (
                    "A choke keeps its current going: opening a DC circuit through it makes a "
                    "spark and up to kilovolts at its ends. Ramp down before you open, and "
                    "keep hands off both ends."
                ),
            )
        )
    single = len([w for w in ident.windings if not w.coil.broken]) == 1
    if single and ident.windings[0].coil.taps:
        out.append(
            Hazard(
                "no-isolation",
                "No isolation.",
                (
                    "One tapped winding is an autotransformer: every point of it may be live "
                    "to earth, whatever its volts to each other."
                ),
            )
        )
    return out


def _reaches_touch(w: "Winding") -> bool:
    return (
        w.volts is not None
        and w.role not in ("primary", "primary-half")
        and w.volts.high > TOUCH_VOLTS
    )


def _above_touch(w: "Winding") -> Hazard:
    value = "It"
    if w.volts is not None:
        value = (
            engineering(w.volts.value, "V")
            if w.volts.value > TOUCH_VOLTS
            else f"Up to {engineering(w.volts.high, 'V')}"
        )
    return Hazard(
        "above-touch",
        f"{value} can kill.",
        (
            f"{'–'.join(w.coil.leads)} puts out {volts_words(w.volts)}: above the 50 V touch "
            "limit (IEC 61140)."
        ),
    )


def _of_the_mains(record: Transformer, ident: "Identification") -> list[Hazard]:
    out = []
    if ident.other_region > 0.25:
        out.append(
            Hazard(
                "other-mains",
                "Made for other mains?",
                (
                    "The ohms suggest a piece made for another mains voltage than "
                    f"{record.supply.volts:g} V: on this supply it would saturate or run far "
                    "from its volts."
                ),
            )
        )
    if any(w.role in ("primary", "primary-half") for w in ident.windings):
        out.append(
            Hazard(
                "mains",
                "Mains on the primary.",
                (
                    f"The primary carries {record.supply.volts:g} V mains when powered. A "
                    "residual-current device does not protect anyone touching an isolated "
                    "winding."
                ),
            )
        )
    return out


def _half(volts: Quantity | None) -> Quantity | None:
    return Quantity(volts.value / 2, volts.low / 2, volts.high / 2, volts.basis) if volts else None
