"""Write the JSON Schemas of the public formats to docs/format: the record's from its types, the
identification's by hand.

Run: python scripts/write_schema.py [--check]
"""

import json
import sys
from pathlib import Path

from greyfell.core.evidence.record import FAMILIES, Transformer

FOLDER = Path(__file__).parent.parent / "docs" / "format"
PROBABILITY = {"type": "number", "minimum": 0, "maximum": 1}
FIGURE = {
    "type": "object",
    "required": ["value", "low", "high", "basis", "between"],
    "properties": {
        "value": {"type": "number"},
        "low": {"type": "number"},
        "high": {"type": "number"},
        "basis": {"type": "array", "items": {"type": "string"}, "minItems": 1},
        "between": {"type": "array", "items": {"type": "string"}, "minItems": 2, "maxItems": 2},
    },
}
LEADS = {"type": "array", "items": {"type": "string"}}


def identification():
    """The schema of greyfell.identification/1."""
    winding = {
        "type": "object",
        "required": ["id", "leads", "taps", "core_bond", "ohms", "roles", "volts"],
        "properties": {
            "id": {"type": "string"},
            "leads": {**LEADS, "minItems": 2, "maxItems": 2},
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
            "volts": {"anyOf": [{"type": "null"}, FIGURE]},
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
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "greyfell.identification/1",
        "type": "object",
        "required": [
            "format",
            "tag",
            "families",
            "core_leads",
            "windings",
            "fed",
            "loose_leads",
            "verdict",
            "faults",
            "hazards",
        ],
        "properties": {
            "format": {"const": "greyfell.identification/1"},
            "families": {
                "type": "object",
                "required": list(FAMILIES),
                "additionalProperties": PROBABILITY,
            },
            "windings": {"type": "array", "items": winding},
            "fed": LEADS,
            "verdict": {"enum": ["unknown", "screened", "proved", "doubtful", "condemned"]},
            "verdict_reasons": {"type": "array", "items": {"type": "string"}},
            "recheck": {
                "type": "array",
                "items": {
                    "type": "object",
                    "required": ["readings", "leads", "how"],
                    "properties": {
                        "readings": {"type": "array", "items": {"type": "string"}},
                        "leads": {"type": "array", "items": {"type": "string"}},
                        "how": {"type": "string"},
                    },
                },
            },
            "faults": {"type": "array", "items": fault},
            "hazards": {
                "type": "array",
                "items": {"type": "object", "required": ["code", "sentence"]},
            },
        },
    }


def schemas():
    """File name and text of every schema."""
    record = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Transformer.model_json_schema(by_alias=True),
    }
    for part in record["$defs"].values():  # a strike may be given as its reason alone
        if "struck" in part.get("properties", {}):
            part["properties"]["struck"]["anyOf"].append({"type": "string", "maxLength": 200})
    found = {"transformer-1.schema.json": record, "identification-1.schema.json": identification()}
    return {
        name: json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        for name, schema in found.items()
    }


def main():
    for name, text in schemas().items():
        path = FOLDER / name
        if "--check" in sys.argv:
            if not path.exists() or path.read_text(encoding="utf-8") != text:
                sys.exit(f"{path} is stale: run python scripts/write_schema.py")
        else:
            path.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
