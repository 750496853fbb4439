"""Getting a coil out and the core together again: every method with its time, tools, risk to the
primary and its steps; joints as air gaps; one of each recommended, with the reason.
"""

import math
from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.coil_design.window import Window, capacity
from greyfell.core.figures.constants import MU0


class Work(Struct, frozen=True, kw_only=True):
    """One step of the work: what, tool, minutes, what must be seen before it goes on, the caution
    at the act; `proof` names readings that come after it, `waits` minutes that nobody can hurry.
    """

    key: str
    words: str
    tool: str
    minutes: float
    caution: str = ""
    proof: str = ""
    waits: float = 0.0


class RemovalMethod(Struct, frozen=True, kw_only=True):
    """One way to take the coil out: tools it wants, minutes, risk to the primary in words and from
    0 to 1, assemblies it suits, whether the core comes apart, its steps.
    """

    key: str
    title: str
    tools: tuple[str, ...]
    minutes: float
    risk: float
    risk_words: str
    suits: tuple[str, ...]
    opens_core: bool
    steps: tuple[Work, ...]


DUST = "eyes and lungs: enamel, varnish and steel dust; gloves; swarf brushed out, never blown"
SHUNTS = Work(
    key="shunts",
    words="Strip paper and varnish from the shunts, drive them from the side that hides them, with "
    "a small hammer and a bar, the core clamped down",
    tool="small hammer, bar, vice",
    minutes=15,
    caution="they jump: eyes covered",
)
HARDWOOD = Work(
    key="drive",
    words="Drive what is left out with a hardwood drift, blows on alternate sides, on the middle "
    "leg's side, never on the primary",
    tool="hardwood drift, hammer, block",
    minutes=20,
    caution="the primary rests on nothing that moves",
)
METHODS = (
    RemovalMethod(
        key="laminations",
        title="Take the laminations apart",
        tools=("knife", "small hammer"),
        minutes=60,
        risk=0.05,
        risk_words="least: nothing is cut near it",
        suits=("interleaved",),
        opens_core=True,
        steps=(
            Work(
                key="first",
                words="Drive the first two sheets out with a flat bar, then pull the others one by "
                "one",
                tool="flat bar, small hammer",
                minutes=40,
                caution="edges cut: gloves",
            ),
            Work(
                key="lift",
                words="Lift the old coil off the bobbin",
                tool="none",
                minutes=20,
            ),
        ),
    ),
    RemovalMethod(
        key="cut",
        title="Cut flush on both sides and drive out",
        tools=("hacksaw or multi-tool", "hardwood drift"),
        minutes=60,
        risk=0.25,
        risk_words="the blade passes a hand's width from it: card between, stop line on the iron",
        suits=("welded", "banded"),
        opens_core=False,
        steps=(
            Work(
                key="card",
                words="Slip thick card between the coil and the primary on both sides; draw the "
                "stop line",
                tool="card, marker",
                minutes=5,
            ),
            Work(
                key="cut",
                words="Cut the old coil flush with the core, first one side, then the other, to "
                "the stop line and no further",
                tool="hacksaw or multi-tool",
                minutes=25,
                caution=DUST,
            ),
            HARDWOOD,
        ),
    ),
    RemovalMethod(
        key="drill",
        title="Cut flush, drill the copper loose, pull",
        tools=("hacksaw or multi-tool", "drill", "pliers"),
        minutes=90,
        risk=0.15,
        risk_words="small: no blow comes near it; the drill has a stop",
        suits=("welded", "banded"),
        opens_core=False,
        steps=(
            Work(
                key="card",
                words="Slip thick card between the coil and the primary; set the drill's stop",
                tool="card, tape on the drill",
                minutes=5,
            ),
            Work(
                key="cut",
                words="Cut the old coil flush on both sides",
                tool="hacksaw or multi-tool",
                minutes=25,
                caution=DUST,
            ),
            Work(
                key="drill",
                words="Drill along the copper in the window, hole beside hole, until it is loose",
                tool="drill, 6 mm",
                minutes=30,
                caution="the drill catches in copper: clamp the core, hold the drill with both "
                "hands",
            ),
            Work(
                key="pull",
                words="Pull it out in bundles with pliers",
                tool="pliers",
                minutes=20,
                caution="wire ends spring: eyes covered",
            ),
        ),
    ),
    RemovalMethod(
        key="split",
        title="Grind the seam and split the core",
        tools=("angle grinder", "chisels"),
        minutes=75,
        risk=0.10,
        risk_words="small, but the joint is an air gap for good",
        suits=("welded",),
        opens_core=True,
        steps=(
            Work(
                key="grind",
                words="Grind the welded seams 4 to 5 mm deep, both sides",
                tool="angle grinder",
                minutes=20,
                caution="sparks light what burns; " + DUST,
            ),
            Work(
                key="split",
                words="One blow along the seam, then pry from both sides with padded chisels",
                tool="chisels, hammer",
                minutes=15,
            ),
            Work(key="lift", words="Lift the coils off the middle leg", tool="none", minutes=10),
        ),
    ),
    RemovalMethod(
        key="press",
        title="Press the coil out",
        tools=("press", "hacksaw or multi-tool"),
        minutes=40,
        risk=0.20,
        risk_words="even force, but it bends laminations where it leans",
        suits=("welded", "banded"),
        opens_core=False,
        steps=(
            Work(
                key="cut",
                words="Cut the old coil flush on one side",
                tool="hacksaw or multi-tool",
                minutes=15,
                caution=DUST,
            ),
            Work(
                key="press",
                words="Press it through, the core on parallels, a block as wide as the window",
                tool="press, block",
                minutes=15,
                caution="it lets go with a bang: nobody in line with it",
            ),
        ),
    ),
)
"""Ways to take a coil out. Common practice; minutes and risks from memory."""
TOOLS = tuple(dict.fromkeys(t for m in METHODS for t in m.tools))
USUAL_TOOLS = (
    "hacksaw or multi-tool",
    "hardwood drift",
    "knife",
    "small hammer",
    "drill",
    "pliers",
)
"""What most benches have."""


class CoreJoint(Struct, frozen=True, kw_only=True):
    """One way to close a split core: the gap that it leaves at each of two joints, least and most
    in mm, and what it wants.
    """

    key: str
    title: str
    gap_mm: tuple[float, float]
    words: str


JOINTS = (
    CoreJoint(
        key="weld",
        title="Weld the old seam",
        gap_mm=(0.02, 0.05),
        words="short runs, cooled between; it shorts the sheets along the seam a little",
    ),
    CoreJoint(
        key="clamp",
        title="Clamp with a band or bolts",
        gap_mm=(0.05, 0.10),
        words="faces filed flat and clean; it may hum; opened again at will",
    ),
    CoreJoint(
        key="epoxy",
        title="Glue with epoxy under a clamp",
        gap_mm=(0.05, 0.15),
        words="a day to cure; softens with heat; quiet",
    ),
)
"""Joints of a core. Gaps of 0.05 to 0.1 mm: common practice; the rest from memory."""


def amps_of_gap(gap_mm: float, tesla: float, primary_turns: float) -> float:
    """RMS magnetising amps that gaps of so much in all add: B·g/(μ0·N·√2). REF-M-10. mm, T.

    >>> round(amps_of_gap(0.1, 1.6, 240), 2)
    0.38
    """
    return tesla * gap_mm * 1e-3 / (MU0 * primary_turns * math.sqrt(2))


class Leave(Struct, frozen=True, kw_only=True):
    """Whether the iron can be left whole, the new turns wound into the gaps beside its coils."""

    fits: bool
    words: str


def left_whole(window: Window, count: int, overall_mm: float) -> Leave:
    """The gap that is free with every coil left in, where the shunts were, for so many conductors.
    Geometry.
    """
    gap = Window(
        width_mm=window.width_mm,
        height_mm=window.shunts_mm,
        tongue_mm=window.tongue_mm,
        stack_mm=window.stack_mm,
        former_mm=0.0,
    )
    room = capacity(gap, overall_mm)
    said = (
        f"left whole, the gap where the shunts were ({gap.width_mm:.0f} × {gap.height_mm:.0f} mm) "
        f"takes {room} of {count} conductors of {overall_mm:g} mm"
    )
    return Leave(fits=room >= count and window.shunts_mm > 0, words=said)


class Recommended(Struct, frozen=True, kw_only=True):
    """One method with its reason, those that were not taken with theirs, the joint where the core
    comes apart.
    """

    method: RemovalMethod
    reason: str
    others: tuple[tuple[RemovalMethod, str], ...]
    joint: CoreJoint | None


def recommend(assembly: str, tools: Sequence[str], *, hums: bool = True) -> Recommended:
    """The method of least risk to the primary that suits the iron and the tools at hand; the joint
    of least gap that it allows. House rule over common practice.

    >>> recommend("welded", USUAL_TOOLS).method.key, recommend("interleaved", ()).method.key
    ('drill', 'laminations')
    """
    told = assembly or "welded"
    suiting = [m for m in METHODS if told in m.suits] or [m for m in METHODS if m.key == "cut"]
    able = [m for m in suiting if set(m.tools) <= set(tools)]
    whole = [m for m in able if not m.opens_core or told == "interleaved"]
    best = min(whole or able or suiting, key=lambda m: m.risk)
    others = tuple((m, _why_not(m, best, told, tools)) for m in METHODS if m.key != best.key)
    missing = sorted(set(best.tools) - set(tools))
    reason = f"{best.risk_words}; about {best.minutes:.0f} minutes"
    if missing:
        reason += f"; wants {', '.join(missing)}"
    needs_joint = best.opens_core and told != "interleaved"
    joint = JOINTS[1 if hums else 2] if needs_joint else None
    return Recommended(method=best, reason=reason, others=others, joint=joint)


def _why_not(
    method: RemovalMethod, best: RemovalMethod, assembly: str, tools: Sequence[str]
) -> str:
    """Why another one was not taken."""
    if assembly not in method.suits:
        return f"not for {assembly} iron"
    missing = sorted(set(method.tools) - set(tools))
    if missing:
        return f"wants {', '.join(missing)}"
    if method.opens_core and not best.opens_core:
        return "opens the core: the joint is an air gap for good"
    return f"more risk to the primary: {method.risk_words}"


CARD_MM = 1.0
"""Thick card between the coil that is cut and what stands under it, mm. Common practice."""
SEAM_MM = 5.0
"""A seam is ground so deep and no deeper, mm. Common practice."""


def stop_line(step: str, window: Window) -> str:
    """Where the tool of a step stops, in a sentence; empty where nothing has to. Geometry, mm.

    >>> w = Window(width_mm=19, height_mm=57, tongue_mm=38, stack_mm=60, primary_mm=25, shunts_mm=6)
    >>> stop_line("cut", w)
    'stop 25 mm below the top of the coil, on the card'
    """
    coil = window.height_mm - window.primary_mm - window.shunts_mm
    if step in ("card", "cut"):
        return f"stop {coil - CARD_MM:.0f} mm below the top of the coil, on the card"
    if step == "drill":
        return f"stop {window.stack_mm:.0f} mm deep: tape on the drill"
    if step == "grind":
        return f"stop {SEAM_MM:.0f} mm deep in the seam"
    if step == "press":
        return f"a block {window.width_mm:.0f} mm wide at most, on the coil alone"
    if step == "drive":
        return f"drift {window.width_mm:.0f} mm wide at most, above the shunts and the primary"
    return ""


READ_AGAIN = (
    "primary to core, open on 20 MΩ",
    "primary's ohms, as before",
    "two bare spots of the iron",
)
"""What is read after the cut and before the new winding goes on: burrs short laminations, a blow
may have nicked the primary. Common practice.
"""
ENDS_FOR_GOOD = (
    "After the cut its high voltage is gone for good: a multiplier, a tube rig or a sister's spare "
    "it will never be. A part that is rare, or sound and whole, may be worth more as it stands."
)
