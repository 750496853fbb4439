"""The rig as it is kept: supply, what stands ahead of the piece, the piece's model, what stands
behind it, the load. The open format is `greyfell.rig/1`.
"""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct, field

from greyfell.core.errors import FieldError, told_from_nought, within
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.network.rectifiers import KINDS as RECTIFIERS

FORMAT = "greyfell.rig/1"
MOST_ELEMENTS, MOST_WORDS = 8, 120
AHEAD, BEHIND, LOAD = "ahead", "behind", "load"
BONDS = ("none", "middle", "end")
USUAL_SUPPLY_OHMS = 0.4
"""Ohms of a socket's loop where nobody read them. From memory."""


class ElementFigure(Struct, frozen=True, kw_only=True):
    """One figure of an element: its key, words, unit, bounds; `choices` where it is words."""

    key: str
    label: str
    unit: str = ""
    needed: bool = False
    above: float | None = 0.0
    at_least: float | None = None
    at_most: float = 1e9
    choices: tuple[str, ...] = ()

    def check(self, path: str, value: Any) -> float | str:
        """A value of it. Raises FieldError under `path`."""
        name = f"{path}.{self.key}"
        if self.choices:
            if value not in self.choices:
                said = ", ".join(self.choices)
                raise FieldError(name, f"{self.label} is one of {said}; {value!r:.40} was given.")
            return str(value)
        above = None if self.at_least is not None else self.above
        number = within(
            name, value, above=above, at_least=self.at_least, at_most=self.at_most, unit=self.unit
        )
        told_from_nought(name, self.label, number)
        return number


class ElementKind(Struct, frozen=True, kw_only=True):
    """One kind of element: where it may stand, its figures, its word; `store` the kind of the
    stores whose entries become it.
    """

    key: str
    one: str
    where: tuple[str, ...]
    figures: tuple[ElementFigure, ...] = ()
    store: str = ""

    def figure(self, key: str) -> ElementFigure | None:
        """One figure by its key."""
        return next((f for f in self.figures if f.key == key), None)


def _f(key: str, label: str, unit: str = "", **more: Any) -> ElementFigure:
    return ElementFigure(key=key, label=label, unit=unit, **more)


OHMS = _f("ohms", "ohms", "Ω", needed=True)
ELECTRODES = ("open", "gas-filled tube", "evacuated bulb")
"""What an arc burns between."""
COPPER = _f("ohms", "copper ohms", "Ω", at_least=0.0)
KINDS = {
    kind.key: kind
    for kind in (
        ElementKind(
            key="lamp",
            one="lamp",
            where=(AHEAD, LOAD),
            store="lamp",
            figures=(
                _f("watts", "watts", "W", needed=True, at_most=1e5),
                _f("volts", "volts", "V", at_most=1e5),
            ),
        ),
        ElementKind(
            key="ballast",
            one="ballast",
            where=(AHEAD, BEHIND),
            store="ballast",
            figures=(
                _f("short_amps", "amps, lamp shorted", "A", needed=True),
                _f("at_volts", "at volts", "V", needed=True),
                _f("at_hertz", "at hertz", "Hz", needed=True),
                COPPER,
                _f("rated_amps", "rated amps", "A"),
            ),
        ),
        ElementKind(
            key="choke",
            one="choke",
            where=(AHEAD, BEHIND),
            figures=(
                _f("henries", "inductance", "H", needed=True),
                COPPER,
                _f("saturates_amps", "saturates at peak amps", "A"),
            ),
        ),
        ElementKind(
            key="reactor",
            one="sliding or saturable reactor",
            where=(AHEAD,),
            figures=(_f("henries", "inductance where it stands", "H", needed=True), COPPER),
        ),
        ElementKind(
            key="capacitor",
            one="capacitor",
            where=(AHEAD, BEHIND),
            store="capacitor",
            figures=(
                _f("farads", "capacitance", "F", needed=True),
                _f("volts_ac", "AC volts", "V"),
            ),
        ),
        ElementKind(
            key="resistor",
            one="resistor or heater",
            where=(AHEAD, BEHIND, LOAD),
            store="resistor",
            figures=(OHMS, _f("watts", "watts", "W")),
        ),
        ElementKind(
            key="variac",
            one="variac",
            where=(AHEAD,),
            store="variac",
            figures=(
                _f("fraction", "of the line", needed=True, at_least=0.01, at_most=1.3),
                _f("brush_amps", "brush amps", "A"),
            ),
        ),
        ElementKind(
            key="rectifier",
            one="rectifier",
            where=(BEHIND,),
            figures=(
                _f("rectifier", "rectifier", needed=True, choices=RECTIFIERS),
                _f("stages", "stages", at_least=1.0, at_most=6),
                _f("stage_farads", "capacitors of a stage", "F"),
                _f("diode_volts", "drop of a string", "V", at_least=0.0, at_most=200),
                _f("inverse_volts", "a string bears", "V"),
            ),
        ),
        ElementKind(
            key="reservoir",
            one="reservoir",
            where=(BEHIND,),
            figures=(
                _f("farads", "capacitance", "F", needed=True),
                _f("volts_dc", "DC volts", "V"),
            ),
        ),
        ElementKind(
            key="bleeder",
            one="bleeder",
            where=(BEHIND,),
            figures=(OHMS, _f("watts", "watts", "W"), _f("volts", "volts it bears", "V")),
        ),
        ElementKind(key="open", one="nothing", where=(LOAD,)),
        ElementKind(key="short", one="a short", where=(LOAD,)),
        ElementKind(
            key="arc",
            one="an arc or tube",
            where=(LOAD,),
            figures=(
                _f("volts", "volts it holds", "V", needed=True),
                _f("electrodes", "what it burns between", choices=ELECTRODES),
            ),
        ),
        ElementKind(
            key="battery",
            one="battery",
            where=(LOAD,),
            figures=(_f("volts", "volts", "V", needed=True), COPPER),
        ),
        ElementKind(key="weld", one="weld", where=(LOAD,), figures=(OHMS,)),
    )
}
"""What may stand in a rig."""
SUPPLY = ElementKind(
    key="supply",
    one="supply",
    where=(),
    figures=(
        _f("volts", "volts", "V", needed=True, at_most=1000),
        _f("hertz", "hertz", "Hz", needed=True, at_least=10.0, at_most=1000),
        _f("ohms", "ohms of its loop", "Ω", at_least=0.0, at_most=1e4),
        _f("breaker_amps", "breaker or fuse", "A"),
        _f("residual_amps", "residual-current device", "A"),
    ),
)
MODEL = (
    _f("volts", "volts its idle current is told at", "V", needed=True, at_most=1e5),
    _f("hertz", "hertz", "Hz", needed=True, at_least=10.0, at_most=1000),
    _f("ratio", "secondary over primary turns", needed=True, at_most=1e4),
    _f("primary_ohms", "primary ohms", "Ω", needed=True),
    _f("secondary_ohms", "secondary ohms", "Ω", needed=True),
    _f("leakage_henries", "leakage, primary side", "H", needed=True),
    _f("idle_amps", "idle amps", "A", needed=True),
    _f("core_watts", "idle watts", "W", at_least=0.0),
    _f("straight", "straight share of its peak", at_least=0.0, at_most=1.0),
    _f("power", "power of flux", at_least=2.0, at_most=25.0),
    _f("air_henries", "inductance in air, primary side", "H"),
    _f("shunt_volts", "shunts saturate at leakage volts", "V"),
    _f("winding_farads", "capacitance of its winding", "F", at_least=0.0),
    _f("rated_volts", "rated secondary volts", "V"),
    _f("rated_amps", "rated secondary amps", "A"),
)
"""Figures of a piece's model, SI, those of the secondary on its own side."""


class Element(Struct, frozen=True, kw_only=True):
    """One element: its id in the rig, kind, figures, what it is called."""

    id: str
    kind: ElementKind
    figures: Mapping[str, Any] = field(default_factory=dict)
    title: str = ""

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return self.title or self.kind.one

    def get(self, key: str, default: float | None = None) -> float | None:
        """One of its figures, in the unit of its key: V, A, Ω, H, F, Hz."""
        found = self.figures.get(key)
        return default if found is None else float(found)

    def told(self, key: str) -> float:
        """One that it must have, in the unit of its key: V, A, Ω, H, F, Hz."""
        return float(self.figures[key])

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        out = {"id": self.id, "kind": self.kind.key, **self.figures}
        return out | ({"title": self.title} if self.title else {})


class Model(Struct, frozen=True, kw_only=True):
    """The piece as the rig sees it: its equivalent circuit, how it is bonded, where it is from."""

    figures: Mapping[str, float]
    bond: str = "none"
    tag: str = ""
    family: str = ""

    def get(self, key: str, default: float = 0.0) -> float:
        """One of its figures, in the unit of its key: V, A, Ω, H, F, Hz."""
        return float(self.figures.get(key, default))

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        out: dict[str, Any] = {**self.figures, "bond": self.bond}
        words = {"tag": self.tag, "family": self.family}
        return out | {key: word for key, word in words.items() if word}


class Rig(Struct, frozen=True, kw_only=True):
    """Everything from the wall to the work. `enclosed` says that everything above 50 V is behind a
    cover that opens its switch, `proved` that its discharge is seen before every touch; where
    nobody said so, it is not so.
    """

    title: str
    supply: Element
    piece: Model
    ahead: tuple[Element, ...] = ()
    behind: tuple[Element, ...] = ()
    load: Element
    enclosed: bool = False
    proved: bool = False

    @property
    def elements(self) -> tuple[Element, ...]:
        """All but supply and piece, from the wall on."""
        return (*self.ahead, *self.behind, self.load)

    @property
    def rectified(self) -> Element | None:
        """Its rectifier, where it has one."""
        return next((e for e in self.behind if e.kind.key == "rectifier"), None)

    def as_json(self) -> dict[str, Any]:
        """The open format."""
        return {
            "format": FORMAT,
            "title": self.title,
            "supply": self.supply.as_json(),
            "ahead": [e.as_json() for e in self.ahead],
            "piece": self.piece.as_json(),
            "behind": [e.as_json() for e in self.behind],
            "load": self.load.as_json(),
        } | {key: True for key in SAID if getattr(self, key)}


SAID = ("enclosed", "proved")
"""What may be said of a rig as a whole; unsaid, it is not so."""


def parse_rig(document: Any) -> Rig:
    """A rig from its open format. Raises FieldError that names the field."""
    if not isinstance(document, dict) or document.get("format", FORMAT) != FORMAT:
        raise FieldError("format", f"A rig says its format is “{FORMAT}”.")
    title = document.get("title", "")
    if not isinstance(title, str) or len(title) > MOST_WORDS:
        raise FieldError("title", f"A title is text of at most {MOST_WORDS} letters.")
    load = document.get("load", {"kind": "open"})
    rig = Rig(
        title=title.strip(),
        supply=_element(document.get("supply"), "supply", SUPPLY),
        ahead=_row(document, AHEAD),
        piece=_model(document.get("piece")),
        behind=_row(document, BEHIND),
        load=_element(load, "load", _kind(load, "load", LOAD)),
        **{key: _flag(document, key) for key in SAID},
    )
    _stands(rig)
    return rig


def _flag(document: Mapping[str, Any], key: str) -> bool:
    value = document.get(key, False)
    if not isinstance(value, bool):
        raise FieldError(key, f"“{key}” is true or false; {value!r:.40} was given.")
    return value


def _row(document: Mapping[str, Any], where: str) -> tuple[Element, ...]:
    found = document.get(where, [])
    if not isinstance(found, list) or len(found) > MOST_ELEMENTS:
        raise FieldError(where, f"“{where}” is a list of at most {MOST_ELEMENTS} elements.")
    out = []
    for n, given in enumerate(found):
        path = f"{where}.{n}"
        out.append(_element(given, path, _kind(given, path, where), usual=f"{where[0]}{n + 1}"))
    return tuple(out)


def _kind(document: Any, path: str, where: str) -> ElementKind:
    told = document.get("kind") if isinstance(document, dict) else None
    kind = KINDS.get(str(told))
    if kind is None or where not in kind.where:
        may = ", ".join(k.key for k in KINDS.values() if where in k.where)
        raise FieldError(f"{path}.kind", f"{told!r:.40} cannot stand {where}; known: {may}.")
    return kind


def _element(document: Any, path: str, kind: ElementKind, usual: str = "") -> Element:
    if not isinstance(document, dict):
        raise FieldError(path, "An element of a rig is an object with its figures.")
    figures = {}
    for figure in kind.figures:
        value = document.get(figure.key)
        if value is not None:
            figures[figure.key] = figure.check(path, value)
        elif figure.needed:
            name = f"{path}.{figure.key}"
            raise FieldError(name, f"A {kind.one} needs its {figure.label}; none was given.")
    title, uid = document.get("title", ""), document.get("id", usual or path)
    for key, words in (("title", title), ("id", uid)):
        if not isinstance(words, str) or len(words) > MOST_WORDS:
            raise FieldError(f"{path}.{key}", f"It is text of at most {MOST_WORDS} letters.")
    return Element(id=uid, kind=kind, figures=figures, title=title)


def _model(document: Any) -> Model:
    if not isinstance(document, dict):
        raise FieldError("piece", "A rig has a piece: an object with the figures of its model.")
    figures = {}
    for figure in MODEL:
        value = document.get(figure.key)
        if value is not None:
            figures[figure.key] = float(figure.check("piece", value))
        elif figure.needed:
            raise FieldError(
                f"piece.{figure.key}", f"A piece needs its {figure.label}; none was given."
            )
    bond = document.get("bond", BONDS[0])
    if bond not in BONDS:
        raise FieldError("piece.bond", f"A bond is one of {', '.join(BONDS)}.")
    if figures.get("core_watts", 0.0) > figures["idle_amps"] * figures["volts"]:
        raise FieldError("piece.core_watts", "Idle watts are more than idle volts times amps.")
    tag = document.get("tag", "")
    family = document.get("family", "")
    for key, word in (("tag", tag), ("family", family)):
        if not isinstance(word, str) or len(word) > MOST_WORDS:
            raise FieldError(f"piece.{key}", f"A {key} is a word.")
    if family and family not in FAMILIES:
        known = ", ".join(FAMILIES)
        raise FieldError("piece.family", f"piece.family is one of {known}; {family} was given.")
    return Model(figures=figures, bond=bond, tag=tag, family=family)


def _stands(rig: Rig) -> None:
    """Whether its order makes sense. Raises FieldError."""
    kinds = [e.kind.key for e in rig.behind]
    if kinds.count("rectifier") > 1:
        raise FieldError("behind", "One rectifier: a second has nothing to rectify.")
    first = kinds.index("rectifier") if "rectifier" in kinds else len(kinds)
    late = kinds[first + 1 :]
    if "capacitor" in late:
        raise FieldError("behind", "A capacitor in series behind the rectifier lets nothing pass.")
    if first < len(kinds) and "capacitor" in kinds[:first]:
        how = rig.behind[first].figures["rectifier"]
        if how != "bridge":
            said = f"A capacitor in series ahead of a {how} rectifier lets no direct current pass."
            raise FieldError("behind", said)
    early = {"reservoir", "bleeder"} & set(kinds[:first])
    if early:
        raise FieldError("behind", f"A {early.pop()} stands behind a rectifier, not ahead of one.")
    if rig.load.kind.key == "battery" and first == len(kinds):
        raise FieldError("load", "A battery is charged by a rectifier; there is none.")
    rectifier = rig.rectified
    if rectifier is not None:
        tapped = rectifier.figures["rectifier"] == "centre-tap"
        if tapped and rig.piece.bond != "middle":
            raise FieldError("behind", "A centre-tap rectifier needs the middle at the core.")
    ids = [e.id for e in rig.elements]
    if len(set(ids)) < len(ids):
        raise FieldError("ahead", "Two elements have the same id.")
