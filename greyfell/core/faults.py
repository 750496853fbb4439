"""What is wrong with a piece, as far as its readings show: each rule with its check, threshold,
source and sentence.

A stop fault is cleared only by a better reading, never by a statement. Missing a primary-to-core
fault is the worst error this program can make, so anything that conducts from a winding to the core
and is not its normal return stops.
"""

import math
from collections.abc import Callable

from greyfell.core.belief import Belief, Fault, Severity
from greyfell.core.coil import Coil, Tap, Topology
from greyfell.core.instruments import ohms_of, unstated_probes
from greyfell.core.quantity import engineering, percent
from greyfell.core.record import Transformer
from greyfell.core.shorts import excess, shorted_turns

INSULATION_STOP_OHMS = 2e6
"""Basic insulation reads at least 2 MΩ at 500 V DC. REF-H, IEC 61558-1 and IEC 60335-1 (from
memory)."""
INSULATION_CAUTION_OHMS = 7e6
"""Reinforced insulation reads at least 7 MΩ. Same source."""
LEAK_STOP_OHMS = 5e6
"""An ordinary ohmmeter's 9 V or less reads this through sound insulation only if fingers or damp
help. Common practice."""


def find_faults(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Every fault the record shows, the gravest first."""
    found: list[Fault] = []
    for rule in RULES:
        found += rule(record, topology, belief)
    order = {"stop": 0, "caution": 1, "note": 2}
    unique: dict[tuple[str, tuple[str, ...]], Fault] = {}
    for fault in sorted(found, key=lambda f: order[f.severity]):
        said = any(
            f.code == fault.code and fault.readings and set(fault.readings) <= set(f.readings)
            for f in unique.values()
        )
        if not said:  # the same of the same readings is said once, where they are weighed together
            unique.setdefault((fault.code, tuple(sorted(fault.leads))), fault)
    return list(unique.values())


def joined(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Windings that conduct to the core or to each other where they should not."""
    out = []
    for joint in topology.joints:
        names = ", ".join(joint.leads)
        if joint.to == "core":
            out.append(
                Fault(
                    "shorted-to-core",
                    "stop",
                    (*joint.leads, "core"),
                    joint.readings,
                    f"{names} conduct to the core through about "
                    f"{engineering(max(joint.ohms, 0.0), 'Ω')}. Stop: this winding must "
                    "read open. "
                    "Repeat with clean probes on bare metal, the winding's leads free of "
                    "everything else.",
                )
            )
        else:
            out.append(
                Fault(
                    "windings-shorted",
                    "stop",
                    joint.leads,
                    joint.readings,
                    f"{names} belong to separate windings and yet conduct to each other. "
                    "Stop; before condemning, free every "
                    "lead from its terminals and read again.",
                )
            )
    return out


MAY_BE_MAINS, LIKELY_MAINS = 0.05, 0.2
"""From the first chance of carrying the mains a winding that meets the core stops the piece,
whatever else it may be; one that is more likely an HV winding on its return is asked about from
there on, and stops from the second. House rule."""


def bonded(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """A winding that meets the core cleanly, but is not one that should."""
    out = []
    for i, coil in enumerate(topology.coils):
        if coil.bond is None or not belief.roles:
            continue
        family = belief.best.family if belief.best else "other"
        may = belief.roles[i].get("hv-secondary", 0.0) if family in ("microwave", "sign") else 0.0
        if may > 0.5:
            if any(
                t.lead not in ("core", *topology.core_leads) and not _on_the_iron(coil, t)
                for t in coil.taps
            ):
                out.append(
                    _bond(
                        coil,
                        "stop",
                        (
                            "has more leads than an HV winding of this kind, and conducts to "
                            "the core: another winding touches it"
                        ),
                    )
                )
            mains = sum(p for r, p in belief.roles[i].items() if r in ("primary", "primary-half"))
            if mains > MAY_BE_MAINS:
                what = (
                    "is likely an HV winding on its return, but may be the mains winding "
                    f"({percent(mains)}), and meets the core"
                )
                out.append(_bond(coil, "stop" if mains > LIKELY_MAINS else "caution", what))
            if family == "microwave" and coil.bond == "middle":
                out.append(
                    _bond(
                        coil,
                        "caution",
                        "meets the core in its middle, which an oven HV winding does not",
                    )
                )
            continue
        mains = belief.roles[i].get("primary", 0.0) + belief.roles[i].get("primary-half", 0.0)
        if family == "other" and coil.ohms.value > 50 and mains < MAY_BE_MAINS:
            out.append(_bond(coil, "caution", "meets the core, which most windings must not"))
            continue
        role = max(belief.roles[i], key=lambda r: belief.roles[i][r])
        what = {"primary": "mains winding", "primary-half": "mains winding"}.get(
            role, f"{role} winding"
        )
        out.append(_bond(coil, "stop", f"looks like the {what} and conducts to the core"))
    return out


def _on_the_iron(coil: Coil, tap: Tap) -> bool:
    """Whether a lead stands where the winding meets the core, within the limits of its place: the
    bond's own lead.
    """
    at = coil.positions.get("core")
    total = abs(coil.positions[coil.leads[1]] - coil.positions[coil.leads[0]])
    return at is not None and abs(coil.positions[tap.lead] - at) <= max(0.5, tap.limit * total)


def crowded(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Two leads that both read as the core: two earth wires, or a winding of few turns that touches
    it.
    """
    near = [x for x, ohms in topology.core_ohms.items() if ohms <= 1.0]
    earths = {
        x.id
        for x in record.leads
        if (x.colour or "").lower() == "green" and (x.stripe or x.end == "lug")
    }
    near = [x for x in near if x not in earths]
    if len(near) < 2:
        return []
    readings = tuple(
        r.id
        for r in record.standing
        if r.kind == "resistance"
        and set(r.between) & {"core", "earth"}
        and set(r.between) & set(near)
    )
    roles = belief.best.roles if belief.best is not None else ()
    primary = any(
        r in ("primary", "primary-half") and c.resolved
        for r, c in zip(roles, topology.coils, strict=False)
    )
    return [
        Fault(
            "shorted-to-core",
            "caution" if primary else "stop",
            (*near, "core"),
            readings,
            f"{' and '.join(near)} all read as the core: earth wires, or a winding of few "
            "turns that touches it. "
            "Pass a small DC current between them: millivolts at their ends mean a winding.",
        )
    ]


def same_place(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Two leads at one place of a winding of four or more: a link between windings, two wires on
    one tap, or a touch.

    A winding of few ohms whose turns touch another's reads so from everywhere. Common practice.
    """
    out = []
    probes = unstated_probes(record.standing)
    for coil in topology.coils:
        if len(coil.members) < 4:
            continue
        for r in record.standing:
            if (
                r.kind != "resistance"
                or r.ohms == "open"
                or not set(r.between) <= set(coil.members)
            ):
                continue
            o = ohms_of(r, probes)
            if o.below_resolution and coil.ohms.value > SAME_PLACE * o.limit:
                x, y = r.between
                out.append(
                    Fault(
                        "windings-shorted",
                        "caution",
                        (x, y),
                        (r.id,),
                        f"{x} and {y} read as one place of the winding "
                        f"{'–'.join(coil.leads)}: a link left on, two wires on one tap, or "
                        "another winding that touches it. Take off any link and read "
                        "again; a small direct current tells a winding.",
                    )
                )
    return out


SAME_PLACE = 20.0
"""So many times the limits of the reading between two leads a winding must have for them to count
as at one place. House rule."""


def tapped_oven(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """An oven's primary has two leads: four that conduct to each other are the primary and the
    heater, touching.

    Oven primaries are not tapped (common practice); a heater of milliohms on a primary of an ohm
    looks like taps.
    """
    if belief.best is None or belief.best.family != "microwave":
        return []
    out = []
    for i, coil in enumerate(topology.coils):
        if (
            coil.bond is None
            and len(coil.members) >= 4
            and belief.roles[i].get("primary", 0.0) > 0.5
        ):
            out.append(
                Fault(
                    "windings-shorted",
                    "stop",
                    coil.members,
                    coil.readings,
                    f"{', '.join(coil.members)} all conduct to each other, and an oven's "
                    "primary has two leads: the heater winding touches the "
                    "primary. Stop; free every lead from its terminals and read again.",
                )
            )
    return out


def _bond(coil: Coil, severity: Severity, what: str) -> Fault:
    names = "–".join(coil.members)
    return Fault(
        "shorted-to-core",
        severity,
        (*coil.members, "core"),
        coil.readings,
        (
            f"{names} {what}. It must read open on the highest range; check lead, coating and "
            "probe again."
        ),
    )


def leaking(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Megohms where there should be none: leakage through insulation, by ohmmeter or by insulation
    tester.
    """
    core = {"core", "earth", *topology.core_leads}
    bonded_coils = {i for i, c in enumerate(topology.coils) if c.bond is not None}
    worst: dict[tuple[int, int], tuple[float, list[str], Severity]] = {}

    def place(point: str) -> int:
        if point in core:
            return -1
        i = topology.coil_of(point)
        return -1 if i in bonded_coils else (-2 if i is None else i)

    def note(points: tuple[str, str], ohms: float, reading: str, severity: Severity) -> None:
        a, b = sorted((place(points[0]), place(points[1])))
        if a == b or -2 in (a, b):
            return
        old = worst.get((a, b), (math.inf, [], "note"))
        grave: Severity = "stop" if "stop" in (old[2], severity) else severity
        worst[(a, b)] = (min(old[0], ohms), [*old[1], reading], grave)

    for leak in topology.leaks:
        if leak.ohms < 4 * LEAK_STOP_OHMS:
            note(
                leak.points,
                leak.ohms,
                leak.reading,
                "stop" if leak.ohms < LEAK_STOP_OHMS else "caution",
            )
    for r in record.standing:
        if r.kind == "insulation" and r.ohms != "open" and r.ohms < INSULATION_CAUTION_OHMS:
            note(r.between, r.ohms, r.id, "stop" if r.ohms < INSULATION_STOP_OHMS else "caution")
    to_core = {b for a, b in worst if a == -1}
    out = []
    for (a, b), (ohms, readings, severity) in worst.items():
        if a >= 0 and (a in to_core or b in to_core):
            continue
        leads = topology.coils[b].members
        where = "the core" if a == -1 else "–".join(topology.coils[a].members)
        other = ("core",) if a == -1 else topology.coils[a].members
        out.append(
            Fault(
                "insulation-low",
                severity,
                (*leads, *other),
                tuple(dict.fromkeys(readings)),
                f"{'–'.join(leads)} leaks to {where}: {engineering(ohms, 'Ω')} where it "
                "must read open. Fingers off both probes, "
                "dry the piece a day somewhere warm, read again on the highest range.",
            )
        )
    return out


def broken(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Leads that conduct to nothing."""
    out = []
    for coil in topology.coils:
        if coil.broken:
            readings = tuple(
                r.id
                for r in record.standing
                if r.kind == "resistance" and set(r.between) == set(coil.leads)
            )
            out.append(
                Fault(
                    "open-winding",
                    "stop",
                    coil.leads,
                    readings,
                    f"{coil.leads[0]} and {coil.leads[1]} conduct to nothing: a winding "
                    "open inside. Before condemning, scrape the "
                    "enamel off both ends, look for a broken joint or a thermal cut-out "
                    "under the tape, and read again.",
                )
            )
    paired = {x for c in topology.coils if c.broken for x in c.leads}
    left = [x for x in topology.loose if x not in paired]
    if len(left) >= 3:
        out.append(
            Fault(
                "open-winding",
                "stop",
                tuple(left),
                (),
                f"{', '.join(left)} conduct to nothing: at least two of them should be the "
                "ends of one winding, open inside. Scrape their "
                "ends bare, look for a thermal cut-out under the tape, and read them "
                "against each other again.",
            )
        )
    best = belief.best
    paired = {x for c in topology.coils if c.broken for x in c.leads}
    single = [x for x in topology.loose if x not in paired]
    removed = any(c.what in ("winding-removed", "rewound") for c in record.changes)
    lacks_hv = (
        best is not None and best.subtype in ("oven", "sign") and "hv-secondary" not in best.roles
    )
    if single and lacks_hv and not removed:
        out.append(
            Fault(
                "open-winding",
                "caution",
                tuple(single),
                (),
                f"{', '.join(single)} conducts to nothing and the piece has no HV winding: "
                "that winding may be open. "
                "Prove the core, read the lead to bare metal on a 2 kΩ range or higher.",
            )
        )
    return out


def contradicted(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Ohms that do not add up along a winding, or exclude each other."""
    out = []
    for c in topology.contradictions:
        x, y = c.points
        said = "open" if math.isinf(c.said) else engineering(max(c.said, 0.0), "Ω")
        out.append(
            Fault(
                "inconsistent-readings",
                "caution",
                c.points,
                (c.reading,),
                f"Reading {c.reading}, {x}–{y}, says {said}; the others say about "
                f"{engineering(max(c.expected, 0.0), 'Ω')} "
                f"({c.slip}). Repeat {x}–{y}; strike {c.reading} out if it was a slip.",
            )
        )
    return out


def misfits(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Observations that do not belong with all the others: by how much, and what would explain
    it.
    """
    out: list[Fault] = []
    solution, k = belief.solution, belief.index
    if solution is None:
        return out
    for j, z in belief.outliers:
        row = solution.rows[j]
        predicted, _ = solution.predicted(k, j)
        factor = math.exp(row.value - predicted)
        leads = tuple(dict.fromkeys(x for i in row.coils for x in topology.coils[i].members))
        names = ", ".join(row.readings) or row.kind
        ten = next(
            (f for f in (10.0, 0.1, 100.0, 0.01, 1000.0, 1e-3) if 0.6 < factor / f < 1.65), None
        )
        slip = f" That is about {ten:g} times off: range or decimal point?" if ten else ""
        if row.kind == "ohms":
            out.append(
                Fault(
                    "ohms-out-of-band",
                    "caution",
                    leads,
                    row.readings,
                    f"{'–'.join(leads)}: {engineering(math.exp(row.value), 'Ω')} is "
                    f"{factor:.2g} times what everything else on record "
                    f"lets expect.{slip} Read it again; too few ohms may be shorted turns.",
                )
            )
        elif row.kind == "ratio":
            out.append(
                Fault(
                    "ratio-conflict",
                    "caution",
                    leads,
                    row.readings,
                    f"Reading {names}: the volts are {factor:.2g} times what the other "
                    f"evidence says.{slip} "
                    "Repeat it with the line voltage read in the same minute; shorted "
                    "turns pull a ratio down too.",
                )
            )
        elif row.kind == "inductance":
            severity: Severity = "caution"
            code = "shorted-turns" if factor < 0.6 else "ratio-conflict"
            out.append(
                Fault(
                    code,
                    severity,
                    leads,
                    row.readings,
                    f"Reading {names}: the inductance is {factor**2:.2g} times what the "
                    "other evidence says. A fall alone proves no "
                    "short: unplug everything in parallel and repeat at 100 or 120 Hz.",
                )
            )
        elif row.kind in ("test turn", "turns"):
            out.append(
                Fault(
                    "ratio-conflict",
                    "caution",
                    leads,
                    row.readings,
                    (
                        f"Reading {names} gives {factor:.2g} times the turns that the rest "
                        "gives. A test turn must pass both windows."
                    ),
                )
            )
        elif row.kind.startswith("plate"):
            out.append(
                Fault(
                    "inconsistent-readings",
                    "note",
                    leads,
                    (),
                    (
                        f"The plate and the readings disagree by {factor:.2g} times: trust the "
                        "readings, the plate may be another's."
                    ),
                )
            )
        elif abs(z) > 5:
            out.append(
                Fault(
                    "inconsistent-readings",
                    "note",
                    leads,
                    (),
                    (
                        f"The {row.kind} noted does not fit the rest ({factor:.2g} times off). "
                        "Measure it again."
                    ),
                )
            )
    return out


def three_phase(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """Equal windings that read about half of each other: the legs of a three-phase core share the
    flux of the driven one.

    Half on each of the other legs, by symmetry of the flux paths; common practice takes 0.35 to
    0.65.
    """
    halves: dict[int, set[int]] = {}
    ids = []
    for r in record.standing:
        if r.kind != "ratio" or not 0.35 < r.sensed_volts / r.driven_volts < 0.65:
            continue
        i, j = topology.coil_of(r.driven[0]), topology.coil_of(r.sensed[0])
        if i is None or j is None or i == j:
            continue
        a, b = topology.coils[i].ohms, topology.coils[j].ohms
        if 0.9 < a.value / max(b.value, 1e-6) < 1.12 and topology.coils[i].resolved:
            halves.setdefault(i, set()).add(j)
            ids.append(r.id)
    for i, others in halves.items():
        if len(others) >= 2:
            leads = tuple(x for n in (i, *sorted(others)) for x in topology.coils[n].members)
            return [
                Fault(
                    "inconsistent-readings",
                    "caution",
                    leads,
                    tuple(ids),
                    "Three equal windings, and two read about half of the driven one: the "
                    "legs of a three-phase core. It never goes on "
                    "single-phase mains as it is.",
                )
            ]
    return []


RULES: tuple[Callable[[Transformer, Topology, Belief], list[Fault]], ...] = (
    joined,
    bonded,
    crowded,
    same_place,
    tapped_oven,
    leaking,
    broken,
    contradicted,
    shorted_turns,
    misfits,
    excess,
    three_phase,
)
