"""Why: for any conclusion the readings, the formula with the figures in, the source, and what would
change it.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.found import Winding
from greyfell.core.belief.observations import Row
from greyfell.core.errors import FieldError
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering, percent, span, with_range
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.fault import FAULTS
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.evidence_weights import weigh_evidence

READ = ("ratio", "inductance", "test turn", "turns")
"""Observations told by the reading behind them."""
OHMS_SPREAD = 2.0
"""Ohms of a winding are told with this many standard deviations either side."""


class Why(Struct, frozen=True, kw_only=True):
    """An explanation: the conclusion, its figure in words, formula, figures put in, evidence with
    weights, source, what would change it.
    """

    conclusion: str
    figure: str
    formula: str = ""
    with_figures: str = ""
    evidence: tuple[tuple[str, str], ...] = ()
    source: str = ""
    would_change: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "conclusion": self.conclusion,
            "figure": self.figure,
            "formula": self.formula,
            "with_figures": self.with_figures,
            "evidence": [{"what": a, "says": b} for a, b in self.evidence],
            "source": self.source,
            "would_change": self.would_change,
        }


def why(ident: Identification, question: list[str]) -> Why:
    """Explain `family`, `verdict`, `volts-per-turn`, `voltamperes`, `fault CODE`, `winding W3
    volts`, `winding W3 role`, `winding W3 ohms` or `winding W3 amps`.

    Raises FieldError where there is no such conclusion.
    """
    words = [q.lower() for q in question]
    if len(words) == 1 and words[0] in WHOLE:
        return WHOLE[words[0]](ident)
    if len(words) == 2 and words[0] == "fault":
        return _fault(ident, words[1])
    if len(words) == 3 and words[0] == "winding" and words[2] in OF_WINDING:
        return OF_WINDING[words[2]](ident, _winding(ident, question[1]))
    raise FieldError(
        "question",
        "Ask for: family, verdict, volts-per-turn, voltamperes, fault CODE, or winding W1 volts "
        "(or role, ohms, amps).",
    )


def _winding(ident: Identification, name: str) -> Winding:
    found = next((w for w in ident.windings if w.id.lower() == name.lower()), None)
    if found is None:
        known = ", ".join(w.id for w in ident.windings) or "none yet"
        raise FieldError("winding", f"There is no winding {name} (known: {known}).")
    return found


def influences(ident: Identification, contrast: NDArray[np.float64]) -> list[tuple[Row, float]]:
    """How far the figure follows each observation: the share of a change in it that arrives in the
    figure, largest first.
    """
    solution, k = ident.belief.solution, ident.belief.index
    if solution is None or not solution.rows:
        return []
    gain = solution.gain(k, contrast)
    rows = [(row, float(g)) for row, g in zip(solution.rows, gain, strict=True) if abs(g) > 0.01]
    return sorted(rows, key=lambda x: -abs(x[1]))


def says(record: Transformer, row: Row) -> str:
    """What an observation says, as it was read."""
    if row.kind in READ:
        by_id = {r.id: r for r in record.readings}
        read = next((by_id[i] for i in row.readings if i in by_id), None)
        if read is not None:
            return told(read)
    if row.kind == "ohms":
        wide = math.exp(OHMS_SPREAD * row.sd)
        ohms = math.exp(row.value)
        return f"{engineering(ohms, 'Ω')} ({span(ohms / wide, ohms * wide, 'Ω')})"
    if row.kind == "wire":
        return f"{2e3 * math.sqrt(math.exp(row.value) / math.pi):.2f} mm bare"
    return {"mass": "weighed", "core area": "tongue × stack"}.get(row.kind, "from the plate")


def _evidence(ident: Identification, contrast: NDArray[np.float64]) -> tuple[tuple[str, str], ...]:
    """The observations a figure follows most, and by how much."""
    out = []
    for row, g in influences(ident, contrast)[:6]:
        name = f"{row.kind} {', '.join(row.readings[:3])}".strip()
        moves = f"a change of 1 % moves the figure {100 * g / 100:.2f} %"
        out.append((name, f"{says(ident.record, row)}; {moves}"))
    return tuple(out)


# ------------------------------------------------------------------ volts of a winding


class _Way(Struct, frozen=True):
    """One way to the volts: formula, figures put in, source, what would change it."""

    formula: str
    with_figures: str
    source: str
    would_change: str


def _on_the_supply(conclusion: str, figure: str) -> Why:
    return Why(
        conclusion=conclusion,
        figure=figure,
        formula="V = supply",
        with_figures=f"V = {figure}",
        evidence=(("supply", "as given"),),
        source="the record's supply",
        would_change="Another supply voltage: read the line in the minute of the test.",
    )


def _volts(ident: Identification, w: Winding) -> Why:
    belief = ident.belief
    best, solution = belief.best, belief.solution
    conclusion = f"volts of {w.id} ({w.name})"
    if w.volts is None or best is None or solution is None:
        return Why(
            conclusion=conclusion,
            figure="not known",
            would_change="A ratio test, or the primary named: until then no figure is given.",
        )
    if w.volts.low == w.volts.high:
        return _on_the_supply(conclusion, engineering(w.volts.value, "V"))
    i = ident.windings.index(w)
    if i == best.reference and "roles" in w.volts.basis:
        return _doubtful_primary(ident, w, w.volts)
    contrast = solution.unit((solution.w(i), 1.0), (solution.w(best.reference), -1.0))
    way = _way(ident, i, w.volts, best.reference, contrast)
    return Why(
        conclusion=f"open-circuit {conclusion}",
        figure=with_range(w.volts, "V"),
        formula=way.formula,
        with_figures=way.with_figures,
        evidence=_evidence(ident, contrast),
        source=way.source,
        would_change=way.would_change,
    )


def _by_ohms(with_figures: str) -> _Way:
    return _Way(
        "V ≈ supply × √(R/R_primary) × habit of the family",
        with_figures,
        "REF-T-09 (equal copper loss, tens of per cent) with the family's usual volts; common "
        "practice",
        "A ratio at low volts narrows it to a few per cent.",
    )


OTHER_DIRECTION = (
    "The same ratio in the other direction settles k; another line voltage moves it in proportion."
)


def _put_in(supply: float, factor: float, volts: float) -> str:
    rest = volts / (supply * factor)
    return f"{engineering(supply, 'V')} × {factor:.4g} × {rest:.3f} = {engineering(volts, 'V')}"


def _way(
    ident: Identification,
    i: int,
    volts: Quantity,
    reference: int,
    contrast: NDArray[np.float64],
) -> _Way:
    """The way from the supply to winding i's volts: a ratio, in the direction it was read, or the
    ohms of both windings.
    """
    pair = {i, reference}
    moved = [row for row, _ in influences(ident, contrast)]
    ratio = next((row for row in moved if row.kind == "ratio" and set(row.coils) == pair), None)
    fed = ident.windings[reference].volts
    supply = fed.value if fed else ident.record.supply.volts

    def put_in(factor: float) -> str:
        return _put_in(supply, factor, volts.value)

    if ratio is None:
        ohms, of_primary = ident.windings[i].coil.ohms, ident.windings[reference].coil.ohms
        return _by_ohms(put_in(math.sqrt(max(ohms.value, 1e-3) / max(of_primary.value, 1e-3))))
    either = OTHER_DIRECTION
    if ratio.coils[0] == i:
        return _Way(
            "V = supply × (driven/sensed) × k²",
            put_in(math.exp(-ratio.value)),
            "driven from this winding the reading is n/k, so the output is lower by k² (k from "
            "like pieces, common practice)",
            either,
        )
    return _Way(
        "V = supply × (sensed/driven) × correction to rated flux",
        put_in(math.exp(ratio.value)),
        "driven from the primary the reading is k·n, which is the output ratio; k at low flux by "
        "family (common practice)",
        either,
    )


def _doubtful_primary(ident: Identification, w: Winding, volts: Quantity) -> Why:
    """Volts of a winding that is only likely the primary: the supply's as likely as that, else what
    it puts out as another.
    """
    mains = f"{100 * w.mains_chance:.0f} % primary"
    others = [(r, p) for r, p in w.roles.items() if not r.startswith("primary") and p > 0.01]
    rest = ", ".join(f"{role} {100 * p:.0f} %" for role, p in others)
    low, high = engineering(volts.low, "V"), engineering(volts.high, "V")
    supply = f"{ident.record.supply.volts:g} V"
    return Why(
        conclusion=f"volts of {w.id} ({w.name})",
        figure=with_range(volts, "V"),
        formula="V = supply where it is the primary; else what it puts out with the primary fed",
        with_figures=f"{mains}: {supply}; {rest or 'else'}: down to {low}, up to {high}",
        evidence=(("roles", f"primary {100 * w.mains_chance:.0f} %, {rest}"),),
        source="mixture over every reading of the windings' roles, weighed by Bayes' rule",
        would_change=(
            "A low-energy ratio, counted turns or an inductance tells which winding is the primary."
        ),
    )


# ------------------------------------------------------------------ other conclusions


def _role(ident: Identification, w: Winding) -> Why:
    odds = ", ".join(f"{r} {percent(p)}" for r, p in w.roles.items() if p > 0.001)
    leading = weigh_evidence(ident)[:6]
    return Why(
        conclusion=f"role of {w.id} ({w.name})",
        figure=odds,
        formula="P(role) = Σ prior × likelihood over all readings of the piece, normalised",
        with_figures=odds,
        evidence=tuple((x.name, f"{x.decibans:+.1f} dban for {ident.family}") for x in leading),
        source="Bayes' rule; expectations of the trade, common practice",
        would_change=(
            "A ratio, a counted turn or milliohms would move it most where two roles are near."
        ),
    )


def _ohms(ident: Identification, w: Winding) -> Why:
    by_id = {r.id: r for r in ident.record.readings}
    figure = with_range(w.coil.ohms, "Ω")
    read = [by_id[i] for i in w.coil.readings[:8] if i in by_id]
    return Why(
        conclusion=f"ohms of {w.id} ({w.name})",
        figure=figure,
        formula="R = reading − probes; along a winding ohms add up",
        with_figures=figure,
        evidence=tuple((r.id, f"{told(r)} as read") for r in read),
        source="REF-Q-01, REF-Q-08; least squares on a line",
        would_change="Probe zero noted, or millivolts at a known DC current.",
    )


def _family(ident: Identification) -> Why:
    ordered = sorted(ident.families.items(), key=lambda x: -x[1])
    odds = ", ".join(f"{f} {percent(p)}" for f, p in ordered if p > 1e-4)
    weights = weigh_evidence(ident)
    return Why(
        conclusion="family",
        figure=odds,
        formula="P(family) = Σ prior × likelihood of everything on record, normalised",
        with_figures=odds,
        evidence=tuple((x.name, f"{x.decibans:+.1f} dban") for x in weights),
        source="Bayes' rule; expectations of the trade, common practice",
        would_change="The evidence with the largest weight, were it wrong.",
    )


CHANGES_VERDICT = {
    "condemned": "A better reading of what stopped it.",
    "doubtful": "The readings in question, taken again.",
    "unknown": "What is still missing of the cold screening.",
    "screened": "Live readings that agree, once the gate is open.",
    "proved": "A reading that disagrees, or a change to the iron.",
}
"""What would change each verdict."""


def _verdict(ident: Identification) -> Why:
    """Why the verdict is what it is: its reasons, the faults, and what to read again."""
    verdict = ident.judgement.verdict
    reasons = [("reason", r) for r in verdict.reasons]
    faults = [(f.code, f.sentence) for f in ident.faults]
    again = [
        (f"read again {', '.join(r.readings) or '–'.join(r.leads[:2])}", r.how)
        for r in verdict.recheck
    ]
    return Why(
        conclusion="verdict",
        figure=verdict.word,
        formula=(
            "stop fault of the piece → condemned; of what is joined to it, or a caution → "
            "doubtful; all cold readings → screened; live ones too → proved"
        ),
        with_figures="; ".join(verdict.reasons),
        evidence=(*reasons, *faults, *again),
        source="house rule",
        would_change=CHANGES_VERDICT[verdict.word],
    )


def _fault(ident: Identification, code: str) -> Why:
    found = next((f for f in ident.faults if f.code == code), None)
    if found is None:
        known = ", ".join(f.code for f in ident.faults) or "none"
        raise FieldError("fault", f"No fault {code} is found (found: {known}).")
    kind = FAULTS[code]
    by_id = {r.id: r for r in ident.record.readings}
    read = [by_id[i] for i in found.readings if i in by_id]
    return Why(
        conclusion=f"fault {code}",
        figure=found.severity,
        formula=f"{kind.condition}; read again: {kind.again}",
        with_figures=f"{found.sentence} {kind.instead}",
        evidence=tuple((r.id, told(r)) for r in read),
        source=kind.source,
        would_change=kind.clears,
    )


def _per_turn(ident: Identification) -> Why:
    belief = ident.belief
    per_turn, solution, best = belief.volts_per_turn, belief.solution, belief.best
    if per_turn is None or solution is None or best is None:
        return Why(
            conclusion="volts per turn",
            figure="not known",
            would_change="Five turns of thin wire through both windows.",
        )
    contrast = solution.log_v() - solution.unit((solution.w(best.reference), 1.0))
    supply = ident.record.supply.volts
    turns, least, most = (supply / v for v in (per_turn.value, per_turn.high, per_turn.low))
    return Why(
        conclusion="volts per turn",
        figure=with_range(per_turn, "V"),
        formula="v = V/N = 4.443·f·B·A",
        with_figures=f"{supply:g} V over about {turns:.0f} turns ({least:.0f} to {most:.0f})",
        evidence=_evidence(ident, contrast),
        source="REF-M-02",
        would_change="Five turns of thin wire through both windows: a percent.",
    )


def _rated(ident: Identification) -> Why:
    """Why the piece bears so many volt-amperes."""
    whole = ident.belief.voltamperes
    if whole is None:
        return Why(
            conclusion="volt-amperes",
            figure="not known",
            would_change="A plate, the iron's mass or its section.",
        )
    return Why(
        conclusion="volt-amperes",
        figure=with_range(whole, "VA"),
        formula="R/V² = 0.0305/VA^1.05; section in cm² = 1.15·√VA; each by its weight",
        with_figures=f"{with_range(whole, 'VA')} by {', '.join(whole.basis)}",
        evidence=tuple((name, "a witness of size") for name in whole.basis),
        source="REF-M-04, REF-M-05; JCGM 100:2008",
        would_change="A plate's volt-amperes, or tongue and stack of the iron.",
    )


def _amps(ident: Identification, w: Winding) -> Why:
    """Why a winding bears so many amps."""
    rating = ident.belief.ratings.get(w.id)
    if rating is None:
        return Why(
            conclusion=f"amps of {w.id} ({w.name})",
            figure="not known",
            would_change="Its wire's section, a plate, or what the lead fed.",
        )
    amps = rating.continuous
    return Why(
        conclusion=f"amps of {w.id} ({w.name})",
        figure=f"{with_range(amps, 'A')}; for a minute {with_range(rating.minute, 'A')}",
        formula="I = J·A of the wire; I = VA/V, shared as V²/R among the outputs; by weight",
        with_figures=f"{with_range(amps, 'A')} by {', '.join(amps.basis)}",
        evidence=tuple((name, "a witness of amps") for name in amps.basis),
        source="REF-W-03, M-T2; JCGM 100:2008",
        would_change="Its wire's section, a plate, or what the lead fed.",
    )


WHOLE: dict[str, Callable[[Identification], Why]] = {
    "family": _family,
    "verdict": _verdict,
    "volts-per-turn": _per_turn,
    "voltamperes": _rated,
}
"""Conclusions about the whole piece."""
OF_WINDING: dict[str, Callable[[Identification, Winding], Why]] = {
    "volts": _volts,
    "role": _role,
    "ohms": _ohms,
    "amps": _amps,
}
"""Conclusions about one winding."""
