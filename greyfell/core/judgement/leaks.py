"""Insulation that leaks, the bleeder of a capacitor or a filter where all must be open, and leads
that conduct to nothing.
"""

import math

from msgspec import Struct, field

from greyfell.core.belief.found import Belief
from greyfell.core.belief.priors import HV
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.charge import filters, may_hold_charge
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.wiring.coil import Coil, Topology

INSULATION_STOP_OHMS = 2e6
"""Basic insulation reads at least 2 MΩ at 500 V DC. REF-H, IEC 61558-1 and IEC 60335-1 (from
memory)."""
INSULATION_CAUTION_OHMS = 7e6
"""Reinforced insulation reads at least 7 MΩ. Same source."""
TEST_VOLTS = {True: 500.0, False: 250.0}
"""An insulation test counts as one from these volts DC, for the 220 to 240 V region and the other;
with fewer it is an ohmmeter's reading. IEC 61558-1 cl. 18.2 (from memory); half of it for half the
mains is common practice."""
LEAK_STOP_OHMS = 5e6
"""An ordinary ohmmeter's 9 V or less reads this through sound insulation only if fingers or damp
help. Common practice."""
LEAK_CAUTION_OHMS = 4 * LEAK_STOP_OHMS
"""Below this an ohmmeter's finite reading is asked about. House rule."""
BLEEDER_OHMS = (7e6, 13e6)
"""The resistor inside an oven's HV capacitor has 9 to 12 MΩ, with a fifth either way. REF-R-T3,
common practice."""
IRON = -1
"""Stands for the core, and whatever is bonded to it, where a leak's other side is meant."""


class _Leaks(Struct):
    """The worst leak between every two sides, gathered from readings of either kind."""

    topology: Topology
    ohms: dict[tuple[int, int], float] = field(default_factory=dict)
    readings: dict[tuple[int, int], list[str]] = field(default_factory=dict)
    severity: dict[tuple[int, int], Severity] = field(default_factory=dict)

    def side(self, point: str) -> int | None:
        """The winding a point belongs to, IRON, or None where it belongs to nothing."""
        if point in self.topology.iron:
            return IRON
        i = self.topology.coil_of(point)
        if i is not None and self.topology.coils[i].bond is not None:
            return IRON
        return i

    def note(self, points: tuple[str, str], ohms: float, reading: str, stop: bool) -> None:
        """Add a reading; the graver severity and the fewer ohms stand."""
        one, two = self.side(points[0]), self.side(points[1])
        if one is None or two is None or one == two:
            return
        pair = (min(one, two), max(one, two))
        self.ohms[pair] = min(ohms, self.ohms.get(pair, math.inf))
        self.readings.setdefault(pair, []).append(reading)
        graver = stop or self.severity.get(pair) == "stop"
        self.severity[pair] = "stop" if graver else "caution"


def is_insulation_test(r: Reading, record: Transformer) -> bool:
    """Whether a reading tested insulation with volts enough to count."""
    if r.kind != "insulation":
        return False
    return r.test_volts >= TEST_VOLTS[high_region(record.supply.volts)]


def is_bleeder(r: Reading, record: Transformer, belief: Belief) -> bool:
    """Whether a reading to the core shows the resistor inside an oven's capacitor."""
    if r.kind not in ("resistance", "insulation") or r.ohms == "open":
        return False
    if not set(r.between) & belief.topology.iron or not may_hold_charge(record, belief):
        return False
    return BLEEDER_OHMS[0] < r.ohms < BLEEDER_OHMS[1]


def bleeder(record: Transformer, belief: Belief) -> list[Fault]:
    """The ohms of an oven capacitor's own bleeder from a winding to the core: it is still connected
    and may be charged.
    """
    found = [r for r in record.standing if is_bleeder(r, record, belief)]
    return [
        Fault(
            code="capacitor-connected",
            severity="stop",
            leads=tuple(r.between),
            readings=(r.id,),
            sentence=(
                f"{'–'.join(r.between)} reads {engineering(r.ohms, 'Ω')}: that is the bleeder "
                "inside an oven's HV capacitor, so it is still connected. Take it for charged: "
                "discharge it through a resistor, short it, measure it; take its leads off; then "
                "read the same pair again, which must be open."
            ),
        )
        for r in found
    ]


def filtered(record: Transformer, belief: Belief) -> list[Fault]:
    """The ohms of a mains filter's bleeder between two leads that no winding joins: the filter is
    still connected, and its capacitor may be charged.
    """
    return [
        Fault(
            code="filter-connected",
            severity="stop",
            leads=found.points,
            readings=(found.reading,),
            sentence=(
                f"{'–'.join(found.points)} reads {engineering(found.ohms, 'Ω')}: too much for a "
                "winding, and what a mains filter's bleeder has. Take its capacitor for charged: "
                "discharge it through a resistor, short it, measure it; take the filter off; then "
                "read the same pair again. Without a filter in sight it is insulation that leaks."
            ),
        )
        for found in filters(record, belief.topology)
    ]


def leaking(record: Transformer, belief: Belief) -> list[Fault]:
    """Megohms where there should be none: leakage through insulation, by ohmmeter or by insulation
    tester.
    """
    topology = belief.topology
    leaks = _Leaks(topology)
    bleeders = {r.id for r in record.standing if is_bleeder(r, record, belief)}
    for leak in topology.leaks:
        if leak.ohms < LEAK_CAUTION_OHMS and leak.reading not in bleeders:
            leaks.note(leak.points, leak.ohms, leak.reading, leak.ohms < LEAK_STOP_OHMS)
    for r in record.standing:
        if r.kind != "insulation" or r.ohms == "open" or r.id in bleeders:
            continue
        caution, stop = LEAK_CAUTION_OHMS, LEAK_STOP_OHMS
        if is_insulation_test(r, record):
            caution, stop = INSULATION_CAUTION_OHMS, INSULATION_STOP_OHMS
        if r.ohms < caution:
            leaks.note(r.between, r.ohms, r.id, r.ohms < stop)
    to_core = {b for a, b in leaks.ohms if a == IRON}
    out = []
    for (a, b), ohms in leaks.ohms.items():
        if a != IRON and {a, b} & to_core:
            continue
        leads = topology.coils[b].members
        other = ("core",) if a == IRON else topology.coils[a].members
        where = "the core" if a == IRON else "–".join(other)
        sentence = (
            f"{'–'.join(leads)} leaks to {where}: {engineering(ohms, 'Ω')} where it must read "
            "open. Fingers off both probes, dry the piece a day somewhere warm, read again on "
            "the highest range."
        )
        readings = tuple(dict.fromkeys(leaks.readings[a, b]))
        severity = leaks.severity[a, b]
        out.append(
            Fault(
                code="insulation-low",
                severity=severity,
                leads=(*leads, *other),
                readings=readings,
                sentence=sentence,
            )
        )
    return out


def broken(record: Transformer, belief: Belief) -> list[Fault]:
    """Leads that conduct to nothing."""
    topology = belief.topology
    cut = [c for c in topology.coils if c.broken]
    out = [_open_inside(record, coil) for coil in cut]
    paired = {x for c in cut for x in c.leads}
    left = tuple(x for x in topology.loose if x not in paired)
    if len(left) >= 3:
        sentence = (
            f"{', '.join(left)} conduct to nothing: at least two of them should be the ends of "
            "one winding, open inside. Scrape their ends bare, look for a thermal cut-out under "
            "the tape, and read them against each other again."
        )
        out.append(
            Fault(code="open-winding", severity="stop", leads=left, readings=(), sentence=sentence)
        )
    if left and not _lacks_hv(belief) and _half_of_sign(belief):
        sentence = (
            f"{', '.join(left)} conducts to nothing, and the HV winding was found with one lead: "
            "its other half may be open inside, and arcs there when powered."
        )
        out.append(
            Fault(
                code="open-winding", severity="caution", leads=left, readings=(), sentence=sentence
            )
        )
    if left and _lacks_hv(belief) and not _winding_removed(record):
        sentence = (
            f"{', '.join(left)} conducts to nothing and the piece has no HV winding: that winding "
            "may be open. Prove the core, read the lead to bare metal on a 2 kΩ range or higher."
        )
        out.append(
            Fault(
                code="open-winding", severity="caution", leads=left, readings=(), sentence=sentence
            )
        )
    return out


def _open_inside(record: Transformer, coil: Coil) -> Fault:
    ends = set(coil.leads)
    ohms = [r for r in record.standing if r.kind == "resistance"]
    readings = tuple(r.id for r in ohms if set(r.between) == ends)
    sentence = (
        f"{coil.leads[0]} and {coil.leads[1]} conduct to nothing: a winding open inside. Before "
        "condemning, scrape the enamel off both ends, look for a broken joint or a thermal "
        "cut-out under the tape, and read again."
    )
    return Fault(
        code="open-winding", severity="stop", leads=coil.leads, readings=readings, sentence=sentence
    )


def _lacks_hv(belief: Belief) -> bool:
    best = belief.best
    return best is not None and best.subtype in ("oven", "sign") and HV not in best.roles


def _half_of_sign(belief: Belief) -> bool:
    """Whether a sign piece's HV winding was found bonded at an end, with one lead."""
    if belief.best is None or belief.best.subtype != "sign":
        return False
    pairs = zip(belief.best.roles, belief.topology.coils, strict=True)
    return any(role == HV and coil.bond == "end" for role, coil in pairs)


def _winding_removed(record: Transformer) -> bool:
    return any(c.what in ("winding-removed", "rewound") for c in record.changes)
