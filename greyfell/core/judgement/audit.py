"""Contradictions over everything on record: each with what disagrees, by how much, and which
reading to repeat.
"""

import math
from collections.abc import Iterable
from itertools import combinations
from typing import Any

from msgspec import Struct

from greyfell.core.circuit.load import against
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.inductance import RESONANT, near_resonance
from greyfell.core.evidence.kinds.ratio import Ratio
from greyfell.core.evidence.record import Nameplate, Transformer
from greyfell.core.families.registry import does
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering, span
from greyfell.core.judgement.identification import Identification

DENSITY_MOST = 12.0
"""A/mm². Above this a plate's amps and the wire's gauge do not belong together for continuous use.
REF-W-T6, common practice."""
PLATE_LOADED = (0.92, 1.30)
"""Open-circuit volts over a plate's loaded volts: regulation of small pieces reaches some 25 %.
Common practice."""
LEAST_COUPLING = 0.7
"""Least forward × reverse ratio, k²: shunted pieces couple by 0.84 and more. Common practice."""
CONTRADICTIONS = ("inconsistent-readings", "ratio-conflict", "ohms-out-of-band")
"""Faults that are contradictions."""


class Finding(Struct, frozen=True):
    """One contradiction: what kind, the readings or notes concerned, and a sentence with what to
    repeat.
    """

    kind: str
    concerns: tuple[str, ...]
    sentence: str


def audit(ident: Identification) -> list[Finding]:
    """Everything on record that disagrees with something else on record. Pure."""
    gone = [Finding("superseded", (s.reading,), s.sentence) for s in ident.superseded]
    faults = [f for f in ident.faults if f.code in CONTRADICTIONS]
    told = [Finding(f.code, f.readings, f.sentence) for f in faults]
    found = [finding for check in CHECKS for finding in check(ident)]
    return [*gone, *told, *found]


def claimed_volts(plate: Nameplate) -> list[float]:
    """Output volts that a plate claims."""
    outputs = [o.volts for o in plate.outputs if o.volts]
    return outputs or ([plate.secondary_volts] if plate.secondary_volts else [])


def claimed_amps(plate: Nameplate) -> list[float]:
    """Output amps that a plate claims."""
    amps = [o.amps for o in plate.outputs if o.amps]
    return [*amps, plate.secondary_amps] if plate.secondary_amps else amps


def _plate(ident: Identification) -> Iterable[Finding]:
    """A plate's volts that no winding puts out."""
    plate = ident.record.nameplate
    outs = [(w.name, w.volts) for w in ident.windings if w.volts is not None and not w.on_mains]
    if plate is None or not outs:
        return
    least, most = PLATE_LOADED
    said = ", ".join(f"{name} {engineering(v.value, 'V')}" for name, v in outs)
    for volts in claimed_volts(plate):
        if not any(v.low / most <= volts <= v.high / least for _, v in outs):
            yield Finding(
                "plate-against-measured",
                ("nameplate",),
                f"The plate says {engineering(volts, 'V')}; the readings say {said}. Trust the "
                "readings; repeat the ratio, and look whose plate it is.",
            )


def _gauge(ident: Identification) -> Iterable[Finding]:
    """A plate's amps through wire too thin for them."""
    plate = ident.record.nameplate
    amps = min(claimed_amps(plate), default=None) if plate else None
    if amps is None:
        return
    leads = {x.id: x for x in ident.record.leads}
    for w in ident.windings:
        seen = [leads[x].wire_mm for x in w.coil.members if x in leads]
        gauge = max((d for d in seen if d), default=None)
        if gauge is None or w.on_mains:
            continue
        density = amps / (math.pi / 4 * gauge**2)
        if density > DENSITY_MOST:
            yield Finding(
                "gauge-against-current",
                ("nameplate", *w.coil.members),
                f"{engineering(amps, 'A')} claimed through {gauge:g} mm wire is {density:.0f} "
                "A/mm². Measure the bare wire again; if it stands, the claim is for seconds, not "
                "for ever.",
            )


def _ratios(record: Transformer) -> list[Ratio]:
    return [r for r in record.standing if r.kind == "ratio" and r.sensed_volts > 0]


def _relative(r: Any) -> float:
    """What a ratio may err by, as a share of it: both limits at their worst."""
    return float(sum(limit(r, f) / getattr(r, f) for f in ("driven_volts", "sensed_volts")))


CLAIM_SLACK = 1.15
"""A ratio somebody told is rounded, and may be of loaded volts. House rule."""


def _claims(ident: Identification) -> Iterable[Finding]:
    """Ratios that somebody told, against what the windings' volts let expect; where nothing was
    read yet, against the family's usual ratios in either region.
    """
    for r in ident.record.readings:
        if r.struck is not None or not r.claimed or r.kind != "ratio" or not r.sensed_volts:
            continue
        told = r.sensed_volts / r.driven_volts
        least, most = _expected_ratio(ident, r.driven, r.sensed)
        if least / CLAIM_SLACK <= told <= most * CLAIM_SLACK:
            continue
        there = _fits_elsewhere(ident, told)
        yield Finding(
            "claimed-against-read",
            (r.id,),
            f"{r.id}, told and not measured: {engineering(told)} from {'–'.join(r.driven)} to "
            f"{'–'.join(r.sensed)}; what is on record lets expect {engineering(least)} to "
            f"{engineering(most)}.{there}"
            " Read the ratio at a few volts before anything rests on it.",
        )


def _expected_ratio(
    ident: Identification, driven: tuple[str, str], sensed: tuple[str, str]
) -> tuple[float, float]:
    """The range of a ratio: by the same ratio read, else by what is believed of both windings, else
    by the family; any, where nothing is known.
    """
    for r in _ratios(ident.record):
        if set(r.driven) == set(driven) and set(r.sensed) == set(sensed):
            read, spread = r.sensed_volts / r.driven_volts, _relative(r)
            return read * (1 - spread), read * (1 + spread)
    belief = ident.belief
    one, two = (belief.winding_of(p[0]) or belief.winding_of(p[1]) for p in (driven, sensed))
    given, out = (w.volts if w is not None else None for w in (one, two))
    if given is not None and out is not None:
        return out.low / given.high, out.high / given.low
    here = does(ident.family).ratios.get(high_region(ident.record.supply.volts))
    return here or (0.0, math.inf)


def _fits_elsewhere(ident: Identification, told: float) -> str:
    """Words where the ratio is usual for the family in the other region."""
    there = does(ident.family).ratios.get(not high_region(ident.record.supply.volts))
    if there is None or not there[0] <= max(told, 1 / told) <= there[1]:
        return ""
    return " It is what such a piece made for the other region's mains has: look for its plate."


def _parts(ident: Identification) -> Iterable[Finding]:
    """Volts of two halves of one winding against the whole, each per volt of the same drive."""
    ratios = {(tuple(r.driven), frozenset(r.sensed)): r for r in _ratios(ident.record)}
    for (one, first), (two, second) in combinations(ratios.items(), 2):
        if one[0] != two[0] or len(one[1] & two[1]) != 1:
            continue
        whole = ratios.get((one[0], one[1] ^ two[1]))
        if whole is None:
            continue
        read = (first, second, whole)
        a, b, c = (r.sensed_volts / r.driven_volts for r in read)
        spread = sum(_relative(r) * r.sensed_volts / r.driven_volts for r in read)
        if max(a, b, c) == c and abs(a + b - c) > spread:
            yield Finding(
                "parts-against-whole",
                (first.id, second.id, whole.id),
                f"{first.id} and {second.id} add up to {a + b:.4g} per volt, {whole.id} says "
                f"{c:.4g} for the whole. Repeat {whole.id} with the line read in the same minute.",
            )


def _directions(ident: Identification) -> Iterable[Finding]:
    """The two directions of one ratio: forward × reverse is k², which lies between 0.7 and 1."""
    for first, second in combinations(_ratios(ident.record), 2):
        if not _mirrored(first, second):
            continue
        k2 = first.sensed_volts / first.driven_volts * second.sensed_volts / second.driven_volts
        spread = _relative(first) + _relative(second)
        if k2 > 1 + spread or k2 < LEAST_COUPLING * (1 - spread):
            yield Finding(
                "direction-against-direction",
                (first.id, second.id),
                f"{first.id} and {second.id} give a coupling of {math.sqrt(k2):.2f}; it lies "
                "between 0.84 and 1. Repeat both at like volts per turn.",
            )


def _mirrored(first: Ratio, second: Ratio) -> bool:
    """Whether the second ratio drives what the first one senses, and the reverse."""
    there = set(first.driven) == set(second.sensed)
    return there and set(first.sensed) == set(second.driven)


def _resonant(ident: Identification) -> Iterable[Finding]:
    """An inductance read so near the winding's own resonance that the meter may have shown its
    capacitance.
    """
    for r in ident.record.standing:
        if r.kind == "inductance" and near_resonance(r) > RESONANT:
            yield Finding(
                "near-resonance",
                (r.id,),
                f"{r.id}: {engineering(r.henries, 'H')} at {_hertz(r.hertz)} on "
                f"{'–'.join(r.across)} is near the winding's own resonance; the figure may be its "
                "capacitance and counts for nothing. Read it again at 100 or 120 Hz.",
            )


POWER_SLACK = 1.1
"""Volt-amperes out may be told so many times those in before they contradict: rounding, and the
line of another minute. House rule."""


def _power(ident: Identification) -> Iterable[Finding]:
    """Volt-amperes that come out of a load or a short and never went in: of readings, and of what
    somebody only told.
    """
    for r in ident.record.readings:
        if r.struck is not None:
            continue
        told = _in_and_out(ident, r)
        if told is None or told[1] <= POWER_SLACK * told[0]:
            continue
        into, out = told
        how = "told, not measured" if r.claimed else "read"
        yield Finding(
            "power-against-power",
            (r.id,),
            f"{r.id}, {how}: {engineering(out, 'VA')} come out and {engineering(into, 'VA')} go "
            "in. A clamp beyond its range, a pulse, or a guess: reflect the amps from the primary.",
        )


def _in_and_out(ident: Identification, r: Any) -> tuple[float, float] | None:
    """Volt-amperes in and out of a load or a short, where both are told; a short's by the turns."""
    if r.kind == "load" and r.driven_amps and r.load_amps:
        return r.driven_volts * r.driven_amps, r.load_volts * r.load_amps
    if r.kind != "short_circuit" or not r.shorted_amps or len(r.shorted) != 1:
        return None
    one, two = (ident.belief.winding_of(pair[0]) for pair in (r.driven, r.shorted[0]))
    volts = [w.volts for w in (one, two) if w is not None and w.volts is not None]
    if len(volts) != 2:
        return None
    return r.volts * r.amps, r.volts * volts[1].low / volts[0].high * r.shorted_amps


def _loaded(ident: Identification) -> Iterable[Finding]:
    """A load point off the line that the earlier ones lay down."""
    for w in ident.windings:
        for a in against(ident.record, ident.belief, w):
            if not a.agrees:
                yield Finding(
                    "load-against-line",
                    (a.point.reading,),
                    f"{a.point.reading}: {engineering(a.point.volts, 'V')} into "
                    f"{engineering(a.point.ohms, 'Ω')}; what was read before lets expect "
                    f"{span(a.expected.low, a.expected.high, 'V')}. Read it again, the line's "
                    "volts in the same minute.",
                )


CHECKS = (_plate, _gauge, _claims, _parts, _directions, _resonant, _power, _loaded)


def _hertz(hertz: float | None) -> str:
    return "an unknown frequency" if hertz is None else engineering(hertz, "Hz")
