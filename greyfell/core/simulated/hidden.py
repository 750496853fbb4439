"""A hidden piece for practice, made again by its number: any family, sound or faulty, with the kit
it is read with and what can be seen of it.
"""

from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.errors import within
from greyfell.core.evidence.loading import FORMAT, PRACTISED
from greyfell.core.simulated.designs import AMERICA, EUROPE, MAKERS, Region
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.simulated.owner import (
    CAREFUL,
    FAULTS,
    _all_leads,
    _clues,
    _damaged,
    _made,
    _relabelled,
    kit,
)
from greyfell.core.truth.piece import Piece, Wound
from greyfell.core.truth.readings import open_circuit_volts

LEVELS = ("first", "mains", "any", "hard")
LEVEL_WORDS = {
    "first": "low-voltage parts, sound, good meters",
    "mains": "mains parts, one in four faulty",
    "any": "ovens, signs, chokes too, one in three faulty",
    "hard": "anything, half of them faulty, a pocket meter",
}
"""Levels of difficulty in words."""
KINDS = {
    "first": ("lv",),
    "mains": ("lv", "valve", "isolating", "dual", "step"),
    "any": ("oven", "oven", "sign", "lv", "valve", "choke", "variable"),
    "hard": tuple(MAKERS)[:9],
}
FAULT_SHARE = {"first": 0.0, "mains": 0.25, "any": 0.34, "hard": 0.5}
MOST_NUMBER = 999_999
SHARES = {"ohms": 0.7, "volts": 0.35, "henries": 0.7, "amps": 0.7, "watts": 0.7}
SPANS = tuple(10.0**n for n in range(-6, 3))
"""Last figures a voltmeter may show: each range has its own divider."""


class Hidden(Struct, frozen=True, kw_only=True):
    """A piece under its cloth: its number and level, region, the piece itself, the kit, the record
    as it begins (leads with what can be seen).
    """

    number: int
    level: str
    region: Region
    piece: Piece
    kit: Kit
    document: dict[str, Any]

    @property
    def faults(self) -> tuple[str, ...]:
        """Kinds of faults that were put in."""
        return tuple(d.kind for d in self.piece.damage)

    @property
    def fed(self) -> tuple[str, str]:
        """The ends that the mains go on."""
        return ends_of(self.piece.winding(self.piece.primary))

    def bench(self, taken: int) -> SimulatedBench:
        """Its instruments, as far off as ever, before so many readings were taken."""
        own = np.random.default_rng([self.number, LEVELS.index(self.level), 7])
        out = SimulatedBench(self.piece, self.kit, np.random.default_rng([self.number, taken, 11]))
        for name, share in SHARES.items():
            out.gains[name] = float(own.uniform(-share, share))
        for span in SPANS:
            out.gains[f"volts {span:g}"] = float(own.uniform(-0.45, 0.45))
        return out

    def rated(self, w: Wound) -> float:
        """Open volts of a winding, whole, with the primary on its mains. V."""
        if w.name == self.piece.primary:
            return self.region.volts
        whole = replace(self.piece, damage=())
        return abs(open_circuit_volts(whole, self.fed, self.region.volts, ends_of(w)))


def ends_of(w: Wound) -> tuple[str, str]:
    """A winding's outer ends."""
    ordered = sorted(w.leads, key=lambda lead: lead[1])
    return ordered[0][0], ordered[-1][0]


def hidden(number: int, level: str = "first") -> Hidden:
    """The hidden piece of a number at a level. Raises FieldError where there is no such number.

    >>> hidden(7).piece == hidden(7).piece, hidden(7).faults
    (True, ())
    """
    within("number", number, at_least=1, at_most=MOST_NUMBER)
    rng = np.random.default_rng([number, LEVELS.index(level), 3])
    name = KINDS[level][int(rng.integers(len(KINDS[level])))]
    region: Region = EUROPE if rng.random() < 0.6 else AMERICA
    piece = _made(rng, name, region)
    if rng.random() < FAULT_SHARE[level]:
        piece = _damaged(rng, piece, FAULTS)
    piece, _ = _relabelled(piece, rng)
    own = kit(rng) if level == "hard" else CAREFUL
    document: dict[str, Any] = {
        "format": FORMAT,
        "tag": f"PR-{level[0].upper()}{number}",
        "title": f"{PRACTISED} {number}",
        "supply": {"volts": region.volts, "hertz": region.hertz},
        "leads": [{"id": x} for x in _all_leads(piece)],
        "readings": [],
    }
    _clues(document, rng, piece, name)
    document.pop("declared_family", None)
    return Hidden(
        number=number, level=level, region=region, piece=piece, kit=own, document=document
    )
