"""Choose the allowances for "our idea of transformers is not the world" on all worlds but one,
score them on that one, in turn. Run: make allowances [N=600] [SEED=1]

Every setting is tried in every world on the same N records. For each world left out, the narrowest
setting is taken whose ranges hold the truth often enough in the others, pooled at each level of
evidence and in each world alone; what it holds in the world left out is told beside it. What every
setting holds over all worlds is told last.
"""

import itertools
import math
import os
import statistics

from evaluate import LEVELS, scored

from greyfell.core.belief import observations
from greyfell.core.families import registry
from greyfell.core.families import row as rows
from greyfell.core.simulated.worlds import WORLDS

COPPER = (0.13, 0.19, 0.25)
COUPLING = (0.003, 0.006, 0.012)
ALONE = (0.0, 1.0, 1.4)
"""Settings tried: the middle ones stand in the core, the others come one or two at a time."""
WANTED, LEAST = 0.95, 0.90
"""Of the truths of the other worlds so many lie inside at every level, pooled, and in each of them
alone; where no setting reaches both, the one that comes nearest is taken."""
Setting = tuple[float, float, float]
Held = dict[str, list[float]]
"""By level whether each truth lay inside, and how wide its range was, in per unit."""


def settings() -> list[Setting]:
    """Copper with coupling, and what a lone ratio is given beside the middle ones."""
    middle = (COPPER[1], COUPLING[1], ALONE[1])
    both = [(*pair, ALONE[1]) for pair in itertools.product(COPPER, COUPLING)]
    return [*both, *((*middle[:2], alone) for alone in ALONE if alone != ALONE[1])]


def set_to(setting: Setting) -> None:
    """Let the engine run with these allowances."""
    rows.COPPER_ALLOWANCE, rows.COUPLING_ALLOWANCE, observations.ALONE = setting
    registry.models.cache_clear()


def tried(count: int, seed: int) -> dict[Setting, dict[str, Held]]:
    """What every setting holds in every world."""
    out: dict[Setting, dict[str, Held]] = {}
    for setting in settings():
        set_to(setting)
        out[setting] = {}
        for world in WORLDS:
            scores, _, _ = scored(count, seed, world)
            inside = {level: scores[level]["inside"] for level in LEVELS}
            wide = {f"{level} width": scores[level]["width"] for level in LEVELS}
            out[setting][world.name] = inside | wide
        copper, coupling, alone = setting
        print(f"tried copper {copper:g}, coupling {coupling:g}, alone {alone:g}", flush=True)
    return out


def pooled(told: dict[str, Held], without: str) -> Held:
    """All worlds but one, put together."""
    others = [held for name, held in told.items() if name != without]
    return {key: [x for held in others for x in held[key]] for key in others[0]}


def short_of(told: dict[str, Held], without: str) -> float:
    """How far the worlds but one fall short of what is wanted, where they do most; nought or less
    where they reach it.
    """
    all_of_them = pooled(told, without)
    together = min(statistics.mean(all_of_them[level]) for level in LEVELS)
    alone = min(
        statistics.mean(held[level])
        for name, held in told.items()
        if name != without
        for level in LEVELS
    )
    return max(WANTED - together, LEAST - alone)


def width(held: Held) -> float:
    """The mean over the levels of the median width, as a logarithm."""
    return statistics.mean(math.log(statistics.median(held[f"{x} width"])) for x in LEVELS)


def chosen(found: dict[Setting, dict[str, Held]], without: str) -> Setting:
    """The narrowest setting that holds enough without one world."""
    short = {setting: short_of(told, without) for setting, told in found.items()}
    able = [s for s in found if short[s] <= 0]
    if not able:
        return min(found, key=short.__getitem__)
    return min(able, key=lambda s: width(pooled(found[s], without)))


def row(title: str, setting: Setting, held: Held) -> str:
    """A line of the table: a setting, and what it holds at each level, in per cent."""
    cells = "".join(f"{100 * statistics.mean(held[x]):8.1f}" for x in LEVELS)
    return f"{title:38}" + "".join(f"{x:10g}" for x in setting) + cells


def main() -> None:
    """Every world left out in turn."""
    count, seed = int(os.environ.get("N", "600")), int(os.environ.get("SEED", "1"))
    found = tried(count, seed)
    print(f"{count} records a world and setting, seed {seed}; inside, in per cent")
    heads = "".join(f"{x:>10}" for x in ("copper", "coupling", "alone"))
    print(f"{'left out':38}{heads}" + "".join(f"{x:>8}" for x in LEVELS))
    for world in WORLDS:
        setting = chosen(found, world.name)
        print(row(world.name, setting, found[setting][world.name]))
    for setting, told in found.items():
        held = pooled(told, "")
        print(f"{row('all worlds', setting, held)}   width {math.exp(width(held)):.3f}")


if __name__ == "__main__":
    main()
