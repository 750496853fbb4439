"""Choose the allowances for "our idea of transformers is not the world" on all worlds but one,
score them on that one, in turn. Run: make allowances [N=600] [SEED=1]

Every setting is tried in every world on the same N records. For each world left out, the narrowest
setting is taken whose ranges hold the truth often enough in the others, pooled at each level of
evidence; what it holds in the world left out is told beside it. What stands in the core is told
last.
"""

import itertools
import os
import statistics

from evaluate import LEVELS, scored

from greyfell.core.belief import priors
from greyfell.core.practice.worlds import WORLDS

COPPER = (0.13, 0.19, 0.25)
COUPLING = (0.006, 0.010, 0.016)
"""Settings tried; the middle ones stand in the core."""
WANTED = 0.95
"""Of the truths of the other worlds, pooled, so many lie inside at every level; where no setting
reaches it, the one that comes nearest is taken."""
Setting = tuple[float, float]


def set_to(setting: Setting) -> None:
    """Let the engine run with these allowances."""
    priors.COPPER_ALLOWANCE, priors.COUPLING_ALLOWANCE = setting
    priors.models.cache_clear()


def tried(count: int, seed: int) -> dict[Setting, dict[str, dict[str, list[bool]]]]:
    """What every setting holds in every world, by level; with widths under `width`."""
    out: dict[Setting, dict[str, dict[str, list[bool]]]] = {}
    for setting in itertools.product(COPPER, COUPLING):
        set_to(setting)
        out[setting] = {}
        for world in WORLDS:
            scores, _, _ = scored(count, seed, world)
            held = {level: scores[level]["inside"] for level in LEVELS}
            out[setting][world.name] = held | {"width": scores["all"]["width"]}
        print(f"tried copper {setting[0]:g}, coupling {setting[1]:g}", flush=True)
    return out


def pooled(told: dict[str, dict[str, list[bool]]], without: str) -> dict[str, list[bool]]:
    """All worlds but one, put together by level."""
    others = [held for name, held in told.items() if name != without]
    return {key: [x for held in others for x in held[key]] for key in (*LEVELS, "width")}


def chosen(found: dict[Setting, dict[str, dict[str, list[bool]]]], without: str) -> Setting:
    """The narrowest setting that holds enough without one world."""
    least, width = {}, {}
    for setting, told in found.items():
        others = pooled(told, without)
        least[setting] = min(statistics.mean(others[level]) for level in LEVELS)
        width[setting] = statistics.median(others["width"])
    able = [s for s in found if least[s] >= WANTED]
    return min(able, key=lambda s: width[s]) if able else max(found, key=lambda s: least[s])


def main() -> None:
    """Every world left out in turn."""
    count, seed = int(os.environ.get("N", "600")), int(os.environ.get("SEED", "1"))
    found = tried(count, seed)
    print(f"{count} records a world and setting, seed {seed}; inside, in per cent")
    print(f"{'left out':38}{'copper':>8}{'coupling':>10}" + "".join(f"{x:>8}" for x in LEVELS))
    for world in WORLDS:
        setting = chosen(found, world.name)
        held = found[setting][world.name]
        cells = "".join(f"{100 * statistics.mean(held[x]):8.1f}" for x in LEVELS)
        print(f"{world.name:38}{setting[0]:8g}{setting[1]:10g}{cells}")
    for setting, told in found.items():
        everywhere = pooled(told, "")
        cells = "".join(f"{100 * statistics.mean(everywhere[x]):8.1f}" for x in LEVELS)
        width = statistics.median(everywhere["width"])
        print(f"{'all worlds':38}{setting[0]:8g}{setting[1]:10g}{cells}   width {width:.3f}")


if __name__ == "__main__":
    main()
