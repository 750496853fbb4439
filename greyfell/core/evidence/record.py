"""The typed contents of one transformer's record, `greyfell.transformer/1`; docs/format has its
JSON Schema.

A record is evidence: what was seen, what was read, what was done, what somebody vouches for.
Nothing here concludes.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from greyfell.core.evidence.family_names import Family
from greyfell.core.evidence.kinds.reading import MOST_FEW
from greyfell.core.evidence.kinds.registry import OneOfTheKinds
from greyfell.core.evidence.loading import PRACTICE, PRACTISED
from greyfell.core.evidence.part import (
    Amps,
    Hertz,
    Id,
    Kilograms,
    LeadId,
    Millimetres,
    NoMillimetres,
    NoVolts,
    Ohms,
    Part,
    Short,
    Stamp,
    Tag,
    Text,
    VoltAmperes,
    Volts,
)

MOST_LEADS, MOST_READINGS, MOST_RATIOS = 64, 3000, 500
"""So many a record may hold: all pairs of the leads and the core, and more; `ratios` are readings
that weigh one winding's turns against another's."""
MOST_EDITS, MOST_SAID = 1000, 1000
"""So many corrections a record may hold; changes, statements, parts, photos, meters."""


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
    outputs: list[Output] = Field(default=[], max_length=MOST_FEW)
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


Reading = Annotated[Any, OneOfTheKinds]
"""A reading of whichever kind."""


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
    marks: list[Mark] = Field(default=[], max_length=MOST_FEW)
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
    def practised(self) -> bool:
        """Whether it is for practice, and no iron: by its statement; older ones by their title."""
        said = any(s.kind == PRACTICE for s in self.statements)
        return said or self.title.startswith(PRACTISED)

    @property
    def supply_stated(self) -> bool:
        """Whether the record says what it would be fed from."""
        return "volts" in self.supply.model_fields_set

    def as_json(self) -> dict[str, Any]:
        """The record as a JSON document; keys it did not know are written back."""
        return self.model_dump(mode="json", by_alias=True, exclude_unset=True)


PAIRS = ("between", "across", "driven", "sensed", "joined", "loaded", "rectified")
"""Fields that hold two points."""


def ends_of(reading: Any) -> list[tuple[str, tuple[str, str]]]:
    """Every pair of points a reading names, with the field that names it."""
    pairs = [(name, field_of(reading, name)) for name in PAIRS]
    shorted = [("shorted", p) for p in field_of(reading, "shorted") or ()]
    return [(name, pair) for name, pair in pairs if pair is not None] + shorted


def field_of(reading: Any, name: str) -> Any:
    """What a reading holds under a name; None where its kind has no such field."""
    return getattr(reading, name) if name in type(reading).model_fields else None
