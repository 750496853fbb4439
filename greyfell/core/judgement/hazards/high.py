"""High voltage: where a winding's kilovolts stand depends on how it meets the iron."""

from collections.abc import Callable, Iterable

from greyfell.core.belief.found import Winding
from greyfell.core.figures.notation import percent
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.hazards.rule import (
    Facts,
    HazardRule,
    Seen,
    ends_and_volts,
    volts_words,
)
from greyfell.core.judgement.high import is_high, may_be_high

LIKELY_SIGN = 0.5
"""From this chance of a sign transformer a bonded HV winding is taken for bonded in its middle."""


def place_of(w: Winding, seen: Seen) -> str | None:
    """Where a winding's high voltage stands: on the `core`, to the `case`, between its `ends`, or
    only in `doubt`; None where HV is ruled out of it.
    """
    if not may_be_high(w):
        return None
    sign = seen.family("sign")
    if w.coil.bond == "end" and seen.family("microwave") >= sign:
        return "core"
    if w.coil.bond == "middle" or (w.coil.bond is not None and sign > LIKELY_SIGN):
        return "case"
    return "ends" if is_high(w) else "doubt"


def _at(place: str) -> Callable[[Seen], Iterable[Facts]]:
    """Every winding whose high voltage stands at a place."""

    def when(seen: Seen) -> Iterable[Facts]:
        for w in seen.belief.windings:
            if place_of(w, seen) == place:
                half = volts_words(_half(w.volts)) if w.volts else "half of it"
                yield {**ends_and_volts(w), "half": half, "chance": percent(w.hv_chance)}

    return when


def _half(volts: Quantity) -> Quantity:
    return Quantity(volts.value / 2, volts.low / 2, volts.high / 2, volts.basis)


def _unread(seen: Seen) -> Iterable[Facts]:
    """Leads that were not read yet, on a piece of which something is known."""
    if seen.belief.windings and seen.belief.topology.untested:
        yield {"leads": ", ".join(seen.belief.topology.untested)}


RULES = (
    HazardRule(
        code="core-live",
        rank=10,
        condition="an HV winding, or one that may be, is bonded to the iron at its end",
        cleared="HV ruled out of the winding",
        headline="Live core when powered.",
        what="The HV end is bonded to the iron; expect {volts}. The core carries the return:",
        instead="bond it to protective earth before any power. One touch can kill.",
        source="common practice; IEC 60479-1 for the body",
        when=_at("core"),
    ),
    HazardRule(
        code="hv-to-case",
        rank=10,
        condition="an HV winding, or one that may be, is bonded to the iron in its middle",
        cleared="HV ruled out of the winding",
        headline="Kilovolts to the case.",
        what="Expect {volts} between the bushings and {half} from each to the case.",
        instead=("The case must be earthed. A touch of one terminal is not survivable by design."),
        source="common practice; IEC 60479-1 for the body",
        when=_at("case"),
    ),
    HazardRule(
        code="hv",
        rank=10,
        condition="a winding is likeliest HV by role or by volts",
        cleared="HV ruled out of the winding",
        headline="High voltage.",
        what=(
            "{ends} is likely an HV winding: expect {volts} with the primary on the supply. "
            "Current and volts are lethal;"
        ),
        instead="no ordinary meter belongs on it.",
        source="common practice; IEC 60479-1 for the body",
        when=_at("ends"),
    ),
    HazardRule(
        code="hv-not-ruled-out",
        rank=10,
        condition="a winding has a chance of 0.01 or more of being HV, or may reach its volts",
        cleared="a ratio or other reading that leaves less than one chance in a hundred",
        headline="HV not ruled out.",
        what="{ends} may yet be an HV winding ({chance}), with kilovolts between its ends.",
        instead="Treat it as one until low-energy tests have told.",
        source="house rule",
        when=_at("doubt"),
    ),
    HazardRule(
        code="hv-not-ruled-out",
        rank=11,
        condition="a lead was not read yet",
        cleared="every lead read against the others and the core",
        headline="HV not ruled out.",
        what="{leads} not read yet: an HV winding may end there.",
        instead="Treat it as one until every lead is read.",
        source="house rule",
        when=_unread,
    ),
)
