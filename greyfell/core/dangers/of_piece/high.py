"""High voltage: where a winding's kilovolts stand depends on how it meets the iron."""

import re
from collections.abc import Callable, Iterator

from greyfell.core.belief.found import Winding
from greyfell.core.dangers.ends import ends_and_volts, volts_words
from greyfell.core.dangers.rule import HOUSE, POWER, STOP, Facts, Rule, piece
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.figures.notation import engineering, percent
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.high import is_high, may_be_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.leaks import FINEST_OHMS

KILOVOLTS = re.compile(r"\b(\d+(?:[.,]\d+)?)\s*kV\b", re.I)


def place_of(w: Winding) -> str | None:
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


def _plate_volts(ident: Identification) -> float:
    """The highest volts that the plate states for an output; nought where it states none."""
    plate = ident.record.nameplate
    if plate is None:
        return 0.0
    told = [o.volts or 0.0 for o in plate.outputs] + [plate.secondary_volts or 0.0]
    told += [1e3 * float(x.replace(",", ".")) for x in KILOVOLTS.findall(plate.text)]
    return max(told)


def _plated(ident: Identification) -> Iterator[Facts]:
    """High voltage on the plate, and no winding found that is told to have it."""
    volts = _plate_volts(ident)
    if volts > HV_WINDING_VOLTS and not any(may_be_high(w) for w in ident.windings):
        yield {"volts": engineering(volts, "V")}


def _hidden(ident: Identification) -> Iterator[Facts]:
    """A family that has an HV winding, and none was found: behind a diode or a fuse, open, unread,
    or taken for another by a fault.
    """
    if ident.belief.hidden:
        yield {"why": ident.belief.hidden}


def _at(place: str) -> Callable[[Identification], Iterator[Facts]]:
    """Every winding whose high voltage stands at a place."""

    def when(ident: Identification) -> Iterator[Facts]:
        for w in ident.windings:
            if place_of(w) == place:
                half = volts_words(_half(w.volts)) if w.volts else "half of it"
                yield {**ends_and_volts(w), "half": half, "chance": percent(w.hv_chance)}

    return when


def _half(volts: Quantity) -> Quantity:
    return Quantity(volts.value / 2, volts.low / 2, volts.high / 2, volts.basis)


def _finest(ident: Identification) -> Iterator[Facts]:
    """Ohms that are too many for a usual winding and too few for insulation, between two leads of
    no winding, or from one of them to the core.
    """
    topology = ident.topology
    for leak in topology.leaks:
        free = [x for x in leak.points if x not in topology.iron]
        placed = any(topology.coil_of(x) is not None for x in free)
        if leak.ohms < FINEST_OHMS and free and not placed:
            yield {"leads": "–".join(leak.points), "ohms": engineering(leak.ohms, "Ω")}


def _unread(ident: Identification) -> Iterator[Facts]:
    """Leads that were not read yet, on a piece of which something is known."""
    if ident.windings and ident.topology.untested:
        yield {"leads": ", ".join(ident.topology.untested)}


RULES = (
    Rule(
        code="core-live",
        ids=("H10", "H12", "H86"),
        near=POWER,
        severity=STOP,
        condition="an HV winding, or one that may be, is bonded to the iron at its end",
        cleared="HV ruled out of the winding",
        headline="Live core when powered.",
        reason=(
            "The HV end is bonded to the iron; expect {volts} between its lead and the case. The "
            "core carries the return: one touch can kill."
        ),
        instead="Bond it to protective earth before any power.",
        source="common practice; IEC 60479-1 for the body",
        when=piece(_at("core")),
    ),
    Rule(
        code="hv-to-case",
        ids=("H10", "H12", "H69", "H86"),
        near=POWER,
        severity=STOP,
        condition="an HV winding, or one that may be, is bonded to the iron in its middle",
        cleared="HV ruled out of the winding",
        headline="Kilovolts to the case.",
        reason="Expect {volts} between the bushings and {half} from each to the case.",
        instead="The case must be earthed. A touch of one terminal is not survivable by design.",
        source="common practice; IEC 60479-1 for the body",
        when=piece(_at("case")),
    ),
    Rule(
        code="hv",
        ids=("H12", "H35", "H68"),
        near=POWER,
        severity=STOP,
        condition="a winding is likeliest HV by role or by volts",
        cleared="HV ruled out of the winding",
        headline="High voltage.",
        reason=(
            "{ends} is likely an HV winding: expect {volts} with the primary on the supply. "
            "Current and volts are lethal."
        ),
        instead="No ordinary meter belongs on it.",
        source="common practice; IEC 60479-1 for the body",
        when=piece(_at("ends")),
    ),
    Rule(
        code="hv-not-ruled-out",
        ids=("H12", "H35"),
        near=POWER,
        severity=STOP,
        condition="a winding has a chance of 0.01 or more of being HV, or may reach its volts",
        cleared="a ratio or other reading that leaves less than one chance in a hundred",
        headline="HV not ruled out.",
        reason="{ends} may yet be an HV winding ({chance}), with kilovolts between its ends.",
        instead="Treat it as one until low-energy tests have told.",
        source=HOUSE,
        when=piece(_at("doubt")),
    ),
    Rule(
        code="hv-not-ruled-out",
        ids=("H12", "H35"),
        near=POWER,
        severity=STOP,
        condition="50 to 200 kΩ between leads of no winding",
        cleared="another reading that tells a winding from damp",
        headline="HV not ruled out.",
        reason=(
            "{leads} reads {ohms}: a winding of the finest wire has that, and tens of kilovolts."
        ),
        instead="Treat it as one until shown otherwise.",
        source="common practice",
        when=piece(_finest),
    ),
    Rule(
        code="hv-not-ruled-out",
        ids=("H12", "H35"),
        near=POWER,
        severity=STOP,
        condition="a lead was not read yet",
        cleared="every lead read against the others and the core",
        headline="HV not ruled out.",
        reason="{leads} not read yet: an HV winding may end there.",
        instead="Treat it as one until every lead is read.",
        source=HOUSE,
        when=piece(_unread),
    ),
    Rule(
        code="hv",
        ids=("H12", "H35", "H68"),
        near=POWER,
        severity=STOP,
        condition="the plate states an output above 600 V, and no winding found has it",
        cleared="the winding found, and its volts",
        headline="High voltage on the plate.",
        reason="The plate states {volts}, and the winding that has it was not found.",
        instead="Take every lead for one that carries it.",
        source="common practice; IEC 60479-1 for the body",
        when=piece(_plated),
    ),
    Rule(
        code="hv-not-ruled-out",
        ids=("H12", "H35"),
        near=POWER,
        severity=STOP,
        condition="an oven or sign transformer by belief or odds, and no HV winding found",
        cleared="the HV winding found, or said to be removed",
        headline="HV not ruled out.",
        reason="No HV winding was found, and {why}: a diode, a fuse or a fault may hide it.",
        instead="Treat every lead as able to carry kilovolts.",
        source=HOUSE,
        when=piece(_hidden),
    ),
)
