"""What every kind of reading may carry, and what a kind declares of itself: how it is typed and
said back, what its meter may err by, what it says of windings, how it is hooked up, what voids it,
which demands it meets.

A kind is a class in a module of its own; whoever asks about a reading asks the reading, never
which kind it is of.
"""

import math
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, ClassVar, Literal

from msgspec import Struct as Declared
from pydantic import Field, field_validator

from greyfell.core.evidence.accuracy import OhmReading, limit
from greyfell.core.evidence.kinds.shown import LIMITS_TO_SD
from greyfell.core.evidence.part import AnyAmount, Id, Pair, Part, Percent, Short, Stamp, Text
from greyfell.core.evidence.typed_line import Form
from greyfell.core.figures.notation import as_read

MOST_FEW = 64
"""So many entries any short list of a record may hold."""
OPEN = "open"
"""What stands in place of ohms where nothing conducts."""
Demand = Literal[
    "core proved",
    "ohms of pairs",
    "open to the core",
    "family told",
    "volts per turn",
    "test turn",
    "new turns",
    "output volts",
    "open volts",
    "idle amps",
    "short circuit",
    "insulation tested",
    "bond",
    "leakage",
    "leakage amps",
]
"""What a goal or a build asks to be read."""
Reach = Literal["", "cold", "low", "sweep"]
Station = Literal["salvage", "cold", "low", "power", "sweep", "record"]
HookUpShape = Literal[
    "", "ohms", "tester", "proof", "source", "turns", "joined", "lamp", "wound up"
]
WIRE_STAYS = frozenset(
    ("shunts-removed", "shunts-added", "core-rejoined", "core-split", "winding-removed")
)
"""Work on iron that leaves the wire of the other windings as it was."""
WINDINGS_STAY = frozenset(("core-rejoined", "core-split", "winding-removed"))
"""Work that leaves which end of a winding is which."""


class Pad(Declared, frozen=True, kw_only=True):
    """The keys of a number pad: each unit as it is shown and as it is typed, and words that stand
    for a whole reading.
    """

    units: tuple[tuple[str, str], ...] = ()
    words: tuple[tuple[str, str], ...] = ()


VOLTS_KEYS = (("V", "V"), ("mV", "mV"))
OVER_RANGE = ("OL", "OL")


class HookUp(Declared, frozen=True, kw_only=True):
    """How a step of this kind is drawn: its shape, what the instrument shows and stands at, a word
    below.
    """

    shape: HookUpShape
    shows: str = ""
    set_to: str = ""
    below: str = ""


NOT_DRAWN = HookUp(shape="")


class TurnsTold(Declared, frozen=True, kw_only=True):
    """What a reading says of turns: `value` is the logarithm of what `row` names, for the pair that
    was read, or of the second pair over the first.

    `spreads` are standard deviations in quadrature; `placed` where those of where the pairs lie
    along their windings come to them; `apart` is the line's or source's wander in it. Ohms of the
    winding from `spoilt_from` on widen the first spread by `spoilt`. `volts` stood on the pairs.
    """

    row: Literal["ratio", "turns", "test turn", "inductance"]
    pairs: tuple[Pair, ...]
    value: float
    spreads: tuple[float, ...]
    volts: tuple[float, float] | None = None
    placed: bool = False
    apart: float = 0.0
    spoilt_from: float = math.inf
    spoilt: float = 0.0


class FieldAccuracy(Part):
    """Limits of one figure: per cent of it, and digits in its unit."""

    percent: Percent = 0.0
    digits: AnyAmount = 0.0


class Struck(Part):
    """Why a reading was struck out, by whom and when."""

    reason: Short
    by: Short = ""
    at: Stamp | None = None


class AnyReading(Part):
    """What every reading may carry. Volts and amps are RMS unless the kind is DC; celsius is the
    winding's.

    `claimed` was told by somebody and never measured; `about` was read roughly; `least` and `most`
    are where the figure moved to, in its own unit; `where` is where volts were read; `links` are
    windings joined outside; `typed` holds figures as they were typed, since 6.10 is not 6.1.
    """

    id: Id = ""
    at: Stamp | None = None
    meter: Short | None = None
    by: Short = ""
    struck: Struck | None = None
    note: Text = ""
    celsius: Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-60, le=300)] | None = None
    percent: Percent | None = None
    digits: AnyAmount | None = None
    accuracy: Annotated[dict[str, FieldAccuracy], Field(max_length=MOST_FEW)] | None = None
    claimed: bool = False
    about: bool = False
    least: AnyAmount | None = None
    most: AnyAmount | None = None
    where: Literal["piece", "ahead of ballast", "socket"] | None = None
    links: list[Pair] = Field(default=[], max_length=MOST_FEW)
    typed: Annotated[dict[str, Short], Field(max_length=MOST_FEW)] | None = None

    @field_validator("struck", mode="before")
    @classmethod
    def _struck_by_text(cls, value: Any) -> Any:
        return {"reason": value} if isinstance(value, str) else value

    # ------------------------------------------------------------------ how it is typed

    lines: ClassVar[tuple[tuple[str, str], ...]] = ()
    """Lines of the jotter that mean it, each with what it says."""
    alone: ClassVar[tuple[Form, ...]] = ()
    """How a whole line is known and read that begins with no pair of points."""
    after_pair: ClassVar[tuple[Form, ...]] = ()
    """The same of what follows a pair."""
    across_arrow: ClassVar[tuple[Form, ...]] = ()
    """The same of a line with an arrow: what is driven, and what that gives."""
    pad: ClassVar[Pad | None] = None
    """Keys of the number pad; none where no step asks for it."""

    @classmethod
    def in_hand(
        cls, said: dict[str, Any], dial: float | None, zero: float | None
    ) -> dict[str, Any]:
        """What was typed, with the range the meter's dial stands at and what its probes read
        shorted, Ω, where the kind depends on them. Raises FieldError.
        """
        return said

    def words(self) -> str:
        """The reading as it is read out, in the hand of the jotter."""
        raise NotImplementedError

    # ------------------------------------------------------------------ what it may err by

    usual_percent: ClassVar[float] = 2.0
    """Per cent of reading where the record states none. A pocket meter's usual limits; common
    practice."""
    moves: ClassVar[str] = ""
    """The figure that may move while it is read: `least` and `most` are its."""

    # ------------------------------------------------------------------ what it says of ohms

    by_ohmmeter: ClassVar[bool] = False
    """Whether an ohmmeter's two probes read it, their own ohms in it."""
    of_wire: ClassVar[bool] = False
    """Whether its ohms are of a wire or a joint, not of what parts two."""
    may_open: ClassVar[bool] = False
    """Whether it may read open: its ohms say whether two points are apart."""

    @property
    def ohms_between(self) -> Pair | None:
        """The two points whose ohms it tells; None where it tells none."""
        return None

    @property
    def ohms_shown(self) -> float:
        """The ohms as they were read, probes and all; infinite where nothing conducted."""
        return math.inf

    @property
    def is_open(self) -> bool:
        """Whether nothing conducted, up to its range."""
        return self.may_open and getattr(self, "ohms", None) == OPEN

    @property
    def test_amps(self) -> float:
        """The amps that its ohms were read with; nought for a meter's own few milliamps."""
        return 0.0

    @property
    def proof_volts(self) -> float:
        """The volts that an insulation tester put on; nought where none did."""
        return 0.0

    def ohms_read(self, probes: Mapping[str | None, float] | None = None) -> OhmReading:
        """Its ohms with their limits, probes taken off: `probes` has the most they read by meter.
        Raises TypeError for kinds that tell no ohms.
        """
        raise TypeError(f"{type(self).__name__} tells no ohms")

    # ------------------------------------------------------------------ what it says of windings

    weighs_turns: ClassVar[bool] = False
    """Whether it weighs one winding's turns against another's."""
    counts_turns: ClassVar[bool] = False
    """Whether turns were counted for it."""

    @property
    def drive(self) -> tuple[Pair, float] | None:
        """The pair it drives at no more than its own volts, and with how many; None where none."""
        return None

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """Pairs that it shows to be of one winding, each with the volts that stood on it."""
        return ()

    def more_than_wire(self) -> Iterable[Pair]:
        """Pairs that it shows to have iron and turns between them."""
        return ()

    def turns_told(self) -> TurnsTold | None:
        """What it says of turns; None where nothing."""
        return None

    # ------------------------------------------------------------------ where it stands in the work

    station: ClassVar[Station] = "low"
    """Where a step of this kind is worked while nothing has the line on it."""
    live_station: ClassVar[Station] = "power"
    """Where, with the line on it."""
    reaches: ClassVar[Reach] = ""
    """How far a piece is tested that has one."""
    told_at_low: ClassVar[bool] = False
    """Whether it is listed among what low energy told."""
    hookup: ClassVar[HookUp] = NOT_DRAWN
    """How its step is drawn."""
    meets: ClassVar[frozenset[Demand]] = frozenset()
    """Demands of a goal or a build that it meets."""
    again_in_time: ClassVar[bool] = False
    """Whether it is read again every so often, since what it tells gets worse by itself."""

    @property
    def ages(self) -> bool:
        """Whether it is of what changes by itself: insulation, or the bond."""
        pair = self.ohms_between
        return self.is_open or (self.of_wire and pair is not None and "earth" in pair)

    def holds_after(self, change: str) -> bool:
        """Whether it still holds after this work on the iron."""
        return False


def ends(pair: Pair) -> str:
    """Two points, as they are said.

    >>> ends(("A", "core"))
    'A–core'
    """
    return "–".join(pair)


def fed(pair: Pair, volts: float) -> str:
    """A pair with the volts put on it, as they are said, V.

    >>> fed(("A", "B"), 12.0)
    'A–B 12 V'
    """
    return f"{ends(pair)} {as_read(volts, 'V')}"


def spread_of(reading: AnyReading, *fields: str) -> float:
    """Standard deviation of the logarithm of a ratio of these figures of a reading, by their
    limits: triangular, JCGM 100:2008 4.3.9.
    """
    shares = (limit(reading, field) / getattr(reading, field) for field in fields)
    return float(sum(shares)) / LIMITS_TO_SD
