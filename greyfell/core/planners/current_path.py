"""Every joint and cable between a winding and the job: a ranked list of what each takes."""

import math
from dataclasses import dataclass

from greyfell.core.coil_design.heat import overload_seconds
from greyfell.core.coil_design.path import MELTS_VOLTS, SOFTENS_VOLTS, PathPart, amps_without, path
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown


@dataclass(frozen=True, kw_only=True)
class Piece(Input):
    """One part of the path: volts across it at the amps, or its ohms; the part it lies within."""

    title: str = asked("Part")
    volts: Quantity | None = asked("Volts across it", "V", default=None, at_least=0, at_most=100)
    ohms: Quantity | None = asked("or its ohms", "Ω", default=None, at_least=0, at_most=100)
    within: str | None = asked("lies within", default=None)


@dataclass(frozen=True, kw_only=True)
class Total(Input):
    """A total as somebody states it."""

    title: str = asked("Part, or the loop")
    ohms: float = asked("Its ohms in all", "Ω", above=0, at_most=100)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The amps, measured or by a shunt, the open volts of the winding, and the parts. A, V, Ω."""

    parts: tuple[Piece, ...] = asked("Parts of the path")
    amps: Quantity | None = asked("Amps while they were read", "A", default=None, above=0)
    shunt_rated_amps: float | None = asked("Shunt, rated", "A", default=None, above=0, at_most=1e5)
    shunt_rated_volts: float | None = asked("at volts", "V", default=None, above=0, at_most=1)
    shunt_volts: Quantity | None = asked("Volts across it", "V", default=None, above=0, at_most=10)
    open_volts: Quantity | None = asked("Winding, open", "V", default=None, above=0, at_most=1e3)
    stated_totals: tuple[Total, ...] = asked("Totals as stated", aside=True, default=())
    without: tuple[str, ...] = asked("What if these were mended", default=())


@dataclass(frozen=True, kw_only=True)
class Lost(ShownRow):
    """What one part takes."""

    title: str = shown("Part")
    ohms: Quantity = shown("Ohms", "Ω")
    volts: Quantity = shown("Volts", "V")
    watts: Quantity = shown("Watts", "W")
    share: Quantity = shown("of the path's watts")
    amps_mended: Quantity | None = shown("Amps once it is mended", "A")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The parts, the worst first; the loop; what a repair gains; the shunt."""

    amps_found: Quantity = shown("Amps", "A", lead=True)
    parts_found: tuple[Lost, ...] = shown("Parts, the worst first")
    loop_ohms: Quantity | None = shown("The loop", "Ω")
    resistance_ohms: Quantity = shown("of it the parts", "Ω")
    reactance_ohms: Quantity | None = shown("of it reactance", "Ω")
    consistent: bool = shown("It adds up")
    repeat: str | None = shown("Read again")
    amps_without: Quantity | None = shown("Amps once mended", "A", lead=True)
    shunt_watts: Quantity | None = shown("The shunt takes", "W")
    shunt_overload: Quantity | None = shown("times its rated watts")
    most_seconds: Quantity | None = shown("so at most", "s")
    hottest_joint_volts: Quantity = shown("Most across one part", "V")


def work(given: Given) -> Found:
    """Ohms of each part by its volts at the amps; a part within another is not added again; what
    the parts leave over of V/I is reactance and stays in every what-if. REF-C-02, REF-T-02. Ω, W.

    Raises FieldError where amps are told no way, a part has neither volts nor ohms, or lies within
    one that is not there.

    >>> told = Given(amps=exact(500.0), parts=(Piece(title="lug", ohms=exact(50e-6)),))
    >>> lost = work(told).parts_found[0]
    >>> round(lost.watts.value, 3), round(1e3 * lost.volts.value, 3)
    (12.5, 25.0)
    """
    amps = _amps(given)
    if not given.parts:
        raise FieldError("parts", "A path has at least one part; none was given.")
    parts = [_part(n, p, amps) for n, p in enumerate(given.parts)]
    totals = [(t.title, t.ohms) for t in given.stated_totals]
    found = path(parts, amps, given.open_volts, totals)
    told = [_lost(given, parts, p, amps, found.resistance_ohms) for p in parts]
    lost = sorted(told, key=_watts, reverse=True)
    shunt = _shunt(given, amps)
    return Found(
        amps_found=amps,
        parts_found=tuple(lost),
        loop_ohms=found.loop_ohms,
        resistance_ohms=found.resistance_ohms,
        reactance_ohms=found.reactance_ohms,
        consistent=found.consistent,
        repeat=found.repeat or None,
        amps_without=_mended(given, parts, amps, given.without),
        shunt_watts=shunt[0],
        shunt_overload=shunt[1],
        most_seconds=shunt[2],
        hottest_joint_volts=max((x.volts for x in lost), key=lambda q: q.value),
    )


def _amps(given: Given) -> Quantity:
    """As told, or by the shunt. Raises FieldError."""
    if given.amps is not None:
        return given.amps
    rated, volts, read = given.shunt_rated_amps, given.shunt_rated_volts, given.shunt_volts
    if rated is None or volts is None or read is None:
        raise FieldError("amps", "Give the amps, or the shunt's amps, volts and reading.")
    return corners(lambda v: v / volts * rated, read)


def _part(n: int, piece: Piece, amps: Quantity) -> PathPart:
    """Its ohms. Raises FieldError."""
    if (piece.volts is None) == (piece.ohms is None):
        said = f"“{piece.title:.40}” needs its volts or its ohms, one of the two."
        raise FieldError(f"parts.{n}.volts", said)
    ohms = piece.ohms
    if piece.volts is not None:
        ohms = corners(lambda v, i: v / i, piece.volts, amps)
    assert ohms is not None
    return PathPart(title=piece.title, ohms=ohms, within=piece.within or "")


def _lost(
    given: Given, parts: list[PathPart], part: PathPart, amps: Quantity, whole: Quantity
) -> Lost:
    watts = corners(lambda r, i: i * i * r, part.ohms, amps)
    share = part.ohms.value / whole.value if whole.value > 0 else 0.0
    return Lost(
        title=part.title,
        ohms=part.ohms,
        volts=corners(lambda r, i: i * r, part.ohms, amps),
        watts=watts,
        share=exact(share, "of the sum"),
        amps_mended=_mended(given, parts, amps, (part.title,)),
    )


def _watts(lost: Lost) -> float:
    return lost.watts.value


def _mended(
    given: Given, parts: list[PathPart], amps: Quantity, gone: tuple[str, ...]
) -> Quantity | None:
    """Amps with these parts at nought; with the ranges of volts and amps. None without open volts,
    or where nothing would be left.
    """
    if not gone or given.open_volts is None:
        return None
    if gone == tuple(p.title for p in parts if not p.within):
        return None
    totals = [(t.title, t.ohms) for t in given.stated_totals]

    def found(v: float, i: float) -> float:
        at = path(parts, exact(i), exact(v), totals)
        return amps_without(at, parts, gone, exact(v))

    return corners(found, given.open_volts, amps)


def _shunt(
    given: Given, amps: Quantity
) -> tuple[Quantity | None, Quantity | None, Quantity | None]:
    """Watts in the shunt, times its rated ones, and for how long."""
    rated, volts = given.shunt_rated_amps, given.shunt_rated_volts
    if rated is None or volts is None:
        return None, None, None
    watts = corners(lambda i: i * i * volts / rated, amps)
    over = corners(lambda w: w / (rated * volts), watts)
    seconds = overload_seconds(over.value)
    ends = [overload_seconds(x) for x in (over.low, over.high)]
    most = None
    if seconds is not None:
        latest = ends[0][2] if ends[0] is not None else math.inf
        earliest = ends[1][0] if ends[1] is not None else seconds[0]
        most = Quantity(seconds[1], earliest, min(latest, 3600.0), ("from memory",))
    return watts, over, most


CURRENT_PATH = Planner(
    name="current_path",
    title="The path",
    purpose="Every joint and cable by its millivolts: what takes most, and what a repair gains.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="R = V/I; Z = V_open/I; X = √(Z² − ΣR²); I' = V_open/√((ΣR − R_gone)² + X²)",
        source="REF-C-02, REF-T-02",
        put="{resistance_ohms} in the parts, at {amps_found}",
    ),
    cautions=(
        Caution(
            code="does-not-add-up",
            severity="caution",
            sentence="It does not add up: read “{repeat}” again before anything is mended.",
            when=lambda given, found: not found.consistent,
        ),
        Caution(
            code="joint-melts",
            severity="stop",
            sentence=(
                f"A part drops {{hottest_joint_volts}}: copper melts at {MELTS_VOLTS:g} V across a "
                "joint. Stop, and make it anew."
            ),
            when=lambda given, found: _joint(given, found, MELTS_VOLTS),
        ),
        Caution(
            code="joint-softens",
            severity="caution",
            sentence=(
                f"A part drops {{hottest_joint_volts}}: a copper joint softens at "
                f"{SOFTENS_VOLTS:g} V. Is it a joint, or a length of cable?"
            ),
            when=lambda given, found: (
                _joint(given, found, SOFTENS_VOLTS) and not _joint(given, found, MELTS_VOLTS)
            ),
        ),
        Caution(
            code="shunt-hot",
            severity="caution",
            sentence=(
                "The shunt takes {shunt_overload} times its rated watts: {most_seconds} at most, "
                "then minutes to cool, or it reads wrong for ever."
            ),
            when=lambda given, found: found.most_seconds is not None,
        ),
        Caution(
            code="reactance-stays",
            severity="note",
            sentence=(
                "What the millivolts do not explain is reactance: no joint takes it away. Bring "
                "the cables together, keep iron out of the throat."
            ),
            when=lambda given, found: found.reactance_ohms is not None,
        ),
        Caution(
            code="leads-twisted",
            severity="note",
            sentence=(
                "Twist the meter's leads: a kiloamp at a hand's width induces 0.6 mV in ten square "
                "centimetres of loop. Rings off, and no hand in the path."
            ),
        ),
    ),
    example={
        "parts": [
            {"title": "winding", "volts": 0.21},
            {"title": "lug left", "volts": 0.012},
            {"title": "lug right", "volts": 0.048},
            {"title": "cables", "volts": 0.15},
            {"title": "clamp", "volts": 0.095},
        ],
        "amps": 480.0,
        "open_volts": 0.86,
        "without": ["lug right"],
    },
    checks=(
        Check(
            given={"amps": 500, "parts": [{"title": "joint", "ohms": 5e-5}]},
            expected={"parts_found.0.watts": 12.5, "parts_found.0.volts": 0.025},
            source="REF-C-02a",
        ),
        Check(
            given={"amps": 100, "parts": [{"title": "joint", "volts": 0.04}], "open_volts": 0.05},
            expected={
                "parts_found.0.ohms": 4e-4,
                "parts_found.0.watts": 4.0,
                "reactance_ohms": 3e-4,
            },
            source="REF-C-02b; 3, 4 and 5 by hand",
        ),
    ),
)


def _joint(given: Given, found: Found, volts: float) -> bool:
    """Whether one part that is called a joint drops so much."""
    return any(
        x.volts.value >= volts and any(w in x.title.lower() for w in JOINTS)
        for x in found.parts_found
    )


JOINTS = ("joint", "lug", "bolt", "crimp", "clamp", "electrode", "tip", "nut")
"""Words by which a part is a joint, not a length."""
