"""Ohms between two points, by an ohmmeter's two probes."""

import math
import re
from collections.abc import Mapping
from typing import Any, Literal

from greyfell.core.errors import FieldError
from greyfell.core.evidence.accuracy import PROBE_UNSTATED_OHMS, OhmReading, limit, resolution
from greyfell.core.evidence.kinds.reading import (
    OPEN,
    OVER_RANGE,
    WIRE_STAYS,
    AnyReading,
    HookUp,
    Pad,
    ends,
)
from greyfell.core.evidence.part import NoOhms, Ohms, Pair
from greyfell.core.evidence.typed_line import BY_FIGURES, ELSE, Form, Heard, Said, refuse
from greyfell.core.figures.notation import as_read, engineering, parse_quantity

OVER_DIAL = 1.1
"""A display goes a little beyond its range: 2000 counts and more on one called 1999."""
PROBE_APART = 0.05
"""What probes that were read shorted may read otherwise in the next minute, Ω. Common practice."""
_PROBES = re.compile(r"\bprobes?\s+(.+)$", re.I)
_OPEN_WORD = re.compile(r"(?:^|(?<=\s))(?:open|o|ol|o\.l\.?|oo|inf|∞)(?=\s|$)", re.I)


def _tells_open(heard: Heard) -> bool:
    return heard.rest.startswith(">") or _OPEN_WORD.search(heard.rest) is not None


def _open(heard: Heard) -> Said:
    """Nothing conducts, over a range where it is given."""
    span = _OPEN_WORD.sub(" ", heard.rest).replace(">", " ").strip()
    span = re.sub(r"^on\s+", "", span)
    over = {"range_ohms": parse_quantity(span, "ohm", field="range")} if span else {}
    return {"kind": "resistance", "between": heard.pair, "ohms": OPEN, **over}


def _read(heard: Heard) -> Said:
    """Ohms, and the probes' own where they are stated."""
    pair, rest = heard.pair, heard.rest
    if not rest:
        refuse(f"What did {ends(pair)} read? Ohms, “open”, or volts: “{'-'.join(pair)} 1.3”.")
    probes = _PROBES.search(rest)
    text = rest[: probes.start()].strip() if probes else rest
    text, _, span = text.partition(" on ")
    ohms = parse_quantity(text, "ohm", field="ohms")
    if ohms < 0:
        raise FieldError("ohms", f"Ohms must not be negative; {ohms:g} was given.")
    stated = {"probe_ohms": parse_quantity(probes[1], "ohm", field="probe ohms")} if probes else {}
    if span:
        stated["range_ohms"] = parse_quantity(span, "ohm", field="range")
    return {"kind": "resistance", "between": pair, "ohms": ohms, **stated}


class Resistance(AnyReading):
    """Ohms between two points; `probe_ohms` of the probes shorted, `range_ohms` of the range."""

    kind: Literal["resistance"] = "resistance"
    between: Pair
    ohms: NoOhms | Literal["open"]
    range_ohms: Ohms | None = None
    probe_ohms: NoOhms | None = None

    lines = (
        ("A-B 1.3", "resistance"),
        ("A-core open 20M", "over the range of 20 MΩ"),
        ("A-B 1.3 probes 0.2", "probe resistance stated"),
    )
    after_pair = (Form(_tells_open, _open, BY_FIGURES), Form(lambda heard: True, _read, ELSE))
    pad = Pad(units=(("Ω", ""), ("kΩ", "k"), ("MΩ", "M")), words=(OVER_RANGE,))
    usual_percent = 1.2
    moves = "ohms"
    by_ohmmeter = True
    of_wire = True
    may_open = True
    station = "cold"
    reaches = "cold"
    hookup = HookUp(shape="ohms")
    meets = frozenset(("ohms of pairs", "open to the core"))

    @classmethod
    def in_hand(
        cls, said: dict[str, Any], dial: float | None, zero: float | None
    ) -> dict[str, Any]:
        """With the range and the probe zero that the meter stood at. Raises FieldError where the
        dial's range shows no such figure.
        """
        ohms = said["ohms"]
        if zero is not None and ohms != OPEN:
            said = {**said, "probe_ohms": said.get("probe_ohms", zero)}
        if dial is None:
            return said
        if ohms != OPEN and ohms > OVER_DIAL * dial:
            refuse(
                f"The dial stands at {engineering(dial, 'Ω')}, which shows no "
                f"{engineering(ohms, 'Ω')}: set it to where the meter stood, or to “not noted”."
            )
        return {"range_ohms": dial} | said

    def words(self) -> str:
        """As it is read out, with its range where it is open, with its probes where they are
        stated.
        """
        if isinstance(self.ohms, str):
            over = f", over {as_read(self.range_ohms, 'Ω')}" if self.range_ohms else ""
            return f"{ends(self.between)} open{over}"
        probes = "" if self.probe_ohms is None else f", probes {as_read(self.probe_ohms, 'Ω')}"
        return f"{ends(self.between)} {as_read(self.ohms, 'Ω')}{probes}"

    @property
    def ohms_between(self) -> Pair:
        """The two points of the probes."""
        return self.between

    @property
    def ohms_shown(self) -> float:
        """Ohms that the display showed; infinite where it showed none."""
        return math.inf if isinstance(self.ohms, str) else self.ohms

    def ohms_read(self, probes: Mapping[str | None, float] | None = None) -> OhmReading:
        """Ohms less the probes'; of probes that nobody read, the middle of what they may read."""
        if isinstance(self.ohms, str):
            return OhmReading(self, math.inf, 0.0)
        error = limit(self, "ohms")
        if self.probe_ohms is not None:
            apart = min(PROBE_APART, resolution(self.probe_ohms))
            return OhmReading(self, self.ohms - self.probe_ohms, error + apart, self.probe_ohms)
        low, high = PROBE_UNSTATED_OHMS
        high = (probes or {}).get(self.meter, high)
        off = (low + high) / 2
        return OhmReading(self, self.ohms - off, error + (high - low) / 2, off)

    def holds_after(self, change: str) -> bool:
        """Ohms of wire do where the wire stays; what parts two windings may have been hurt."""
        return not self.is_open and change in WIRE_STAYS
