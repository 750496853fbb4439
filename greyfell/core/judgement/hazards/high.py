"""High voltage: where a winding's kilovolts stand depends on how it meets the iron."""

import re
from collections.abc import Callable, Iterable

from greyfell.core.belief.found import Winding
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.figures.notation import engineering, percent
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.hazards.rule import (
    Facts,
    HazardRule,
    Seen,
    ends_and_volts,
    volts_words,
)
from greyfell.core.judgement.high import is_high, may_be_high
from greyfell.core.judgement.leaks import FINEST_OHMS

KILOVOLTS = re.compile(r"\b(\d+(?:[.,]\d+)?)\s*kV\b", re.I)


def place_of(w: Winding, seen: Seen) -> str | None:
    """Where a winding's high voltage stands: on the `core`, to the `case`, between its `ends`, or
    only in `doubt`; None where HV is ruled out of it.

    Half of it stands to the case only where the iron was read to be its middle.
    """
    if not may_be_high(w):
        return None
    if w.coil.bond == "middle":
        return "case"
    if w.coil.bond == "end":
        return "core"
    return "ends" if is_high(w) else "doubt"


def _plate_volts(seen: Seen) -> float:
    """The highest volts that the plate states for an output; nought where it states none."""
    plate = seen.record.nameplate
    if plate is None:
        return 0.0
    told = [o.volts or 0.0 for o in plate.outputs] + [plate.secondary_volts or 0.0]
    told += [1e3 * float(x.replace(",", ".")) for x in KILOVOLTS.findall(plate.text)]
    return max(told)


def _plated(seen: Seen) -> Iterable[Facts]:
    """High voltage on the plate, and no winding found that is told to have it."""
    volts = _plate_volts(seen)
    if volts > HV_WINDING_VOLTS and not any(may_be_high(w) for w in seen.belief.windings):
        yield {"volts": engineering(volts, "V")}


def _hidden(seen: Seen) -> Iterable[Facts]:
    """A family that has an HV winding, and none was found: behind a diode or a fuse, open, unread,
    or taken for another by a fault.
    """
    if seen.belief.hidden:
        yield {"why": seen.belief.hidden}


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


def _finest(seen: Seen) -> Iterable[Facts]:
    """Ohms that are too many for a usual winding and too few for insulation, between two leads of
    no winding, or from one of them to the core.
    """
    topology = seen.belief.topology
    for leak in topology.leaks:
        free = [x for x in leak.points if x not in topology.iron]
        placed = any(topology.coil_of(x) is not None for x in free)
        if leak.ohms < FINEST_OHMS and free and not placed:
            yield {"leads": "–".join(leak.points), "ohms": engineering(leak.ohms, "Ω")}


def _unread(seen: Seen) -> Iterable[Facts]:
    """Leads that were not read yet, on a piece of which something is known."""
    if seen.belief.windings and seen.belief.topology.untested:
        yield {"leads": ", ".join(seen.belief.topology.untested)}


RULES = (
    HazardRule(
        code="core-live",
        condition="an HV winding, or one that may be, is bonded to the iron at its end",
        cleared="HV ruled out of the winding",
        headline="Live core when powered.",
        what=(
            "The HV end is bonded to the iron; expect {volts} between its lead and the case. The "
            "core carries the return:"
        ),
        instead="bond it to protective earth before any power. One touch can kill.",
        source="common practice; IEC 60479-1 for the body",
        when=_at("core"),
    ),
    HazardRule(
        code="hv-to-case",
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
        condition="50 to 200 kΩ between leads of no winding",
        cleared="another reading that tells a winding from damp",
        headline="HV not ruled out.",
        what="{leads} reads {ohms}: a winding of the finest wire has that, and tens of kilovolts.",
        instead="Treat it as one until shown otherwise.",
        source="common practice",
        when=_finest,
    ),
    HazardRule(
        code="hv-not-ruled-out",
        condition="a lead was not read yet",
        cleared="every lead read against the others and the core",
        headline="HV not ruled out.",
        what="{leads} not read yet: an HV winding may end there.",
        instead="Treat it as one until every lead is read.",
        source="house rule",
        when=_unread,
    ),
    HazardRule(
        code="hv",
        condition="the plate states an output above 600 V, and no winding found has it",
        cleared="the winding found, and its volts",
        headline="High voltage on the plate.",
        what="The plate states {volts}, and the winding that has it was not found:",
        instead="take every lead for one that carries it.",
        source="common practice; IEC 60479-1 for the body",
        when=_plated,
    ),
    HazardRule(
        code="hv-not-ruled-out",
        condition="an oven or sign transformer by belief or odds, and no HV winding found",
        cleared="the HV winding found, or said to be removed",
        headline="HV not ruled out.",
        what="No HV winding was found, and {why}: a diode, a fuse or a fault may hide it.",
        instead="Treat every lead as able to carry kilovolts.",
        source="house rule",
        when=_hidden,
    ),
)
