"""What the shelf says of a piece in a few words, and what its small drawing needs."""

from dataclasses import dataclass
from typing import Any

from greyfell.core.advice import next_steps
from greyfell.core.identify import Identification, Winding
from greyfell.core.present import present
from greyfell.core.quantity import engineering, span
from greyfell.core.record import Transformer

FAMILY_WORDS = {
    "microwave": "oven",
    "sign": "sign",
    "mains": "mains",
    "choke": "choke",
    "variable": "variac",
    "other": "other",
    "unknown": "unknown",
}


@dataclass(frozen=True)
class Summary:
    """Family, how sure, danger rank (0 none known … 5 stop), a headline with its mood, how far
    tested, and a sketch.
    """

    family: str
    sure: float
    danger: int
    headline: str
    mood: str
    reached: str
    next_step: str
    sketch: dict[str, Any]

    def as_json(self) -> dict[str, Any]:
        """For the cache."""
        return {
            "family": self.family,
            "sure": self.sure,
            "danger": self.danger,
            "headline": self.headline,
            "mood": self.mood,
            "reached": self.reached,
            "next_step": self.next_step,
            "sketch": self.sketch,
        }


def summarise(record: Transformer, ident: Identification) -> Summary:
    """The shelf's view of a piece. Pure."""
    danger, headline, mood = _headline(ident)
    return Summary(
        ident.family,
        round(ident.sure, 6),
        danger,
        headline,
        mood,
        reached(record, ident),
        next_steps(present(record), ident)[0].title,
        sketch(record, ident),
    )


def _headline(ident: Identification) -> tuple[int, str, str]:
    stop = next((f for f in ident.faults if f.severity == "stop"), None)
    if stop is not None:
        words = {
            "shorted-to-core": "winding to the core",
            "windings-shorted": "windings shorted",
            "open-winding": "winding open",
            "insulation-low": "insulation low",
            "shorted-turns": "shorted turns",
        }.get(stop.code, stop.code)
        return 5, f"stop: {words} ({'–'.join(x for x in stop.leads[:3])})", "stop"
    hazards = {h.code: h for h in ident.hazards}
    hv = next((w for w in ident.windings if w.role == "hv-secondary" and w.volts is not None), None)
    caution = next((f for f in ident.faults if f.severity == "caution"), None)
    if hv is not None and hv.volts is not None:
        tail = {"core-live": ", core live", "hv-to-case": " across, half to case"}
        words = next((t for c, t in tail.items() if c in hazards), "")
        return 4, f"{span(hv.volts.low, hv.volts.high, 'V')}{words}", "stop"
    if "core-live" in hazards or "hv" in hazards or "hv-to-case" in hazards:
        return 4, "kilovolts, not yet measured", "stop"
    if "hv-not-ruled-out" in hazards:
        return 3, "HV not ruled out", "caution"
    if caution is not None:
        return 3, caution.code.replace("-", " "), "caution"
    outs = [
        w
        for w in ident.windings
        if w.volts is not None and w.role not in ("primary", "primary-half")
    ]
    if outs:
        shown = ", ".join(_span(w) for w in outs[:2])
        return (
            (2 if any(w.volts and w.volts.high > 50 for w in outs) else 1),
            shown,
            "sound" if ident.verdict in ("proved", "screened") else "quiet",
        )
    if ident.family == "choke" and ident.windings:
        return 2, f"choke, {engineering(ident.windings[0].coil.ohms.value, 'Ω')} of copper", "quiet"
    if ident.family == "variable":
        return 2, "one winding: no isolation", "caution"
    return 3, "not yet known: take it for live", "caution"


def _span(w: Winding) -> str:
    assert w.volts is not None
    return span(w.volts.low, w.volts.high, "V")


def reached(record: Transformer, ident: Identification) -> str:
    """How far a piece is tested: the last station with a reading, or its end."""
    if ident.stopped:
        return "condemned"
    kinds = {r.kind for r in record.standing}
    live = any(
        (r.kind == "no_load" and r.volts > 0.5 * record.supply.volts) for r in record.standing
    )
    if live:
        return "first power"
    if kinds & {"ratio", "inductance", "dc_drop", "test_turn"}:
        return "low energy"
    if kinds & {"resistance", "insulation", "core_proof"}:
        return "cold"
    return "clues" if record.leads else "salvage"


def sketch(record: Transformer, ident: Identification) -> dict[str, Any]:
    """Few plain facts for the small drawing: shape, windings in the order they sit, leads' colours,
    bonds, breaks.
    """
    colours = {lead.id: (lead.colour or "") for lead in record.leads}
    broken = {x for f in ident.faults if f.severity == "stop" for x in f.leads}
    windings: list[dict[str, Any]] = [
        {
            "role": w.role,
            "bond": w.coil.bond,
            "broken": bool(set(w.coil.members) & broken),
            "leads": [
                [x, colours.get(x, "")]
                for x in (*w.coil.leads[:1], *(t.lead for t in w.taps), *w.coil.leads[1:])
                if x in colours
            ],
        }
        for w in ident.windings
    ]
    placed = {x for w in windings for x, _ in w["leads"]}
    return {
        "shape": (record.core.shape if record.core else None) or _usual_shape(ident.family),
        "shunts": bool(record.core and record.core.shunts == "present"),
        "windings": windings,
        "loose": [[x, c] for x, c in colours.items() if x not in placed],
    }


def _usual_shape(family: str) -> str:
    return {"variable": "toroid", "sign": "core"}.get(family, "shell")
