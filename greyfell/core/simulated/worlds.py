"""Other worlds than ours: what is least known of iron, copper, meters and owners, shifted one at a
time and all together.

Identification was written by the same hand as the simulated bench. Each world here moves something
that hand may have wrong, at least as far as practice differs; what is concluded must hold in all of
them. Common practice and from memory; no figure of them is a measurement.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.evidence.kinds.registry import keys
from greyfell.core.simulated.meters import Kit
from greyfell.core.truth.piece import Piece, Wound

ALUMINIUM = 1.64
"""Ohms of aluminium over those of copper of the same size. REF-W-01."""


class World(Struct, frozen=True, kw_only=True):
    """How a world differs from home.

    `permeance` multiplies the iron's initial permeability; `flux_law` is the exponent of coupling
    at a few volts, k^m, where it is not the model's own; `leakage` multiplies what is not coupled;
    `aluminium` is the share of pieces wound with it; `share` multiplies the ohms of secondaries,
    `size` those of all windings; `high` and `low` are spreads of the logarithm of HV and of low
    volts; `meters` multiplies the errors of meters, `wander` the line's; `slips` are shares of
    records; `colours` that of leads of any colour; `forgets` that of readings never taken;
    `no_ohms` that of records without any.
    """

    name: str
    permeance: float = 1.0
    flux_law: float | None = None
    leakage: float = 1.0
    aluminium: float = 0.0
    share: float = 1.0
    size: float = 1.0
    high: float = 0.0
    low: float = 0.0
    meters: float = 1.0
    wander: float = 1.0
    slips: float = 0.06
    colours: float = 0.0
    forgets: float = 0.0
    no_ohms: float = 0.0

    def piece(self, made: Piece, rng: np.random.Generator) -> Piece:
        """A piece of home as it would be here."""
        metal = ALUMINIUM if rng.random() < self.aluminium else 1.0
        windings = tuple(self._wound(w, metal, rng) for w in made.windings)
        iron = replace(made.iron, mu_initial=made.iron.mu_initial * self.permeance)
        coupling = 1 - min(0.2, (1 - made.coupling) * self.leakage)
        return replace(
            made, windings=windings, iron=iron, coupling=coupling, low_flux=self.flux_law
        )

    def _wound(self, w: Wound, metal: float, rng: np.random.Generator) -> Wound:
        first = w.role in ("primary", "primary-half", "choke")
        ohms = metal * self.size * (1.0 if first else self.share)
        spread = 0.0
        if w.role == "hv-secondary":
            spread = self.high
        elif w.role == "lv-secondary":
            spread = self.low
        times = float(np.exp(rng.normal(0, spread))) if spread else 1.0
        turns = max(1.0, round(w.turns * times))
        # as many turns more or less of wire as much thinner or thicker fill the same room
        wire = w.wire_mm / np.sqrt(ohms * turns / w.turns)
        return replace(w, turns=turns, wire_mm=float(wire))

    def kit(self, own: Kit) -> Kit:
        """An owner's instruments as they are here; what is noted of them is what they claim at
        home.
        """
        return replace(
            own,
            counts=own.counts * self.meters,
            ohms_percent=own.ohms_percent * self.meters,
            volts_percent=own.volts_percent * self.meters,
            henries_percent=own.henries_percent * self.meters,
        )

    def document(
        self, told: dict[str, Any], colours: Sequence[str], rng: np.random.Generator
    ) -> dict[str, Any]:
        """A record as it is kept here."""
        readings = [r for r in told["readings"] if rng.random() >= self.forgets]
        if rng.random() < self.no_ohms and any(r["kind"] == "ratio" for r in readings):
            readings = [r for r in readings if r["kind"] not in keys("of_wire")]
        leads = [
            {**lead, "colour": str(rng.choice(colours))}
            if "colour" in lead and rng.random() < self.colours
            else lead
            for lead in told["leads"]
        ]
        return {**told, "readings": readings, "leads": leads}


HOME = World(name="home")
WORLDS = (
    HOME,
    World(name="couples better at few volts", flux_law=0.5),
    World(name="couples worse at few volts", flux_law=1.1, leakage=1.3),
    World(name="hard iron", permeance=0.35),
    World(name="soft iron", permeance=2.8),
    World(name="aluminium", aluminium=0.5),
    World(name="coils side by side", share=0.72),
    World(name="thin outer coils", share=1.35),
    World(name="other sizes", size=1.6),
    World(name="other volts", high=0.10, low=0.5),
    World(name="coarse meters", meters=1.6, slips=0.12),
    World(name="restless line", wander=2.0, leakage=0.7),
    World(name="strange colours, forgetful owners", colours=0.8, forgets=0.15),
    World(name="no ohms written", no_ohms=0.34),
    World(
        name="a little of all",
        permeance=0.6,
        flux_law=0.8,
        aluminium=0.2,
        share=0.85,
        size=1.2,
        high=0.08,
        low=0.3,
        meters=1.25,
        wander=1.5,
        colours=0.3,
        forgets=0.05,
        no_ohms=0.1,
    ),
)
"""Home, and fourteen that each shift something."""
