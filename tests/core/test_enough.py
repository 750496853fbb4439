"""How many pairs are worth reading: the guided cold tests of an eleven-lead valve part end after
twenty of its sixty-six pairs, and no pair is asked for twice.
"""

import numpy as np
import pytest
from msgspec.structs import replace

from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated import designs
from greyfell.core.simulated.designs import EUROPE, DesignedOutput
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.pairs import fan_of
from greyfell.core.telling.usual_ranges import bands


def valve(rng):
    """2 + 3 + 3 + 2 leads and a bias tap a tenth of a half beside the middle."""
    outputs = [
        DesignedOutput("hv-secondary", 620.0, 1.5, True),
        DesignedOutput("filament", 6.8, 13.0, True),
        DesignedOutput("filament", 5.3, 13.0),
    ]
    made = designs.mains(rng, EUROPE, 110.0, outputs, subtype="valve")
    high = next(w for w in made.windings if w.role == "hv-secondary")
    tapped = replace(high, leads=(*high.leads[:1], ("Z", 0.45), *high.leads[1:]))
    windings = tuple(tapped if w is high else w for w in made.windings)
    return replace(made, windings=windings)


def asked(piece, rng, colours):
    """Every pair that the next steps ask for, one after the other, as they are read; and how many
    more were said to be worth reading before each.
    """
    leads = [x for w in piece.windings for x, _ in w.leads if x != "core"]
    seen = [{"id": x, **({"colour": colours[x]} if x in colours else {})} for x in leads]
    rng.shuffle(seen)
    bench, pairs, said = SimulatedBench(piece, Kit(probe_ohms=0.2), rng), [], []
    while len(pairs) < 66:
        document = {"format": FORMAT, "tag": "T-1", "leads": seen, "declared_family": "mains"}
        ident = identify(parse_record({**document, "readings": bench.taken}))
        steps = next_steps(ident)
        step = next((s for s in steps if s.station == "cold"), None)
        worth = fan_of(ident, bands(ident), steps).worth
        if step is None:
            return pairs, [*said, worth]
        if step.kind == "core_proof":
            bench.core_proof()
            continue
        bench.ohms(*step.leads["between"])
        pairs.append(frozenset(step.leads["between"]))
        said.append(worth)
    return pairs, said


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize(("coloured", "enough"), [(True, 20), (False, 28)])
def test_an_eleven_lead_piece_needs_a_third_of_its_pairs_at_most(seed, coloured, enough):
    """Whatever order its leads lie in: twenty where their colours were seen, a few more without."""
    rng = np.random.default_rng(seed)
    piece = valve(rng)
    names = [w.name for w in piece.windings]
    hues = dict(zip(names, ("black", "red", "green", "yellow"), strict=True))
    colours = {x: hues[w.name] for w in piece.windings for x, _ in w.leads} if coloured else {}
    pairs, said = asked(piece, rng, colours)

    assert len(pairs) <= enough
    assert len(set(pairs)) == len(pairs)
    for done, worth in enumerate(said):
        assert worth.least - 1 <= len(pairs) - done <= worth.most + 1
    assert said[-1].words == "0"
