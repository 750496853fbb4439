"""The demo's rigs, all made up: a ballasted sign tube, a first power through a lamp, a 12 V supply,
a valve supply, and one that is refused.
"""

from typing import Any

from greyfell.core.planners.kept_plan import rig_document

AT = "2026-09-12T10:00:00Z"
WALL = {"volts": 230.0, "hertz": 50.0, "ohms": 0.4, "breaker_amps": 16.0, "residual_amps": 0.03}
OVEN = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 8.7,
    "primary_ohms": 2.3,
    "secondary_ohms": 174.0,
    "leakage_henries": 0.05,
    "idle_amps": 0.92,
    "core_watts": 41.5,
    "shunt_volts": 90.0,
    "bond": "end",
}
SIGN = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 26.0,
    "primary_ohms": 14.0,
    "secondary_ohms": 6500.0,
    "leakage_henries": 0.68,
    "idle_amps": 0.32,
    "core_watts": 16.0,
    "winding_farads": 2e-10,
    "rated_volts": 6000.0,
    "rated_amps": 0.028,
    "bond": "middle",
}
LOW = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 0.0574,
    "primary_ohms": 24.0,
    "secondary_ohms": 0.12,
    "leakage_henries": 0.02,
    "idle_amps": 0.05,
    "core_watts": 3.5,
    "rated_volts": 12.0,
    "rated_amps": 4.0,
}
VALVE = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 2.7,
    "primary_ohms": 6.5,
    "secondary_ohms": 95.0,
    "leakage_henries": 0.02,
    "idle_amps": 0.12,
    "core_watts": 8.0,
    "rated_volts": 600.0,
    "rated_amps": 0.16,
    "bond": "middle",
}
CHOKE = {"kind": "ballast", "short_amps": 1.3, "at_volts": 230.0, "at_hertz": 50.0, "ohms": 9.0}
RIGS: tuple[dict[str, Any], ...] = (
    {
        "title": "Waltzer sign tube behind a ballast",
        "supply": WALL,
        "ahead": [{**CHOKE, "title": "promenade gear"}],
        "piece": SIGN,
        "load": {
            "kind": "arc",
            "volts": 1400.0,
            "electrodes": "gas-filled tube",
            "title": "tube",
        },
        "enclosed": True,
    },
    {
        "title": "Oven, first power through a lamp",
        "supply": WALL,
        "ahead": [{"kind": "lamp", "watts": 100.0, "volts": 230.0, "title": "ticket office"}],
        "piece": OVEN,
        "load": {"kind": "open"},
        "enclosed": True,
    },
    {
        "title": "12 V for the lanterns",
        "supply": WALL,
        "piece": LOW,
        "behind": [
            {"kind": "rectifier", "rectifier": "bridge", "inverse_volts": 100.0},
            {"kind": "reservoir", "farads": 4.7e-3, "volts_dc": 35.0},
        ],
        "load": {"kind": "resistor", "ohms": 10.0, "watts": 50.0, "title": "lanterns"},
    },
    {
        "title": "Organ amplifier, HV",
        "supply": WALL,
        "piece": VALVE,
        "behind": [
            {"kind": "rectifier", "rectifier": "centre-tap", "inverse_volts": 2000.0},
            {"kind": "reservoir", "farads": 3.2e-5, "volts_dc": 500.0},
            {"kind": "bleeder", "ohms": 2.2e5, "watts": 2.0, "volts": 700.0},
        ],
        "load": {"kind": "resistor", "ohms": 3300.0, "watts": 60.0, "title": "valves"},
        "enclosed": True,
        "proved": True,
    },
    {
        "title": "Lanterns, a bridge on a bonded winding: refused",
        "supply": WALL,
        "piece": {**LOW, "bond": "end"},
        "behind": [{"kind": "rectifier", "rectifier": "bridge", "inverse_volts": 100.0}],
        "load": {"kind": "resistor", "ohms": 10.0},
    },
)
"""Rigs in their open format."""


def demo_plans() -> dict[str, Any]:
    """The demo's rigs, solved, as kept plans."""
    made = [rig_document(rig, model=None, at=AT) for rig in RIGS]
    named = [{**plan, "id": f"pdemo{n}"} for n, plan in enumerate(made, 1)]
    return {"format": "greyfell.plans/1", "plans": named}
