"""Hidden pieces answered by the program's own next step alone, to the end, and by one who connects
at random: named right, readings, what would have happened. Run: make hidden [N=1000] [LEVEL=any]
"""

from collections import Counter

import click
import numpy as np

from greyfell.core.lessons.advice import Answer, at_random, by_advice
from greyfell.core.simulated.hidden import LEVELS, Hidden, hidden


def tally(answers: list[tuple[Hidden, Answer]]) -> dict[str, float | Counter[str]]:
    """Shares and counts over answers."""
    right = [a.ident.family == h.piece.family for h, a in answers]
    sound = [(h, a) for h, a in answers if not h.faults]
    faulty = [(h, a) for h, a in answers if h.faults]
    right_sound = [a.ident.family == h.piece.family for h, a in sound]
    return {
        "right": float(np.mean(right)),
        "right of sound": float(np.mean(right_sound)) if sound else 1.0,
        "faults seen": float(np.mean([bool(a.ident.faults) for _, a in faulty])) if faulty else 1.0,
        "readings": float(np.median([a.taken for _, a in answers])),
        "hurt": sum(any(m.grave == "stop" for m in a.happened) for _, a in answers),
        "moves": Counter(m.code for _, a in answers for m in a.happened),
    }


def run(n: int, level: str, seed: int = 0) -> tuple[dict[str, object], dict[str, object]]:
    """By advice, and at random with as many moves as advice took readings."""
    rng = np.random.default_rng(seed)
    advised, wild = [], []
    for k in range(1, n + 1):
        piece = hidden(seed * 100_000 + k, level)
        answer = by_advice(piece)
        advised.append((piece, answer))
        wild.append((piece, at_random(piece, max(answer.taken, 1), rng)))
    return tally(advised), tally(wild)


@click.command()
@click.argument("n", type=int, default=1000)
@click.option("--level", type=click.Choice(LEVELS), default="any")
@click.option("--seed", type=int, default=1)
def main(n: int, level: str, seed: int) -> None:
    for who, found in zip(("by advice", "at random"), run(n, level, seed), strict=True):
        print(f"{who}, {n} pieces of level {level}:")
        for key, value in found.items():
            shown = f"{value:.3g}" if isinstance(value, float) else value
            print(f"  {key}: {shown}")


if __name__ == "__main__":
    main()
