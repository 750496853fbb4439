"""What stands between the wall and a piece, as it is kept: elements in their order, the conductor
each stands in, meters, what is earthed and what is covered. The open format is `greyfell.setup/1`.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct, field

from greyfell.core.errors import FieldError, within

FORMAT = "greyfell.setup/1"
MOST_ELEMENTS, MOST_METERS, MOST_POINTS, MOST_WORDS = 24, 24, 64, 120
LINE, NEUTRAL, BOTH = "line", "neutral", "both"
CONDUCTORS = (LINE, NEUTRAL, BOTH)
PLUGS = ("fixed", "proved", "reversible")
"""A plug that goes in one way; one that does not, its line proved for this session; one that does
not."""
KINDS: Mapping[str, Sequence[str]] = {
    "residual-current-device": ("trip_amps", "amps"),
    "breaker": ("amps",),
    "fuse": ("amps", "volts"),
    "switch": ("amps", "volts", "poles"),
    "variac": ("brush_amps", "line_volts"),
    "source": ("volts", "amps"),
    "lamp": ("watts", "volts"),
    "heater": ("watts", "volts"),
    "ballast": ("short_amps", "rated_amps"),
    "capacitor": ("farads",),
    "dimmer": (),
    "wattmeter": ("amps", "volts"),
    "ammeter": ("amps",),
    "lead": ("mm2",),
    "diode": (),
}
"""What may stand between wall and piece, and the figures each may have."""
LIMITERS = ("lamp", "heater", "ballast")
"""What limits the amps. A variac is none: its output is as stiff as the line."""
READS = ("volts", "amps")
HELD = ("clips", "hand")


class BenchPart(Struct, frozen=True, kw_only=True):
    """One thing between wall and piece: its id, kind, the conductor it stands in, its figures, what
    it is called. `reach` a switch in reach of one hand, `isolated` a source's output, `bridged` a
    wire lies around it, `rcd_type` the letter of a residual-current device.
    """

    id: str
    kind: str
    where: str
    figures: Mapping[str, float] = field(default_factory=dict)
    title: str = ""
    reach: bool = False
    isolated: bool = False
    bridged: bool = False
    rcd_type: str = ""

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return self.title or self.kind


class Attached(Struct, frozen=True, kw_only=True):
    """A meter on two points: what it reads, how it is held, its volts and category where known."""

    id: str
    at: tuple[str, str]
    reads: str = "volts"
    held: str = "clips"
    volts: float | None = None
    category: str | None = None
    amps: float | None = None
    earthed: bool = False
    title: str = ""

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return self.title or self.id


class Setup(Struct, frozen=True, kw_only=True):
    """Wall to piece: which pair is fed, the plug, whether the socket has an earth, the elements in
    order from the wall, meters, points wired to earth, ends that are covered, apart and fixed, and
    whether somebody said that no hand comes near what stands live (where nobody did, it is not).
    """

    fed: tuple[str, str]
    plug: str = "fixed"
    earthed: bool = True
    chain: tuple[BenchPart, ...] = ()
    meters: tuple[Attached, ...] = ()
    earth: tuple[str, ...] = ()
    covered: tuple[str, ...] = ()
    hands_off: bool = False

    def of(self, *kinds: str) -> list[BenchPart]:
        """Every element of some kinds, from the wall on."""
        return [e for e in self.chain if e.kind in kinds]

    @property
    def from_line(self) -> bool:
        """Whether the piece hangs on the mains, and not on an isolated source."""
        return not any(e.kind == "source" and e.isolated for e in self.chain)

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "format": FORMAT,
            "fed": list(self.fed),
            "plug": self.plug,
            "earthed": self.earthed,
            "chain": [_element_json(e) for e in self.chain],
            "meters": [_meter_json(m) for m in self.meters],
            "earth": list(self.earth),
            "covered": list(self.covered),
        } | ({"hands_off": True} if self.hands_off else {})


def _element_json(e: BenchPart) -> dict[str, Any]:
    out: dict[str, Any] = {"id": e.id, "kind": e.kind, "in": e.where, **e.figures}
    flags = {"reach": e.reach, "isolated": e.isolated, "bridged": e.bridged}
    out |= {k: v for k, v in flags.items() if v}
    words = {"title": e.title, "type": e.rcd_type}
    return out | {k: v for k, v in words.items() if v}


def _meter_json(m: Attached) -> dict[str, Any]:
    out: dict[str, Any] = {"id": m.id, "at": list(m.at), "reads": m.reads, "held": m.held}
    more = {"max_volts_ac": m.volts, "category": m.category, "amps": m.amps, "title": m.title}
    out |= {k: v for k, v in more.items() if v}
    return {**out, "earthed": True} if m.earthed else out


def parse_setup(document: Any, points: Sequence[str] | None = None) -> Setup:
    """A set-up from its open format. Raises FieldError that names the field; `points` are what it
    may name.

    >>> parse_setup({"format": "greyfell.setup/1", "fed": ["A", "B"]}).plug
    'fixed'
    """
    if not isinstance(document, dict) or document.get("format", FORMAT) != FORMAT:
        raise FieldError("setup.format", f"A set-up says its format is “{FORMAT}”.")
    known = None if points is None else {*points, "core"}
    return Setup(
        fed=_pair(document.get("fed"), "setup.fed", known),
        plug=_one_of(document.get("plug", PLUGS[0]), "setup.plug", PLUGS),
        earthed=_flag(document, "earthed", default=True),
        chain=tuple(
            _element(e, f"setup.chain.{n}")
            for n, e in enumerate(_list(document, "chain", MOST_ELEMENTS))
        ),
        meters=tuple(
            _meter(m, f"setup.meters.{n}", known)
            for n, m in enumerate(_list(document, "meters", MOST_METERS))
        ),
        earth=_points(document, "earth", known),
        covered=_points(document, "covered", known),
        hands_off=_flag(document, "hands_off"),
    )


def _list(document: Mapping[str, Any], key: str, most: int) -> list[Any]:
    found = document.get(key, [])
    if not isinstance(found, list) or len(found) > most:
        raise FieldError(f"setup.{key}", f"“{key}” is a list of at most {most}.")
    return found


def _flag(document: Mapping[str, Any], key: str, *, default: bool = False) -> bool:
    value = document.get(key, default)
    if not isinstance(value, bool):
        raise FieldError(f"setup.{key}", f"“{key}” is true or false.")
    return value


def _one_of(value: Any, name: str, choices: Sequence[str]) -> str:
    if value not in choices:
        raise FieldError(name, f"It is one of {', '.join(choices)}; “{str(value)[:40]}” is not.")
    return str(value)


def _word(document: Mapping[str, Any], key: str, name: str) -> str:
    value = document.get(key) or ""
    if not isinstance(value, str) or len(value) > MOST_WORDS:
        raise FieldError(name, f"“{key}” is text of at most {MOST_WORDS} letters.")
    return value


def _pair(value: Any, name: str, known: set[str] | None) -> tuple[str, str]:
    if not isinstance(value, list | tuple) or len(value) != 2 or value[0] == value[1]:
        raise FieldError(name, "A pair is two different points of the piece.")
    one, two = (_point(x, name, known) for x in value)
    return one, two


def _point(value: Any, name: str, known: set[str] | None) -> str:
    if not isinstance(value, str) or not value or (known is not None and value not in known):
        raise FieldError(name, f"“{str(value)[:20]}” is no point of this piece.")
    return value


def _points(document: Mapping[str, Any], key: str, known: set[str] | None) -> tuple[str, ...]:
    found = _list(document, key, MOST_POINTS)
    return tuple(dict.fromkeys(_point(x, f"setup.{key}", known) for x in found))


def _figures(document: Mapping[str, Any], keys: Sequence[str], name: str) -> dict[str, float]:
    given = {k: document[k] for k in keys if document.get(k) is not None}
    return {k: within(f"{name}.{k}", v, above=0, at_most=1e9) for k, v in given.items()}


def _element(document: Any, name: str) -> BenchPart:
    if not isinstance(document, dict):
        raise FieldError(name, "An element of the set-up is an object with its kind.")
    kind = _one_of(document.get("kind"), f"{name}.kind", tuple(KINDS))
    return BenchPart(
        id=_word(document, "id", f"{name}.id") or kind,
        kind=kind,
        where=_one_of(document.get("in", BOTH), f"{name}.in", CONDUCTORS),
        figures=_figures(document, KINDS[kind], name),
        title=_word(document, "title", f"{name}.title"),
        reach=_flag(document, "reach"),
        isolated=_flag(document, "isolated"),
        bridged=_flag(document, "bridged"),
        rcd_type=_word(document, "type", f"{name}.type"),
    )


def _meter(document: Any, name: str, known: set[str] | None) -> Attached:
    if not isinstance(document, dict):
        raise FieldError(name, "A meter of the set-up is an object with the points it is on.")
    figures = _figures(document, ("max_volts_ac", "amps"), name)
    return Attached(
        id=_word(document, "id", f"{name}.id") or "meter",
        at=_pair(document.get("at"), f"{name}.at", known),
        reads=_one_of(document.get("reads", READS[0]), f"{name}.reads", READS),
        held=_one_of(document.get("held", HELD[0]), f"{name}.held", HELD),
        volts=figures.get("max_volts_ac"),
        category=_word(document, "category", f"{name}.category") or None,
        amps=figures.get("amps"),
        earthed=_flag(document, "earthed"),
        title=_word(document, "title", f"{name}.title"),
    )
