"""Insulation that leaks, the bleeder of a capacitor or a filter where all must be open, and leads
that conduct to nothing.
"""

from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.evidence.times import after
from greyfell.core.families.registry import hv_bond, kind_of
from greyfell.core.families.row import HV
from greyfell.core.figures.limits import BASIC_OHMS, PROVING_AMPS, REINFORCED_OHMS
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.charge import filters, may_hold_charge
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.fault import GRAVEST, Fault, Severity
from greyfell.core.judgement.links import READ_ACROSS
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Topology

TEST_VOLTS = {True: 500.0, False: 250.0}
"""An insulation test counts as one from these volts DC, for the 220 to 240 V region and the other;
with fewer it is an ohmmeter's reading. IEC 61558-1 cl. 18.2 (from memory); half of it for half the
mains is common practice."""
LEAK_STOP_OHMS = 5e6
"""An ordinary ohmmeter's 9 V or less reads this through sound insulation only if fingers or damp
help. Common practice."""
LEAK_CAUTION_OHMS = 4 * LEAK_STOP_OHMS
"""Below this an ohmmeter's finite reading is asked about. House rule."""
LEAST_TESTER = 250.0
"""A tester of so many volts is stronger than any ohmmeter, whatever it would need to count as an
insulation test. Common practice."""
MAY_BE_MAINS = 0.05
"""From this chance of carrying the mains a winding's touch stops the piece, whatever else it may
be, an HV winding on its return too; and its insulation is the mains'. House rule."""
BLEEDER_OHMS = (7e6, 13e6)
"""The resistor inside an oven's HV capacitor has 9 to 12 MΩ, with a fifth either way. REF-R-T3,
common practice."""
IRON = "core"
"""Stands for the core, and whatever is bonded to it, where a leak's other side is meant."""
FINEST_OHMS = 200e3
"""Two leads of no winding that conduct with fewer ohms may be the ends of one of the finest wire:
X-ray and voltage transformers have 20 to 100 kΩ. Common practice."""
Side = int | str
"""The winding of a point by its number; IRON; a lead of no winding by its name."""


class _Leak(Struct, frozen=True, kw_only=True):
    """One reading that leaks: between which sides, by how many ohms, and how grave that is."""

    sides: tuple[Side, Side]
    reading: Any
    severity: Severity
    firm: bool = False


def side_of(point: str, topology: Topology) -> Side:
    """What a point belongs to: the iron with what is bonded to it, a winding, or nothing but
    itself.
    """
    if point in topology.iron:
        return IRON
    i = topology.coil_of(point)
    if i is None:
        return point
    return IRON if topology.coils[i].bond is not None else i


def is_insulation_test(r: Reading, record: Transformer) -> bool:
    """Whether a reading tested insulation with volts enough to count."""
    return bool(r.proof_volts >= TEST_VOLTS[high_region(record.supply.volts)])


def is_bleeder(r: Reading, record: Transformer, belief: Belief) -> bool:
    """Whether a reading to the core shows the resistor inside an oven's capacitor."""
    if not r.may_open or r.is_open:
        return False
    if not set(r.between) & belief.topology.iron or not may_hold_charge(record, belief):
        return False
    return bool(BLEEDER_OHMS[0] < r.ohms < BLEEDER_OHMS[1])


def answered(r: Any, record: Transformer) -> bool:
    """Whether a leak was read again later, the same pair by a test at least as strong, and sound.

    Insulation dries and gets damp by itself, so its latest reading tells; one that is weaker, or
    of no known time, tells nothing.
    """
    return any(_answers(x, r) for x in record.standing)


def _answers(later: Any, r: Any) -> bool:
    if not later.may_open or set(later.between) != set(r.between):
        return False
    if not after(later.at, r.at):
        return False
    if later.proof_volts:
        least = r.proof_volts or LEAST_TESTER
        return bool(later.proof_volts >= least and later.ohms_shown >= REINFORCED_OHMS)
    if r.proof_volts:
        return False  # an ohmmeter's few volts say nothing against a tester's
    if not later.is_open:
        return bool(later.ohms >= LEAK_CAUTION_OHMS)
    return bool((later.range_ohms or 0.0) >= max(LEAK_CAUTION_OHMS, r.range_ohms or 0.0))


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
        if not answered(r, record)
    ]


def filtered(record: Transformer, belief: Belief) -> list[Fault]:
    """The ohms of a mains filter's bleeder between two leads that no winding joins: the filter is
    still connected, and its capacitor may be charged.
    """
    read = {r.id: r for r in record.standing}
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
        if not answered(read[found.reading], record)
    ]


def leaking(record: Transformer, belief: Belief) -> list[Fault]:
    """Megohms where there should be none: leakage through insulation, by ohmmeter or by insulation
    tester; the worst between every two sides.
    """
    by_sides: dict[frozenset[Side], list[_Leak]] = {}
    for leak in _leaks(record, belief):
        by_sides.setdefault(frozenset(leak.sides), []).append(leak)
    to_core = {x for sides in by_sides if IRON in sides for x in sides}
    out = []
    for sides, found in by_sides.items():
        if IRON not in sides and sides & to_core:
            continue  # it goes through the core, and is told there
        out.append(_leak_fault(found, belief.topology))
    return out


def _leaks(record: Transformer, belief: Belief) -> Iterable[_Leak]:
    """Every reading that leaks and was not answered since."""
    topology = belief.topology
    for r in record.standing:
        if not r.may_open or r.is_open:
            continue
        if r.of_wire and r.ohms < LEAK_OHMS:
            continue  # it conducts: told as a touch
        if is_bleeder(r, record, belief) or answered(r, record):
            continue
        one, two = (side_of(x, topology) for x in r.between)
        if one == two or _unwound(one, two, r.ohms):
            continue
        tested = is_insulation_test(r, record)
        caution = REINFORCED_OHMS if tested else LEAK_CAUTION_OHMS
        stop = BASIC_OHMS if tested else LEAK_STOP_OHMS
        if r.ohms >= caution:
            continue
        basic = tested and r.ohms >= stop and _of_mains((one, two), belief)
        severity: Severity = "stop" if r.ohms < stop else "caution"
        if basic and IRON in (one, two) and _bonded_since(r, record, topology):
            severity = "note"
        yield _Leak(sides=(one, two), reading=r, severity=severity, firm=basic)


def _unwound(one: Side, two: Side, ohms: float) -> bool:
    """Whether two sides belong to no winding, or may be the ends of one of the finest wire."""
    if isinstance(one, int) or isinstance(two, int):
        return False
    return IRON not in (one, two) or ohms < FINEST_OHMS


def _of_mains(sides: tuple[Side, Side], belief: Belief) -> bool:
    """Whether a winding that may carry the mains is on one of the sides."""
    windings = [belief.windings[x] for x in sides if isinstance(x, int)]
    return any(w.mains_chance >= MAY_BE_MAINS for w in windings)


def _bonded_since(r: Any, record: Transformer, topology: Topology) -> bool:
    """Whether the core's bond was proved with the amps of use after a reading."""
    bond = bond_of(record, topology.core_leads)
    if bond is None or not bond.proved or not after(bond.at, r.at):
        return False
    proof = next(x for x in record.standing if x.id == bond.reading)
    return bool(proof.test_amps >= PROVING_AMPS)


def _leak_fault(found: Sequence[_Leak], topology: Topology) -> Fault:
    """One fault of all that leaks between two sides, by the fewest ohms."""
    worst = min(found, key=lambda x: float(x.reading.ohms))
    one, two = sorted(worst.sides, key=lambda side: (side == IRON, isinstance(side, str)))
    leads = _leads(one, topology)
    other = _leads(two, topology)
    grave = min((x.severity for x in found), key=GRAVEST.__getitem__)
    pair = f"{'–'.join(leads)} leaks to {'the core' if two == IRON else '–'.join(other)}: "
    ohms = engineering(worst.reading.ohms, "Ω")
    if grave == "note":
        sentence = (
            f"{pair}{ohms} at 500 V. Above 2 MΩ and with the core's bond proved this counts as "
            "basic insulation only: never as an isolating part."
        )
    else:
        sentence = (
            f"{pair}{ohms} where it must read open. Fingers off both probes, dry the piece a day "
            "somewhere warm, read again on the highest range."
        )
    return Fault(
        code="insulation-low",
        severity=grave,
        leads=(*leads, *other),
        readings=tuple(dict.fromkeys(x.reading.id for x in found)),
        sentence=sentence,
        firm=any(x.firm for x in found),
    )


def _leads(side: Side, topology: Topology) -> tuple[str, ...]:
    return topology.coils[side].members if isinstance(side, int) else (side,)


def broken(record: Transformer, belief: Belief) -> list[Fault]:
    """Leads that conduct to nothing."""
    topology = belief.topology
    cut = [c for c in topology.coils if c.broken]
    out = [_open_inside(record, coil) for coil in cut]
    paired = {x for c in cut for x in c.leads}
    left = tuple(x for x in topology.loose if x not in paired)
    out += _read_open(record, topology, left) if not cut else []
    out += _alone_at_core(topology, left)
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
    if left and _lacks_hv(belief) and belief.hidden:
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


def _read_open(record: Transformer, topology: Topology, left: tuple[str, ...]) -> list[Fault]:
    """The last two leads of no winding that read open to each other, though not yet to all else."""
    placed = {x for c in topology.coils for x in c.members} | {*topology.core_leads}
    rest = {lead.id for lead in record.leads} - placed
    if len(rest) != 2 or rest <= set(left) or not topology.coils:
        return []
    opened = (r for r in record.standing if r.by_ohmmeter and r.is_open)
    read = [r.id for r in opened if set(r.between) == rest]
    x, y = sorted(rest)
    sentence = (
        f"{x} and {y} read open to each other, and are the last two leads without a winding: if "
        f"they are the ends of one, it is open inside. {READ_ACROSS}"
    )
    fault = Fault(
        code="open-winding",
        severity="note",
        leads=(x, y),
        readings=tuple(read),
        sentence=sentence,
    )
    return [fault] if read else []


def _alone_at_core(topology: Topology, left: tuple[str, ...]) -> list[Fault]:
    """A piece without any winding: a lead on the core and one that conducts to nothing."""
    if topology.coils or not left or not topology.core_leads:
        return []
    ends, iron = "–".join(left), ", ".join(topology.core_leads)
    sentence = (
        f"{iron} meets the core and {ends} conducts to nothing: a winding that is open inside and "
        f"touches the core reads so. Power nothing. {READ_ACROSS}"
    )
    return [
        Fault(
            code="shorted-to-core",
            severity="stop",
            leads=(*left, *topology.core_leads, "core"),
            readings=(),
            sentence=sentence,
        )
    ]


def _open_inside(record: Transformer, coil: Coil) -> Fault:
    ends = set(coil.leads)
    ohms = [r for r in record.standing if r.by_ohmmeter]
    readings = tuple(r.id for r in ohms if set(r.between) == ends)
    sentence = (
        f"{coil.leads[0]} and {coil.leads[1]} conduct to nothing: a winding open inside. Before "
        f"condemning, scrape the enamel off both ends and read again. {READ_ACROSS}"
    )
    return Fault(
        code="open-winding", severity="stop", leads=coil.leads, readings=readings, sentence=sentence
    )


def _lacks_hv(belief: Belief) -> bool:
    best = belief.best
    if best is None or HV in best.roles:
        return False
    kind = kind_of(best.subtype)
    return kind is not None and kind.has_high


def _half_of_sign(belief: Belief) -> bool:
    """Whether a sign piece's HV winding was found bonded at an end, with one lead."""
    if belief.best is None or hv_bond(belief.best.family) != "middle":
        return False
    pairs = zip(belief.best.roles, belief.topology.coils, strict=True)
    return any(role == HV and coil.bond == "end" for role, coil in pairs)
