"""Everything that must hold on a set-up before anything is switched on."""

from greyfell.core.bench import bare_ends as touching
from greyfell.core.bench import feeding, limiting
from greyfell.core.bench.demand import Bench, Wrong
from greyfell.core.bench.graph import graphs_of
from greyfell.core.bench.piece_on_bench import Needs
from greyfell.core.bench.setup import Setup
from greyfell.core.figures.notation import begun

DEMANDS = (*feeding.ROWS, *limiting.ROWS, *touching.ROWS)
"""Every demand, the gravest first."""


def said(setup: Setup, needs: Needs) -> list[Wrong]:
    """What stands live while a set-up is fed, where nothing is wrong with it: every open winding
    above 30 V, with the lower drive that keeps it below.
    """
    bench = Bench(setup, graphs_of(setup), needs)
    return [Wrong(code="live-end", sentence=begun(s), at=at) for s, at in feeding.named(bench)]


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
