"""Everything that must hold on a set-up before anything is switched on."""

from greyfell.core.figures.notation import begun
from greyfell.core.rig import feeding, limiting, touching
from greyfell.core.rig.bench import Bench, Wrong
from greyfell.core.rig.graph import graphs_of
from greyfell.core.rig.needs import Needs
from greyfell.core.rig.setup import Setup

DEMANDS = (*feeding.ROWS, *limiting.ROWS, *touching.ROWS)
"""Every demand, the gravest first."""


def wrongs(setup: Setup, needs: Needs) -> list[Wrong]:
    """Everything that is missing or wrong in a set-up, in the order of the table; nothing where it
    is sound.
    """
    bench = Bench(setup, graphs_of(setup), needs)
    out: dict[tuple[str, str], Wrong] = {}
    for demand in DEMANDS:
        for facts in demand.wanting(bench):
            words = demand.sentence.format(**facts)
            sentence = begun(words)
            wrong = Wrong(code=demand.code, sentence=sentence, at=facts.get("at", ""))
            out.setdefault((wrong.code, wrong.sentence), wrong)
    return list(out.values())
