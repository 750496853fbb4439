"""Why: for any conclusion the readings, the formula with the figures in, the source, and what would
change it.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from greyfell.core.errors import FieldError
from greyfell.core.identify import Identification, Winding, weigh_evidence
from greyfell.core.quantity import Quantity, as_read, engineering, span, with_range
from greyfell.core.record import Transformer
from greyfell.core.voltages import Row


@dataclass(frozen=True)
class Why:
    """An explanation: the conclusion, its figure in words, formula, figures put in, evidence with
    weights, source, what would change it.
    """

    conclusion: str
    figure: str
    formula: str
    with_figures: str
    evidence: tuple[tuple[str, str], ...]
    source: str
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


def why(record: Transformer, ident: Identification, question: list[str]) -> Why:
    """Explain `family`, `verdict`, `volts-per-turn`, `fault CODE`, `winding W3 volts`, `winding W3
    role` or `winding W3 ohms`.

    Raises FieldError where there is no such conclusion.
    """
    words = [q.lower() for q in question]
    if words == ["family"]:
        return _family(record, ident)
    if words == ["verdict"]:
        return _verdict(ident)
    if words == ["volts-per-turn"]:
        return _per_turn(record, ident)
    if len(words) == 2 and words[0] == "fault":
        return _fault(ident, words[1])
    if len(words) == 3 and words[0] == "winding":
        found = next((w for w in ident.windings if w.id.lower() == words[1]), None)
        if found is None:
            raise FieldError(
                "winding",
                (
                    f"There is no winding {question[1]} (known: "
                    f"{', '.join(w.id for w in ident.windings) or 'none yet'})."
                ),
            )
        if words[2] in ("volts", "role", "ohms"):
            return {"volts": _volts, "role": _role, "ohms": _ohms}[words[2]](record, ident, found)
    raise FieldError(
        "question",
        (
            "Ask for: family, verdict, volts-per-turn, fault CODE, or winding W1 volts (or "
            "role, or ohms)."
        ),
    )


def influences(ident: Identification, contrast: np.ndarray) -> list[tuple[Row, float]]:
    """How far the figure follows each observation: the share of a change in it that arrives in the
    figure, largest first.
    """
    solution, k = ident.belief.solution, ident.belief.index
    if solution is None or not solution.rows:
        return []
    gain = contrast @ solution.prior_cov[k] @ solution.design[k].T @ solution.inverse[k]
    rows = [(row, float(g)) for row, g in zip(solution.rows, gain, strict=True) if abs(g) > 0.01]
    return sorted(rows, key=lambda x: -abs(x[1]))


def says(record: Transformer, row: Row) -> str:
    """What an observation says, as it was read."""
    by_id = {r.id: r for r in record.readings}
    for ident in row.readings:
        r = by_id.get(ident)
        if r is None:
            continue
        if r.kind == "ratio":
            return (
                f"{as_read(r.driven_volts, 'V')} on {'–'.join(r.driven)} gave "
                f"{as_read(r.sensed_volts, 'V')} on {'–'.join(r.sensed)}"
            )
        if r.kind == "inductance":
            return (
                f"{as_read(r.henries, 'H')} across {'–'.join(r.across)} at {as_read(r.hertz, 'Hz')}"
            )
        if r.kind == "test_turn":
            return (
                f"{r.turns:g} turns gave {as_read(r.turn_volts, 'V')} with "
                f"{as_read(r.driven_volts, 'V')} on {'–'.join(r.driven)}"
            )
        if r.kind == "turns":
            return f"{r.turns:g} turns counted on {'–'.join(r.across)}"
    if row.kind == "ohms":
        return (
            f"{engineering(math.exp(row.value), 'Ω')} "
            f"({span(math.exp(row.value - 2 * row.sd), math.exp(row.value + 2 * row.sd), 'Ω')})"
        )
    return {
        "mass": "weighed",
        "core area": "tongue × stack",
        "wire": f"{2e3 * math.sqrt(math.exp(row.value) / math.pi):.2f} mm bare",
    }.get(row.kind, "from the plate")


def _evidence(
    record: Transformer, ident: Identification, contrast: np.ndarray
) -> tuple[tuple[str, str], ...]:
    return tuple(
        (
            f"{row.kind} {', '.join(row.readings[:3])}".strip(),
            f"{says(record, row)}; a change of 1 % moves the figure {100 * g / 100:.2f} %",
        )
        for row, g in influences(ident, contrast)[:6]
    )


def _volts(record: Transformer, ident: Identification, w: Winding) -> Why:
    name, solution, best = "–".join(w.coil.leads), ident.belief.solution, ident.belief.best
    if w.volts is None or solution is None or best is None:
        return Why(
            f"volts of {w.id} ({name})",
            "not known",
            "",
            "",
            (),
            "",
            "A ratio test, or the primary named: until then no figure is given.",
        )
    if w.volts.low == w.volts.high:
        return Why(
            f"volts of {w.id} ({name})",
            engineering(w.volts.value, "V"),
            "V = supply",
            f"V = {engineering(w.volts.value, 'V')}",
            (("supply", "as given"),),
            "the record's supply",
            "Another supply voltage: read the line in the minute of the test.",
        )
    i = ident.windings.index(w)
    if i == best.reference and "roles" in w.volts.basis:
        return _doubtful_primary(record, ident, w)
    contrast = solution.unit((solution.w(i), 1.0), (solution.w(best.reference), -1.0))
    strong = [
        row
        for row, _ in influences(ident, contrast)
        if row.kind == "ratio" and set(row.coils) == {i, best.reference}
    ]
    supply = ident.windings[best.reference].volts
    fed = supply.value if supply else record.supply.volts
    if strong and strong[0].coils[0] == i:
        n = math.exp(-strong[0].value)
        k2 = w.volts.value / (fed * n)
        formula, put = (
            "V = supply × (driven/sensed) × k²",
            f"{engineering(fed, 'V')} × {n:.4g} × {k2:.3f} = {engineering(w.volts.value, 'V')}",
        )
        source = (
            "domain rule: driven from this winding the reading is n/k, so the output is lower "
            "by k² (k from like pieces, common practice)"
        )
    elif strong:
        n = math.exp(strong[0].value)
        formula, put = (
            "V = supply × (sensed/driven) × correction to rated flux",
            (
                f"{engineering(fed, 'V')} × {n:.4g} × {w.volts.value / (fed * n):.3f} = "
                f"{engineering(w.volts.value, 'V')}"
            ),
        )
        source = (
            "driven from the primary the reading is k·n, which is the output ratio; k at low "
            "flux by family (common practice)"
        )
    else:
        formula = "V ≈ supply × √(R/R_primary) × habit of the family"
        r = math.sqrt(
            max(w.coil.ohms.value, 1e-3) / max(ident.windings[best.reference].coil.ohms.value, 1e-3)
        )
        put = (
            f"{engineering(fed, 'V')} × {r:.4g} × {w.volts.value / (fed * r):.3f} = "
            f"{engineering(w.volts.value, 'V')}"
        )
        source = (
            "REF-T-09 (equal copper loss, tens of per cent) with the family's usual volts; "
            "common practice"
        )
    change = (
        "A ratio at low volts narrows it to a few per cent."
        if not strong
        else (
            "The same ratio in the other direction settles k; another line voltage moves it in "
            "proportion."
        )
    )
    return Why(
        f"open-circuit volts of {w.id} ({name})",
        with_range(w.volts, "V"),
        formula,
        put,
        _evidence(record, ident, contrast),
        source,
        change,
    )


def _doubtful_primary(record: Transformer, ident: Identification, w: Winding) -> Why:
    """Volts of a winding that is only likely the primary: the supply's as likely as that, else what
    it puts out as another.
    """
    mains = sum(p for role, p in w.roles.items() if role in ("primary", "primary-half"))
    rest = ", ".join(
        f"{role} {100 * p:.0f} %"
        for role, p in w.roles.items()
        if role not in ("primary", "primary-half") and p > 0.01
    )
    assert w.volts is not None
    return Why(
        f"volts of {w.id} ({'–'.join(w.coil.leads)})",
        with_range(w.volts, "V"),
        "V = supply where it is the primary; else what it puts out with the primary fed",
        (
            f"{100 * mains:.0f} % primary: {record.supply.volts:g} V; {rest or 'else'}: down to "
            f"{engineering(w.volts.low, 'V')}, up to {engineering(w.volts.high, 'V')}"
        ),
        (("roles", f"primary {100 * mains:.0f} %, {rest}"),),
        "mixture over every reading of the windings' roles, weighed by Bayes' rule",
        "A low-energy ratio, counted turns or an inductance tells which winding is the primary.",
    )


def _role(record: Transformer, ident: Identification, w: Winding) -> Why:
    odds = ", ".join(f"{r} {100 * p:.1f} %" for r, p in w.roles.items() if p > 0.001)
    weights = tuple(
        (x.name, f"{x.decibans:+.1f} dban for {ident.family}")
        for x in weigh_evidence(record, ident)[:6]
    )
    return Why(
        f"role of {w.id} ({'–'.join(w.coil.leads)})",
        odds,
        "P(role) = Σ prior × likelihood over all readings of the piece, normalised",
        odds,
        weights,
        "Bayes' rule; expectations of the trade in core/priors.py, common practice",
        "A ratio, a counted turn or milliohms would move it most where two roles are near.",
    )


def _ohms(record: Transformer, ident: Identification, w: Winding) -> Why:
    parts = tuple(
        (
            r,
            next(
                (
                    f"{x.ohms} Ω as read"
                    for x in record.readings
                    if x.id == r and x.kind == "resistance"
                ),
                "DC drop",
            ),
        )
        for r in w.coil.readings[:8]
    )
    return Why(
        f"ohms of {w.id} ({'–'.join(w.coil.leads)})",
        with_range(w.coil.ohms, "Ω"),
        "R = reading − probes; along a winding ohms add up",
        with_range(w.coil.ohms, "Ω"),
        parts,
        "REF-Q-01, REF-Q-08; least squares on a line",
        "Probe zero noted, or millivolts at a known DC current.",
    )


def _family(record: Transformer, ident: Identification) -> Why:
    odds = ", ".join(
        f"{f} {100 * p:.2g} %"
        for f, p in sorted(ident.families.items(), key=lambda x: -x[1])
        if p > 1e-4
    )
    weights = tuple((x.name, f"{x.decibans:+.1f} dban") for x in weigh_evidence(record, ident))
    return Why(
        "family",
        odds,
        "P(family) = Σ prior × likelihood of everything on record, normalised",
        odds,
        weights,
        "Bayes' rule; expectations of the trade, common practice",
        "The evidence with the largest weight, were it wrong.",
    )


def _verdict(ident: Identification) -> Why:
    """Why the verdict is what it is: its reasons, the faults, and what to read again."""
    evidence = tuple(("reason", r) for r in ident.reasons) + tuple(
        (f.code, f.sentence) for f in ident.faults
    )
    again = tuple(
        (f"read again {', '.join(r.readings) or '–'.join(r.leads[:2])}", r.how)
        for r in ident.recheck
    )
    change = {
        "condemned": "A better reading of what stopped it.",
        "doubtful": "The readings in question, taken again.",
        "unknown": "What is still missing of the cold screening.",
        "screened": "Live readings that agree, once the gate is open.",
        "proved": "A reading that disagrees, or a change to the iron.",
    }[ident.verdict]
    formula = (
        "stop fault → condemned; caution → doubtful; all cold readings → screened; live ones "
        "too → proved"
    )
    return Why(
        "verdict",
        ident.verdict,
        formula,
        "; ".join(ident.reasons),
        evidence + again,
        "house rule",
        change,
    )


def _fault(ident: Identification, code: str) -> Why:
    found = next((f for f in ident.faults if f.code == code), None)
    if found is None:
        raise FieldError(
            "fault",
            (
                f"No fault {code} is found (found: "
                f"{', '.join(f.code for f in ident.faults) or 'none'})."
            ),
        )
    return Why(
        f"fault {code}",
        found.severity,
        "a rule of judgement: check, threshold, source stand beside it in core/faults.py",
        found.sentence,
        tuple((r, "on record") for r in found.readings),
        "core/faults.py",
        "The same readings repeated with clean probes, and the wrong one struck out.",
    )


def _per_turn(record: Transformer, ident: Identification) -> Why:
    q, solution, best = ident.volts_per_turn, ident.belief.solution, ident.belief.best
    if q is None or solution is None or best is None:
        return Why(
            "volts per turn",
            "not known",
            "",
            "",
            (),
            "",
            "Five turns of thin wire through both windows.",
        )
    contrast = solution.log_v() - solution.unit((solution.w(best.reference), 1.0))
    turns = Quantity(
        record.supply.volts / q.value, record.supply.volts / q.high, record.supply.volts / q.low
    )
    return Why(
        "volts per turn",
        with_range(q, "V"),
        "v = V/N = 4.443·f·B·A",
        (
            f"{record.supply.volts:g} V over about {turns.value:.0f} turns ({turns.low:.0f} to "
            f"{turns.high:.0f})"
        ),
        _evidence(record, ident, contrast),
        "REF-M-02",
        "Five turns of thin wire through both windows: a percent.",
    )
