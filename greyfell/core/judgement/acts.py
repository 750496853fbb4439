"""What readings under power show of earth, leakage and zeros, and which were unsafe acts."""

from collections.abc import Iterable

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.earth_voltage import EarthVoltage
from greyfell.core.evidence.kinds.lamp import Lamp
from greyfell.core.evidence.kinds.leakage_current import LeakageCurrent
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.kinds.ratio import Ratio
from greyfell.core.evidence.record import Reading, Transformer, field_of
from greyfell.core.evidence.times import after
from greyfell.core.figures.leaking import DEADLY_AMPS, TOUCH_AMPS
from greyfell.core.figures.limits import BOND_OHMS, TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.earthing import bond_of, bond_wanted
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.judgement.rating import HAND_HELD_VOLTS, rating

GHOST_OHMS = 1e6
"""A meter of more input resistance shows volts that no current stands behind. Common practice."""
SAME_SOURCE = 1.5
"""Amps by a low-resistance voltmeter beyond so many times the leakage read of the same winding
cannot both be right: one source impedance stands behind both. Ohm's law; factor house rule."""
FULL_SHORT = 0.5
"""A short-circuit test takes a tenth to a fifth of the supply; from this share it is no test any
more. Common practice."""
LIVE_SHARE = 0.8
"""From this share of the supply a zero of amps at no load is no small current. House rule."""
LOW_SIDE_MOST = 60.0
"""A winding of few volts is not driven where another would stand above this. IEC 61010-1, rounded
from memory."""


def earth_bond(record: Transformer, belief: Belief) -> list[Fault]:
    """A bond above a tenth of an ohm where the iron returns a high voltage."""
    bond = bond_of(record, belief.topology.core_leads)
    if bond is None or not bond.bad or not bond_wanted(belief):
        return []
    sentence = (
        f"Earth to the core reads {bond.words}: a protective bond has at most {BOND_OHMS:g} Ω "
        "(IEC 60335-1). The core of this piece returns a high voltage, and without the bond it "
        "stands at it. Stop: bare metal, a lug, then 1 A or more through it and the volts read."
    )
    return [
        Fault(
            code="earth-bond",
            severity="stop",
            leads=("earth", "core"),
            readings=(bond.reading,),
            sentence=sentence,
        )
    ]


def leakage(record: Transformer, belief: Belief) -> list[Fault]:
    """Current to earth through a meter, or volts on a meter of few ohms: more than may be touched;
    and the two where they cannot both be.
    """
    out: list[Fault] = []
    through: dict[str, float] = {}
    for r in record.standing:
        if r.kind == "leakage_current":
            through[r.from_] = max(through.get(r.from_, 0.0), r.amps)
            out += _touch(r, r.amps, f"{engineering(r.amps, 'A')} flows")
    for r in record.standing:
        if r.kind != "earth_voltage":
            continue
        if r.meter_ohms is None or r.meter_ohms > GHOST_OHMS:
            out += _on_the_iron(r, record, {"core", *belief.topology.core_leads})
            continue
        amps = r.volts / r.meter_ohms
        said = f"{engineering(r.volts, 'V')} on a meter of {engineering(r.meter_ohms, 'Ω')} is "
        out += _touch(r, amps, f"{said}{engineering(amps, 'A')}, which flows")
        leak = through.get(r.from_)
        if leak is not None and amps > SAME_SOURCE * leak:
            out.append(_cannot_both(r, amps, leak))
    return out


def _on_the_iron(r: EarthVoltage, record: Transformer, iron: set[str]) -> Iterable[Fault]:
    """Volts on the bare iron that a meter of many ohms, or of ohms nobody noted, cannot explain,
    until amps read later do.
    """
    if r.from_ not in iron or r.to != "earth" or r.volts <= TOUCH_VOLTS:
        return
    amps = [x for x in record.standing if x.kind == "leakage_current" and x.from_ in iron]
    if any(after(x.at, r.at) for x in amps):
        return
    meter = "a meter whose ohms nobody noted" if r.meter_ohms is None else "a meter of many ohms"
    yield Fault(
        code="leakage-current",
        severity="caution",
        leads=(r.from_, r.to),
        readings=(r.id,),
        sentence=(
            f"The core stood at {engineering(r.volts, 'V')} to earth, on {meter}: a ghost, or a "
            "leak from the mains. Amps tell: core to earth through 2 kΩ and a fuse. Nobody touches "
            "it before."
        ),
    )


def _touch(r: LeakageCurrent | EarthVoltage, amps: float, said: str) -> Iterable[Fault]:
    if amps <= TOUCH_AMPS:
        return
    severity: Severity = "stop" if amps > DEADLY_AMPS else "caution"
    yield Fault(
        code="leakage-current",
        severity=severity,
        leads=(r.from_, r.to),
        readings=(r.id,),
        sentence=(
            f"From {r.from_} to {r.to} {said}: more than the {engineering(TOUCH_AMPS, 'A')} that "
            "may be touched (IEC 60990). It is not isolating as it stands: no ghost, but a current "
            "that a person would carry."
        ),
    )


def _cannot_both(r: EarthVoltage, amps: float, leak: float) -> Fault:
    return Fault(
        code="inconsistent-readings",
        severity="caution",
        leads=(r.from_, r.to),
        readings=(r.id,),
        sentence=(
            f"Reading {r.id} means {engineering(amps, 'A')} from {r.from_}, and the leakage read "
            f"there is {engineering(leak, 'A')}: one winding has one source behind it, so both "
            "cannot be. Were the leads swapped? Repeat both, leads named."
        ),
    )


def zeros(record: Transformer, belief: Belief) -> list[Fault]:
    """Nothing read where volts or amps must be: a meter, before it is a winding."""
    out = []
    for r in record.standing:
        if r.kind == "ratio" and _silent(r, belief):
            ends = "–".join(r.sensed)
            words, leads = f"0 V on {ends} with {engineering(r.driven_volts, 'V')} driven", r.sensed
            severity: Severity = "caution"
        elif r.kind == "no_load" and _no_amps(r, record):
            words, leads = f"0 A at {engineering(r.volts, 'V')}", r.driven
            severity = "note"
        else:
            continue
        sentence = (
            f"Reading {r.id}, {words}, cannot be: an unexpected zero is not believed before the "
            "meter is proved on a known source (mode, jack, range, fuse). Then read it again."
        )
        out.append(
            Fault(
                code="unexpected-zero",
                severity=severity,
                leads=tuple(leads),
                readings=(r.id,),
                sentence=sentence,
            )
        )
    return out


def _silent(r: Ratio, belief: Belief) -> bool:
    """Whether a ratio reads nothing where the meter would have shown the winding's volts."""
    if r.sensed_volts > 0:
        return False
    one, two = (belief.winding_of(x) for x in (r.driven[0], r.sensed[0]))
    if one is None or two is None or one is two or one.volts is None or two.volts is None:
        return False
    return r.driven_volts * two.volts.low / one.volts.high > limit(r, "sensed_volts")


def _no_amps(r: NoLoad, record: Transformer) -> bool:
    return r.amps == 0 and r.volts >= LIVE_SHARE * record.supply.volts


def unsafe(record: Transformer, belief: Belief) -> list[Fault]:
    """Readings that were unsafe acts in themselves: kept, marked, and told another way."""
    out = []
    for r in record.standing:
        told = next((s for s in (act(r, record, belief) for act in ACTS) if s), None)
        if told is not None:
            leads = tuple(dict.fromkeys(getattr(r, "sensed", None) or _pair(r)))
            out.append(
                Fault(
                    code="unsafe-reading",
                    severity="note",
                    leads=leads,
                    readings=(r.id,),
                    sentence=f"Reading {r.id}: {told}",
                )
            )
    return out


def _pair(r: Reading) -> tuple[str, ...]:
    return getattr(r, "driven", None) or getattr(r, "between", None) or ()


def _over_meter(r: Reading, record: Transformer, belief: Belief) -> str | None:
    """More volts than the meter is made for."""
    volts = max((field_of(r, f) or 0.0 for f in VOLTS_READ), default=0.0)
    meter = next((m for m in record.meters if m.id == r.meter), None)
    made_for = rating(meter) if meter is not None else None
    if volts <= (made_for or HAND_HELD_VOLTS):
        return None
    name = f"{meter.title or meter.id} ({meter.id})" if meter is not None else "an unknown meter"
    most = engineering(made_for or HAND_HELD_VOLTS, "V")
    return (
        f"{engineering(volts, 'V')} on {name}, not rated above {most}: an arc in the hand. Drive "
        "the piece with a few volts and multiply, or use a probe made for it."
    )


VOLTS_READ = ("sensed_volts", "load_volts", "across_volts", "direct_volts", "volts")
"""Fields of volts that a meter was put on."""


def _low_side(r: Reading, record: Transformer, belief: Belief) -> str | None:
    """A winding of few volts driven, so that another stood far above what may be touched."""
    behind_lamp = isinstance(r, Lamp)
    if r.drive is None and not behind_lamp:
        return None
    pair, given = (r.across, r.supply_volts) if behind_lamp else r.drive
    driven = belief.winding_of(pair[0])
    if driven is None or driven.volts is None or driven.on_mains or driven.role == "hv-secondary":
        return None
    if behind_lamp:
        return _lamp_on_low_side(r, driven, belief)
    others = [w.volts.value for w in belief.windings if w is not driven and w.volts is not None]
    most = given / driven.volts.value * max(others, default=0.0)
    if most <= LOW_SIDE_MOST:
        return None
    return (
        f"{driven.name} is a winding of few volts: driven so, another stood at about "
        f"{engineering(most, 'V')}. Drive the mains winding, or the winding of most turns."
    )


def _lamp_on_low_side(r: Lamp, driven: Winding, belief: Belief) -> str | None:
    """The line through a lamp on a winding of few volts: it holds what its iron bears, which is
    more than its own volts, and the others stand at their turns times that.
    """
    own = driven.volts
    if own is None or r.supply_volts <= own.high:
        return None
    held = r.winding_volts if r.winding_volts is not None else min(own.value, r.supply_volts)
    others = [w.volts.value for w in belief.windings if w is not driven and w.volts is not None]
    most = held / own.value * max(others, default=0.0)
    if most <= LOW_SIDE_MOST:
        return None
    return (
        f"{driven.name} is a low-voltage winding: with the line on it through a lamp the others "
        f"stood at about {engineering(most, 'V')} and more, hundreds of volts on the primary's "
        "leads, however bright the lamp was. A lamp goes in series with the mains winding."
    )


def _one_winding(r: Reading, record: Transformer, belief: Belief) -> str | None:
    """An insulation test from one end of a winding to the other."""
    if not r.proof_volts or belief.topology.winding_spanned(r.between) is None:
        return None
    return (
        "an insulation tester from one end of a winding to the other tests nothing, and its "
        "current kicks when it stops. Test from a winding to the core or to another winding."
    )


def _full_short(r: Reading, record: Transformer, belief: Belief) -> str | None:
    """A short-circuit test at the mains' own volts."""
    if r.kind != "short_circuit" or r.volts < FULL_SHORT * record.supply.volts:
        return None
    return (
        f"a short at {engineering(r.volts, 'V')} is no test: copper burns in seconds. Wind the "
        "volts up from nought until the rated amps flow."
    )


ACTS = (_over_meter, _low_side, _one_winding, _full_short)
"""Every unsafe act that a reading may have been."""
