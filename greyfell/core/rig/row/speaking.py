"""What a rig says of itself: declarations of the one hazard shape over the rig as it is solved."""

import math
from collections.abc import Iterable, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE, MOST_FLUX, SOON_SECONDS, TOUCH_VOLTS
from greyfell.core.figures.notation import begun, engineering
from greyfell.core.figures.touch import hazard_class
from greyfell.core.judgement.hazards.rule import Facts, HazardRule
from greyfell.core.network.parts import Capacitor
from greyfell.core.rig.row.beyond import Beyond, beyond, volts_over
from greyfell.core.rig.row.building import core_of
from greyfell.core.rig.row.elements import KINDS, Element, Rig
from greyfell.core.rig.row.solving import Solved, solve

CREST = 1.6
"""Crest factor from which a wave is said to be peaky (a sine has 1.41). From memory."""
FORBIDDEN = (0.5, 2.0)
"""X_C over X_L that is refused. REF-B-04."""
NEAR_RESONANCE = 0.08
"""A rise of the open volts by this share through a winding's own capacitance is said."""
TIMES_BREAKER = 10.0
"""Amps shorted above so many times the breaker's count as limited by nothing."""
STOP, CAUTION, NOTE = "stop", "caution", "note"


class Sight(Struct, frozen=True, dict=True):
    """What a rule looks at: the rig solved, and what follows from it."""

    solved: Solved

    @property
    def rig(self) -> Rig:
        """The rig."""
        return self.solved.rig

    @cached_property
    def beyond(self) -> list[Beyond]:
        """Everything beyond its rating."""
        return beyond(self.solved)

    @cached_property
    def shorted(self) -> Solved | None:
        """Its output shorted ahead of any rectifier; None where it does not settle."""
        short = Element(id="load", kind=KINDS["short"])
        kept = []
        for e in self.rig.behind:
            if e.kind.key == "rectifier":
                break
            kept.append(e)
        try:
            return solve(replace(self.rig, behind=tuple(kept), load=short))
        except FieldError:
            return None

    @property
    def open(self) -> bool:
        """Whether nothing loads it."""
        return self.rig.load.kind.key == "open"

    @property
    def omega(self) -> float:
        """Of the supply."""
        return 2 * math.pi * self.rig.supply.told("hertz")


class RigRule(HazardRule[Sight], frozen=True, kw_only=True):
    """A rule of a rig: a stop forbids it."""

    severity: str


class Spoken(Struct, frozen=True, kw_only=True):
    """What a rig says: the rule's code and severity, its headline and its sentence."""

    code: str
    severity: str
    headline: str
    sentence: str

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "severity": self.severity, "sentence": self.sentence}


def spoken(solved: Solved) -> list[Spoken]:
    """Everything that stands on a rig, the gravest first."""
    sight = Sight(solved)
    out = []
    for rule in RULES:
        for h in rule.tell(sight):
            out.append(
                Spoken(
                    code=h.code,
                    severity=rule.severity,
                    headline=h.headline,
                    sentence=begun(h.sentence),
                )
            )
    return out


def _bridged(s: Sight) -> Iterable[Facts]:
    e = s.rig.rectified
    if e is not None and e.figures["rectifier"] == "bridge" and s.rig.piece.bond != "none":
        yield {"bond": s.rig.piece.bond}


def series_reactance(rig: Rig, e: Element, omega: float) -> float:
    """Ω of all coils in the loop of a capacitor, on its own side of the piece."""
    n = rig.piece.get("ratio")
    ahead = sum(_henries(x) for x in rig.ahead)
    behind = sum(_henries(x) for x in rig.behind)
    whole = ahead + rig.piece.get("leakage_henries") + behind / n**2
    return omega * whole * (1.0 if e in rig.ahead else n**2)


def _henries(e: Element) -> float:
    """Of a coil; nought of what is none."""
    if e.kind.key == "ballast":
        whole = e.told("at_volts") / e.told("short_amps")
        ohms = min(e.get("ohms") or 0.0, whole)
        return math.sqrt(whole**2 - ohms**2) / (2 * math.pi * e.told("at_hertz"))
    return e.get("henries") or 0.0


def _capacitors(rig: Rig) -> Iterable[tuple[Element, float, float]]:
    """Capacitors in series, their reactance, and the loop's coils'."""
    omega = 2 * math.pi * rig.supply.told("hertz")
    for e in (*rig.ahead, *rig.behind):
        if e.kind.key == "capacitor":
            xc = 1 / (omega * e.told("farads"))
            yield e, xc, series_reactance(rig, e, omega)


def _resonant(s: Sight) -> Iterable[Facts]:
    for e, xc, xl in _capacitors(s.rig):
        if FORBIDDEN[0] <= xc / xl <= FORBIDDEN[1]:
            yield {"what": e.name, "ratio": f"{xc / xl:.2f}"}


def is_resonant(rig: Rig) -> bool:
    """Whether a capacitor of a rig stands near resonance with its coils. REF-B-04."""
    return any(FORBIDDEN[0] <= xc / xl <= FORBIDDEN[1] for _, xc, xl in _capacitors(rig))


def _jumping(s: Sight) -> Iterable[Facts]:
    """A capacitor ahead of iron that nothing loads, below its unsaturated reactance."""
    law = core_of(s.rig.piece)
    steep = max(law.straight, 1e-3) * law.peak_amps / law.flux
    magnetising = s.omega / steep
    for e, xc, _ in _capacitors(s.rig):
        if e in s.rig.ahead and s.open and xc < magnetising:
            yield {"what": e.name, "ohms": engineering(magnetising, "Ω")}


def _beyond(s: Sight) -> Iterable[Facts]:
    for b in s.beyond:
        if b.at != "supply":
            yield {
                "name": begun(b.name),
                "what": b.what,
                "has": engineering(b.has, b.unit),
                "bears": engineering(b.bears, b.unit),
                "fails": b.fails,
            }


def _trips(s: Sight) -> Iterable[Facts]:
    for b in s.beyond:
        if b.at == "supply":
            yield {"amps": engineering(b.has, "A")}


def _saturating(s: Sight) -> Iterable[Facts]:
    if s.solved.flux_ratio > MOST_FLUX:
        yield {"flux": f"{s.solved.flux_ratio:.2f}"}


def _shunts(s: Sight) -> Iterable[Facts]:
    if s.rig.piece.figures.get("shunt_volts") and s.solved.leak_ratio > 1.0:
        yield {"times": f"{s.solved.leak_ratio:.2f}"}


def _peaky(s: Sight) -> Iterable[Facts]:
    out = s.solved.after("piece")
    if s.solved.run is not None and out.volts > TOUCH_VOLTS and out.peak_volts > CREST * out.volts:
        yield {"peak": engineering(out.peak_volts, "V"), "rms": engineering(out.volts, "V")}


def _limiting(s: Sight) -> Iterable[Facts]:
    """Which element holds most of the volts with the output shorted."""
    short = s.shorted
    if short is None:
        return
    held = {e.name: volts_over(short, e.id) for e in s.rig.ahead}
    held["the piece itself"] = short.after("primary").volts
    name, volts = max(held.items(), key=lambda x: x[1])
    yield {
        "name": begun(name),
        "volts": engineering(volts, "V"),
        "amps": engineering(short.line.amps, "A"),
    }


def _unlimited(s: Sight) -> Iterable[Facts]:
    short, breaker = s.shorted, s.rig.supply.get("breaker_amps")
    if short is not None and breaker is not None and short.line.amps > TIMES_BREAKER * breaker:
        yield {"amps": engineering(short.line.amps, "A"), "breaker": engineering(breaker, "A")}


def _unguarded(s: Sight) -> Iterable[Facts]:
    if s.rig.supply.get("breaker_amps") is None:
        yield {}


def _lethal(s: Sight) -> Iterable[Facts]:
    named = []
    for at in s.solved.joints[1:]:
        if at.joint.after == "primary" and s.rig.ahead:
            continue
        volts = MAINS_RISE * max(at.volts, at.peak_volts / math.sqrt(2))
        if hazard_class(volts, None).startswith("lethal"):
            named.append(f"{at.joint.name} ({engineering(volts, 'V')})")
    if named:
        yield {"where": ", ".join(dict.fromkeys(named))}


def charges(solved: Solved) -> list[tuple[str, float, float, float | None]]:
    """Capacitors that stay charged when it is switched off: name, volts, J, and seconds to safe
    volts through the bleeder; None where nothing empties it. A load is no bleeder: what is
    unplugged, or off, empties nothing. REF-R-05, REF-R-06.
    """
    rig = solved.rig
    ohms = [e.told("ohms") for e in rig.behind if e.kind.key == "bleeder"]
    whole = 1 / sum(1 / r for r in ohms) if ohms else None
    out = []
    for uid in (e.id for e in (*rig.ahead, *rig.behind)):
        for part in solved.built.of[uid]:
            if isinstance(part, Capacitor):
                volts = _held(solved, part)
                joules = part.farads * volts**2 / 2
                alone = not any(e.id == uid and e.kind.key == "reservoir" for e in rig.behind)
                seconds = None
                if whole is not None and not alone and volts > TOUCH_VOLTS:
                    seconds = whole * part.farads * math.log(volts / TOUCH_VOLTS)
                name = next(e.name for e in rig.elements if e.id == uid)
                out.append((name, volts, joules, seconds))
    return out


def _held(solved: Solved, part: Capacitor) -> float:
    """The most it may be left with, on a high line."""
    if solved.run is not None:
        volts = solved.run.over(part)
        return MAINS_RISE * float(abs(volts).max())
    found = solved.by_hertz
    return (
        0.0 if found is None else MAINS_RISE * math.sqrt(2) * abs(found.volts(part.one, part.two))
    )


def _charged(s: Sight) -> Iterable[Facts]:
    for name, volts, joules, seconds in charges(s.solved):
        if volts > TOUCH_VOLTS and (seconds is None or seconds > SOON_SECONDS):
            how = "for ever: nothing empties it"
            if seconds is not None:
                how = f"for {engineering(seconds, 's')}"
            yield {
                "name": begun(name),
                "volts": engineering(volts, "V"),
                "joules": engineering(joules, "J"),
                "how": how,
            }


def _bled(s: Sight) -> Iterable[Facts]:
    for name, volts, joules, seconds in charges(s.solved):
        if volts > TOUCH_VOLTS and seconds is not None and seconds <= SOON_SECONDS:
            yield {
                "name": begun(name),
                "joules": engineering(joules, "J"),
                "seconds": engineering(seconds, "s"),
            }


def _raised(s: Sight) -> Iterable[Facts]:
    """Open volts raised by the winding's own capacitance with its leakage."""
    m = s.rig.piece
    n = m.get("ratio")
    rise = s.omega**2 * m.get("leakage_henries") * n**2 * m.get("winding_farads")
    if rise > NEAR_RESONANCE:
        share = rise / max(1 - rise, 1e-3)
        yield {"share": f"{share:.0%}" if rise < 1 else "many times"}


RULES: Sequence[RigRule] = (
    RigRule(
        code="bridge-on-bonded",
        severity=STOP,
        condition="a bridge behind a winding that is bonded to the core",
        cleared="another rectifier, or a winding that floats",
        headline="Bridge on a bonded winding",
        what="A bridge shorts a winding whose {bond} is bonded to the core through the earth.",
        instead="Half-wave, a doubler, or a centre tap to the core work.",
        source="planner dc_supply; common practice",
        when=_bridged,
    ),
    RigRule(
        code="resonance",
        severity=STOP,
        condition="a capacitor in series between half and twice the loop's reactance",
        cleared="a smaller or much larger capacitor",
        headline="Near resonance",
        what="{what} has {ratio} times the reactance of the loop's coils: it multiplies volts.",
        instead="Keep above twice, or take it out.",
        source="REF-B-04",
        when=_resonant,
    ),
    RigRule(
        code="ferroresonance",
        severity=STOP,
        condition="a capacitor ahead of iron that nothing loads, below its reactance",
        cleared="a load that stays, or a smaller capacitor",
        headline="Iron may jump",
        what="Unloaded, {what} lies below the iron's own {ohms}: it jumps into resonance.",
        instead="Load it first, or take a smaller capacitor.",
        source="REF-B-04; common practice",
        when=_jumping,
    ),
    RigRule(
        code="beyond-rating",
        severity=CAUTION,
        condition="a figure above what an element, or the piece, is rated for",
        cleared="less volts or amps there",
        headline="Beyond its rating",
        what="{name} has {has} ({what}) and bears {bears}: damage, no use.",
        instead="What fails: {fails}.",
        source="the ratings given; IEC 60038",
        when=_beyond,
    ),
    RigRule(
        code="trips",
        severity=CAUTION,
        condition="more from the wall than its breaker holds",
        cleared="a limiter, or less load",
        headline="The breaker trips",
        what="{amps} from the wall: the breaker trips by its curve.",
        instead="The planner `breaker` says when.",
        source="IEC 60898-1",
        when=_trips,
    ),
    RigRule(
        code="nothing-limits",
        severity=CAUTION,
        condition="a shorted output draws many times the breaker's amps",
        cleared="a limiter ahead of the piece",
        headline="Nothing limits it",
        what="With its output shorted {amps} flow through a breaker of {breaker}.",
        instead="Put a limiter ahead of it.",
        source="common practice",
        when=_unlimited,
    ),
    RigRule(
        code="no-breaker",
        severity=CAUTION,
        condition="no breaker or fuse is told",
        cleared="its amps given",
        headline="No breaker told",
        what="No breaker or fuse stands in this rig.",
        instead="Give it: what it bears decides what a failure does.",
        source="common practice",
        when=_unguarded,
    ),
    RigRule(
        code="lethal",
        severity=CAUTION,
        condition="a joint above what may be touched",
        cleared="nothing: covered, earthed, interlocked",
        headline="Lethal joints",
        what="Lethal to touch: {where}.",
        instead="Covered and apart, the core bonded, nobody near, one hand at the switch.",
        source="IEC 61140, IEC 60479-1",
        when=_lethal,
    ),
    RigRule(
        code="charged",
        severity=CAUTION,
        condition="a capacitor that stays above 50 V longer than a minute",
        cleared="a bleeder that empties it",
        headline="Stays charged",
        what="{name} stays at up to {volts} ({joules}) {how}.",
        instead="Bleeder, volts seen to fall, stick, then a short that stays.",
        source="R-T2, REF-R-06",
        when=_charged,
    ),
    RigRule(
        code="saturates",
        severity=CAUTION,
        condition="flux a tenth above the rated",
        cleared="less volts, or more hertz",
        headline="The core saturates",
        what="Flux is {flux} times the rated: current comes in peaks and the iron heats.",
        instead="Less volts; behind a limiter the peaks land on the insulation.",
        source="REF-M-02",
        when=_saturating,
    ),
    RigRule(
        code="peaky",
        severity=CAUTION,
        condition="a crest factor above 1.6 out of the piece",
        cleared="less volts ahead, or no limiter ahead of saturated iron",
        headline="Short high peaks",
        what="Out of it come peaks of {peak} on {rms} RMS: the peak breaks insulation.",
        instead="A meter does not show it.",
        source="common practice",
        when=_peaky,
    ),
    RigRule(
        code="shunts-saturate",
        severity=NOTE,
        condition="leakage flux above what the shunts carry",
        cleared="less amps",
        headline="The shunts saturate",
        what="Leakage flux is {times} times what the shunts carry.",
        instead="More flows than a test at low volts foretells.",
        source="REF-T-17",
        when=_shunts,
    ),
    RigRule(
        code="raised",
        severity=NOTE,
        condition="the winding's own capacitance raises its open volts",
        cleared="a load, or shorter leads",
        headline="Open volts rise",
        what="Its own capacitance with its leakage raises the open volts by about {share}.",
        instead="Longer leads raise them more.",
        source="REF-T-15",
        when=_raised,
    ),
    RigRule(
        code="limits",
        severity=NOTE,
        condition="always, where its short settles",
        cleared="-",
        headline="What limits",
        what="{name} limits: shorted, it holds {volts} and {amps} flow from the wall.",
        instead="",
        source="solved",
        when=_limiting,
    ),
    RigRule(
        code="bled",
        severity=NOTE,
        condition="a charge that is let go within a minute",
        cleared="-",
        headline="Let go",
        what="{name} lets its {joules} go in {seconds} through what stands across it.",
        instead="A bleeder fails open: it proves nothing.",
        source="REF-R-06",
        when=_bled,
    ),
)
"""Everything a rig may say, the gravest first."""
