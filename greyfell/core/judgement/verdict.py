"""The verdict on a piece: unknown, screened, proved, doubtful or condemned; why, and which readings
to take again.

A stop fault of the piece condemns; one of what is joined to it, and a caution, leave in doubt,
whatever else was read; a screening counts only where the core is proved and every open reading came
from a range that could have shown something; proved asks for live readings that agree. House rule.
"""

from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.kinds.resistance import Resistance
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.mains import high_region
from greyfell.core.judgement.fault import FAULTS, Fault
from greyfell.core.judgement.high import high_ruled_out, may_be_high
from greyfell.core.judgement.lamp_loop import lit_by_iron
from greyfell.core.judgement.primary import settled_primary
from greyfell.core.judgement.rated_mains import flux_share
from greyfell.core.judgement.screening import (
    CORE,
    HIGH_RANGE_OHMS,
    Barrier,
    barriers,
    demanded,
    screening_gaps,
)
from greyfell.core.judgement.struck_stops import unanswered

LIVE = (0.90, 1.10)
"""Between these shares of the supply a reading counts as taken on it: mains wander by a tenth. IEC
60038."""
SAME_HERTZ = 0.03
"""Hertz that differ by no more are the same: mains hold theirs far closer. House rule."""
SCREENED = (
    "the core proved, every winding open to it and the primary to every other, on ranges that count"
)


class Recheck(Struct, frozen=True):
    """One thing to read again: the readings concerned, the leads, and how."""

    readings: tuple[str, ...]
    leads: tuple[str, ...]
    how: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"readings": list(self.readings), "leads": list(self.leads), "how": self.how}


class Verdict(Struct, frozen=True):
    """The word, its reasons, and what to read again; empty where nothing asks for it."""

    word: str
    reasons: tuple[str, ...]
    recheck: tuple[Recheck, ...]


def verdict_on(
    record: Transformer, belief: Belief, faults: Sequence[Fault], struck: Sequence[Any] = ()
) -> Verdict:
    """Judge a piece by its faults, the struck readings that would have stopped it, what is still
    missing of its screening, and its live readings.
    """
    word, reasons = _word(record, belief, faults)
    marks = unanswered(struck, record, belief.topology)
    if marks and word not in ("condemned", "doubtful"):
        word = "doubtful"
        reasons = tuple(
            f"{r.id}, struck out, would stop the piece: {'–'.join(r.between)} was not read again "
            "as often in the same way"
            for r in marks
        )
    return Verdict(word, reasons, tuple(_recheck(record, belief, faults)))


def _word(
    record: Transformer, belief: Belief, faults: Sequence[Fault]
) -> tuple[str, tuple[str, ...]]:
    """The word and its reasons."""
    for severity in ("stop", "caution"):
        found = [f for f in faults if f.severity == severity]
        if found:
            own = any(not FAULTS[f.code].beside_it for f in found)
            word = "condemned" if own and severity == "stop" else "doubtful"
            return word, tuple(f"{f.words}: {f.ends}" for f in found)
    if not belief.windings:
        return "unknown", ("no winding is known yet",)
    gaps = screening_gaps(record, belief)
    if gaps:
        return "unknown", tuple(gaps)
    live = [r for r in record.standing if taken_live(r, record, belief)]
    told = (SCREENED, *_untold(belief))
    if not live:
        return "screened", (*told, "nothing was read yet with the primary at working flux")
    wanting = tuple(_wanting(live, record, belief))
    if wanting:
        return "screened", (*told, *wanting)
    supply = f"on {record.supply.volts:g} V {record.supply.hertz:g} Hz"
    return "proved", (*told, f"live readings agree: {', '.join(r.id for r in live)}, {supply}")


def _untold(belief: Belief) -> Iterable[str]:
    """What no cold test can tell: the insulation of an HV winding that is bonded to the iron."""
    for w in belief.windings:
        if w.coil.bond is not None and may_be_high(w):
            yield f"{w.name}, bonded to the iron, cannot be tested against it cold"


def taken_live(r: Any, record: Transformer, belief: Belief) -> bool:
    """Whether a reading was taken at this supply's working flux: at no load, or a ratio, with the
    primary itself driven by the supply's volts at its hertz, or on another supply with no less
    flux; never past what the plate bears. What drives another winding, or a part of the primary,
    is not. Flux goes with volts over hertz, REF-M-01.
    """
    if r.kind not in ("no_load", "ratio") or not set(r.driven) <= set(belief.fed):
        return False
    if r.where not in (None, "piece"):
        return False  # ahead of a ballast the meter shows the line, not the primary
    share = share_of_supply(r, record, belief)
    flux = flux_of(r, record, belief)
    same = flux == share and LIVE[0] <= share <= LIVE[1]
    return bool(same or flux >= 1.0) and not overdriven(r, record, belief)


def share_of_supply(r: Any, record: Transformer, belief: Belief) -> float:
    """The volts that a reading drove over those that the supply would put there. REF-M-01."""
    _, volts = r.drive
    half = 0.5 if len(belief.fed) > 2 and high_region(record.supply.volts) else 1.0
    return float(volts / (half * record.supply.volts))


def flux_of(r: Any, record: Transformer, belief: Belief) -> float:
    """The flux of a reading over that on the supply; the supply's hertz where it names none. Flux
    goes with volts over hertz, REF-M-01.
    """
    supply = record.supply
    hertz = r.hertz or supply.hertz
    return share_of_supply(r, record, belief) * (
        1.0 if abs(hertz / supply.hertz - 1) <= SAME_HERTZ else supply.hertz / hertz
    )


def overdriven(r: Any, record: Transformer, belief: Belief) -> bool:
    """Whether a reading was taken past what the plate's volts per hertz bear."""
    allowed = flux_share(record, belief)
    return allowed is not None and flux_of(r, record, belief) * allowed > MOST_FLUX


def _wanting(live: Sequence[Any], record: Transformer, belief: Belief) -> Iterable[str]:
    """What live readings still lack to prove a piece: figures that are not nought, no bright lamp;
    for a piece with HV the amps at no load, with watts or the volts of another winding; without a
    plate the primary itself settled.
    """
    plate = record.nameplate
    if (plate is None or not plate.primary_volts) and not settled_primary(belief):
        yield "without a plate the winding that takes the mains is still to be settled"
    past = [r.id for r in record.standing if _driven(r) and overdriven(r, record, belief)]
    if past:
        yield f"{', '.join(past)}: past the plate's volts per hertz, which proves nothing there"
    silent = [r.id for r in live if _nought(r)]
    if silent:
        yield f"{', '.join(silent)} reads nothing: prove the meter, then read it again"
    bright = [
        r.id
        for r in record.standing
        if r.kind == "lamp" and r.glow == "bright" and not lit_by_iron(record, belief, r)
    ]
    if bright:
        yield f"{', '.join(bright)}, a bright lamp, is not explained"
    if high_ruled_out(belief):
        return
    if not any(r.kind == "no_load" for r in live):
        yield "with an HV winding on the core the amps at no load are still to be read"
    elif not any(r.kind == "ratio" or r.watts is not None for r in live):
        yield "with an HV winding on the core watts, or the volts of another winding, are wanted"


def _driven(r: Any) -> bool:
    return bool(r.kind == "no_load")


def _nought(r: Any) -> bool:
    return bool((r.amps if r.kind == "no_load" else r.sensed_volts) == 0)


def _recheck(record: Transformer, belief: Belief, faults: Sequence[Fault]) -> Iterable[Recheck]:
    """Readings behind a stop or a caution, then barriers of the screening whose open readings were
    too weak to count.
    """
    for f in faults:
        if f.severity != "note":
            yield Recheck(f.readings, f.leads, FAULTS[f.code].again)
    low = [r for r in record.standing if r.kind == "resistance" and _says_little(r)]
    for b in barriers(record, belief.topology) if low else ():
        if b.range_ohms is None or b.screened or not demanded(b, belief.windings):
            continue
        one, two = _sides(b, belief)
        weak = [r for r in low if one & set(r.between) and two & set(r.between)]
        if weak:
            ids = tuple(r.id for r in weak)
            how = "on a range of 20 MΩ or above, the range noted"
            yield Recheck(ids, tuple(weak[0].between), how)


def _says_little(r: Resistance) -> bool:
    """Whether an open reading came from too low a range, or one not written down."""
    return r.ohms == "open" and (r.range_ohms or 0.0) < HIGH_RANGE_OHMS


def _sides(b: Barrier, belief: Belief) -> tuple[set[str], set[str]]:
    """The points either side of a barrier."""
    topology = belief.topology
    two = topology.iron if b.j == CORE else topology.coils[b.j].members
    return set(topology.coils[b.i].members), set(two)
