"""The next safe step: the safest test that is still missing, with what to expect and what else would mean.

Order of this first form, common practice: salvage, prove the core, zero the probes, primary to core, pairs not yet read,
other windings to core, insulation, milliohms, a few volts of AC. Nothing live is proposed: its gates are not built yet.
"""

from dataclasses import dataclass
from typing import Any

from greyfell.core.identify import HIGH_RANGE_OHMS, Identification
from greyfell.core.record import Transformer

GATE_SENTENCE = (
    "Guidance for anything live is closed: the gates that must stand before it are not built yet. "
    "Cold and low-energy tests are open. Local codes and licensed practice stand above this program."
)


@dataclass(frozen=True)
class Step:
    """One plain instruction: title, what to do, what to expect, what else would mean, the caution that belongs to it."""

    kind: str
    leads: dict[str, tuple[str, ...]]
    title: str
    do: str
    expect: str
    otherwise: str
    caution: str
    energy: str
    jotter: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"kind": self.kind, "leads": {k: list(v) for k, v in self.leads.items()}, "why": f"{self.title}. {self.do}",
                "expect": self.expect, "otherwise": self.otherwise, "caution": self.caution, "energy": self.energy}  # fmt: skip


def next_steps(record: Transformer, ident: Identification) -> list[Step]:
    """The steps still open, the next one first; after a stop fault only the reading that would clear it."""
    if ident.stopped:
        return [_clear_fault(ident)]
    steps: list[Step] = []
    steps += _repeat(ident)
    steps += _salvage(record, ident)
    steps += _cold(record, ident)
    steps += _low(record, ident)
    return steps or [_finished()]


def _clear_fault(ident: Identification) -> Step:
    fault = next(f for f in ident.faults if f.severity == "stop")
    pair = fault.leads[:2] if "core" not in fault.leads else (fault.leads[0], "core")
    return Step("resistance", {"between": tuple(pair)}, f"Stop: repeat {'–'.join(pair)} before condemning",
                f"Free {'–'.join(pair)} of everything else, clean the probes, bare metal, highest range. Read it once more.",
                "The same again: the piece is condemned.", "A different reading: strike the wrong one out with its reason.",
                "Power nothing. No statement overrides this fault; only a better reading clears it.", "cold", f"{'-'.join(pair)} ")  # fmt: skip


def _repeat(ident: Identification) -> list[Step]:
    """A reading that does not fit is repeated before anything is built on it."""
    for fault in ident.faults:
        if fault.code == "inconsistent-readings" and len(fault.leads) == 2 and fault.readings:
            pair = (fault.leads[0], fault.leads[1])
            return [Step("resistance", {"between": pair}, f"Repeat {'–'.join(pair)}",
                         f"Reading {fault.readings[0]} does not add up with the others. Zero the probes, read {'–'.join(pair)} again on a fixed range.",
                         "What the others say.", f"The same again: look at the others of this winding. A slip: strike {fault.readings[0]} out.",
                         "Nothing is powered.", "cold", f"{'-'.join(pair)} ")]  # fmt: skip
    return []


def _salvage(record: Transformer, ident: Identification) -> list[Step]:
    vouched = any(s.kind in ("salvage-done", "done-elsewhere") for s in record.statements)
    risky = ident.families.get("microwave", 0.0) > 0.2 or not ident.windings
    if vouched or not risky:
        return []
    return [Step("statement", {}, "First the capacitor",
                 "If this came out of an oven: discharge its capacitor through a resistor, across the terminals and from each to the can, "
                 "then short it and leave the short on. Say so here when it is done.",
                 "Under 1 V after a wait, measured with a meter proved on a known source.",
                 "Volts coming back: the dielectric recovers; discharge again.",
                 "Treat it as charged whatever its age. Not alone.", "stored", "")]  # fmt: skip


def _cold(record: Transformer, ident: Identification) -> list[Step]:
    topology = ident.topology
    steps: list[Step] = []
    if not topology.core_proved:
        steps.append(Step("core_proof", {}, "Prove the core", "Scrape two bare spots of the iron and read one against the other.",
                          "Under 0.5 Ω.", "More, or OL: varnish. Scrape again; until then an “open to core” says nothing.",
                          "Nothing is powered.", "cold", "proof "))  # fmt: skip
    order = {"primary": 0, "primary-half": 0, "filament": 1, "lv-secondary": 1, "bias": 1}
    for w in sorted(ident.windings, key=lambda w: order.get(w.role, 2)):
        if w.coil.bond is not None or w.coil.broken:
            continue
        ranges = [topology.open_to_core[x] for x in w.coil.members if x in topology.open_to_core]
        if not ranges or max(ranges) < HIGH_RANGE_OHMS:
            lead = w.coil.leads[0]
            role = {"primary": "the mains winding", "primary-half": "a mains winding"}.get(w.role, "this winding")
            steps.append(Step("resistance", {"between": (lead, "core")}, f"{lead} to the core, highest range",
                              f"One probe on {lead}, one on the bare iron, range 2 MΩ or above. Note the range.",
                              "OL.", f"Any reading means {role} touches the core: stop.",
                              "Nothing is powered. Fingers off the probe tips.", "cold", f"{lead}-core open 20M"))  # fmt: skip
    for x in topology.untested:
        others = [lead.id for lead in record.leads if lead.id != x]
        mate = others[0] if others else "core"
        steps.append(Step("resistance", {"between": (x, mate)}, f"Find what {x} belongs to",
                          f"Ohms from {x} to every other lead and to the core, lowest range first.",
                          "A few ohms to one or two leads, OL to the rest.", "OL to all: a screen, or a winding open inside.",
                          "Nothing is powered.", "cold", f"{x}-{mate} "))  # fmt: skip
    return steps


def _low(record: Transformer, ident: Identification) -> list[Step]:
    steps: list[Step] = []
    measured = {x for r in record.standing if r.kind == "dc_drop" for x in r.across}
    hv = next((w for w in ident.windings if w.role == "hv-secondary"), None)
    primary = next((w for w in ident.windings if w.role == "primary"), None)
    for w in ident.windings:
        if not w.coil.resolved and not w.coil.broken and not set(w.coil.members) & measured:
            a, b = w.coil.leads
            steps.append(Step("dc_drop", {"across": (a, b)}, f"Milliohms of {a}–{b}",
                              f"Pass 1 to 2 A of DC through {a}–{b} and read the volts right at its ends.",
                              "Some millivolts to tens of millivolts.", "Nothing at all: the current does not flow there.",
                              "Short the HV winding first and ramp down before you open the circuit: it kicks.", "low", f"{a}-{b} dc 1A "))  # fmt: skip
    ratio = any(r.kind == "ratio" for r in record.standing)
    if primary is not None and not ratio:
        a, b = primary.coil.leads
        other = hv or next((w for w in ident.windings if w is not primary and not w.coil.broken), None)
        if other is not None:
            c, d = other.coil.leads
            if hv is not None:
                steps.append(Step("ratio", {"driven": (c, d), "sensed": (a, b)}, "Ratio from the HV side, low volts",
                                  f"Feed {c}–{d} from an isolated 24 to 60 V AC source and read {a}–{b}. Note both in the same minute.",
                                  "A small part of what goes in: every terminal stays at or below the drive.",
                                  "More out than in: the wrong winding is driven. Off.",
                                  "Isolated source, core earthed, never on the heater winding. Work every open winding out first.",
                                  "low", f"{c}-{d} 42V > {a}-{b} "))  # fmt: skip
            else:
                steps.append(Step("ratio", {"driven": (a, b), "sensed": (c, d)}, "Ratio with a few volts",
                                  f"Feed {a}–{b} from an isolated source of a few volts AC and read {c}–{d}. Note both in the same minute.",
                                  "The volts of the winding in the same proportion as at full supply, within a percent.",
                                  "Nothing: prove the meter on a known source first.",
                                  "Work out every open winding before power: above 30 V it counts as live.", "low", f"{a}-{b} 12V > {c}-{d} "))  # fmt: skip
    return steps


def _finished() -> Step:
    return Step("none", {}, "Cold and low-energy tests are on record", "Plan a rewind or a ballast from this piece, or export its record.",
                "", "", GATE_SENTENCE, "none", "")  # fmt: skip
