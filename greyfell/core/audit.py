"""Contradictions over everything on record: each with what disagrees, by how much, and which
reading to repeat.
"""

import math
from dataclasses import dataclass
from itertools import combinations

from greyfell.core.identify import Identification
from greyfell.core.instruments import limit
from greyfell.core.present import superseded
from greyfell.core.quantity import engineering
from greyfell.core.record import Transformer
from greyfell.core.voltages import RESONANT, near_resonance

DENSITY_MOST = 12.0
"""A/mm². Above this a plate's amps and the wire's gauge do not belong together for continuous use.
W-T6, common practice."""
PLATE_LOADED = (0.92, 1.30)
"""Open-circuit volts over a plate's loaded volts: regulation of small pieces reaches some 25 %.
Common practice."""


@dataclass(frozen=True)
class Finding:
    """One contradiction: what kind, the readings or notes concerned, and a sentence with what to
    repeat.
    """

    kind: str
    concerns: tuple[str, ...]
    sentence: str


def audit(record: Transformer, ident: Identification) -> list[Finding]:
    """Everything on record that disagrees with something else on record. Pure."""
    out = [Finding("superseded", (s.reading,), s.sentence) for s in superseded(record)]
    out += [
        Finding(f.code, f.readings, f.sentence)
        for f in ident.faults
        if f.code in ("inconsistent-readings", "ratio-conflict", "ohms-out-of-band")
    ]
    return [
        *out,
        *_plate(record, ident),
        *_gauge(record, ident),
        *_parts(record),
        *_directions(record, ident),
        *_resonant(record),
    ]


def _plate(record: Transformer, ident: Identification) -> list[Finding]:
    plate = record.nameplate
    if plate is None:
        return []
    claimed = [o.volts for o in plate.outputs if o.volts] or (
        [plate.secondary_volts] if plate.secondary_volts else []
    )
    outs = [
        w
        for w in ident.windings
        if w.volts is not None and w.role not in ("primary", "primary-half")
    ]
    found = []
    for volts in claimed:
        near = [
            w
            for w in outs
            if w.volts and w.volts.low / PLATE_LOADED[1] <= volts <= w.volts.high / PLATE_LOADED[0]
        ]
        if outs and not near:
            said = ", ".join(
                f"{'–'.join(w.coil.leads)} {engineering(w.volts.value, 'V')}"
                for w in outs
                if w.volts
            )
            found.append(
                Finding(
                    "plate-against-measured",
                    ("nameplate",),
                    (
                        f"The plate says {engineering(volts, 'V')}; the readings say {said}. "
                        "Trust the readings; repeat the ratio, and look whose plate it is."
                    ),
                )
            )
    return found


def _gauge(record: Transformer, ident: Identification) -> list[Finding]:
    plate = record.nameplate
    amps = [o.amps for o in plate.outputs if o.amps] if plate else []
    if plate and plate.secondary_amps:
        amps.append(plate.secondary_amps)
    leads = {x.id: x for x in record.leads}
    found = []
    for w in ident.windings:
        gauges = [d for d in (leads[x].wire_mm for x in w.coil.members if x in leads) if d]
        if not gauges or not amps or w.role in ("primary", "primary-half"):
            continue
        area = math.pi / 4 * max(gauges) ** 2
        if min(amps) / area > DENSITY_MOST:
            found.append(
                Finding(
                    "gauge-against-current",
                    ("nameplate", *w.coil.members),
                    f"{engineering(min(amps), 'A')} claimed through {max(gauges):g} mm wire "
                    f"is {min(amps) / area:.0f} A/mm². Measure the bare wire again; "
                    "if it stands, the claim is for seconds, not for ever.",
                )
            )
    return found


def _parts(record: Transformer) -> list[Finding]:
    """Volts of two halves of one winding against the whole, each per volt of the same drive."""
    ratios = {
        (tuple(r.driven), frozenset(r.sensed)): r
        for r in record.standing
        if r.kind == "ratio" and r.sensed_volts > 0
    }
    found = []
    for (one, first), (two, second) in combinations(ratios.items(), 2):
        if one[0] != two[0] or len(one[1] & two[1]) != 1:
            continue
        whole = ratios.get((one[0], one[1] ^ two[1]))
        if whole is None:
            continue
        a, b, c = (r.sensed_volts / r.driven_volts for r in (first, second, whole))
        spread = sum(
            limit(r, "sensed_volts") / r.driven_volts
            + r.sensed_volts / r.driven_volts * limit(r, "driven_volts") / r.driven_volts
            for r in (first, second, whole)
        )
        if max(a, b, c) == c and abs(a + b - c) > spread:
            found.append(
                Finding(
                    "parts-against-whole",
                    (first.id, second.id, whole.id),
                    (
                        f"{first.id} and {second.id} add up to {a + b:.4g} per volt, {whole.id} "
                        f"says {c:.4g} for the whole. Repeat {whole.id} with the line read in "
                        "the same minute."
                    ),
                )
            )
    return found


def _directions(record: Transformer, ident: Identification) -> list[Finding]:
    """The two directions of one ratio: forward × reverse is k², which lies between 0.7 and 1."""
    ratios = [r for r in record.standing if r.kind == "ratio" and r.sensed_volts > 0]
    found = []
    for first, second in combinations(ratios, 2):
        if frozenset(first.driven) == frozenset(second.sensed) and frozenset(
            first.sensed
        ) == frozenset(second.driven):
            k2 = first.sensed_volts / first.driven_volts * second.sensed_volts / second.driven_volts
            spread = sum(
                limit(r, f) / getattr(r, f)
                for r in (first, second)
                for f in ("driven_volts", "sensed_volts")
            )
            if k2 > 1 + spread or k2 < 0.7 * (1 - spread):
                found.append(
                    Finding(
                        "direction-against-direction",
                        (first.id, second.id),
                        (
                            f"{first.id} and {second.id} give a coupling of "
                            f"{math.sqrt(k2):.2f}; it lies between 0.84 and 1. Repeat both at "
                            "like volts per turn."
                        ),
                    )
                )
    return found


def _resonant(record: Transformer) -> list[Finding]:
    """An inductance read so near the winding's own resonance that the meter may have shown its
    capacitance.
    """
    return [
        Finding(
            "near-resonance",
            (r.id,),
            f"{r.id}: {engineering(r.henries, 'H')} at {engineering(r.hertz, 'Hz')} on "
            f"{'–'.join(r.across)} is near the winding's own resonance; "
            "the figure may be its capacitance and counts for nothing. Read it again at "
            "100 or 120 Hz.",
        )
        for r in record.standing
        if r.kind == "inductance" and near_resonance(r) > RESONANT
    ]
