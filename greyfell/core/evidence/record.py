"""The typed contents of one transformer's record, `greyfell.transformer/1`; docs/format has its
JSON Schema.

A record is evidence: what was seen, what was read, what was done, what somebody vouches for.
Nothing here concludes.
"""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator, model_validator

FORMAT = "greyfell.transformer/1"


MOST_BYTES = 4 * 1024 * 1024
"""A record larger than this is refused; ten thousand readings take about two megabytes."""


MOST_LEADS, MOST_READINGS, MOST_RATIOS = 64, 3000, 500
"""So many a record may hold: all pairs of the leads and the core, and more; `ratios` are readings
that weigh one winding's turns against another's."""
RATIO_KINDS = (
    "ratio",
    "test_turn",
    "turns",
    "inductance",
    "load",
    "short_circuit",
    "direct",
    "loop",
)
MOST_EDITS, MOST_SAID, MOST_FEW = 1000, 1000, 64
"""So many corrections a record may hold; changes, statements, parts, photos, meters; and entries of
any other list."""


def _stamp(text: str) -> str:
    """A time as it was written, once it has been seen to be one with a zone."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise ValueError(
            "a time is written 2026-05-02T10:12:00+01:00 (ISO 8601 datetime)"
        ) from None
    if found.tzinfo is None:
        raise ValueError("a time needs its zone, such as 2026-05-02T10:12:00+01:00")
    return text


Stamp = Annotated[str, Field(max_length=40), AfterValidator(_stamp)]


def _told(number: float) -> float:
    """A figure that a meter can tell from nought, or nought itself."""
    if 0 < abs(number) < LEAST_FIGURE:
        raise ValueError("nearer to nought than any meter tells; write 0")
    return number


LEAST_FIGURE = 1e-15
"""No figure of a record is nearer to nought."""
MOST_FIGURE = 1e15
"""No figure of a record is larger, of whatever unit."""
Number = Annotated[
    float,
    Field(strict=True, allow_inf_nan=False, ge=-MOST_FIGURE, le=MOST_FIGURE),
    AfterValidator(_told),
]


def _figure(most: float, least: float = LEAST_FIGURE) -> Any:
    """A figure above nought, between generous physical bounds."""
    return Field(strict=True, allow_inf_nan=False, ge=least, le=most)


def _amount(most: float) -> Any:
    """A figure that may be nought, up to a generous physical bound."""
    return Field(strict=True, allow_inf_nan=False, ge=0, le=most)


TOLD = AfterValidator(_told)
# What no bench meets, each far beyond what it does meet: a record that says so has a slip in it.
Volts = Annotated[float, _figure(1e7, 1e-9)]
NoVolts = Annotated[float, _amount(1e7), TOLD]
Amps = Annotated[float, _figure(1e6, 1e-12)]
NoAmps = Annotated[float, _amount(1e6), TOLD]
Watts = Annotated[float, _amount(1e9), TOLD]
VoltAmperes = Annotated[float, _figure(1e9, 1e-6)]
Ohms = Annotated[float, _figure(1e15, 1e-9)]
NoOhms = Annotated[float, _amount(1e15), TOLD]
Henries = Annotated[float, _figure(1e6, 1e-12)]
Hertz = Annotated[float, _figure(1e9, 1e-3)]
Quality = Annotated[float, _amount(1e6), TOLD]
Counted = Annotated[float, _figure(1e7, 1e-2)]
Millimetres = Annotated[float, _figure(1e5, 1e-4)]
NoMillimetres = Annotated[float, _amount(1e5), TOLD]
Kilograms = Annotated[float, _figure(1e6, 1e-6)]
Percent = Annotated[float, _amount(1e4), TOLD]
AnyAmount = Annotated[float, _amount(MOST_FIGURE), TOLD]
"""A figure in the unit of the reading it belongs to."""


Text = Annotated[str, Field(max_length=4000)]


Short = Annotated[str, Field(max_length=200)]


Id = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]*$")]


LeadId = Annotated[str, Field(min_length=1, max_length=8, pattern=r"^[A-Za-z0-9]+$")]


Tag = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[A-Za-z0-9-]+$")]


Pair = Annotated[tuple[str, str], Field(description="two leads, or a lead and core or earth")]


Family = Literal["microwave", "sign", "mains", "choke", "variable", "other"]


FAMILIES: tuple[Family, ...] = ("microwave", "mains", "sign", "choke", "variable", "other")


class Part(BaseModel):
    """Everything in a record is frozen and keeps the keys it does not know."""

    model_config = ConfigDict(extra="allow", frozen=True, defer_build=True)


class Supply(Part):
    """The mains this piece would be fed from: volts RMS, hertz, and the breaker ahead of it."""

    volts: Volts = 230.0
    hertz: Hertz = 50.0
    breaker_amps: Amps | None = None
    breaker_curve: Short | None = None


class Output(Part):
    volts: Volts | None = None
    amps: Amps | None = None


class Nameplate(Part):
    """What the plate says; a plate may be on the wrong piece."""

    primary_volts: Volts | None = None
    hertz: Hertz | None = None
    secondary_volts: Volts | None = None
    secondary_amps: Amps | None = None
    va: VoltAmperes | None = None
    outputs: Annotated[list[Output], Field(max_length=MOST_FEW)] = []
    midpoint_earthed: bool | None = None
    text: Text = ""


class Core(Part):
    """The iron as it can be seen; millimetres and kilograms."""

    shape: Literal["shell", "core", "toroid", "c-core"] | None = None
    tongue_mm: Millimetres | None = None
    stack_mm: Millimetres | None = None
    window_width_mm: Millimetres | None = None
    window_height_mm: Millimetres | None = None
    outer_mm: Millimetres | None = None
    inner_mm: Millimetres | None = None
    height_mm: Millimetres | None = None
    mass_kg: Kilograms | None = None
    shunts: Literal["present", "absent", "removed", "unknown"] | None = None
    assembly: Literal["welded", "interleaved", "banded", "potted"] | None = None
    potted: bool | None = None
    slide_mm: NoMillimetres | None = None
    damage: Short | None = None


class Lead(Part):
    """One lead: its letter, and what can be seen of it. `wire_mm` is the bare conductor's
    diameter; `went` is where it went before it was cut, `fed` what it fed.
    """

    id: LeadId
    colour: Short | None = None
    stripe: Short | None = None
    sleeve: Short | None = None
    wire_mm: Millimetres | None = None
    end: Short | None = None
    place: Short | None = None
    twisted_with: LeadId | None = None
    thicker_than: LeadId | None = None
    material: Literal["copper", "aluminium"] | None = None
    went: Short | None = None
    fed: Short | None = None
    damage: Short | None = None
    note: Text = ""


class Meter(Part):
    id: Id
    title: Short = ""
    category: Short | None = None
    max_volts_ac: Volts | None = None
    input_ohms: Ohms | None = None
    low_z_ohms: Ohms | None = None
    averaging: Literal["true RMS", "averaging"] | None = None


class FieldAccuracy(Part):
    percent: Percent = 0.0
    digits: AnyAmount = 0.0


class Struck(Part):
    reason: Short
    by: Short = ""
    at: Stamp | None = None


class Base(Part):
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
    links: Annotated[list[Pair], Field(max_length=MOST_FEW)] = []
    typed: Annotated[dict[str, Short], Field(max_length=MOST_FEW)] | None = None

    @field_validator("struck", mode="before")
    @classmethod
    def _struck_by_text(cls, value: Any) -> Any:
        return {"reason": value} if isinstance(value, str) else value


class Resistance(Base):
    kind: Literal["resistance"] = "resistance"
    between: Pair
    ohms: NoOhms | Literal["open"]
    range_ohms: Ohms | None = None
    probe_ohms: NoOhms | None = None


class CoreProof(Base):
    kind: Literal["core_proof"] = "core_proof"
    ohms: NoOhms


class DcDrop(Base):
    kind: Literal["dc_drop"] = "dc_drop"
    across: Pair
    volts: NoVolts
    amps: Amps


class Insulation(Base):
    kind: Literal["insulation"] = "insulation"
    between: Pair
    ohms: NoOhms | Literal["open"]
    test_volts: Volts
    range_ohms: Ohms | None = None


class Inductance(Base):
    kind: Literal["inductance"] = "inductance"
    across: Pair
    henries: Henries
    hertz: Hertz | None = None
    q: Quality | None = None
    shorted: Annotated[list[Pair], Field(max_length=MOST_FEW)] = []


class Lamp(Base):
    kind: Literal["lamp"] = "lamp"
    across: Pair
    supply_volts: Volts
    lamp_watts: VoltAmperes
    lamp_volts: NoVolts | None = None
    winding_volts: NoVolts | None = None
    glow: Literal["dark", "dim", "bright"]


class Ratio(Base):
    kind: Literal["ratio"] = "ratio"
    driven: Pair
    driven_volts: Volts
    sensed: Pair
    sensed_volts: NoVolts
    hertz: Hertz | None = None


class Polarity(Base):
    kind: Literal["polarity"] = "polarity"
    driven: Pair
    driven_volts: Volts
    joined: Pair
    across: Pair
    across_volts: NoVolts


class NoLoad(Base):
    kind: Literal["no_load"] = "no_load"
    driven: Pair
    volts: Volts
    amps: NoAmps | None = None
    watts: Watts | None = None
    hertz: Hertz | None = None

    @model_validator(mode="after")
    def _something_flows(self) -> "NoLoad":
        if self.amps is None and self.watts is None:
            raise ValueError("no load needs amps or watts")
        return self


class ShortCircuit(Base):
    kind: Literal["short_circuit"] = "short_circuit"
    driven: Pair
    shorted: Annotated[list[Pair], Field(max_length=MOST_FEW)]
    volts: Volts
    amps: Amps
    watts: Watts | None = None
    shorted_amps: NoAmps | None = None
    hertz: Hertz | None = None


class Load(Base):
    kind: Literal["load"] = "load"
    driven: Pair
    driven_volts: Volts
    driven_amps: NoAmps | None = None
    driven_watts: Watts | None = None
    loaded: Pair
    load_volts: NoVolts
    load_amps: NoAmps | None = None
    load_ohms: Ohms | None = None


class TestTurn(Base):
    __test__ = False  # a reading, not a test of ours
    kind: Literal["test_turn"] = "test_turn"
    driven: Pair
    driven_volts: Volts
    turns: Counted
    turn_volts: Volts


class Turns(Base):
    kind: Literal["turns"] = "turns"
    across: Pair
    turns: Counted


class LeakageCurrent(Base):
    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["leakage_current"] = "leakage_current"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    amps: NoAmps
    driven: Pair
    driven_volts: Volts


class EarthVoltage(Base):
    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["earth_voltage"] = "earth_voltage"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    volts: NoVolts
    meter_ohms: Ohms | None = None
    driven: Pair | None = None
    driven_volts: Volts | None = None


class Soak(Base):
    """A winding's ohms before and after minutes on the line, at no load; `cold_celsius` is of the
    air when it was cold.
    """

    kind: Literal["soak"] = "soak"
    across: Pair
    cold_ohms: Ohms
    hot_ohms: Ohms
    minutes: Annotated[float, _figure(1e5, 1e-2)]
    driven: Pair | None = None
    volts: Volts | None = None
    watts: Watts | None = None
    cold_celsius: Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-40, le=80)] = 20.0
    settled: bool | None = None


class Direct(Base):
    """Direct volts behind a rectifier with its reservoir on a winding's ends; `direct_amps` where
    something was joined to it.
    """

    kind: Literal["direct"] = "direct"
    driven: Pair
    driven_volts: Volts
    rectified: Pair
    rectifier: Literal["bridge", "half-wave", "centre-tap", "doubler"]
    direct_volts: Volts
    direct_amps: NoAmps | None = None


class Loop(Base):
    """Amps round the loop of an output by themselves: a weld in place, a rod, a clamp around it."""

    kind: Literal["loop"] = "loop"
    driven: Pair
    driven_volts: Volts
    driven_amps: NoAmps | None = None
    loaded: Pair
    loop_amps: Amps


class Path(Base):
    """Volts over one part of a path, a lug or a cable, at the amps through it."""

    kind: Literal["path"] = "path"
    part: Short
    volts: NoVolts
    amps: Amps


Reading = Annotated[
    Resistance
    | CoreProof
    | DcDrop
    | Insulation
    | Inductance
    | Lamp
    | Ratio
    | Polarity
    | NoLoad
    | ShortCircuit
    | Load
    | TestTurn
    | Turns
    | LeakageCurrent
    | EarthVoltage
    | Soak
    | Direct
    | Loop
    | Path,
    Field(discriminator="kind"),
]


KINDS = {
    k.model_fields["kind"].default: k
    for k in (
        Resistance,
        CoreProof,
        DcDrop,
        Insulation,
        Inductance,
        Lamp,
        Ratio,
        Polarity,
        NoLoad,
        ShortCircuit,
        Load,
        TestTurn,
        Turns,
        LeakageCurrent,
        EarthVoltage,
        Soak,
        Direct,
        Loop,
        Path,
    )
}


class Change(Part):
    """Work on the iron; `leads` are those of the winding it was done to."""

    id: Id = ""
    what: Short
    at: Stamp | None = None
    leads: Annotated[list[LeadId], Field(max_length=MOST_LEADS)] | None = None
    note: Text = ""


class Statement(Part):
    """What a person vouches for; `volts` are those read last at a capacitor, DC."""

    id: Id = ""
    kind: Short
    concerns: Short = ""
    text: Text = ""
    volts: NoVolts | None = None
    by: Short = ""
    at: Stamp | None = None


PRACTISED = "Practice piece"
"""How the title of a piece for practice begins: it is no iron on a shelf."""
RETIRED, BROUGHT_BACK = "retired", "brought-back"
"""Kinds of statements: a piece is put away, and is on the shelf again."""


class Donor(Part):
    """What a piece came out of, as it stood there; one donor gives several pieces and parts."""

    id: Short = ""
    kind: Short
    title: Short = ""
    source: Short = ""
    price: Short = ""
    mass_kg: Kilograms | None = None
    date: Short = ""
    volts: Volts | None = None
    hertz: Hertz | None = None
    line_fuse_amps: Amps | None = None
    high_fuse_amps: Amps | None = None
    high_fuse_volts: Volts | None = None
    inverter: bool | None = None
    note: Text = ""


class SparePart(Part):
    what: Short
    text: Text = ""
    stores_id: Short | None = None


Share = Annotated[float, Field(strict=True, ge=0, le=1)]


class Mark(Part):
    """A lead on a photo: shares of its width and height from the left and from above. `end` is
    which side of the cut: the piece's, or what it fed.
    """

    lead: Short
    x: Share
    y: Share
    end: Literal["piece", "far"] = "piece"


class Photo(Part):
    """A photo by the name of its file; marks, and what it shows."""

    file: Short
    marks: Annotated[list[Mark], Field(max_length=MOST_FEW)] = []
    note: Text = ""
    at: Stamp | None = None


class Transformer(Part):
    """One transformer: its evidence. Built by `parse_record`, which also checks that every
    reading's leads exist.
    """

    format: Literal["greyfell.transformer/1"]
    id: Short | None = None
    tag: Tag
    title: Short = ""
    declared_family: Family | None = None
    supply: Supply = Supply()
    nameplate: Nameplate | None = None
    core: Core | None = None
    leads: list[Lead] = Field(max_length=MOST_LEADS)
    meters: list[Meter] = Field(default=[], max_length=MOST_SAID)
    readings: list[Reading] = Field(default=[], max_length=MOST_READINGS)
    changes: list[Change] = Field(default=[], max_length=MOST_SAID)
    statements: list[Statement] = Field(default=[], max_length=MOST_SAID)
    parts: list[SparePart] = Field(default=[], max_length=MOST_SAID)
    photos: list[Photo] = Field(default=[], max_length=MOST_SAID)
    edits: list[dict[str, Any]] = Field(default=[], max_length=MOST_EDITS)
    donor: Donor | None = None
    marking: Literal["own", "H/X", "1U/2U"] | None = None
    setup: dict[str, Any] | None = Field(
        default=None, max_length=MOST_FEW, description="the bench it is fed from, greyfell.setup/1"
    )

    @property
    def standing(self) -> list[Any]:
        """The readings that count: those not struck out, and measured, not only claimed."""
        return [r for r in self.readings if r.struck is None and not r.claimed]

    @property
    def put_away(self) -> Statement | None:
        """What was said when the piece was put away; None where it is on the shelf."""
        said = [s for s in self.statements if s.kind in (RETIRED, BROUGHT_BACK)]
        return said[-1] if said and said[-1].kind == RETIRED else None

    @property
    def supply_stated(self) -> bool:
        """Whether the record says what it would be fed from."""
        return "volts" in self.supply.model_fields_set

    def as_json(self) -> dict[str, Any]:
        """The record as a JSON document; keys it did not know are written back."""
        return self.model_dump(mode="json", by_alias=True, exclude_unset=True)


def ends_of(reading: Any) -> list[tuple[str, tuple[str, str]]]:
    """Every pair of points a reading names, with the field that names it."""
    pairs = [
        (name, field_of(reading, name))
        for name in ("between", "across", "driven", "sensed", "joined", "loaded")
    ]
    shorted = [("shorted", p) for p in field_of(reading, "shorted") or ()]
    return [(name, pair) for name, pair in pairs if pair is not None] + shorted


def field_of(reading: Any, name: str) -> Any:
    """What a reading holds under a name; None where its kind has no such field."""
    return getattr(reading, name) if name in type(reading).model_fields else None
