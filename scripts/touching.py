"""Pieces whose mains winding touches the core, read as owners read them: is any of them told as
sound? Run: make touching [N=200]

Every line is a kind of piece, a meter and a habit: whether the probes were noted, whether the
second end was read to the core, whether the heater is still there. A fault that no one names
behind a gate that opens kills; so the last column must stay nought.
"""

import sys
from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace

from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.truth.piece import Damage

SALVAGED = [{"id": "s1", "kind": "salvage-done", "text": "", "at": "2026-05-01T18:00:00+01:00"}]
BOND = {"id": "bond", "kind": "dc_drop", "across": ["earth", "core"], "volts": 0.5, "amps": 10.0}
PLACES = (0.0, 0.03, 0.3, 0.6, 0.97, 1.0)
TOUCH_OHMS = (0.0, 0.1, 0.3, 1.5, 8.0)


@dataclass(frozen=True, kw_only=True)
class Line:
    """A kind of piece and how it is read."""

    maker: str
    region: designs.Region
    step: float = 0.1
    noted: bool = True
    both_ends: bool = False
    heater: bool = True

    @property
    def words(self) -> str:
        probes = "probes noted" if self.noted else "probes not noted"
        ends = "both ends" if self.both_ends else "one end"
        rest = "" if self.heater else ", heater cut away"
        volts = f"{self.region.volts:g} V"
        return f"{volts} {self.maker}{rest}, {self.step:g} Ω meter, {probes}, {ends} to the core"


def lines():
    """Every kind of piece with every habit."""
    for maker in ("oven", "sign", "lv", "isolating"):
        for region in (designs.AMERICA, designs.EUROPE):
            for noted in (True, False):
                for both in (False, True):
                    for heater in (True, False) if maker == "oven" else (True,):
                        for step in (0.1, 0.01):
                            yield Line(
                                maker=maker,
                                region=region,
                                step=step,
                                noted=noted,
                                both_ends=both,
                                heater=heater,
                            )


def record_of(line, rng):
    """A piece whose primary touches the core, with the few readings an owner takes of it."""
    piece = designs.MAKERS[line.maker](rng, line.region)
    if not line.heater:
        kept = [w for w in piece.windings if w.name not in ("heater", "heater2")]
        piece = replace(piece, windings=tuple(kept))
    touch = Damage(
        kind="to-core",
        winding="primary",
        place=float(rng.choice(PLACES)),
        ohms=float(rng.choice(TOUCH_OHMS)),
    )
    piece = replace(piece, damage=(touch,))
    kit = Kit(
        ohms_step=line.step,
        probes_noted=line.noted,
        probe_ohms=float(rng.uniform(0.05, 0.3)),
    )
    bench = SimulatedBench(piece, kit, rng)
    bench.core_proof()
    bench.taken.append(dict(BOND))  # proved, so that the gate does not stay shut for want of it
    ends = {w.name: [x for x, _ in w.leads if x != "core"] for w in piece.windings}
    for leads in ends.values():
        for x in leads[1:]:
            bench.ohms(leads[0], x)
        bench.ohms(leads[0], "core")
    last = ends["primary"][-1]
    if line.both_ends or rng.random() < 0.5:
        bench.ohms(last, "core")
    for name, leads in ends.items():
        if name != "primary":
            bench.ohms(ends["primary"][0], leads[0])
            bench.ohms(last, leads[0])
    return {
        "format": FORMAT,
        "tag": "T-1",
        "supply": {"volts": line.region.volts, "hertz": line.region.hertz},
        "leads": [{"id": x} for leads in ends.values() for x in leads],
        "readings": bench.taken,
        "statements": SALVAGED,
    }


def missed(line, rng, count):
    """Of so many pieces: how many stop no one named, and how many of those had an open gate."""
    silent = opened = 0
    for _ in range(count):
        ident = identify(parse_record(record_of(line, rng)))
        if not ident.stopped:
            silent += 1
            opened += live_gate(ident).open
    return silent, opened


def main(count: int) -> int:
    """Every line; how many were missed in all, and how many behind an open gate."""
    rng = np.random.default_rng(11)
    total = silent = opened = 0
    for line in lines():
        quiet, wide = missed(line, rng, count)
        total, silent, opened = total + count, silent + quiet, opened + wide
        if quiet:
            print(f"{line.words}: {quiet} of {count} not stopped, of which {wide} open the gate")
    print(f"{total} pieces: {silent} not stopped, {opened} open the gate")
    return opened


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 200) > 0)
