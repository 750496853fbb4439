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


Number = Annotated[float, Field(strict=True, allow_inf_nan=False)]


Positive = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0)]


NotNegative = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0)]


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

    volts: Positive = 230.0
    hertz: Positive = 50.0
    breaker_amps: Positive | None = None
    breaker_curve: Short | None = None


class Output(Part):
    volts: Positive | None = None
    amps: Positive | None = None


class Nameplate(Part):
    """What the plate says; a plate may be on the wrong piece."""

    primary_volts: Positive | None = None
    hertz: Positive | None = None
    secondary_volts: Positive | None = None
    secondary_amps: Positive | None = None
    va: Positive | None = None
    outputs: list[Output] = []
    midpoint_earthed: bool | None = None
    text: Text = ""


class Core(Part):
    """The iron as it can be seen; millimetres and kilograms."""

    shape: Literal["shell", "core", "toroid", "c-core"] | None = None
    tongue_mm: Positive | None = None
    stack_mm: Positive | None = None
    window_width_mm: Positive | None = None
    window_height_mm: Positive | None = None
    outer_mm: Positive | None = None
    inner_mm: Positive | None = None
    height_mm: Positive | None = None
    mass_kg: Positive | None = None
    shunts: Literal["present", "absent", "removed", "unknown"] | None = None
    assembly: Literal["welded", "interleaved", "banded", "potted"] | None = None
    potted: bool | None = None
    slide_mm: NotNegative | None = None
    damage: Short | None = None


class Lead(Part):
    """One lead: its letter, and what can be seen of it. `wire_mm` is the bare conductor's
    diameter.
    """

    id: LeadId
    colour: Short | None = None
    stripe: Short | None = None
    sleeve: Short | None = None
    wire_mm: Positive | None = None
    end: Short | None = None
    place: Short | None = None
    twisted_with: LeadId | None = None
    thicker_than: LeadId | None = None
    material: Literal["copper", "aluminium"] | None = None
    fed: Short | None = None
    damage: Short | None = None
    note: Text = ""


class Meter(Part):
    id: Id
    title: Short = ""
    category: Short | None = None
    max_volts_ac: Positive | None = None
    input_ohms: Positive | None = None
    low_z_ohms: Positive | None = None


class FieldAccuracy(Part):
    percent: NotNegative = 0.0
    digits: NotNegative = 0.0


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
    percent: NotNegative | None = None
    digits: NotNegative | None = None
    accuracy: dict[str, FieldAccuracy] | None = None
    claimed: bool = False
    about: bool = False
    least: NotNegative | None = None
    most: NotNegative | None = None
    where: Literal["piece", "ahead of ballast", "socket"] | None = None
    links: list[Pair] = []
    typed: dict[str, Short] | None = None

    @field_validator("struck", mode="before")
    @classmethod
    def _struck_by_text(cls, value: Any) -> Any:
        return {"reason": value} if isinstance(value, str) else value


class Resistance(Base):
    kind: Literal["resistance"] = "resistance"
    between: Pair
    ohms: NotNegative | Literal["open"]
    range_ohms: Positive | None = None
    probe_ohms: NotNegative | None = None


class CoreProof(Base):
    kind: Literal["core_proof"] = "core_proof"
    ohms: NotNegative


class DcDrop(Base):
    kind: Literal["dc_drop"] = "dc_drop"
    across: Pair
    volts: NotNegative
    amps: Positive


class Insulation(Base):
    kind: Literal["insulation"] = "insulation"
    between: Pair
    ohms: NotNegative | Literal["open"]
    test_volts: Positive
    range_ohms: Positive | None = None


class Inductance(Base):
    kind: Literal["inductance"] = "inductance"
    across: Pair
    henries: Positive
    hertz: Positive | None = None
    q: NotNegative | None = None
    shorted: list[Pair] = []


class Lamp(Base):
    kind: Literal["lamp"] = "lamp"
    across: Pair
    supply_volts: Positive
    lamp_watts: Positive
    lamp_volts: NotNegative | None = None
    glow: Literal["dark", "dim", "bright"]


class Ratio(Base):
    kind: Literal["ratio"] = "ratio"
    driven: Pair
    driven_volts: Positive
    sensed: Pair
    sensed_volts: NotNegative
    hertz: Positive | None = None


class Polarity(Base):
    kind: Literal["polarity"] = "polarity"
    driven: Pair
    driven_volts: Positive
    joined: Pair
    across: Pair
    across_volts: NotNegative


class NoLoad(Base):
    kind: Literal["no_load"] = "no_load"
    driven: Pair
    volts: Positive
    amps: NotNegative | None = None
    watts: NotNegative | None = None
    hertz: Positive | None = None

    @model_validator(mode="after")
    def _something_flows(self) -> "NoLoad":
        if self.amps is None and self.watts is None:
            raise ValueError("no load needs amps or watts")
        return self


class ShortCircuit(Base):
    kind: Literal["short_circuit"] = "short_circuit"
    driven: Pair
    shorted: list[Pair]
    volts: Positive
    amps: Positive
    watts: NotNegative | None = None
    shorted_amps: NotNegative | None = None
    hertz: Positive | None = None


class Load(Base):
    kind: Literal["load"] = "load"
    driven: Pair
    driven_volts: Positive
    driven_amps: NotNegative | None = None
    driven_watts: NotNegative | None = None
    loaded: Pair
    load_volts: NotNegative
    load_amps: NotNegative | None = None
    load_ohms: Positive | None = None


class TestTurn(Base):
    __test__ = False  # a reading, not a test of ours
    kind: Literal["test_turn"] = "test_turn"
    driven: Pair
    driven_volts: Positive
    turns: Positive
    turn_volts: Positive


class Turns(Base):
    kind: Literal["turns"] = "turns"
    across: Pair
    turns: Positive


class LeakageCurrent(Base):
    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["leakage_current"] = "leakage_current"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    amps: NotNegative
    driven: Pair
    driven_volts: Positive


class EarthVoltage(Base):
    model_config = ConfigDict(extra="allow", frozen=True, populate_by_name=True)
    kind: Literal["earth_voltage"] = "earth_voltage"
    from_: str = Field(alias="from")
    to: Literal["earth", "core"]
    volts: NotNegative
    meter_ohms: Positive | None = None
    driven: Pair | None = None
    driven_volts: Positive | None = None


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
    | EarthVoltage,
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
    )
}


class Change(Part):
    id: Id = ""
    what: Short
    at: Stamp | None = None
    note: Text = ""


class Statement(Part):
    id: Id = ""
    kind: Short
    concerns: Short = ""
    text: Text = ""
    by: Short = ""
    at: Stamp | None = None


class SparePart(Part):
    what: Short
    text: Text = ""
    stores_id: Short | None = None


class Mark(Part):
    lead: Short
    x: Number
    y: Number


class Photo(Part):
    file: Short
    marks: list[Mark] = []
    note: Text = ""


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
    leads: list[Lead] = Field(max_length=64)
    meters: list[Meter] = []
    readings: list[Reading] = Field(default=[], max_length=20000)
    changes: list[Change] = []
    statements: list[Statement] = []
    parts: list[SparePart] = []
    photos: list[Photo] = []
    edits: list[dict[str, Any]] = []

    @property
    def standing(self) -> list[Any]:
        """The readings that count: those not struck out, and measured, not only claimed."""
        return [r for r in self.readings if r.struck is None and not r.claimed]

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
        (f, getattr(reading, f))
        for f in ("between", "across", "driven", "sensed", "joined", "loaded")
        if getattr(reading, f, None) is not None
    ]
    return pairs + [("shorted", p) for p in getattr(reading, "shorted", [])]
