"""What is wrong with a piece, as far as its readings show: each rule with its check, threshold,
source and sentence.

A stop fault is cleared only by a better reading, never by a statement. Missing a primary-to-core
fault is the worst error this program can make, so anything that conducts from a winding to the core
and is not its normal return stops.
"""

import itertools
import math
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace

from greyfell.core.belief.found import Belief
from greyfell.core.belief.observations import Row
from greyfell.core.belief.priors import HV, MAINS_ROLES
from greyfell.core.belief.solve import Solution
from greyfell.core.evidence.accuracy import ohms_of, unstated_probes
from greyfell.core.evidence.record import Lead, Reading, Resistance, Transformer
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering, percent
from greyfell.core.judgement.acts import earth_bond, leakage, unsafe, zeros
from greyfell.core.judgement.charge import may_hold_charge
from greyfell.core.judgement.fault import GRAVEST, Fault, Severity
from greyfell.core.judgement.shorts import excess, shorted_turns
from greyfell.core.wiring.coil import Coil, Tap, Topology
from greyfell.core.wiring.groups import METAL_OHMS

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
MAY_BE_MAINS, LIKELY_MAINS = 0.05, 0.2
"""From the first chance of carrying the mains a winding that meets the core stops the piece,
whatever else it may be; one that is more likely an HV winding on its return is asked about from
there on, and stops from the second. House rule."""
LIKELY_HV = 0.5
"""From this chance a bonded winding of an oven or sign piece is taken for HV on its return."""
HIGH_OHMS_BOND = 50.0
"""In a piece of no usual family a winding of more ohms than this at the core only asks. House
rule."""
NEAR_CORE_OHMS = 1.0
"""Up to this a lead reads as the core. Common practice."""
SAME_PLACE = 20.0
"""So many times the limits of the reading between two leads a winding must have for them to count
as at one place. House rule."""
OVEN_PRIMARY_LEADS = 2
"""Oven primaries are not tapped. Common practice."""
SLIP_FACTORS = (10.0, 0.1, 100.0, 0.01, 1000.0, 1e-3)
"""What a wrong range or a lost decimal point makes of a figure."""
BLEEDER_OHMS = (7e6, 13e6)
"""The resistor inside an oven's HV capacitor has 9 to 12 MΩ, with a fifth either way. REF-R-T3,
common practice."""
BELIED = 0.05
"""Below this chance of the family that the owner named a slip is asked for. House rule."""
SURE_OUTPUT = 0.01
"""Below this chance of carrying the mains a low-voltage winding on the core may be meant so. House
rule."""
SHORT_FACTOR = 0.6
"""Turns by inductance below this share of what the rest says hint at shorted turns. House rule."""
ODD_LOOK = 5.0
"""So many standard deviations off, what was seen of a piece is asked about. House rule."""
THREE_PHASE = (0.35, 0.65)
"""Half of the driven leg's volts on each of the others, by symmetry of the flux paths. Common
practice takes this range for half."""
LIKE_OHMS = (0.9, 1.12)
"""Ohms of equal windings lie within this ratio. Common practice."""


def find_faults(record: Transformer, belief: Belief) -> list[Fault]:
    """Every fault the record shows, the gravest first; the same of the same readings once."""
    found = [fault for rule in RULES for fault in rule(record, belief)]
    unique: dict[tuple[str, tuple[str, ...]], Fault] = {}
    for fault in sorted(found, key=lambda f: GRAVEST[f.severity]):
        if not _said(fault, unique.values()):
            unique.setdefault((fault.code, tuple(sorted(fault.leads))), fault)
    return list(unique.values())


def _said(fault: Fault, told: Iterable[Fault]) -> bool:
    """Whether the same was said of the same readings, where they are weighed together."""
    readings = set(fault.readings)
    alike = [f for f in told if f.code == fault.code]
    return bool(readings) and any(readings <= set(f.readings) for f in alike)


# ------------------------------------------------------------------ what meets what


def joined(record: Transformer, belief: Belief) -> list[Fault]:
    """Windings that conduct to the core or to each other where they should not."""
    out = []
    for joint in belief.topology.joints:
        names = ", ".join(joint.leads)
        if joint.to != "core":
            sentence = (
                f"{names} belong to separate windings and yet conduct to each other. "
                "Stop; before condemning, free every lead from its terminals and read again."
            )
            out.append(
                Fault(
                    code="windings-shorted",
                    severity="stop",
                    leads=joint.leads,
                    readings=joint.readings,
                    sentence=sentence,
                )
            )
            continue
        i = belief.topology.coil_of(joint.leads[0])
        if i is not None and _is_output(belief.roles[i]):
            coil = belief.topology.coils[i]
            out.append(_output_on_core(record, replace(coil, readings=joint.readings)))
            continue
        ohms = engineering(max(joint.ohms, 0.0), "Ω")
        sentence = (
            f"{names} conduct to the core through about {ohms}. Stop: this winding must read "
            "open. Repeat with clean probes on bare metal, the winding's leads free of "
            "everything else."
        )
        leads = (*joint.leads, "core")
        out.append(
            Fault(
                code="shorted-to-core",
                severity="stop",
                leads=leads,
                readings=joint.readings,
                sentence=sentence,
            )
        )
    return out


def bonded(record: Transformer, belief: Belief) -> list[Fault]:
    """A winding that meets the core cleanly, but is not one that should."""
    out: list[Fault] = []
    family = belief.best.family if belief.best else "other"
    for coil, roles in zip(belief.topology.coils, belief.roles, strict=True):
        if coil.bond is None:
            continue
        mains = sum(p for r, p in roles.items() if r in MAINS_ROLES)
        returns = family in ("microwave", "sign") and roles.get(HV, 0.0) > LIKELY_HV
        if returns:
            out += _on_its_return(belief, coil, family, mains)
        elif _is_output(roles):
            out.append(_output_on_core(record, coil))
        elif family == "other" and coil.ohms.value > HIGH_OHMS_BOND and mains < MAY_BE_MAINS:
            out.append(_bond(coil, "caution", "meets the core, which most windings must not"))
        else:
            role = max(roles, key=roles.__getitem__, default="unknown")
            name = "mains winding" if role in MAINS_ROLES else f"{role} winding"
            out.append(_bond(coil, "stop", f"looks like the {name} and conducts to the core"))
    return out


def _on_its_return(belief: Belief, coil: Coil, family: str, mains: float) -> list[Fault]:
    """What may still be wrong with a winding that is likely HV on its return."""
    out = []
    iron = ("core", *belief.topology.core_leads)
    if any(t.lead not in iron and not _on_the_iron(coil, t) for t in coil.taps):
        what = (
            "has more leads than an HV winding of this kind, and conducts to the core: another "
            "winding touches it"
        )
        out.append(_bond(coil, "stop", what))
    if mains > MAY_BE_MAINS:
        what = (
            "is likely an HV winding on its return, but may be the mains winding "
            f"({percent(mains)}), and meets the core"
        )
        out.append(_bond(coil, "stop" if mains > LIKELY_MAINS else "caution", what))
    if family == "microwave" and coil.bond == "middle":
        what = "meets the core in its middle, which an oven HV winding does not"
        out.append(_bond(coil, "caution", what))
    return out


def _is_output(roles: dict[str, float]) -> bool:
    """Whether a winding is likely a low-voltage output, and surely none that carries the mains."""
    mains = sum(p for r, p in roles.items() if r in MAINS_ROLES)
    return roles.get("lv-secondary", 0.0) > LIKELY_HV and mains < SURE_OUTPUT


def _output_on_core(record: Transformer, coil: Coil) -> Fault:
    """A low-voltage output on the core: by design, where somebody vouches for it; else asked."""
    meant = [s for s in record.statements if s.kind == "bonded-by-design"]
    points = {x for s in meant for x in re.split(r"[^A-Za-z0-9]+", s.concerns)}
    ends = "–".join(coil.members)
    if points & set(coil.members):
        severity: Severity = "note"
        sentence = f"{ends} is bonded to the core by design, as stated; it isolates nothing."
    else:
        severity = "caution"
        sentence = (
            f"{ends} conducts to the core. Bonded by design (extra-low voltage with protective "
            "earth, a centre tap earthed for a site)? Then say so by a statement; else it must "
            "read open: check lead, coating and probe again."
        )
    return Fault(
        code="shorted-to-core",
        severity=severity,
        leads=(*coil.members, "core"),
        readings=coil.readings,
        sentence=sentence,
    )


def _on_the_iron(coil: Coil, tap: Tap) -> bool:
    """Whether a lead stands where the winding meets the core, within the limits of its place: the
    bond's own lead.
    """
    at = coil.positions.get("core")
    if at is None:
        return False
    first, last = (coil.positions[x] for x in coil.leads)
    return abs(coil.positions[tap.lead] - at) <= max(0.5, tap.limit * abs(last - first))


def _bond(coil: Coil, severity: Severity, what: str) -> Fault:
    sentence = (
        f"{'–'.join(coil.members)} {what}. It must read open on the highest range; check lead, "
        "coating and probe again."
    )
    return Fault(
        code="shorted-to-core",
        severity=severity,
        leads=(*coil.members, "core"),
        readings=coil.readings,
        sentence=sentence,
    )


def crowded(record: Transformer, belief: Belief) -> list[Fault]:
    """Two leads that both read as the core: two earth wires, or a winding of few turns that touches
    it.
    """
    topology = belief.topology
    earths = {x.id for x in record.leads if _earth_wire(x)}
    at_core = [x for x, ohms in topology.core_ohms.items() if ohms <= NEAR_CORE_OHMS]
    near = [x for x in at_core if x not in earths]
    if len(near) < 2:
        return []
    readings = tuple(
        r.id
        for r in record.standing
        if r.kind == "resistance" and _from_core(r) and set(r.between) & set(near)
    )
    mine = {topology.coil_of(x) for x in near}
    if len(mine) == 1 and all(i is not None and _is_output(belief.roles[i]) for i in mine):
        return []  # told as the output that meets the core
    if all(_is_joint(record, x, y) for x, y in itertools.combinations(near, 2)):
        return []
    sentence = (
        f"{' and '.join(near)} all read as the core: earth wires, or a winding of few turns that "
        "touches it. Pass a small DC current between them: millivolts at their ends mean a "
        "winding."
    )
    return [
        Fault(
            code="shorted-to-core",
            severity="stop",
            leads=(*near, "core"),
            readings=readings,
            sentence=sentence,
        )
    ]


def _is_joint(record: Transformer, x: str, y: str) -> bool:
    """Whether a direct current between two leads showed a joint of metal, no winding."""
    drops = (r for r in record.standing if r.kind == "dc_drop" and {*r.across} == {x, y})
    return any(r.volts / r.amps <= METAL_OHMS for r in drops)


def _earth_wire(lead: Lead) -> bool:
    return (lead.colour or "").lower() == "green" and bool(lead.stripe or lead.end == "lug")


def _from_core(r: Resistance) -> bool:
    return bool({"core", "earth"} & set(r.between))


def same_place(record: Transformer, belief: Belief) -> list[Fault]:
    """Two leads at one place of a winding of four or more: a link between windings, two wires on
    one tap, or a touch.

    A winding of few ohms whose turns touch another's reads so from everywhere. Common practice.
    """
    out = []
    probes = unstated_probes(record.standing)
    finite = [r for r in record.standing if r.kind == "resistance" and r.ohms != "open"]
    for coil in belief.topology.coils:
        if len(coil.members) < 4:
            continue
        for r in finite:
            o = ohms_of(r, probes)
            within = set(r.between) <= set(coil.members)
            if not within or not o.below_resolution or coil.ohms.value <= SAME_PLACE * o.limit:
                continue
            x, y = r.between
            sentence = (
                f"{x} and {y} read as one place of the winding {'–'.join(coil.leads)}: a link "
                "left on, two wires on one tap, or another winding that touches it. Take off any "
                "link and read again; a small direct current tells a winding."
            )
            out.append(
                Fault(
                    code="windings-shorted",
                    severity="caution",
                    leads=(x, y),
                    readings=(r.id,),
                    sentence=sentence,
                )
            )
    return out


def tapped_oven(record: Transformer, belief: Belief) -> list[Fault]:
    """An oven's primary has two leads: four that conduct to each other are the primary and the
    heater, touching.

    A heater of milliohms on a primary of an ohm looks like taps. Common practice.
    """
    if belief.best is None or belief.best.family != "microwave":
        return []
    out = []
    for coil, roles in zip(belief.topology.coils, belief.roles, strict=True):
        crowd = len(coil.members) >= 2 * OVEN_PRIMARY_LEADS
        if coil.bond is not None or not crowd or roles.get("primary", 0.0) <= 0.5:
            continue
        sentence = (
            f"{', '.join(coil.members)} all conduct to each other, and an oven's primary has two "
            "leads: the heater winding touches the primary. Stop; free every lead from its "
            "terminals and read again."
        )
        out.append(
            Fault(
                code="windings-shorted",
                severity="stop",
                leads=coil.members,
                readings=coil.readings,
                sentence=sentence,
            )
        )
    return out


# ------------------------------------------------------------------ leaks and breaks

IRON = -1
"""Stands for the core, and whatever is bonded to it, where a leak's other side is meant."""


@dataclass
class _Leaks:
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
    return _between(r.ohms, BLEEDER_OHMS)


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


# ------------------------------------------------------------------ what does not fit


def contradicted(record: Transformer, belief: Belief) -> list[Fault]:
    """Ohms that do not add up along a winding, or exclude each other."""
    out = []
    for c in belief.topology.contradictions:
        pair = "–".join(c.points)
        said = "open" if math.isinf(c.said) else engineering(max(c.said, 0.0), "Ω")
        expected = engineering(max(c.expected, 0.0), "Ω")
        sentence = (
            f"Reading {c.reading}, {pair}, says {said}; the others say about {expected} "
            f"({c.slip}). Repeat {pair}; strike {c.reading} out if it was a slip."
        )
        readings = (c.reading,)
        out.append(
            Fault(
                code="inconsistent-readings",
                severity="caution",
                leads=c.points,
                readings=readings,
                sentence=sentence,
            )
        )
    return out


def misfits(record: Transformer, belief: Belief) -> list[Fault]:
    """Observations that do not belong with all the others: by how much, and what would explain
    it.
    """
    solution = belief.solution
    if solution is None:
        return []
    found = [_misfit(belief, solution, j, z) for j, z in belief.outliers]
    return [fault for fault in found if fault is not None]


def _misfit(belief: Belief, solution: Solution, j: int, z: float) -> Fault | None:
    """One observation opened wide, told by its kind; None where it is not worth a word."""
    row = solution.rows[j]
    factor = math.exp(row.value - solution.predicted(belief.index, j)[0])
    coils = belief.topology.coils
    leads = tuple(dict.fromkeys(x for i in row.coils for x in coils[i].members))
    tell = MISFITS.get(row.kind)
    if tell is not None:
        code, sentence = tell(row, leads, factor)
        return Fault(
            code=code, severity="caution", leads=leads, readings=row.readings, sentence=sentence
        )
    sentence = (
        f"The {row.kind} noted does not fit the rest ({factor:.2g} times off). Measure it again."
    )
    if row.kind.startswith("plate"):
        sentence = (
            f"The plate and the readings disagree by {factor:.2g} times: trust the readings, the "
            "plate may be another's."
        )
    elif abs(z) <= ODD_LOOK:
        return None
    return Fault(
        code="inconsistent-readings", severity="note", leads=leads, readings=(), sentence=sentence
    )


def _odd_ohms(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ohms-out-of-band", (
        f"{'–'.join(leads)}: {engineering(math.exp(row.value), 'Ω')} is {factor:.2g} times "
        f"what everything else on record lets expect.{_slip_words(factor)} Read it again; "
        "too few ohms may be shorted turns."
    )


def _odd_ratio(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ratio-conflict", (
        f"Reading {_named(row)}: the volts are {factor:.2g} times what the other evidence says."
        f"{_slip_words(factor)} Repeat it with the line voltage read in the same minute; "
        "shorted turns pull a ratio down too."
    )


def _odd_inductance(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "shorted-turns" if factor < SHORT_FACTOR else "ratio-conflict", (
        f"Reading {_named(row)}: the inductance is {factor**2:.2g} times what the other evidence "
        "says. A fall alone proves no short: unplug everything in parallel and repeat at 100 "
        "or 120 Hz."
    )


def _odd_turns(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ratio-conflict", (
        f"Reading {_named(row)} gives {factor:.2g} times the turns that the rest gives. A test "
        "turn must pass both windows."
    )


def _named(row: Row) -> str:
    return ", ".join(row.readings) or row.kind


MISFITS: dict[str, Callable[[Row, tuple[str, ...], float], tuple[str, str]]] = {
    "ohms": _odd_ohms,
    "ratio": _odd_ratio,
    "inductance": _odd_inductance,
    "test turn": _odd_turns,
    "turns": _odd_turns,
}
"""The code and the sentence of a reading that does not fit, by its kind of observation."""


def _slip_words(factor: float) -> str:
    """A likely slip of the pen, where the factor is near a power of ten."""
    ten = next((f for f in SLIP_FACTORS if 0.6 < factor / f < 1.65), None)
    return f" That is about {ten:g} times off: range or decimal point?" if ten else ""


def belied(record: Transformer, belief: Belief) -> list[Fault]:
    """An owner's belief that the readings leave next to no chance: a slip is likelier than another
    family, so it is asked for.
    """
    said, likely = record.declared_family, belief.family
    if said is None or not belief.windings or belief.families.get(said, 0.0) >= BELIED:
        return []
    severity: Severity = "caution" if said in ("microwave", "sign") else "note"
    longest = max(belief.windings, key=lambda w: w.coil.ohms.value)
    sentence = (
        f"You said it is of the family “{said}”; what was read leaves that "
        f"{percent(belief.families.get(said, 0.0))} and says “{likely}” "
        f"({percent(belief.families[likely])}). Were ohms ten times too high or too low (range or "
        f"decimal point)? Repeat {longest.name} on a fixed range, or correct what you said."
    )
    return [
        Fault(
            code="inconsistent-readings",
            severity=severity,
            leads=longest.coil.members,
            readings=longest.coil.readings[:1],
            sentence=sentence,
        )
    ]


def three_phase(record: Transformer, belief: Belief) -> list[Fault]:
    """Equal windings that read about half of each other: the legs of a three-phase core share the
    flux of the driven one.
    """
    topology = belief.topology
    halves: dict[int, set[int]] = {}
    ids = []
    for r in record.standing:
        if r.kind != "ratio" or not _between(r.sensed_volts / r.driven_volts, THREE_PHASE):
            continue
        i, j = topology.coil_of(r.driven[0]), topology.coil_of(r.sensed[0])
        if i is None or j is None or i == j:
            continue
        one, two = topology.coils[i], topology.coils[j]
        alike = one.ohms.value / max(two.ohms.value, 1e-6)
        if _between(alike, LIKE_OHMS) and one.resolved:
            halves.setdefault(i, set()).add(j)
            ids.append(r.id)
    driven = next((i for i, others in halves.items() if len(others) >= 2), None)
    if driven is None:
        return []
    legs = (driven, *sorted(halves[driven]))
    leads = tuple(x for n in legs for x in topology.coils[n].members)
    sentence = (
        "Three equal windings, and two read about half of the driven one: the legs of a "
        "three-phase core. It never goes on single-phase mains as it is."
    )
    return [
        Fault(
            code="inconsistent-readings",
            severity="caution",
            leads=leads,
            readings=tuple(ids),
            sentence=sentence,
        )
    ]


def _between(value: float, limits: tuple[float, float]) -> bool:
    return limits[0] < value < limits[1]


RULES: tuple[Callable[[Transformer, Belief], list[Fault]], ...] = (
    joined,
    bonded,
    crowded,
    same_place,
    tapped_oven,
    bleeder,
    leaking,
    broken,
    contradicted,
    shorted_turns,
    misfits,
    excess,
    three_phase,
    belied,
    earth_bond,
    leakage,
    zeros,
    unsafe,
)
"""Every rule of judgement; each gives faults of the codes that `fault.FAULTS` tells."""
