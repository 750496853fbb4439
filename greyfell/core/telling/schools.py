"""Where practitioners differ: each question with its ways and what each costs, what this program
supports, what it recommends and why. Common practice, told in our own words.
"""

from msgspec import Struct


class Way(Struct, frozen=True, kw_only=True):
    """One way, and what it costs."""

    title: str
    costs: str


class School(Struct, frozen=True, kw_only=True):
    """One question: its ways, those supported, what is recommended and why; the planners or pages
    where it is claimed, by their names.
    """

    key: str
    question: str
    ways: tuple[Way, ...]
    supported: str
    recommended: str
    why: str
    where: tuple[str, ...]


def _way(title: str, costs: str) -> Way:
    return Way(title=title, costs=costs)


SCHOOLS = (
    School(
        key="high-volts",
        question="How are kilovolts told without a kilovolt meter?",
        ways=(
            _way("a few volts into the primary", "one digit of drive is one digit of the result"),
            _way("line volts into the HV winding", "good digits; high with shunts, the core live"),
            _way("a meter said to bear it", "only behind a rated divider"),
        ),
        supported="both drives, combined where the flux is alike; a chain by its own plan",
        recommended="a few volts into the primary",
        why="nothing on the bench is above what may be touched",
        where=("ratio_check", "metering"),
    ),
    School(
        key="low-ratio",
        question="Is a ratio at a few volts valid?",
        ways=(
            _way("yes", "within a hundredth without shunts"),
            _way("no", "shunted parts droop by several hundredths"),
        ),
        supported="yes, with the droop told as a range",
        recommended="low, and again near the line once it may be fed",
        why="two levels show what the shunts do",
        where=("ratio_check",),
    ),
    School(
        key="naming",
        question="By what is a winding named?",
        ways=(
            _way("ohms", "wire and length, never volts"),
            _way("a lamp", "shows the iron, coarse"),
            _way("inductance", "a cheap meter is misled by capacitance"),
            _way("look and place", "a clue, no proof"),
        ),
        supported="all of them, weighed together",
        recommended="whatever the least energy tells next",
        why="each fills another's gap",
        where=("ratio_check", "temperature"),
    ),
    School(
        key="low-ohms",
        question="How are low ohms read?",
        ways=(
            _way("hand meter", "blind below an ohm"),
            _way("volts and amps of a direct source", "good; a winding kicks when it is opened"),
            _way("millivolts at a known current", "best for joints"),
        ),
        supported="all three with their ranges",
        recommended="volts at a round test current",
        why="the volts are the ohms",
        where=("current_path",),
    ),
    School(
        key="coil-out",
        question="How does the coil come out?",
        ways=(
            _way("cut in place", "the joint stays whole; tedious, may nick the primary"),
            _way("open the seam", "coils whole, an air gap on closing"),
            _way("leave it whole", "room for a turn or two only"),
        ),
        supported="all of them, each with minutes, tools and risk",
        recommended="the least risk to the primary that iron and tools allow",
        why="a nicked primary ends the piece",
        where=("rewind",),
    ),
    School(
        key="closing",
        question="How is a split core closed?",
        ways=(
            _way("weld", "smallest gap; heat, sheets shorted at the seam"),
            _way("clamp", "opened again at will; may hum"),
            _way("epoxy", "quiet; a day to cure, softens"),
        ),
        supported="all of them, each with the amps its gap adds",
        recommended="clamp",
        why="it can be undone",
        where=("choke", "rewind"),
    ),
    School(
        key="shunts",
        question="Shunts in or out?",
        ways=(
            _way("out", "stiff, more amps, trips breakers"),
            _way("in", "limits itself, less power"),
        ),
        supported="both, worked out side by side",
        recommended="in, as long as the job is done with them",
        why="what is in limits for nothing",
        where=("weld_match", "source"),
    ),
    School(
        key="weld-volts",
        question="How many volts for a weld?",
        ways=(
            _way("one turn", "most amps into a microohm loop"),
            _way("two or three", "what most loops want"),
            _way("six volts", "a long loop, a small tip"),
        ),
        supported="any number, side by side",
        recommended="what the loop's milliohms decide",
        why="watts in the job have their best at a match",
        where=("weld_match", "current_path"),
    ),
    School(
        key="limiting",
        question="With what is a current limited?",
        ways=(
            _way("inductor", "cold and cheap, hums"),
            _way("lamp", "shows its state, hot, cold ohms low"),
            _way("capacitor", "may resonate"),
            _way("shunts left in", "fixed"),
        ),
        supported="all of them compared; a variac is none",
        recommended="a ballast, where one is at hand",
        why="it limits without heat and fails open more often than shorted",
        where=("limiter", "ballast", "ballast_bank", "lamp", "series_capacitor", "variac"),
    ),
    School(
        key="emptying",
        question="How is a capacitor emptied?",
        ways=(
            _way("resistor on a stick", "slow, kind"),
            _way("screwdriver", "pits, shocks, startles"),
        ),
        supported="the resistor; the other explained for who has nothing else",
        recommended="the resistor, metered after",
        why="a bang tells nothing of what is left",
        where=("discharge",),
    ),
    School(
        key="one-hand",
        question="One hand in the pocket?",
        ways=(_way("yes", "lowers one path"), _way("no", "other paths remain")),
        supported="as an extra",
        recommended="an extra, never instead of power off",
        why="a hand-to-foot path kills as well",
        where=("touch_map",),
    ),
    School(
        key="isolated-bench",
        question="What is an isolated bench?",
        ways=(
            _way("switchable earth, float, neutral", "flexible, easy to get wrong"),
            _way("always floating", "simple; the first fault is silent"),
            _way("two oven parts", "it works, and is no safety isolation"),
        ),
        supported="the first two with their touch map; the third explained, no wiring",
        recommended="one marked to the standard",
        why="nobody proves two barriers at a kitchen table",
        where=("touch_map", "halves", "leakage"),
    ),
    School(
        key="protection",
        question="What protects the bench?",
        ways=(
            _way("isolation", "for one point touched"),
            _way("residual-current device", "blind behind isolation while it floats"),
        ),
        supported="both, shown pair by pair",
        recommended="the device, unless a scope must float",
        why="it clears, isolation only spares",
        where=("touch_map",),
    ),
    School(
        key="beyond-plate",
        question="May a sign part be driven beyond its plate?",
        ways=(_way("beyond", "longer arcs, a short life"), _way("within", "as it was made")),
        supported="within; beyond is shown as damage, without a recipe",
        recommended="within",
        why="its potting fails first, unseen",
        where=("output", "ballast"),
    ),
    School(
        key="hertz",
        question="Does the plate's hertz matter?",
        ways=(_way("ignored", "saturation"), _way("volts per hertz", "a sum")),
        supported="volts per hertz everywhere",
        recommended="volts per hertz",
        why="iron knows flux alone",
        where=("nameplate", "feed", "variac"),
    ),
    School(
        key="dangerous",
        question="What is done with projects that kill?",
        ways=(
            _way("list them all", "somebody builds them"),
            _way("show what not to do", "somebody builds it"),
            _way("refuse", "teaches nothing"),
        ),
        supported="named, with the reason and what to do instead; a few refused",
        recommended="to know why",
        why="a reason is kept longer than a ban",
        where=("uses",),
    ),
    School(
        key="plan-or-try",
        question="Plan first, or wind and measure?",
        ways=(
            _way("wind and measure", "robust to wrong volts per turn; copper wasted"),
            _way("calculate", "fewer surprises; rests on its figures"),
        ),
        supported="calculate, test turns, correct",
        recommended="five test turns before any cut",
        why="they are ten minutes against an evening",
        where=("rewind", "turns_scale"),
    ),
    School(
        key="primary-place",
        question="Where does the primary sit?",
        ways=(_way("low", "often"), _way("on top", "often enough")),
        supported="place counts for next to nothing",
        recommended="to read it",
        why="both occur",
        where=("nameplate",),
    ),
    School(
        key="turns-or-volts",
        question="A ratio by turns or by volts?",
        ways=(_way("turns", "miscounted"), _way("volts", "meter digits")),
        supported="both, against each other",
        recommended="volts, the count as a check",
        why="a wrong count shows at once",
        where=("ratio_check", "rewind"),
    ),
)
"""Nineteen questions on which practitioners differ."""
