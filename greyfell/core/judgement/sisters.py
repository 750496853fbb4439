"""Two pieces of the same plate, donor or look, held against each other.

What differs between them beyond two meters, warm copper and the spread of sheet and joints is a
finding: one shorted turn hides in a piece alone and shows beside its sister. It names the one to
look at and never clears the other: both may have it. Common practice; spreads from memory.
"""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.constants import COPPER_PER_K
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.identification import Identification

WARM_K = 10.0
"""Copper of which no temperature was noted may be so much warmer than its sister's."""
WOUND = 0.02
"""Ohms of two windings wound alike differ by no more: wire and tension. Common practice."""
IRON = {"inductance": 0.10, "Q": 0.16, "watts": 0.075, "amps": 0.12}
"""Spread of the logarithm of what the iron of two sisters shows: sheet, joints, gaps. From
memory."""
TURNS = 0.004
"""Ratios of two pieces wound to the same turns differ by no more than this and the meters."""
FAR = 3.5
"""Standard deviations from which one figure is a finding: twice in ten thousand sound pairs."""
TOGETHER = 3.2
"""And several figures of the iron together, each the way that shorted turns move it."""
LIKE_VOLTS, LIKE_HERTZ = 0.03, 0.02
"""No-load and inductance readings are compared at volts and hertz no further apart than this."""
SHORTENS = {"inductance": -1.0, "Q": -1.0, "watts": 1.0, "amps": 1.0}
"""Which way shorted turns move each."""


class Difference(Struct, frozen=True):
    """Something that differs between two sisters: what, the readings of both, which tag is the odd
    one (empty where that is not told), and a sentence with what to do.
    """

    what: str
    readings: tuple[tuple[str, ...], tuple[str, ...]]
    suspect: str
    sentence: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "what": self.what,
            "readings": [list(x) for x in self.readings],
            "suspect": self.suspect,
            "sentence": self.sentence,
        }


class SisterSeen(Struct, frozen=True):
    """One figure that both have: what of, its readings, ln of the second over the first, and the
    spread that two sound sisters have.
    """

    what: str
    where: str
    readings: tuple[tuple[str, ...], tuple[str, ...]]
    off: float
    sd: float
    figures: tuple[str, str]

    @property
    def z(self) -> float:
        """How far off, times its standard deviation. By definition."""
        return self.off / self.sd


def compare(one: Identification, two: Identification) -> list[Difference]:
    """What differs between two pieces taken for sisters, the gravest first. Pure.

    Windings are matched by role and ohms; what only one of them has on record says nothing.
    """
    pairs = matched(one, two)
    seen = [s for look in LOOKS for s in look(one, two, pairs)]
    out = [_told(one, two, s) for s in seen if abs(s.z) > FAR]
    if not any(d.suspect and d.what in SHORTENS for d in out):
        out += _together(one, two, seen)
    return out


def matched(one: Identification, two: Identification) -> list[tuple[Winding, Winding]]:
    """Windings of both that belong together: of one role and nearest in ohms, each once."""
    left = [w for w in two.windings if not w.coil.broken and not w.coil.unread]
    out = []
    for w in one.windings:
        like = [x for x in left if x.role == w.role]
        if w.coil.broken or w.coil.unread or not like:
            continue
        near = min(like, key=lambda x: abs(math.log(_ohms(x) / _ohms(w))))
        left.remove(near)
        out.append((w, near))
    return out


def _ohms(w: Winding) -> float:
    return max(w.coil.ohms.value, 1e-6)


Pairs = Sequence[tuple[Winding, Winding]]


def _by_ohms(one: Identification, two: Identification, pairs: Pairs) -> Iterable[SisterSeen]:
    """Ohms at 20 °C: their own limits, the warmth of both, the winding."""
    for a, b in pairs:
        limits = [math.log(w.coil.ohms.high / max(w.coil.ohms.low, 1e-9)) / 2 for w in (a, b)]
        warm = COPPER_PER_K * WARM_K
        spread = math.hypot(*(x / 2 for x in (*limits, warm, WOUND)))
        yield SisterSeen(
            what="ohms",
            where=a.name,
            readings=(a.coil.readings, b.coil.readings),
            off=math.log(_ohms(b) / _ohms(a)),
            sd=spread,
            figures=(engineering(_ohms(a), "Ω"), engineering(_ohms(b), "Ω")),
        )


def _by_inductance(one: Identification, two: Identification, pairs: Pairs) -> Iterable[SisterSeen]:
    """Henries and Q at the same hertz across the same winding's ends."""
    for a, b in pairs:
        for r in _across(one.record, a):
            for s in _across(two.record, b):
                if abs(math.log((r.hertz or 1.0) / (s.hertz or 1.0))) > LIKE_HERTZ:
                    continue
                where = f"{a.name} at {engineering(r.hertz, 'Hz')}"
                yield _iron(where, "inductance", (r, s), (r.henries, s.henries), "H")
                if r.q and s.q:
                    yield _iron(where, "Q", (r, s), (r.q, s.q), "")


def _across(record: Transformer, w: Winding) -> list[Any]:
    """Inductances of a whole winding, nothing shorted, at known hertz."""
    ends = set(w.coil.leads)
    found = (r for r in record.standing if r.kind == "inductance" and set(r.across) == ends)
    return [r for r in found if r.hertz and not r.shorted]


def _by_no_load(one: Identification, two: Identification, pairs: Pairs) -> Iterable[SisterSeen]:
    """Watts and amps at no load at like volts on the same winding."""
    for a, b in pairs:
        for r in _no_load(one.record, a):
            for s in _no_load(two.record, b):
                if abs(math.log(r.volts / s.volts)) > LIKE_VOLTS:
                    continue
                where = f"{a.name} at {engineering(r.volts, 'V')}"
                # watts go with the square of the volts and more: brought to the first's
                over = (r.volts / s.volts) ** WATTS_POWER
                if r.watts and s.watts:
                    yield _iron(where, "watts", (r, s), (r.watts, s.watts * over), "W")
                elif r.amps and s.amps:
                    over = (r.volts / s.volts) ** AMPS_POWER
                    yield _iron(where, "amps", (r, s), (r.amps, s.amps * over), "A")


WATTS_POWER, AMPS_POWER = 2.3, 4.0
"""How watts and amps at no load grow with the volts near the rated ones. IEC 60076-1 cl. 11.5 in
spirit, common practice."""


def _no_load(record: Transformer, w: Winding) -> list[Any]:
    ends = set(w.coil.leads)
    return [r for r in record.standing if r.kind == "no_load" and set(r.driven) == ends]


def _iron(
    where: str, what: str, readings: tuple[Any, Any], figures: tuple[float, float], unit: str
) -> SisterSeen:
    """One figure that the iron decides, of both."""
    field = {"inductance": "henries", "Q": "q"}.get(what, what)
    errors = [limit(r, field) / max(f, 1e-12) / 2 for r, f in zip(readings, figures, strict=True)]
    return SisterSeen(
        what=what,
        where=where,
        readings=((readings[0].id,), (readings[1].id,)),
        off=math.log(figures[1] / figures[0]),
        sd=math.hypot(IRON[what], *errors),
        figures=(_figure(figures[0], unit), _figure(figures[1], unit)),
    )


def _figure(value: float, unit: str) -> str:
    """A figure with its unit; plain where it has none."""
    return engineering(value, unit) if unit else f"{value:.3g}"


def _by_ratio(one: Identification, two: Identification, pairs: Pairs) -> Iterable[SisterSeen]:
    """Volts read over volts driven, the same way round on the same windings."""
    names = {frozenset(b.coil.leads): frozenset(a.coil.leads) for a, b in pairs}
    for r in _ratios(one.record):
        for s in _ratios(two.record):
            same = names.get(frozenset(s.driven)) == frozenset(r.driven)
            if not same or names.get(frozenset(s.sensed)) != frozenset(r.sensed):
                continue
            first, second = (x.sensed_volts / x.driven_volts for x in (r, s))
            errors = [
                limit(x, f) / getattr(x, f) / 2
                for x in (r, s)
                for f in ("driven_volts", "sensed_volts")
            ]
            yield SisterSeen(
                what="ratio",
                where=f"{'–'.join(r.driven)} to {'–'.join(r.sensed)}",
                readings=((r.id,), (s.id,)),
                off=math.log(second / first),
                sd=math.hypot(TURNS, *errors),
                figures=(f"{first:.4g}", f"{second:.4g}"),
            )


def _ratios(record: Transformer) -> list[Any]:
    return [r for r in record.standing if r.kind == "ratio" and r.sensed_volts > 0]


Look = Callable[[Identification, Identification, Pairs], Iterable[SisterSeen]]
LOOKS: tuple[Look, ...] = (_by_no_load, _by_inductance, _by_ratio, _by_ohms)


def _told(one: Identification, two: Identification, s: SisterSeen) -> Difference:
    """One figure that is off by itself."""
    suspect, then = "", "Read both again with one meter, the same warmth, nothing else joined."
    way = SHORTENS.get(s.what)
    if way is not None:
        suspect = (two if s.off * way > 0 else one).tag
        then = (
            f"{suspect} looks like the one with a shorted turn: take everything off it and out of "
            "its window, and read both again. Nothing live of either before that."
        )
    elif s.what == "ohms":
        fewer = (one if s.off > 0 else two).tag
        then += f" Fewer ohms on {fewer} may be shorted turns, more on the other a bad joint."
    sentence = (
        f"{s.what.capitalize()} of {s.where}: {s.figures[0]} on {one.tag}, {s.figures[1]} on "
        f"{two.tag}; sisters differ by {100 * (math.exp(FAR * s.sd) - 1):.0f} % at most. {then}"
    )
    return Difference(s.what, s.readings, suspect, sentence)


def _together(
    one: Identification, two: Identification, seen: Sequence[SisterSeen]
) -> list[Difference]:
    """Several figures of the iron, none far off by itself, all the way that shorted turns move
    them: the most telling of each kind.
    """
    strongest: dict[str, SisterSeen] = {}
    for s in seen:
        if s.what in SHORTENS and abs(s.z) > abs(strongest[s.what].z if s.what in strongest else 0):
            strongest[s.what] = s
    if len(strongest) < 2:
        return []
    found = strongest.values()
    total = sum(s.z * SHORTENS[s.what] for s in found) / math.sqrt(len(strongest))
    if abs(total) <= TOGETHER:
        return []
    suspect = two.tag if total > 0 else one.tag
    told = "; ".join(f"{s.what} {s.figures[0]} and {s.figures[1]}" for s in found)
    readings = (
        tuple(x for s in found for x in s.readings[0]),
        tuple(x for s in found for x in s.readings[1]),
    )
    sentence = (
        f"Taken together ({told}), {suspect} looks like the one with a shorted turn: take "
        "everything off it and out of its window, and read both again. Nothing live of either "
        "before that."
    )
    return [Difference("iron", readings, suspect, sentence)]
