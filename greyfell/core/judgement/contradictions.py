"""Two readings that cannot both be true, of what cannot change: polarity, which leads conduct, a
ratio, two bare spots within a sitting.

Each is named and keeps the gate shut, whatever anybody says, until a third reading decides or one
is struck out and read again. Which of two it is, is not guessed.
"""

from collections.abc import Callable, Hashable, Iterable, Sequence
from functools import partial
from typing import Any

from greyfell.core.belief.found import Belief
from greyfell.core.belief.polarity import PolarityFound, turned
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Transformer
from greyfell.core.evidence.times import after, within_sitting
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.wiring.coil import LEAK_OHMS, Topology
from greyfell.core.wiring.topology import CORE_PROVED_OHMS

CODE = "contradiction"
OTHER_RATIO = 1.25
"""Two ratios of one pair that differ by this factor beyond their meters' limits are not of one
piece as it stands: shunted parts droop by several per cent at low flux. House rule."""
Pair = frozenset[int]


def contradictions(record: Transformer, belief: Belief) -> list[Fault]:
    """Everything on record of which two readings cannot both be true."""
    return [
        *_polarities(record, belief),
        *_joined(record, belief),
        *_ratios(record),
        *_proofs(record),
    ]


def decided(readings: Sequence[Any], says: Callable[[Any], Hashable]) -> bool:
    """Whether readings of one thing leave no doubt: they all say the same, or a third, later than
    both, bears one of two out.
    """
    sides: dict[Hashable, list[Any]] = {}
    for r in readings:
        sides.setdefault(says(r), []).append(r)
    if len(sides) <= 1:
        return True
    most = max(sides.values(), key=len)
    rest = [r for r in readings if r not in most]
    newest = [r for r in most if all(after(r.at, x.at) for x in rest)]
    return len(most) > len(rest) and bool(newest)


def _fault(leads: Iterable[str], readings: Iterable[str], sentence: str, **more: Any) -> Fault:
    severity: Severity = more.get("severity", "caution")
    code = more.get("code", CODE)
    return Fault(
        code=code,
        severity=severity,
        leads=tuple(leads),
        readings=tuple(readings),
        sentence=sentence,
        firm=True,
    )


# ------------------------------------------------------------------ polarity


def undecided_polarity(record: Transformer, belief: Belief) -> dict[Pair, list[PolarityFound]]:
    """Pairs of coils whose polarity readings contradict each other, or of which the newest fits
    neither sense, each with its readings.
    """
    read = {r.id: r for r in record.standing if r.kind == "polarity"}
    by_pair: dict[Pair, list[PolarityFound]] = {}
    for p in belief.polarity:
        by_pair.setdefault(_pair_of(p, belief.topology), []).append(p)
    out = {}
    for pair, found in by_pair.items():
        told = {p.reading: turned(p, belief.topology) for p in found}
        if not _settled([read[p.reading] for p in found], told):
            out[pair] = found
    return out


def _settled(readings: Sequence[Any], told: dict[str, Any]) -> bool:
    """Whether the readings of one pair leave one sense, and none unclear is as new as they."""
    clear = [r for r in readings if told[r.id] is not None]
    unclear = [r for r in readings if told[r.id] is None]
    if not decided(clear, lambda r: told[r.id]):
        return False
    return all(any(after(r.at, x.at) for r in clear) for x in unclear)


def _pair_of(p: PolarityFound, topology: Topology) -> Pair:
    found = (topology.coil_of(x) for x in p.alike)
    return frozenset(i for i in found if i is not None)


def _polarities(record: Transformer, belief: Belief) -> Iterable[Fault]:
    for pair, found in undecided_polarity(record, belief).items():
        names = " and ".join("–".join(belief.topology.coils[i].leads) for i in sorted(pair))
        ids = [p.reading for p in found]
        leads = [x for i in sorted(pair) for x in belief.topology.coils[i].leads]
        unclear = [p.reading for p in found if p.sense == "unclear"]
        if unclear:
            why = f"{', '.join(unclear)} reads volts that neither sense gives"
        else:
            senses = ", ".join(f"{p.reading} says {p.sense}" for p in found)
            why = f"{senses}: they cannot all be true"
        yield _fault(
            leads,
            ids,
            f"The polarity of {names} is not settled: {why}. Joined wrongly they are a short. "
            "Read it again with the same two ends joined, the volts driven in the same minute; "
            "strike the slip out.",
        )


# ------------------------------------------------------------------ which leads conduct


def _joined(record: Transformer, belief: Belief) -> Iterable[Fault]:
    """Two leads that read open, and yet conduct through others."""
    ohms = [r for r in record.standing if r.ohms_between is not None]
    wires = [r for r in ohms if _conducts(r)]
    opened = [r for r in ohms if r.is_open and _tells(r)]
    for r in opened:
        x, y = r.between
        if belief.topology.winding_spanned((x, y)) is None:
            continue
        bridge = _bridge(wires, x, y)
        if bridge is None:
            continue
        points, ids = tuple(bridge), sorted({w.id for w in wires if set(w.ohms_between) == bridge})
        yield _fault(
            (*r.between, *(p for p in points if p not in r.between)),
            (r.id, *ids),
            f"{x}–{y} read open ({r.id}), and yet they conduct through {'–'.join(sorted(points))} "
            f"({', '.join(ids)}): two windings touch, or one was misread. Power nothing. "
            "Read both pairs again with every lead free, and strike the slip out.",
            severity="stop",
            code="windings-shorted",
        )


def _conducts(r: Any) -> bool:
    """Whether a wire was read between two points, as it was read."""
    return r.of_wire and bool(r.ohms_shown < LEAK_OHMS)


def _tells(r: Any) -> bool:
    """Whether an open reading was on a range that would have shown a winding's ohms."""
    return bool(r.proof_volts) or (r.range_ohms or 0.0) >= LEAK_OHMS


def _bridge(wires: Sequence[Any], x: str, y: str) -> frozenset[str] | None:
    """The one pair through which two leads conduct, where it alone joins two groups of two and more
    leads; None where they are joined otherwise, or not at all.
    """
    pairs = {frozenset(w.ohms_between) for w in wires}
    if "core" in (x, y) or y not in _reached(pairs, x):
        return None
    for pair in sorted(pairs, key=sorted):
        left = pairs - {pair}
        here, there = _reached(left, x), _reached(left, y)
        if y not in here and len(here) > 1 and len(there) > 1:
            return pair
    return None


def _reached(pairs: set[frozenset[str]], start: str) -> set[str]:
    seen, left = {start}, [start]
    while left:
        here = left.pop()
        more = {p for pair in pairs if here in pair for p in pair} - seen
        seen |= more
        left += more
    return seen


# ------------------------------------------------------------------ ratios and bare spots


def _ratios(record: Transformer) -> Iterable[Fault]:
    """Ratios of one pair in one direction that differ beyond what low flux and meters explain."""
    by_pair: dict[tuple[frozenset[str], frozenset[str]], list[Any]] = {}
    for r in record.standing:
        if r.kind == "ratio" and r.sensed_volts > 0 and not r.links:
            by_pair.setdefault((frozenset(r.driven), frozenset(r.sensed)), []).append(r)
    for found in by_pair.values():
        sides = {r.id: _cluster(r, found) for r in found}
        if decided(found, partial(_side, sides)):
            continue
        first, last = min(found, key=_ratio), max(found, key=_ratio)
        yield _fault(
            (*first.driven, *first.sensed),
            (r.id for r in found),
            f"{first.id} and {last.id} read the same two windings, and say {_ratio(first):.4g} and "
            f"{_ratio(last):.4g} times: turns do not change. Read it a third time, both volts in "
            "the same minute, and strike the slip out.",
        )


def _ratio(r: Any) -> float:
    return float(r.sensed_volts / r.driven_volts)


def _side(sides: dict[str, int], r: Any) -> int:
    return sides[r.id]


def _cluster(r: Any, all_: Sequence[Any]) -> int:
    """The first reading that this one agrees with."""
    return next(n for n, x in enumerate(all_) if _agree(r, x))


def _agree(one: Any, two: Any) -> bool:
    low, high = sorted((one, two), key=_ratio)
    slack = sum(limit(r, f) / getattr(r, f) for r in (low, high) for f in VOLTS)
    return bool(_ratio(high) <= _ratio(low) * (OTHER_RATIO + slack))


VOLTS = ("driven_volts", "sensed_volts")


def _proofs(record: Transformer) -> Iterable[Fault]:
    """Two bare spots of the core that were proved, and within the sitting, or since, were not."""
    read = [r for r in record.standing if r.kind == "core_proof"]
    proofs = [r for r in read if r.ohms <= CORE_PROVED_OHMS]
    for bad in (r for r in read if r.ohms > CORE_PROVED_OHMS and proofs):
        beside = [r for r in read if within_sitting(r.at, bad.at)]
        if decided(beside, lambda r: r.ohms <= CORE_PROVED_OHMS) and _proved(beside):
            continue
        if any(after(r.at, bad.at) and r not in beside for r in proofs):
            continue  # scraped anew since
        good = proofs[-1]
        yield _fault(
            ("core",),
            (good.id, bad.id),
            f"Two bare spots of the core read {engineering(good.ohms, 'Ω')} ({good.id}) and "
            f"{engineering(bad.ohms, 'Ω')} ({bad.id}): one of the probes stood on varnish or rust. "
            "Scrape both spots and prove the core again; only then an open reading to it counts.",
        )
        return


def _proved(readings: Sequence[Any]) -> bool:
    good = [r for r in readings if r.ohms <= CORE_PROVED_OHMS]
    return 2 * len(good) > len(readings)
