"""What stands in the stores: parts and instruments with the ratings that planners and steps draw
on. The open format is `greyfell.stores/1`.

A kind is one declaration: what it is called, and its figures with unit and bounds. Form, schema,
search, drawing and refusals follow from it. Ratings are what a label says or a person knows; none
is guessed.
"""

import json
import re
from collections.abc import Iterable, Mapping
from datetime import date
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field
from msgspec.structs import replace

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.notation import MEASURES, engineering, parse_quantity

if TYPE_CHECKING:
    from greyfell.core.evidence.record import Meter

FORMAT = "greyfell.stores/1"
MOST_ITEMS, MOST_COUNT, MOST_WORDS, MOST_NOTE = 5000, 100_000, 120, 1000
KNOWN_KEYS = ("id", "kind", "title", "count", "note", "donor", "gone")


class Figure(Struct, frozen=True, kw_only=True):
    """One rating of a kind: its key with the SI unit in its name, its words, unit and bounds; or
    words of their own where `choices` or `words` say so; or a day, where `dated` says so.
    """

    key: str
    label: str
    unit: str = ""
    most: float = 1e9
    needed: bool = False
    choices: tuple[str, ...] = ()
    words: bool = False
    dated: bool = False

    @property
    def is_text(self) -> bool:
        """Whether it is told in words."""
        return self.words or self.dated or bool(self.choices)

    def check(self, value: Any) -> Any:
        """The value, inside its bounds. Raises FieldError that names the key."""
        if self.is_text:
            return self._word(value)
        return within(self.key, value, above=0, at_most=self.most)

    def _word(self, value: Any) -> str:
        if not isinstance(value, str) or not value.strip() or len(value) > MOST_WORDS:
            raise FieldError(
                self.key, f"{self.label} is told in a few words, at most {MOST_WORDS} letters."
            )
        if self.choices and value not in self.choices:
            raise FieldError(
                self.key,
                f"{self.label} is one of {', '.join(self.choices)}; “{value[:40]}” is not.",
            )
        return self._day(value.strip()) if self.dated else value.strip()

    def _day(self, value: str) -> str:
        """A day as it is kept. Raises FieldError that names the key."""
        try:
            return date.fromisoformat(value).isoformat()
        except ValueError:
            raise FieldError(
                self.key, f"{self.label} is a day, as 2026-05-01; “{value[:40]}” is none."
            ) from None

    def read(self, text: str) -> Any:
        """The value as a form gives it. Raises FieldError that names the key."""
        if self.is_text:
            return self.check(text)
        return self.check(parse_quantity(text, MEASURES[self.unit], field=self.key))

    def shown(self, value: Any) -> str:
        """The value in words."""
        if self.is_text:
            return str(value)
        if self.unit in ("mm", "mm²", "m", "°C", "%", ""):
            return f"{value:g} {self.unit}".strip()
        return engineering(float(value), self.unit)


class StoreKind(Struct, frozen=True, kw_only=True):
    """One kind of thing in the stores: its key, what one and many are called, the group it stands
    in, what it is drawn like, its figures in order; `lead` is the figure that a short list shows.
    """

    key: str
    one: str
    many: str
    group: str
    figures: tuple[Figure, ...]
    lead: str

    def figure(self, key: str) -> Figure | None:
        """The figure of a key, or None."""
        return next((f for f in self.figures if f.key == key), None)


class Item(Struct, frozen=True):
    """One entry of the stores: its id, kind, title, how many, its figures, a note, where it came
    from, and why it is gone where it is; `more` are keys that were not known.
    """

    id: str
    kind: StoreKind
    title: str
    count: int
    figures: Mapping[str, Any]
    note: str = ""
    donor: str = ""
    gone: str = ""
    more: Mapping[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """The public form; unknown keys are written back."""
        out: dict[str, Any] = {
            "id": self.id,
            "kind": self.kind.key,
            "title": self.title,
            "count": self.count,
        }
        words = {"note": self.note, "donor": self.donor, "gone": self.gone}
        out |= {k: v for k, v in words.items() if v}
        return {**self.more, **out, **self.figures}

    @property
    def told(self) -> list[tuple[str, str]]:
        """Its figures in words: what, and how much."""
        known = ((f, self.figures.get(f.key)) for f in self.kind.figures)
        return [(f.label, f.shown(v)) for f, v in known if v is not None]

    @property
    def lead(self) -> str:
        """The figure that a short list shows; its title where that is not known."""
        found = self.kind.figure(self.kind.lead)
        value = self.figures.get(self.kind.lead)
        return self.title if found is None or value is None else found.shown(value)

    @property
    def searched(self) -> str:
        """Everything that typing may find it by."""
        figures = " ".join(words for _, words in self.told)
        names = f"{self.kind.one} {self.kind.many} {self.kind.group}"
        return f"{self.title} {names} {figures} {self.note} {self.donor}".casefold()


def _f(key: str, label: str, unit: str = "", **more: Any) -> Figure:
    return Figure(key=key, label=label, unit=unit, **more)


VOLTS_AC, VOLTS_DC = _f("volts_ac", "AC volts", "V"), _f("volts_dc", "DC volts", "V")
AMPS, AMPS_NEEDED = _f("amps", "amps", "A"), _f("amps", "amps", "A", needed=True)
VOLTS, WATTS = _f("volts", "volts", "V"), _f("watts", "watts", "W")
OHMS = _f("ohms", "ohms", "Ω")
PROVED = _f("proved", "last proved on a known source", dated=True)
"""A meter that lives are judged by: against a known source, its figure right and not only there."""
PARTS, LIMIT, WIRE, METERS, SOURCES, SWITCHING, STUFF = (
    "parts",
    "limiting",
    "conductors",
    "meters",
    "sources",
    "switching and protection",
    "insulation and joints",
)
GROUPS = (PARTS, LIMIT, WIRE, METERS, SOURCES, SWITCHING, STUFF)
"""Groups in the order they are listed."""

KINDS = (
    StoreKind(
        key="capacitor",
        one="capacitor",
        many="capacitors",
        group=PARTS,
        lead="farads",
        figures=(
            _f("farads", "capacitance", "F", most=10.0, needed=True),
            VOLTS_AC,
            VOLTS_DC,
            _f("tolerance_percent", "tolerance", "%", most=100.0),
            _f("bleeder_ohms", "bleeder", "Ω", most=1e12),
        ),
    ),
    StoreKind(
        key="diode",
        one="diode",
        many="diodes",
        group=PARTS,
        lead="inverse_volts",
        figures=(
            _f("inverse_volts", "inverse volts", "V", needed=True),
            AMPS,
            _f("drop_volts", "drop", "V"),
        ),
    ),
    StoreKind(
        key="fuse",
        one="fuse",
        many="fuses",
        group=SWITCHING,
        lead="amps",
        figures=(AMPS_NEEDED, VOLTS, _f("speed", "speed", choices=("fast", "medium", "slow"))),
    ),
    StoreKind(
        key="cut-out",
        one="thermal cut-out",
        many="thermal cut-outs",
        group=SWITCHING,
        lead="celsius",
        figures=(_f("celsius", "opens at", "°C", most=500.0, needed=True), AMPS, VOLTS),
    ),
    StoreKind(
        key="lamp",
        one="filament lamp",
        many="lamps",
        group=LIMIT,
        lead="watts",
        figures=(_f("watts", "watts", "W", most=1e4, needed=True), VOLTS),
    ),
    StoreKind(
        key="ballast",
        one="ballast",
        many="ballasts",
        group=LIMIT,
        lead="short_amps",
        figures=(
            _f("short_amps", "amps shorted", "A", most=1e3, needed=True),
            _f("at_volts", "at volts", "V", needed=True),
            _f("at_hertz", "at hertz", "Hz", needed=True),
            OHMS,
            _f("rated_amps", "rated amps", "A"),
        ),
    ),
    StoreKind(
        key="resistor",
        one="resistor",
        many="resistors",
        group=LIMIT,
        lead="ohms",
        figures=(
            _f("ohms", "ohms", "Ω", most=1e12, needed=True),
            _f("working_volts", "working volts", "V"),
            WATTS,
            _f("tolerance_percent", "tolerance", "%", most=50.0),
        ),
    ),
    StoreKind(
        key="heater",
        one="heating element",
        many="heating elements",
        group=LIMIT,
        lead="watts",
        figures=(_f("watts", "watts", "W", needed=True), VOLTS),
    ),
    StoreKind(
        key="wire",
        one="wire or cable",
        many="wires and cables",
        group=WIRE,
        lead="mm2",
        figures=(
            _f("mm2", "section", "mm²", most=2000.0, needed=True),
            _f("overall_mm", "overall", "mm", most=200.0),
            _f("material", "metal", choices=("copper", "aluminium", "resistance wire")),
            _f("metres", "length", "m", most=1e5),
            _f("celsius", "bears", "°C", most=500.0),
        ),
    ),
    StoreKind(
        key="strands",
        one="strand bundle",
        many="strand bundles",
        group=WIRE,
        lead="strands",
        figures=(
            _f("strands", "strands", needed=True, most=1e5),
            _f("strand_mm", "of each", "mm", most=10.0),
            _f("overall_mm", "overall", "mm", most=200.0),
            _f("metres", "length", "m", most=1e5),
        ),
    ),
    StoreKind(
        key="variac",
        one="variac",
        many="variacs",
        group=SOURCES,
        lead="brush_amps",
        figures=(
            _f("brush_amps", "brush amps", "A", most=500.0, needed=True),
            _f("line_volts", "line volts", "V", most=1000.0),
            _f("line_hertz", "line hertz", "Hz", most=1000.0),
        ),
    ),
    StoreKind(
        key="source",
        one="isolated source",
        many="isolated sources",
        group=SOURCES,
        lead="volts",
        figures=(
            _f("volts", "volts", "V", needed=True),
            AMPS,
            _f("current", "kind", choices=("AC", "DC")),
        ),
    ),
    StoreKind(
        key="bench-supply",
        one="bench supply",
        many="bench supplies",
        group=SOURCES,
        lead="volts",
        figures=(_f("volts", "up to volts", "V", needed=True), AMPS_NEEDED),
    ),
    StoreKind(
        key="meter",
        one="meter",
        many="meters",
        group=METERS,
        lead="max_volts_ac",
        figures=(
            _f("category", "category", choices=("CAT I", "CAT II", "CAT III", "CAT IV")),
            _f("max_volts_ac", "most AC volts", "V", most=1e6),
            _f("input_ohms", "input", "Ω", most=1e12),
            _f("low_z_ohms", "low impedance", "Ω", most=1e9),
            _f("most_ohms", "highest range", "Ω", most=1e12),
            _f("least_ohms", "tells ohms from", "Ω", most=1e3),
            _f("probe_ohms", "probes shorted", "Ω", most=100.0),
            _f("averaging", "AC reads", choices=("true RMS", "averaging")),
            PROVED,
        ),
    ),
    StoreKind(
        key="clamp",
        one="clamp meter",
        many="clamp meters",
        group=METERS,
        lead="most_amps",
        figures=(
            _f("most_amps", "up to", "A", most=1e5, needed=True),
            _f("least_amps", "tells from", "A", most=1e3),
            PROVED,
        ),
    ),
    StoreKind(
        key="wattmeter",
        one="wattmeter",
        many="wattmeters",
        group=METERS,
        lead="most_watts",
        figures=(_f("most_watts", "up to", "W", most=1e6, needed=True), AMPS, VOLTS),
    ),
    StoreKind(
        key="inductance-meter",
        one="inductance meter",
        many="inductance meters",
        group=METERS,
        lead="hertz",
        figures=(
            _f("hertz", "lowest frequency", "Hz", most=1e7, needed=True),
            _f("least_henries", "tells from", "H", most=1e3),
            _f("most_henries", "up to", "H", most=1e6),
        ),
    ),
    StoreKind(
        key="insulation-tester",
        one="insulation tester",
        many="insulation testers",
        group=METERS,
        lead="test_volts",
        figures=(
            _f("test_volts", "test volts", "V", most=1e5, needed=True),
            _f("most_ohms", "up to", "Ω", most=1e15),
            PROVED,
        ),
    ),
    StoreKind(
        key="oscilloscope",
        one="oscilloscope",
        many="oscilloscopes",
        group=METERS,
        lead="max_volts",
        figures=(
            _f("max_volts", "input bears", "V", needed=True),
            _f("hertz", "up to", "Hz", most=1e12),
            _f("earthed", "its earth", choices=("earthed", "floating")),
        ),
    ),
    StoreKind(
        key="probe",
        one="probe",
        many="probes",
        group=METERS,
        lead="max_volts",
        figures=(_f("max_volts", "bears", "V", needed=True), _f("ratio", "divides by", most=1e5)),
    ),
    StoreKind(
        key="divider",
        one="divider",
        many="dividers",
        group=METERS,
        lead="max_volts",
        figures=(_f("max_volts", "bears", "V", needed=True), OHMS, _f("ratio", "divides by")),
    ),
    StoreKind(
        key="shunt",
        one="shunt",
        many="shunts",
        group=METERS,
        lead="amps",
        figures=(AMPS_NEEDED, _f("ohms", "ohms", "Ω", most=10.0)),
    ),
    StoreKind(
        key="panel-meter",
        one="panel meter",
        many="panel meters",
        group=METERS,
        lead="full_scale",
        figures=(
            _f("full_scale", "full scale", words=True, needed=True),
            _f("full_scale_amps", "its own amps", "A"),
            OHMS,
        ),
    ),
    StoreKind(
        key="thermometer",
        one="thermometer",
        many="thermometers",
        group=METERS,
        lead="celsius",
        figures=(_f("celsius", "up to", "°C", most=3000.0, needed=True),),
    ),
    StoreKind(
        key="residual-current-device",
        one="residual-current device",
        many="residual-current devices",
        group=SWITCHING,
        lead="trip_amps",
        figures=(
            _f("trip_amps", "trips at", "A", most=1.0, needed=True),
            AMPS,
            _f("type", "type", choices=("AC", "A", "F", "B")),
        ),
    ),
    StoreKind(
        key="breaker",
        one="breaker",
        many="breakers",
        group=SWITCHING,
        lead="amps",
        figures=(AMPS_NEEDED, _f("curve", "curve", choices=("B", "C", "D", "K", "Z"))),
    ),
    StoreKind(
        key="switch",
        one="switch",
        many="switches",
        group=SWITCHING,
        lead="amps",
        figures=(
            AMPS_NEEDED,
            VOLTS,
            _f("poles", "poles", most=12.0),
            _f("throws", "throws", most=24.0),
            _f("motor_amps", "motor amps", "A"),
        ),
    ),
    StoreKind(
        key="relay",
        one="relay or contactor",
        many="relays and contactors",
        group=SWITCHING,
        lead="amps",
        figures=(AMPS_NEEDED, _f("coil_volts", "coil", "V"), _f("poles", "poles", most=12.0)),
    ),
    StoreKind(
        key="timer",
        one="timer",
        many="timers",
        group=SWITCHING,
        lead="seconds",
        figures=(_f("seconds", "up to", "s", needed=True), AMPS),
    ),
    StoreKind(
        key="socket",
        one="socket",
        many="sockets",
        group=SWITCHING,
        lead="amps",
        figures=(AMPS_NEEDED, VOLTS),
    ),
    StoreKind(
        key="lug",
        one="lug",
        many="lugs",
        group=STUFF,
        lead="mm2",
        figures=(_f("mm2", "for", "mm²", most=2000.0, needed=True), _f("hole_mm", "hole", "mm")),
    ),
    StoreKind(
        key="tip",
        one="electrode tip",
        many="electrode tips",
        group=STUFF,
        lead="mm",
        figures=(
            _f("mm", "tip", "mm", most=100.0, needed=True),
            _f("material", "metal", words=True),
        ),
    ),
    StoreKind(
        key="sheet",
        one="insulating sheet or tape",
        many="insulating sheets and tapes",
        group=STUFF,
        lead="volts",
        figures=(
            _f("volts", "bears", "V", most=1e6),
            _f("celsius", "up to", "°C", most=2000.0),
            _f("mm", "thick", "mm", most=100.0, needed=True),
        ),
    ),
    StoreKind(
        key="other",
        one="other part",
        many="other parts",
        group=PARTS,
        lead="what",
        figures=(_f("what", "what it is", words=True, needed=True), VOLTS, AMPS, WATTS),
    ),
)
"""Every kind of thing the stores hold."""
BY_KEY: dict[str, StoreKind] = {kind.key: kind for kind in KINDS}


def _figures(kind: StoreKind, document: dict[str, Any]) -> dict[str, Any]:
    figures = {}
    for figure in kind.figures:
        value = document.get(figure.key)
        if value is not None:
            figures[figure.key] = figure.check(value)
        elif figure.needed:
            raise FieldError(figure.key, f"A {kind.one} needs its {figure.label}; none was given.")
    return figures


def parse_item(document: Any, path: str = "item") -> Item:
    """One entry, checked. Raises FieldError that names the key.

    >>> parse_item({"id": "S1", "kind": "lamp", "title": "clear", "watts": 40}).lead
    '40.0 W'
    """
    if not isinstance(document, dict):
        raise FieldError(path, "An entry of the stores is an object with its kind and figures.")
    kind = BY_KEY.get(str(document.get("kind", ""))[:60])
    if kind is None:
        said = str(document.get("kind", ""))[:40]
        raise FieldError("kind", f"“{said}” is no kind of the stores; {len(KINDS)} are known.")
    known = {*KNOWN_KEYS, *(f.key for f in kind.figures)}
    item = Item(
        id=_id(document),
        kind=kind,
        title=_words(document, "title", MOST_WORDS) or kind.one,
        count=_count(document.get("count", 1)),
        figures=_figures(kind, document),
        note=_words(document, "note", MOST_NOTE),
        donor=_words(document, "donor", MOST_WORDS),
        gone=_words(document, "gone", MOST_WORDS),
        more={k: v for k, v in document.items() if k not in known},
    )
    if kind.key == "meter":
        _fits_a_record(item)
    return item


ID = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]{0,39}")


def _id(document: Mapping[str, Any]) -> str:
    """An entry's id; empty where it has none yet."""
    given = _words(document, "id", 40)
    if given and ID.fullmatch(given) is None:
        raise FieldError("id", "An id holds letters, digits, “.”, “_” and “-”, at most 40 of them.")
    return given


def _fits_a_record(item: Item) -> None:
    """Whether a meter can join a record with its ratings. Raises FieldError where one cannot."""
    from pydantic import ValidationError

    try:
        as_meter(replace(item, id=item.id or "new"))
    except ValidationError as error:
        key = str(error.errors()[0]["loc"][0])
        raise FieldError(key, "No meter has such a rating; look at its unit.") from None


def _words(document: Mapping[str, Any], key: str, most: int) -> str:
    value = document.get(key)
    if value is None:
        return ""
    if not isinstance(value, str) or len(value) > most:
        raise FieldError(key, f"{key.capitalize()} is text of at most {most} letters.")
    return value.strip()


def _count(value: Any) -> int:
    whole = isinstance(value, int) and not isinstance(value, bool)
    if not whole or not 0 <= value <= MOST_COUNT:
        raise FieldError("count", f"Count is a whole number from 0 to {MOST_COUNT}.")
    return int(value)


def parse_stores(document: Any) -> list[Item]:
    """Every entry of a `greyfell.stores/1` document. Raises FieldError; all or nothing."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise FieldError("format", f"A stores document says its format is “{FORMAT}”.")
    items = document.get("items")
    if not isinstance(items, list) or len(items) > MOST_ITEMS:
        raise FieldError("items", f"Items is a list of at most {MOST_ITEMS} entries.")
    out = []
    for n, item in enumerate(items):
        try:
            out.append(parse_item(item, f"items.{n}"))
        except FieldError as error:
            raise FieldError(f"items.{n}.{error.field}", f"Entry {n + 1}: {error}") from None
    return out


def stores_document(items: Iterable[Item]) -> dict[str, Any]:
    """The stores in their open format."""
    return {"format": FORMAT, "items": [item.as_json() for item in items]}


def as_meter(item: Item) -> "Meter":
    """A meter of the stores as a record keeps it, with its ratings."""
    from greyfell.core.evidence.record import Meter

    given = {k: item.figures.get(k) for k in ("category", *METER_FIGURES)}
    return Meter(id=item.id, title=item.title, **{k: v for k, v in given.items() if v is not None})


METER_FIGURES = ("max_volts_ac", "input_ohms", "low_z_ohms", "averaging")


def short_list(items: Iterable[Item], kind: str) -> str:
    """What the stores hold of a kind, in a few words: “lamps: 40, 60, 100 W”; empty where none.

    >>> items = [parse_item({"id": str(w), "kind": "lamp", "watts": w}) for w in (100, 40, 60)]
    >>> short_list(items, "lamp")
    'lamps: 40, 60, 100 W'
    """
    found = [i for i in items if i.kind.key == kind and i.count and not i.gone]
    if not found:
        return ""
    of = found[0].kind
    figure = of.figure(of.lead)
    values = {i.figures.get(of.lead) for i in found}
    if figure is None or figure.is_text or None in values:
        return f"{of.many}: {', '.join(sorted({i.lead for i in found}))}"
    told = [_plain(figure.shown(v)) for v in sorted(v for v in values if v is not None)]
    units = {t.partition(" ")[2] for t in told}
    if len(units) == 1:
        told = [t.partition(" ")[0] for t in told]
        return f"{of.many}: {', '.join(told)} {units.pop()}".strip()
    return f"{of.many}: {', '.join(told)}"


def _plain(words: str) -> str:
    """A figure without the noughts behind its point."""
    number, _, unit = words.partition(" ")
    short = number.rstrip("0").rstrip(".") if "." in number else number
    return f"{short} {unit}".strip()


def as_text(items: Iterable[Item]) -> str:
    """The stores as the text of a file."""
    return json.dumps(stores_document(items), ensure_ascii=False, indent=1)
