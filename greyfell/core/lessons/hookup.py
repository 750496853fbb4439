"""A hook-up as a hand makes it, and what would have happened: the one list of wrong moves, for a
hidden piece and for the model of one's own.

Nothing here powers anything: it is said, with volts and places, what power would have done.
"""

from collections.abc import Callable, Iterator
from typing import Protocol

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import begun, engineering

SOURCES = {
    "none": "nothing drives it",
    "low": "low AC source, isolated",
    "line": "the line, straight",
    "lamp": "the line through a lamp",
    "variac": "a variac on the line",
}
"""What drives a pair, in words."""
TESTER = "insulation"
INSTRUMENTS = {
    "ohms": "ohmmeter",
    "milliohm": "milliohm by volts and amps",
    "volts": "voltmeter, AC",
    "volts-dc": "voltmeter, left on DC",
    "low-z": "voltmeter of low impedance",
    "microamps": "microammeter, 2 kΩ and a fuse",
    "amps": "ammeter",
    "wattmeter": "wattmeter",
    "clamp": "clamp",
    "henries": "inductance meter",
    TESTER: "insulation tester, 500 V",
    "lamp": "the lamp itself",
    "none": "no instrument",
}
"""Instruments in words."""
UNPOWERED = ("ohms", "milliohm", "henries", TESTER)
"""Instruments that want a dead piece."""
RANGES = {"": None, "200": 200.0, "20k": 2e4, "20M": 2e7}
"""Ranges of an ohmmeter, Ω; the first takes the one that suits."""
HELD = ("clips", "hand")
METER_VOLTS, LOW_SOURCE_VOLTS = 600.0, 42.0
"""A pocket meter bears so many; a low source gives so many."""
BEYOND = 1.3
"""Volts over what a winding was made for at which its iron is far past its knee. House rule."""
POINTS = {"stop": 40, "wrong": 15, "waste": 5}
"""What a move costs: one that could have killed or burnt; one that breaks an instrument or tells
a wrong figure; one that tells nothing."""


class Hookup(Struct, frozen=True, kw_only=True):
    """A source on a pair with its volts, an instrument on a pair, its jack and range, how it is
    held, whether the core is bonded to earth and other leads are covered, which pair is shorted.
    """

    source: str = "none"
    driven: tuple[str, str] | None = None
    volts: float = 0.0
    instrument: str = "none"
    points: tuple[str, str] | None = None
    jack: str = "volts"
    held: str = "clips"
    earthed: bool = True
    covered: bool = True
    range_key: str = ""
    shorted: tuple[str, str] | None = None

    @property
    def live(self) -> bool:
        """Whether the line is in it."""
        return self.source in ("line", "lamp", "variac")

    @property
    def powered(self) -> bool:
        """Whether anything drives it."""
        return self.source != "none"


class HiddenIron(Protocol):
    """What a hook-up is held against: volts of pairs, what each is made for, the pair for the
    mains.
    """

    def points(self) -> tuple[str, ...]:
        """Every lead, and the core."""

    def made_for(self, pair: tuple[str, str]) -> float | None:
        """Volts that a pair is made for; None where it is on no winding."""

    def across(self, driven: tuple[str, str], volts: float, pair: tuple[str, str]) -> float:
        """Volts on a pair with another driven."""

    def mains(self) -> tuple[str, str] | None:
        """The pair that the line goes on."""

    def supply(self) -> float:
        """Volts of the line."""

    def high(self) -> tuple[tuple[str, str], ...]:
        """Pairs of high voltage, the core among their ends where it is one."""

    def faulty(self) -> str:
        """What would burn behind the line, in words; empty where it is sound or not known."""


class Mishap(Struct, frozen=True, kw_only=True):
    """What would have happened: its code, how grave, the sentence, and which reading beforehand
    would have shown it.
    """

    code: str
    grave: str
    words: str
    shown_by: str

    @property
    def cost(self) -> int:
        """Points that it costs."""
        return POINTS[self.grave]


class Mistake(Struct, frozen=True, kw_only=True):
    """One wrong move, declared."""

    code: str
    grave: str
    words: str
    shown_by: str
    when: Callable[[Hookup, HiddenIron], Iterator[dict[str, str]]]


def mishaps(hookup: Hookup, iron: HiddenIron) -> list[Mishap]:
    """Everything wrong with a hook-up, the gravest first. Raises FieldError where a point is none
    of the piece's, or a pair is missing.
    """
    _checked(hookup, iron)
    out = []
    for rule in RULES:
        for facts in rule.when(hookup, iron):
            words = rule.words.format(**facts)
            words = begun(words)
            out.append(
                Mishap(code=rule.code, grave=rule.grave, words=words, shown_by=rule.shown_by)
            )
            break
    return sorted(out, key=lambda m: -m.cost)


def _checked(hookup: Hookup, iron: HiddenIron) -> None:
    """Every name in a hook-up is one there is."""
    for name, value, known in (
        ("source", hookup.source, SOURCES),
        ("instrument", hookup.instrument, INSTRUMENTS),
        ("held", hookup.held, HELD),
        ("range", hookup.range_key, RANGES),
    ):
        if value not in known:
            raise FieldError(name, f"{begun(name)} is one of: {', '.join(known)}.")
    known_points = {*iron.points(), "core", "earth"}
    for name in ("driven", "points", "shorted"):
        pair = getattr(hookup, name)
        if pair is None:
            continue
        if len(set(pair)) != 2 or not set(pair) <= known_points:
            raise FieldError(name, f"{begun(name)}: two points of this piece.")
    if hookup.powered and hookup.driven is None:
        raise FieldError("driven", "Say which two points the source goes on.")
    if hookup.instrument not in ("none", "lamp", "clamp", "wattmeter") and hookup.points is None:
        raise FieldError("points", "Say which two points the instrument goes on.")


def _between(h: Hookup, iron: HiddenIron, pair: tuple[str, str]) -> float:
    """Volts on a pair as it is driven."""
    assert h.driven is not None
    return abs(iron.across(h.driven, h.volts, pair))


def _on_hv(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """The instrument's points see more than it bears."""
    if not h.powered or h.points is None or h.instrument not in VOLTMETERS:
        return
    volts = _between(h, iron, h.points)
    if volts > METER_VOLTS:
        yield {"volts": engineering(volts, "V"), "pair": "–".join(h.points)}


VOLTMETERS = ("volts", "volts-dc", "low-z", "lamp")


def _leak_on_hv(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """A microammeter to earth from a lead of a high winding."""
    if h.instrument != "microamps" or not h.powered or h.points is None:
        return
    for pair in iron.high():
        volts = _between(h, iron, pair)
        if volts > METER_VOLTS and set(pair) & set(h.points) - {"core", "earth"}:
            yield {"pair": "–".join(h.points), "volts": engineering(volts, "V")}


def _too_low(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """A barrier read on a range that cannot see it."""
    if h.instrument != "ohms" or h.powered or h.points is None:
        return
    top = RANGES.get(h.range_key)
    barrier = iron.made_for(h.points) is None and set(h.points) != {"core", "earth"}
    if barrier and top is not None and top < LEAST_RANGE:
        yield {"pair": "–".join(h.points), "range": engineering(top, "Ω")}


LEAST_RANGE = 2e6
"""A range below this says nothing of a barrier. The record's own rule."""


def _unpowered(h: Hookup, _iron: HiddenIron) -> Iterator[dict[str, str]]:
    if h.powered and h.instrument in UNPOWERED:
        yield {"what": INSTRUMENTS[h.instrument], "volts": engineering(h.volts, "V")}


def _ammeter(h: Hookup, _iron: HiddenIron) -> Iterator[dict[str, str]]:
    """An ammeter, or the amps jack, across a driven pair."""
    across = h.points is not None and h.driven is not None and set(h.points) == set(h.driven)
    if h.powered and across and (h.instrument == "amps" or h.jack == "amps"):
        yield {"source": SOURCES[h.source]}


def _wrong_pair(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """The line on a pair that is not the mains'."""
    if not h.live or h.driven is None:
        return
    made = iron.made_for(h.driven)
    if made is None:
        yield {"pair": "–".join(h.driven), "made": "no winding", "then": "nothing but a shock"}
    elif h.volts > BEYOND * made:
        times = h.volts / made
        others = [(_between(h, iron, p), p) for p in iron.high()]
        worst = max(others, default=(0.0, h.driven))
        then = f"its iron is past its knee {times:.1f} times over"
        if worst[0] > METER_VOLTS:
            then += f", and {'–'.join(worst[1])} stands at {engineering(worst[0], 'V')}"
        yield {"pair": "–".join(h.driven), "made": engineering(made, "V"), "then": then}


def _bare_line(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    on_one = h.driven is not None and iron.made_for(h.driven) is not None
    if h.source in ("line", "variac") and on_one and not iron.faulty():
        yield {"source": SOURCES[h.source]}


def _burns(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    if h.source in ("line", "variac") and iron.faulty():
        yield {"fault": iron.faulty()}


def _by_hand(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """Probes held by hand on what kills."""
    if h.held != "hand" or not h.powered or h.points is None:
        return
    volts = _between(h, iron, h.points)
    if volts > TOUCH_VOLTS:
        yield {"volts": engineering(volts, "V"), "pair": " and ".join(h.points)}


def _open_core(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """The core not bonded, and a high winding's end on it."""
    if not h.live or h.earthed:
        return
    bonded = [p for p in iron.high() if "core" in p]
    volts = max((_between(h, iron, p) for p in bonded), default=0.0)
    if volts > TOUCH_VOLTS:
        yield {"volts": engineering(volts, "V")}


def _bare_ends(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """Other ends bare with kilovolts on them."""
    if h.covered or not h.powered:
        return
    worst = max(((_between(h, iron, p), p) for p in iron.high()), default=(0.0, ("", "")))
    if worst[0] > TOUCH_VOLTS:
        yield {"pair": "–".join(worst[1]), "volts": engineering(worst[0], "V")}


def _on_dc(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """A meter on DC across AC that kills: it shows nothing."""
    if h.instrument != "volts-dc" or not h.powered or h.points is None:
        return
    volts = _between(h, iron, h.points)
    if volts > TOUCH_VOLTS:
        yield {"volts": engineering(volts, "V")}


def _shorted(h: Hookup, _iron: HiddenIron) -> Iterator[dict[str, str]]:
    if h.shorted is not None and h.source == "line":
        yield {"pair": "–".join(h.shorted)}


def _low_into_low(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """A low drive on a winding of few volts: the others step up."""
    if h.source != "low" or h.driven is None:
        return
    worst = max(((_between(h, iron, p), p) for p in iron.high()), default=(0.0, h.driven))
    mains = iron.mains()
    if mains is not None:
        worst = max(worst, (_between(h, iron, mains), mains))
    if worst[0] > 2 * LOW_SOURCE_VOLTS and worst[0] > TOUCH_VOLTS:
        yield {"pair": "–".join(worst[1]), "volts": engineering(worst[0], "V")}


def _insulated_along(h: Hookup, iron: HiddenIron) -> Iterator[dict[str, str]]:
    """The insulation tester along one winding."""
    if h.instrument == TESTER and h.points is not None and not h.powered:
        made = iron.made_for(h.points)
        if made is not None:
            yield {"pair": "–".join(h.points)}


def _too_much(h: Hookup, _iron: HiddenIron) -> Iterator[dict[str, str]]:
    if h.source == "low" and h.volts > LOW_SOURCE_VOLTS:
        yield {"volts": engineering(h.volts, "V")}


RULES = (
    Mistake(
        code="meter-on-hv",
        grave="stop",
        words="{volts} stood on {pair}: the meter's 600 V were passed, it arced in the hand.",
        shown_by="A ratio at a low drive tells the volts of every winding before the line does.",
        when=_on_hv,
    ),
    Mistake(
        code="by-hand",
        grave="stop",
        words="You would have been between {pair}, {volts} through you.",
        shown_by="Clips on before power, off after it; one hand near none of it.",
        when=_by_hand,
    ),
    Mistake(
        code="wrong-pair",
        grave="stop",
        words="The line on {pair}, made for {made}: {then}.",
        shown_by="Ohms and a ratio tell the winding for the mains; the others are never fed.",
        when=_wrong_pair,
    ),
    Mistake(
        code="burnt",
        grave="stop",
        words="No limiter, and {fault}: the winding burnt, the breaker opened too late.",
        shown_by="First power through a lamp: it would have glowed bright, and nothing burnt.",
        when=_burns,
    ),
    Mistake(
        code="core-live",
        grave="stop",
        words="The core stood at {volts}: it is the winding's return, and not bonded.",
        shown_by="The bond by an ampere, read before any power.",
        when=_open_core,
    ),
    Mistake(
        code="bare-ends",
        grave="stop",
        words="{pair} stood bare at {volts}, beside your hand.",
        shown_by="Every end that is not clipped is covered, apart and fixed, before the plug.",
        when=_bare_ends,
    ),
    Mistake(
        code="dead-on-dc",
        grave="stop",
        words="The meter stood on DC and showed nought: {volts} of AC were there.",
        shown_by="The meter proved in this mode on a source you know, just before.",
        when=_on_dc,
    ),
    Mistake(
        code="shorted-line",
        grave="stop",
        words="{pair} shorted and the whole line behind it: hundreds of amps, the lead burnt.",
        shown_by="A short is read at volts wound up from nought, or behind a limiter.",
        when=_shorted,
    ),
    Mistake(
        code="steps-up",
        grave="wrong",
        words="Driven so, {pair} stood at {volts}: it steps up.",
        shown_by="Open volts of every winding are worked out before one is driven.",
        when=_low_into_low,
    ),
    Mistake(
        code="fuse-blown",
        grave="wrong",
        words="An ammeter across {source} is a short: its fuse blew.",
        shown_by="Jacks looked at before every reading; amps are read in the line.",
        when=_ammeter,
    ),
    Mistake(
        code="meter-powered",
        grave="wrong",
        words="{what} on a piece with {volts} on it: the meter is spoilt, its figure is none.",
        shown_by="Plug out and in sight before ohms.",
        when=_unpowered,
    ),
    Mistake(
        code="no-limiter",
        grave="wrong",
        words="{source} with nothing that limits: sound this time.",
        shown_by="A lamp in series shows a fault by its glow, before it burns.",
        when=_bare_line,
    ),
    Mistake(
        code="leak-on-hv",
        grave="stop",
        words="A microammeter from {pair} of a winding at {volts}: its 2 kΩ flashed over.",
        shown_by="Leakage is read of outputs whose volts are known and low, never of HV.",
        when=_leak_on_hv,
    ),
    Mistake(
        code="low-range",
        grave="waste",
        words="{pair} open on {range}: that range sees no leak of a megohm.",
        shown_by="A barrier is read on the highest range there is, noted with the reading.",
        when=_too_low,
    ),
    Mistake(
        code="along-winding",
        grave="waste",
        words="500 V along {pair}, one winding: it conducts, and tells nothing of a barrier.",
        shown_by="Ohms tell which leads are one winding.",
        when=_insulated_along,
    ),
    Mistake(
        code="beyond-source",
        grave="waste",
        words="A low source gives 42 V; {volts} were asked of it.",
        shown_by="The source's own plate.",
        when=_too_much,
    ),
)
"""Every wrong move."""
