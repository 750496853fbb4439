"""The isolation report of a piece: each pair of windings with its insulation, leakage, bond and
polarity by the readings behind them; a grade that unknown never raises; what it may and may not be
used for, and when it is tested again.
"""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.families.registry import has
from greyfell.core.figures.leaking import grade_of
from greyfell.core.figures.limits import BASIC_OHMS, PROVING_AMPS, REINFORCED_OHMS, TEST_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.isolation.states import OutputState, halves_states, single_states
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification

AGAIN_DAYS = 365
"""A home-made supply is tested again after a year, or after a fall, water or smoke. House rule."""
UNKNOWN, REJECTED, BASIC, TWO = "unknown", "rejected", "one barrier", "two barriers by ohms"
NEVER = "not a safety isolation"
ORDER = (REJECTED, UNKNOWN, NEVER, BASIC, TWO)
"""Grades, the worst first."""
WHO = (
    "Nobody here can tell its grade without an insulation tester of 500 V: an appliance tester's "
    "shop, a repair café or an electrician has one."
)
NOT_MARKED = (
    "A home-made isolation is not a safety isolating transformer by IEC 61558-2-4 or 2-6, however "
    "well it reads: never near water, never for children's hands, never left running alone."
)


class BarrierFound(Struct, frozen=True, kw_only=True):
    """Mains against one winding: its name, what insulation was read (words and reading), its
    grade.
    """

    winding: str
    words: str
    reading: str
    grade: str


class Line(Struct, frozen=True, kw_only=True):
    """One line of the report: what, what was found, whether it holds (None: not read)."""

    what: str
    found: str
    holds: bool | None


class Report(Struct, frozen=True, kw_only=True):
    """The report: barriers, the other lines, the grade of the whole, why, what it may be used for
    and not, the day of the next test ("" where nothing was tested), whether that is past.
    """

    barriers: tuple[BarrierFound, ...]
    lines: tuple[Line, ...]
    grade: str
    why: str
    may: tuple[str, ...]
    may_not: tuple[str, ...]
    again: str
    past: bool


def report(ident: Identification, today: datetime) -> Report:
    """The isolation of a piece as its readings tell it on a day. IEC 61558-1, IEC 60335-1 cl. 13,
    IEC 60335-1 27.5. Two oven parts, a rewound one, a potted sign part never get better than “not a
    safety isolation”; a past test counts for nothing.
    """
    fed = set(ident.belief.fed)
    others = [w for w in ident.windings if not fed & set(w.coil.leads)]
    tested = _latest(ident)
    again = None if tested is None else tested + timedelta(days=AGAIN_DAYS)
    past = again is not None and again < today
    barriers = tuple(_barrier(ident, fed, w, past=past) for w in others)
    lines = tuple(_lines(ident))
    grade, why = _grade(ident, barriers, lines, past=past)
    return Report(
        barriers=barriers,
        lines=lines,
        grade=grade,
        why=why,
        may=_may(grade),
        may_not=_may_not(grade),
        again="" if again is None else again.date().isoformat(),
        past=past,
    )


def _latest(ident: Identification) -> datetime | None:
    """When insulation was last tested with volts that count."""
    times = [
        datetime.fromisoformat(r.at)
        for r in ident.record.standing
        if r.proof_volts >= TEST_VOLTS and r.at
    ]
    return max(times, default=None)


def _barrier(ident: Identification, fed: set[str], w: Winding, *, past: bool) -> BarrierFound:
    """Mains against one winding, by the lowest ohms that were read between them."""
    leads = set(w.coil.leads)
    read = [r for r in ident.record.standing if r.proof_volts and _between(r, fed, leads)]
    counted = [r for r in read if r.test_volts >= TEST_VOLTS]
    if "core" in leads or w.coil.bond:
        said = "its end is bonded to the core: it is isolated from nothing that is earthed"
        return BarrierFound(winding=w.name, words=said, reading="", grade=NEVER)
    if not counted:
        said = "not tested at 500 V"
        if read:
            said = f"tested at {read[-1].test_volts:g} V only: an ohmmeter's reading"
        return BarrierFound(winding=w.name, words=said, reading="", grade=UNKNOWN)
    worst = min(counted, key=lambda r: r.ohms_shown)
    ohms = worst.ohms_shown
    shown = "open" if worst.ohms == "open" else engineering(ohms, "Ω")
    grade = REJECTED if ohms < BASIC_OHMS else BASIC if ohms < REINFORCED_OHMS else TWO
    if past and grade != REJECTED:
        grade = UNKNOWN
    said = f"{shown} at {worst.test_volts:g} V"
    return BarrierFound(winding=w.name, words=said, reading=worst.id, grade=grade)


def _between(r: Any, fed: set[str], leads: set[str]) -> bool:
    one, two = r.between
    return (one in fed and two in leads) or (two in fed and one in leads)


def _lines(ident: Identification) -> list[Line]:
    """Leakage, the core's bond, polarity, mains against the core."""
    record = ident.record
    leaks = [r for r in record.standing if r.kind == "leakage_current"]
    out = []
    if leaks:
        worst = max(leaks, key=lambda r: r.amps * record.supply.volts / r.driven_volts)
        amps = worst.amps * record.supply.volts / worst.driven_volts
        grade = grade_of(amps)
        out.append(
            Line(
                what="Leakage to earth on the supply",
                found=f"{engineering(amps, 'A')}, {grade} ({worst.id})",
                holds=grade != "reject",
            )
        )
    else:
        out.append(Line(what="Leakage to earth", found="not read", holds=None))
    out.append(_bond(ident))
    polar = [r for r in record.standing if r.kind == "polarity"]
    out.append(
        Line(
            what="Polarity, before anything is joined",
            found=f"read ({polar[-1].id})" if polar else "not read: nothing is joined",
            holds=True if polar else None,
        )
    )
    return out


def _bond(ident: Identification) -> Line:
    """The core's bond: for use it is proved with ten amps; one only says that it is there."""
    what = "Core to earth, after the leads"
    bond = bond_of(ident.record, ident.belief.topology.core_leads)
    if bond is None:
        return Line(what=what, found="not read", holds=None)
    read = next(r for r in ident.record.standing if r.id == bond.reading)
    if bond.bad:
        return Line(what=what, found=f"{bond.words} ({bond.reading})", holds=False)
    amps = getattr(read, "amps", 0.0)
    if bond.proved and amps >= PROVING_AMPS:
        return Line(what=what, found=f"{bond.words} at {amps:g} A ({bond.reading})", holds=True)
    said = f"{bond.words} ({bond.reading}): {PROVING_AMPS:g} A are wanted before use"
    return Line(what=what, found=said, holds=None)


def _grade(
    ident: Identification, barriers: Sequence[BarrierFound], lines: Sequence[Line], *, past: bool
) -> tuple[str, str]:
    """The worst of all, and why."""
    if ident.stopped:
        return REJECTED, "A stop fault stands on this piece."
    if any(line.holds is False for line in lines):
        bad = next(line for line in lines if line.holds is False)
        return REJECTED, f"{bad.what}: {bad.found}."
    if not barriers:
        return (
            UNKNOWN,
            "No winding apart from the fed one is known: one tapped winding isolates nothing.",
        )
    worst = min(barriers, key=lambda b: ORDER.index(b.grade))
    if has(ident.family, "high") or any(c.what == "rewound" for c in ident.record.changes):
        if worst.grade == REJECTED:
            return REJECTED, f"{worst.winding}: {worst.words}."
        return NEVER, "Oven and sign parts, and what was wound by hand, have one barrier at best."
    if past:
        return UNKNOWN, "Its test is more than a year old and counts for nothing."
    if worst.grade == UNKNOWN:
        return UNKNOWN, WHO
    return worst.grade, f"{worst.winding}: {worst.words}."


def _may(grade: str) -> tuple[str, ...]:
    if grade == TWO:
        return (
            "one earthed instrument against one floating appliance, one hand at work",
            "extra-low volts to be touched, open below 50 V at mains + 10 %",
        )
    if grade == BASIC:
        return ("inside a case of its own, its output covered as mains is",)
    return ()


def _may_not(grade: str) -> tuple[str, ...]:
    out = [NOT_MARKED, "two appliances at once: the first fault of each makes a pair"]
    if grade != TWO:
        out.append("any output that a hand may touch")
    return tuple(out)


LIKE_HALVES = 0.02
"""Outputs whose volts differ by less are halves. House rule."""


def states_of(ident: Identification) -> list[OutputState]:
    """The state sheet of a piece as an isolated outlet: of two like outputs in series and parallel,
    else of its first; none where no output's volts are known.
    """
    fed = set(ident.belief.fed)
    known = [w for w in ident.windings if not set(w.coil.leads) & fed and not may_be_high(w)]
    outputs = [(w, w.volts.value) for w in known if w.volts is not None]
    if not outputs:
        return []
    first = outputs[0]
    like = [o for o in outputs[1:] if abs(o[1] / first[1] - 1) <= LIKE_HALVES]
    if not like:
        return single_states(first[1])
    told = [p for p in ident.belief.polarity if p.sense != "unclear"]
    return halves_states(first[1], proved=bool(told))
