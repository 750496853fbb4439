"""What meets the core or another winding and should not.

Missing a primary-to-core fault is the worst error this program can make, so anything that conducts
from a winding to the core and is not its normal return stops.
"""

import itertools

from msgspec.structs import replace

from greyfell.core.belief.found import Belief
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.evidence.accuracy import ohms_of, unstated_probes
from greyfell.core.evidence.kinds.resistance import Resistance
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import family_of, has, hv_bond
from greyfell.core.families.row import HV
from greyfell.core.figures.notation import engineering, percent
from greyfell.core.judgement.earthing import earth_wire, plate_earths, vouched_points
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.judgement.kinds import kinds_of
from greyfell.core.judgement.leaks import MAY_BE_MAINS
from greyfell.core.wiring.coil import Coil, Tap
from greyfell.core.wiring.groups import METAL_OHMS

LIKELY_HV = 0.5
"""From this chance a bonded winding of an oven or sign piece is taken for HV on its return."""
HIGH_OHMS_BOND = 50.0
"""In a piece named as of no usual family a winding of more ohms than this at the core only asks.
House rule."""
NEAR_CORE_OHMS = 1.0
"""Up to this a lead reads as the core. Common practice."""
SAME_PLACE = 20.0
"""So many times the limits of the reading between two leads a winding must have for them to count
as at one place. House rule."""
SURE_OUTPUT = 0.01
"""Below this chance of carrying the mains a low-voltage winding on the core may be meant so. House
rule."""
ROLE_UNKNOWN = 0.1
"""From this chance of no role that is known here a winding on the core stops, unless somebody
vouches for it: a piece of which nothing ties turns to volts has as much. House rule."""


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
        if i is not None and _may_be_meant(record, belief.topology.coils[i], belief.roles[i]):
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
        returns = has(family, "high") and roles.get(HV, 0.0) > LIKELY_HV
        if returns:
            out += _on_its_return(belief, coil, family, mains)
        elif _may_be_meant(record, coil, roles):
            out.append(_output_on_core(record, coil))
        elif family == "other" and _named(record, belief) and _hardly_mains(coil, mains):
            out.append(_bond(coil, "caution", "meets the core, which most windings must not"))
        else:
            out.append(_bond(coil, "stop", *_stopped(roles)))
    return out


def _named(record: Transformer, belief: Belief) -> bool:
    """Whether somebody or something names a piece of no usual family. That nothing else fits does
    not: a mains winding on the core fits no family either.
    """
    return record.declared_family == "other" or bool(kinds_of(record, belief))


def _hardly_mains(coil: Coil, mains: float) -> bool:
    """Whether a winding has many ohms and little chance of carrying the mains."""
    return coil.ohms.value > HIGH_OHMS_BOND and mains < MAY_BE_MAINS


def _stopped(roles: dict[str, float]) -> tuple[str, str]:
    """What a winding looks like that stops a piece at the core, and what must read open."""
    if _is_output(roles):
        what = "looks like a low-voltage output of a piece that nothing names"
        unless = "Unless a statement says that it is bonded by design, it"
        return f"{what}, and conducts to the core", unless
    role = max(roles, key=roles.__getitem__, default="unknown")
    name = "mains winding" if role in MAINS_ROLES else f"{role} winding"
    return f"looks like the {name} and conducts to the core", "It"


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
        out.append(_bond(coil, "stop", what))
    if hv_bond(family) == "end" and coil.bond == "middle":
        what = "meets the core in its middle, which an oven HV winding does not"
        out.append(_bond(coil, "caution", what))
    return out


def _is_output(roles: dict[str, float]) -> bool:
    """Whether a winding is likely a low-voltage output, and surely none that carries the mains."""
    mains = sum(p for r, p in roles.items() if r in MAINS_ROLES)
    return roles.get("lv-secondary", 0.0) > LIKELY_HV and mains < SURE_OUTPUT


def _may_be_meant(record: Transformer, coil: Coil, roles: dict[str, float]) -> bool:
    """Whether an output on the core may be meant so: its piece is known, or somebody vouches."""
    known = roles.get("unknown", 0.0) < ROLE_UNKNOWN or bool(_vouched(record, coil))
    return known and _is_output(roles)


def _vouched(record: Transformer, coil: Coil) -> str:
    """By what this winding is bonded by design: a statement, or the plate; empty where by
    nothing.
    """
    if vouched_points(record) & set(coil.members):
        return "as stated"
    return "as the plate says" if plate_earths(record) else ""


def _output_on_core(record: Transformer, coil: Coil) -> Fault:
    """A low-voltage output on the core: by design, where somebody vouches for it; else asked."""
    ends = "–".join(coil.members)
    vouched = _vouched(record, coil)
    if vouched:
        severity: Severity = "note"
        sentence = (
            f"{ends} is bonded to the core by design, {vouched}: it is isolated from nothing that "
            "is earthed, and the core's own bond must be proved."
        )
    else:
        severity = "caution"
        sentence = (
            f"{ends} conducts to the core. Bonded by design (extra-low voltage with protective "
            "earth, a centre tap earthed for a site)? Then say so by a statement; else it must "
            "read open: check lead, coating and probe again."
        )
    return _shorted(coil, severity, sentence)


def _on_the_iron(coil: Coil, tap: Tap) -> bool:
    """Whether a lead stands where the winding meets the core, within the limits of its place: the
    bond's own lead.
    """
    at = coil.positions.get("core")
    if at is None:
        return False
    first, last = (coil.positions[x] for x in coil.leads)
    return abs(coil.positions[tap.lead] - at) <= max(0.5, tap.limit * abs(last - first))


def _bond(coil: Coil, severity: Severity, what: str, must: str = "It") -> Fault:
    sentence = (
        f"{'–'.join(coil.members)} {what}. {must} must read open on the highest range; check lead, "
        "coating and probe again."
    )
    return _shorted(coil, severity, sentence)


def _shorted(coil: Coil, severity: Severity, sentence: str) -> Fault:
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
    earths = {x.id for x in record.leads if earth_wire(x)}
    at_core = [x for x, ohms in topology.core_ohms.items() if ohms <= NEAR_CORE_OHMS]
    near = [x for x in at_core if x not in earths]
    if len(near) < 2:
        return []
    readings = tuple(
        r.id
        for r in record.standing
        if r.by_ohmmeter and _from_core(r) and set(r.between) & set(near)
    )
    mine = {topology.coil_of(x) for x in near if x not in topology.core_leads}
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
    drops = (r for r in record.standing if r.test_amps and {*r.ohms_between} == {x, y})
    return any(r.ohms_shown <= METAL_OHMS for r in drops)


def _from_core(r: Resistance) -> bool:
    return bool({"core", "earth"} & set(r.between))


def same_place(record: Transformer, belief: Belief) -> list[Fault]:
    """Two leads at one place of a winding of four or more: a link between windings, two wires on
    one tap, or a touch.

    A winding of few ohms whose turns touch another's reads so from everywhere. Common practice.
    """
    out = []
    probes = unstated_probes(record.standing)
    finite = [r for r in record.standing if r.by_ohmmeter and not r.is_open]
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
    family = family_of(belief.best.family) if belief.best is not None else None
    if family is None or family.primary_leads is None:
        return []
    out = []
    for coil, roles in zip(belief.topology.coils, belief.roles, strict=True):
        crowd = len(coil.members) >= 2 * family.primary_leads
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
