"""Sound pieces whose record is bent: does the gate stay shut where power would kill, and open where
nothing is wrong? Run: make histories [N=20] [SEED=3001]

A line a mutation: how many records, how many deadly ones stand behind an open gate, how many
harmless ones behind a shut one. Only records whose sound original opens the gate count.
"""

import argparse
import sys

import numpy as np

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated.histories import MUTATIONS, NOW, histories

SEED = 3001
"""The seed of the published table."""


def gate_of(document):
    """The gate of a record, looked at some days after it was read."""
    return live_gate(identify(parse_record(document), now=NOW))


def wrong_ones(mutation, rng, count):
    """Of so many histories of a mutation, those whose gate is not as it must be."""
    out, seen = [], 0
    for sound, bent in histories(rng, mutation):
        if not gate_of(sound).open:
            continue
        seen += 1
        gate = gate_of(bent.document)
        if gate.open is bent.deadly:
            out.append((bent, gate))
        if seen == count:
            return out
    return out


def main(count, seed, told):
    """The table; the number of histories that the gate answers wrongly."""
    total = missed = stopped = 0
    for n, mutation in enumerate(MUTATIONS):
        wrong = wrong_ones(mutation, np.random.default_rng([seed, n]), count)
        total += count
        missed += len(wrong) if mutation.deadly else 0
        stopped += 0 if mutation.deadly else len(wrong)
        word = "open" if mutation.deadly else "shut"
        print(f"{mutation.kind:22} {count:4} records, {len(wrong):3} {word}")
        if told:
            for bent, gate in wrong:
                print(f"    {bent.how}: {'; '.join(gate.reasons) or 'open'}")
    print(f"{total} histories: {missed} deadly behind an open gate, {stopped} harmless shut")
    return missed + stopped


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("count", nargs="?", type=int, default=20)
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--told", action="store_true", help="say each one that is wrong")
    asked = parser.parse_args()
    sys.exit(main(asked.count, asked.seed, asked.told) > 0)
