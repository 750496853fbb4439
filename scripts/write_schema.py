"""Write what docs/ says of the public formats: the record's schema from its types, the
identification's by hand, the planners' from their declarations, with a page that lists them.

Run: python scripts/write_schema.py [--check]
"""

import json
import sys
from pathlib import Path

from greyfell.core.bench.setup import (
    CONDUCTORS,
    HELD,
    MOST_ELEMENTS,
    MOST_METERS,
    PLUGS,
    READS,
)
from greyfell.core.bench.setup import FORMAT as SETUP
from greyfell.core.bench.setup import KINDS as BENCH_KINDS
from greyfell.core.chain.elements import AHEAD, BEHIND, BONDS, LOAD, MODEL, SAID, SUPPLY
from greyfell.core.chain.elements import FORMAT as RIG
from greyfell.core.chain.elements import KINDS as RIG_KINDS
from greyfell.core.chain.elements import MOST_ELEMENTS as MOST_IN_ROW
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.record import Donor, Transformer
from greyfell.core.evidence.stores import FORMAT as STORES
from greyfell.core.evidence.stores import KINDS, MOST_COUNT, MOST_ITEMS
from greyfell.core.planner_kit.asking import slots
from greyfell.core.planner_kit.showing import columns, plain
from greyfell.core.planners.kept_plan import FORMAT as PLAN
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.telling.donors import DONORS
from greyfell.records.archive import FORMAT, LIST, PIECES
from greyfell.records.donors import FORMAT as DONORS_FORMAT
from greyfell.records.donors import MOST_DONORS

DOCS = Path(__file__).parent.parent / "docs"
DRAFT = "https://json-schema.org/draft/2020-12/schema"
WORDS = {"type": "string"}
PROBABILITY = {"type": "number", "minimum": 0, "maximum": 1}
FIGURE = {
    "type": "object",
    "required": ["value", "low", "high", "basis"],
    "properties": {
        "value": {"type": "number"},
        "low": {"type": "number"},
        "high": {"type": "number"},
        "basis": {"type": "array", "items": WORDS, "minItems": 1},
    },
}
LEADS = {"type": "array", "items": WORDS}
PAIR = {**LEADS, "minItems": 2, "maxItems": 2}
VOLTS = {
    **FIGURE,
    "required": [*FIGURE["required"], "between"],
    "properties": {**FIGURE["properties"], "between": PAIR},
}


def identification():
    """The schema of greyfell.identification/1."""
    winding = {
        "type": "object",
        "required": ["id", "leads", "taps", "core_bond", "ohms", "roles", "volts", "amps"],
        "properties": {
            "id": {"type": "string"},
            "leads": PAIR,
            "taps": {
                "type": "array",
                "items": {"type": "object", "required": ["lead", "fraction", "kind"]},
            },
            "core_bond": {
                "anyOf": [
                    {"type": "null"},
                    {"type": "object", "properties": {"place": {"enum": ["end", "middle"]}}},
                ]
            },
            "roles": {"type": "object", "additionalProperties": PROBABILITY},
            "volts": {"anyOf": [{"type": "null"}, VOLTS]},
            "amps": {
                "anyOf": [
                    {"type": "null"},
                    {
                        "type": "object",
                        "required": ["continuous", "minute"],
                        "properties": {"continuous": FIGURE, "minute": FIGURE},
                    },
                ]
            },
        },
    }
    fault = {
        "type": "object",
        "required": ["code", "severity", "leads", "readings", "sentence"],
        "properties": {
            "severity": {"enum": ["note", "caution", "stop"]},
            "leads": LEADS,
            "readings": LEADS,
        },
    }
    hazard = {
        "type": "object",
        "required": ["code", "headline", "sentence"],
        "properties": dict.fromkeys(("code", "headline", "sentence"), WORDS),
    }
    recheck = {
        "type": "object",
        "required": ["readings", "leads", "how"],
        "properties": {"readings": LEADS, "leads": LEADS, "how": WORDS},
    }
    polarity = {
        "type": "object",
        "required": ["reading", "sense", "alike", "probability"],
        "properties": {
            "reading": WORDS,
            "sense": {"enum": ["adding", "bucking", "unclear"]},
            "alike": PAIR,
            "probability": PROBABILITY,
        },
    }
    kind = {
        "type": "object",
        "required": ["name", "sentence", "backwards", "never_on_mains"],
        "properties": {
            "name": WORDS,
            "sentence": WORDS,
            "backwards": WORDS,
            "never_on_mains": {"type": "boolean"},
        },
    }
    properties = {
        "format": {"const": "greyfell.identification/1"},
        "tag": WORDS,
        "families": {
            "type": "object",
            "required": list(FAMILIES),
            "additionalProperties": PROBABILITY,
        },
        "core_leads": LEADS,
        "windings": {"type": "array", "items": winding},
        "fed": LEADS,
        "loose_leads": LEADS,
        "polarity": {"type": "array", "items": polarity},
        "verdict": {"enum": ["unknown", "screened", "proved", "doubtful", "condemned"]},
        "verdict_reasons": {"type": "array", "items": WORDS},
        "recheck": {"type": "array", "items": recheck},
        "faults": {"type": "array", "items": fault},
        "hazards": {"type": "array", "items": hazard, "minItems": 1},
        "volts_per_turn": {"anyOf": [{"type": "null"}, FIGURE]},
        "voltamperes": {"anyOf": [{"type": "null"}, FIGURE]},
        "kinds": {"type": "array", "items": kind},
    }
    meter = {
        "type": "object",
        "required": ["meter", "points", "allowed", "sentence"],
        "properties": {
            "meter": WORDS,
            "points": PAIR,
            "allowed": {"type": ["boolean", "null"]},
            "sentence": WORDS,
        },
    }
    optional = {
        "meters": {"type": "array", "items": meter},
        "gate": {
            "type": "object",
            "required": ["open", "reasons", "rests_on"],
            "properties": {
                "open": {"type": "boolean"},
                "reasons": {"type": "array", "items": WORDS},
                "rests_on": {"enum": ["record", "vouched"]},
            },
        },
        "handling": {
            "type": "array",
            "maxItems": 2,
            "items": {
                "type": "object",
                "required": ["code", "sentence"],
                "properties": {"code": WORDS, "sentence": WORDS},
            },
        },
        "next": {
            "type": "object",
            "required": ["kind"],
            "properties": {"cautions": {"type": "array", "maxItems": 2, "items": WORDS}},
        },
    }
    return {
        "$schema": DRAFT,
        "title": "greyfell.identification/1",
        "type": "object",
        "required": list(properties),
        "additionalProperties": False,
        "properties": {**properties, **optional},
    }


def shelf():
    """The schema of shelf.json in an archive, greyfell.shelf/1."""
    return {
        "$schema": DRAFT,
        "title": FORMAT,
        "description": f"{LIST} of a zip whose {PIECES}/TAG.json are greyfell.transformer/1.",
        "type": "object",
        "required": ["format"],
        "properties": {
            "format": {"const": FORMAT},
            "made": {"type": "string", "format": "date-time"},
            "by": WORDS,
            "pieces": LEADS,
        },
    }


def stores():
    """The schema of greyfell.stores/1, from the declarations of kinds."""
    entries = []
    for kind in KINDS:
        figures = {f.key: rated(f) for f in kind.figures}
        needed = [f.key for f in kind.figures if f.needed]
        words = dict.fromkeys(("id", "title", "note", "donor", "gone"), WORDS)
        count = {"type": "integer", "minimum": 0, "maximum": MOST_COUNT}
        head = {"kind": {"const": kind.key}, "count": count}
        entries.append(
            {
                "title": kind.one,
                "type": "object",
                "required": ["kind", *needed],
                "properties": {**head, **words, **figures},
            }
        )
    return {
        "$schema": DRAFT,
        "title": STORES,
        "type": "object",
        "required": ["format", "items"],
        "properties": {
            "format": {"const": STORES},
            "items": {"type": "array", "maxItems": MOST_ITEMS, "items": {"oneOf": entries}},
        },
    }


def setup():
    """The schema of greyfell.setup/1, from the kinds that may stand on a bench."""
    positive = {"type": "number", "exclusiveMinimum": 0}
    flag = {"type": "boolean"}
    elements = []
    for kind, figures in BENCH_KINDS.items():
        head = {"kind": {"const": kind}, "in": {"enum": list(CONDUCTORS)}}
        words = dict.fromkeys(("id", "title", "type"), WORDS)
        flags = dict.fromkeys(("reach", "isolated", "bridged"), flag)
        properties = {**head, **words, **flags, **dict.fromkeys(figures, positive)}
        elements.append({"type": "object", "required": ["kind"], "properties": properties})
    meter = {
        "id": WORDS,
        "title": WORDS,
        "category": WORDS,
        "at": PAIR,
        "reads": {"enum": list(READS)},
        "held": {"enum": list(HELD)},
        "max_volts_ac": positive,
        "amps": positive,
        "earthed": flag,
    }
    meters = {"type": "object", "required": ["at"], "properties": meter}
    return {
        "$schema": DRAFT,
        "title": SETUP,
        "type": "object",
        "required": ["fed"],
        "properties": {
            "format": {"const": SETUP},
            "fed": PAIR,
            "plug": {"enum": list(PLUGS)},
            "earthed": flag,
            "chain": {"type": "array", "maxItems": MOST_ELEMENTS, "items": {"oneOf": elements}},
            "meters": {"type": "array", "maxItems": MOST_METERS, "items": meters},
            "earth": LEADS,
            "covered": LEADS,
            "hands_off": flag,
        },
    }


def donors():
    """The schema of greyfell.donors/1, from the record's own type."""
    donor = Donor.model_json_schema()
    donor["properties"]["kind"] = {"enum": [kind.key for kind in DONORS]}
    return {
        "$schema": DRAFT,
        "title": DONORS_FORMAT,
        "type": "object",
        "required": ["format", "donors"],
        "properties": {
            "format": {"const": DONORS_FORMAT},
            "donors": {"type": "array", "maxItems": MOST_DONORS, "items": donor},
        },
    }


def rated(figure):
    """One rating: a number within its bounds, or words."""
    if figure.choices:
        return {"title": figure.label, "enum": list(figure.choices)}
    if figure.dated:
        return {"title": figure.label, "type": "string", "format": "date"}
    if figure.words:
        return {"title": figure.label, "type": "string"}
    said = {"title": figure.label, "type": "number", "exclusiveMinimum": 0, "maximum": figure.most}
    return {**said, "description": f"in {figure.unit}"} if figure.unit else said


def record():
    """The schema of greyfell.transformer/1, from the record's own types."""
    schema = {"$schema": DRAFT, **Transformer.model_json_schema(by_alias=True)}
    for part in schema["$defs"].values():  # a strike may be given as its reason alone
        if "struck" in part.get("properties", {}):
            part["properties"]["struck"]["anyOf"].append({"type": "string", "maxLength": 200})
    return schema


# ------------------------------------------------------------------ planners


def planner_page():
    """docs/planners.md: every planner with its input, its result and what stands behind it."""
    lines = ["# Planners", ""]
    lines += ["Written by `scripts/write_schema.py` from the declarations in `core/planners`.", ""]
    lines += ["`greyfell plan NAME FILE`, or `--from PIECE`; figures are SI, JSON in and out.", ""]
    for planner in PLANNERS.values():
        lines += [f"## {planner.name}", "", f"{planner.title}: {planner.purpose}", ""]
        lines += ["| input | key | unit | bounds | unless given | from a piece |"]
        lines += ["|---|---|---|---|---|---|", *inputs(planner.given, ""), ""]
        lines += ["| result | key | unit |", "|---|---|---|"]
        shown = columns(planner.found)
        lines += [f"| {c.show.label} | `{c.key}` | {c.show.unit} |" for c, _, _ in shown]
        lines += ["", f"Formula: {planner.why.text}. Sources: {planner.why.source}.", ""]
        said = [*planner.of_piece, *planner.cautions]
        lines += [f"- {c.severity}, `{c.code}`: {c.sentence}" for c in said]
        lines += ["", f"Checked against {'; '.join(sources(planner))}.", ""]
    return "\n".join(lines)


def inputs(of, path):
    """A row for every input, nested ones by a dotted key."""
    for slot in slots(of):
        key = f"{path}{slot.key}"
        if slot.part is not None:
            yield from inputs(slot.part, f"{key}.")
            continue
        default = "" if slot.required or slot.default is None else plain(slot.default)
        default = default.get("value", "") if isinstance(default, dict) else default
        needed = "must be given" if slot.required else default
        start = slot.ask.start
        known = (start.__doc__ or "").partition(".")[0] if start is not None else ""
        cells = (slot.ask.label, f"`{key}`", slot.ask.unit, bounds(slot.ask), needed, known)
        yield f"| {' | '.join(str(c) for c in cells)} |"


def bounds(ask):
    """The bounds of an input in words."""
    said = [f"above {ask.above:g}"] if ask.above is not None else []
    said += [f"at least {ask.at_least:g}"] if ask.at_least is not None else []
    said += [f"at most {ask.at_most:g}"] if ask.at_most is not None else []
    return ", ".join(said) or ", ".join(ask.choices)


def rig():
    """The schema of greyfell.rig/1, from the kinds that may stand in a row."""

    def figures(found):
        out = {}
        for f in found:
            shape = {"type": "number", "maximum": f.at_most}
            bound = "exclusiveMinimum" if f.at_least is None else "minimum"
            shape[bound] = f.above if f.at_least is None else f.at_least
            out[f.key] = {"enum": list(f.choices)} if f.choices else shape
        return out

    def element(kind):
        words = {"id": WORDS, "title": WORDS, "kind": {"const": kind.key}}
        needed = ["kind", *(f.key for f in kind.figures if f.needed)]
        properties = {**words, **figures(kind.figures)}
        return {"type": "object", "required": needed, "properties": properties}

    def row(where):
        kinds = [element(k) for k in RIG_KINDS.values() if where in k.where]
        return {"type": "array", "maxItems": MOST_IN_ROW, "items": {"oneOf": kinds}}

    needed = [f.key for f in MODEL if f.needed]
    piece = {
        **figures(MODEL),
        "bond": {"enum": list(BONDS)},
        "tag": WORDS,
        "family": {"enum": ["", *FAMILIES]},
    }
    loads = [element(k) for k in RIG_KINDS.values() if LOAD in k.where]
    wall = [f.key for f in SUPPLY.figures if f.needed]
    supply = {"type": "object", "required": wall, "properties": figures(SUPPLY.figures)}
    return {
        "$schema": DRAFT,
        "title": RIG,
        "type": "object",
        "required": ["supply", "piece"],
        "properties": {
            "format": {"const": RIG},
            "title": WORDS,
            "supply": supply,
            "ahead": row(AHEAD),
            "piece": {"type": "object", "required": needed, "properties": piece},
            "behind": row(BEHIND),
            "load": {"oneOf": loads},
            **{key: {"type": "boolean"} for key in SAID},
        },
    }


def kept():
    """The schema of greyfell.plan/1: a plan or a rig as it is kept."""
    measured = {
        "type": "object",
        "required": ["key", "value"],
        "properties": {"key": WORDS, "value": {"type": "number"}, "at": WORDS},
    }
    words = {key: {"type": "string"} for key in ("id", "title", "tag", "at", "core_version")}
    return {
        "$schema": DRAFT,
        "title": PLAN,
        "type": "object",
        "required": ["format", "planner", "input", "result"],
        "properties": {
            "format": {"const": PLAN},
            "planner": {"enum": ["rig", *PLANNERS]},
            **words,
            "input": {"type": "object"},
            "starts": {"type": "object"},
            "result": {"type": "object"},
            "measured": {"type": "array", "items": measured},
        },
    }


def sources(planner):
    """Where its check values stand, once each."""
    return dict.fromkeys(check.source for check in planner.checks)


def texts():
    """Path below docs/ and text of everything written."""
    found = {
        "format/transformer-1.schema.json": record(),
        "format/identification-1.schema.json": identification(),
        "format/shelf-1.schema.json": shelf(),
        "format/stores-1.schema.json": stores(),
        "format/donors-1.schema.json": donors(),
        "format/setup-1.schema.json": setup(),
        "format/rig-1.schema.json": rig(),
        "format/plan-1.schema.json": kept(),
    }
    for name, planner in PLANNERS.items():
        said = {"$schema": DRAFT, "title": f"plan {name}", "description": planner.purpose}
        schema = planner.schema()
        whole = {**said, "type": "object", "properties": schema}
        found[f"format/plan-{name}.schema.json"] = whole
    out = {k: json.dumps(v, indent=1, ensure_ascii=False) + "\n" for k, v in found.items()}
    return {**out, "planners.md": planner_page()}


def dropped(name, text, published):
    """Keys of a planner's answer that a schema published before has and this one has not: what is
    published may be added to, never taken away.
    """
    if not name.startswith("format/plan-") or name == "format/plan-1.schema.json":
        return []
    old, new = (set(json.loads(x)["properties"]["result"]["properties"]) for x in (published, text))
    return sorted(old - new)


def main():
    for name, text in texts().items():
        path = DOCS / name
        gone = dropped(name, text, path.read_text(encoding="utf-8")) if path.exists() else []
        if gone:
            sys.exit(f"{path} has published {', '.join(gone)}: a key may be added, never dropped")
        if "--check" in sys.argv:
            if not path.exists() or path.read_text(encoding="utf-8") != text:
                sys.exit(f"{path} is stale: run python scripts/write_schema.py")
        else:
            path.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
