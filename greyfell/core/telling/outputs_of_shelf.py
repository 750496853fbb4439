"""What a piece gives: its outputs with volts, amps and the ohms behind them, and whether one
answers a question such as “5 A at 12 V for an hour”.
"""

import re
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.judgement.identification import Identification

BEARS = (0.92, 1.20)
"""Loaded volts over the volts wanted: what is made for 12 V bears 11 to 14.4 V. House rule."""
MINUTES = 5.0
"""What is wanted for longer counts as wanted for good: copper warms in ten to twenty minutes. Up to
here the amps of one minute are asked, which hold for that minute only. Common practice."""
MOST_VOLTS, MOST_AMPS = 1e5, 1e5


class ShelfOutput(Struct, frozen=True, kw_only=True):
    """One output: its ends, open volts low and high, the ohms behind them, amps for good and for a
    minute, low and high each.
    """

    name: str
    volts: tuple[float, float]
    ohms: float
    amps: tuple[float, float]
    minute: tuple[float, float]

    def as_json(self) -> dict[str, Any]:
        """For the shelf."""
        return {
            "name": self.name,
            "volts_low": self.volts[0],
            "volts_high": self.volts[1],
            "ohms": self.ohms,
            "amps_low": self.amps[0],
            "amps_high": self.amps[1],
            "minute_low": self.minute[0],
            "minute_high": self.minute[1],
        }


class WantedOutput(Struct, frozen=True):
    """Volts and amps asked for; `brief` where a minute is enough."""

    volts: float
    amps: float
    brief: bool = False

    @property
    def least(self) -> float:
        """The least loaded volts that will do."""
        return BEARS[0] * self.volts

    @property
    def most(self) -> float:
        """The most loaded volts that will do."""
        return BEARS[1] * self.volts


NUMBER = r"(?<![\w.,])(\d+(?:[.,]\d+)?(?:e[+-]?\d+)?\s*[kmµ]?)\s*"
VOLTS = re.compile(NUMBER + r"V\b", re.I)
AMPS = re.compile(NUMBER + r"A\b", re.I)
LASTING = re.compile(r"(\d+(?:[.,]\d+)?|an?|one)?\s*(s|sec\w*|min\w*|h|hour\w*)\b", re.I)
SECONDS = {"s": 1.0, "m": 60.0, "h": 3600.0}


def parse_wanted(text: str) -> WantedOutput:
    """A question in words: volts and amps, and for how long; for good where nothing is said.

    Raises FieldError naming `wanted`.

    >>> parse_wanted("5 A at 12 V for an hour")
    WantedOutput(volts=12.0, amps=5.0, brief=False)
    >>> parse_wanted("24V 800mA 1 min")
    WantedOutput(volts=24.0, amps=0.8, brief=True)
    """
    volts, amps = VOLTS.search(text), AMPS.search(text)
    if volts is None or amps is None:
        raise FieldError(
            "wanted",
            f"Ask for volts and amps, such as 5 A at 12 V for an hour; “{text[:40]}” does not.",
        )
    asked_volts = parse_quantity(f"{volts.group(1)}V", "volt", field="wanted volts")
    asked_amps = parse_quantity(f"{amps.group(1)}A", "ampere", field="wanted amps")
    for name, value, most in (("volts", asked_volts, MOST_VOLTS), ("amps", asked_amps, MOST_AMPS)):
        if not 0 < value <= most:
            raise FieldError("wanted", f"Wanted {name} lie above 0, up to {most:g}; {value:g} was.")
    rest = AMPS.sub(" ", VOLTS.sub(" ", text))
    return WantedOutput(asked_volts, asked_amps, _brief(rest))


def _brief(text: str) -> bool:
    """Whether a time is named that a minute's amps answer."""
    found = LASTING.search(text)
    if found is None:
        return False
    count = found.group(1) or "1"
    number = 1.0 if not count[0].isdigit() else float(count.replace(",", "."))
    return number * SECONDS[found.group(2)[0].lower()] <= MINUTES * 60


def outputs(ident: Identification) -> list[ShelfOutput]:
    """Every output of which volts and amps are known, with the ohms behind it: its own copper and
    the primary's by the square of the turns. REF-T-02. None of a piece that a stop stands on.
    """
    if ident.stopped:
        return []
    found = (_output(ident, w) for w in ident.windings)
    return [out for out in found if out is not None]


def _output(ident: Identification, w: Winding) -> ShelfOutput | None:
    rating, primary = ident.belief.ratings.get(w.id), fed_whole(ident.record, ident.belief)
    known = rating is not None and primary is not None and w.volts is not None
    if not known or w.on_mains or w.coil.broken or w.coil.unread:
        return None
    assert rating is not None
    assert primary is not None
    assert w.volts is not None
    supply = primary.volts.value if primary.volts is not None else ident.record.supply.volts
    behind = w.coil.ohms.value + primary.coil.ohms.value * (w.volts.value / supply) ** 2
    return ShelfOutput(
        name=w.name,
        volts=(w.volts.low, w.volts.high),
        ohms=behind,
        amps=(rating.continuous.low, rating.continuous.high),
        minute=(rating.minute.low, rating.minute.high),
    )


def answers(out: ShelfOutput, wanted: WantedOutput) -> str:
    """Whether an output gives what is wanted: `surely`, `perhaps`, or empty. Loaded volts are open
    volts less amps times the ohms behind them. Ohm's law.

    >>> bell = ShelfOutput(
    ...     name="C–D", volts=(12.5, 13.0), ohms=0.1, amps=(6.0, 9.0), minute=(15, 30)
    ... )
    >>> answers(bell, WantedOutput(12.0, 5.0)), answers(bell, WantedOutput(12.0, 8.0))
    ('surely', 'perhaps')
    """
    low, high = (v - wanted.amps * out.ohms for v in out.volts)
    least, most = out.minute if wanted.brief else out.amps
    if high < wanted.least or low > wanted.most or most < wanted.amps:
        return ""
    within = wanted.least <= low and high <= wanted.most
    return "surely" if within and least >= wanted.amps else "perhaps"
