"""Tables. A piece's evidence is a log: readings, strikes, changes, statements and edits are only
ever appended.
"""

from typing import Any, ClassVar

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, MetaData, UniqueConstraint, text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

NAMES = {
    "ix": "ix_%(column_0_label)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    """Every table's base; constraints are named so that migrations can find them."""

    metadata = MetaData(naming_convention=NAMES)
    type_annotation_map: ClassVar[dict[Any, Any]] = {dict[str, Any]: JSON}


class PieceRow(Base):
    """One transformer. `head` is the record's document without its readings; `record_hash`
    fingerprints the whole.
    """

    __tablename__ = "piece"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(unique=True)
    tag: Mapped[str]
    tag_folded: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    head: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)
    record_hash: Mapped[str] = mapped_column(index=True)
    created_at: Mapped[str]
    readings: Mapped[list["ReadingRow"]] = relationship(
        back_populates="piece", order_by="ReadingRow.id", cascade="all, delete-orphan"
    )

    __table_args__ = (
        CheckConstraint("length(tag) between 1 and 24", name="tag_length"),
        Index("ix_piece_tag", "tag"),
        Index("ix_piece_plate", text("json_extract(head, '$.nameplate.text')")),
        Index("ix_piece_donor", text("json_extract(head, '$.donor.id')")),
        Index("ix_piece_title", text("title COLLATE NOCASE")),
    )


class ReadingRow(Base):
    """One reading as it was given, in the public form; never updated. Strikes stand in their own
    table.
    """

    __tablename__ = "reading"

    id: Mapped[int] = mapped_column(primary_key=True)
    piece_id: Mapped[int] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    reading_id: Mapped[str]
    kind: Mapped[str]
    body: Mapped[dict[str, Any]]
    piece: Mapped[PieceRow] = relationship(back_populates="readings")
    strike: Mapped["StrikeRow | None"] = relationship(cascade="all, delete-orphan", lazy="joined")

    __table_args__ = (
        UniqueConstraint("piece_id", "reading_id"),
        Index("ix_reading_piece_id", "piece_id"),
        Index("ix_reading_kind", "kind"),
    )


class PhotoRow(Base):
    """The picture of a photo, by the file name that the record calls it by."""

    __tablename__ = "photo"

    id: Mapped[int] = mapped_column(primary_key=True)
    piece_id: Mapped[int] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    file: Mapped[str]
    picture: Mapped[bytes] = mapped_column(deferred=True)
    at: Mapped[str]

    __table_args__ = (UniqueConstraint("piece_id", "file"),)


class StrikeRow(Base):
    """A reading struck out: reason, by whom, when (ISO 8601 with zone)."""

    __tablename__ = "strike"

    reading_pk: Mapped[int] = mapped_column(
        ForeignKey("reading.id", ondelete="CASCADE"), primary_key=True
    )
    body: Mapped[dict[str, Any]]


class ConclusionRow(Base):
    """What follows from a piece's record, as the shelf shows and sorts it: a cache, never a source.

    It holds while hash and core version are those of the piece and the program.
    """

    __tablename__ = "conclusion"

    piece_id: Mapped[int] = mapped_column(
        ForeignKey("piece.id", ondelete="CASCADE"), primary_key=True
    )
    record_hash: Mapped[str]
    core_version: Mapped[str]
    tag: Mapped[str]
    family: Mapped[str]
    verdict: Mapped[str]
    danger: Mapped[int]
    summary: Mapped[dict[str, Any]]

    __table_args__ = (
        Index("ix_conclusion_danger", text("danger DESC"), "tag"),
        Index("ix_conclusion_family", "family", text("danger DESC"), "tag"),
        Index("ix_conclusion_verdict", "verdict", text("danger DESC"), "tag"),
        Index("ix_conclusion_core_version", "core_version"),
        Index("ix_conclusion_tag", "tag"),
        Index("ix_conclusion_newest", "verdict", "piece_id"),
    )


class VerdictRow(Base):
    """The last verdict that a piece was given, apart from the cache: a newer version of the rules
    that changes it tells so once. `news` is what is still to be told.
    """

    __tablename__ = "verdict"

    piece_id: Mapped[int] = mapped_column(
        ForeignKey("piece.id", ondelete="CASCADE"), primary_key=True
    )
    record_hash: Mapped[str]
    core_version: Mapped[str]
    verdict: Mapped[str]
    headline: Mapped[str]
    stops: Mapped[bool]
    news: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))

    __table_args__ = (Index("ix_verdict_news", "piece_id", sqlite_where=text("news IS NOT NULL")),)


class OutputRow(Base):
    """An output of a piece as it was last concluded: what the shelf's question is asked of."""

    __tablename__ = "output"

    id: Mapped[int] = mapped_column(primary_key=True)
    piece_id: Mapped[int] = mapped_column(
        ForeignKey("conclusion.piece_id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str]
    volts_low: Mapped[float]
    volts_high: Mapped[float]
    ohms: Mapped[float]
    amps_low: Mapped[float]
    amps_high: Mapped[float]
    minute_low: Mapped[float]
    minute_high: Mapped[float]

    __table_args__ = (Index("ix_output_volts_high", "volts_high", "volts_low"),)


class TallyRow(Base):
    """How many pieces are of a family and a verdict; kept by triggers on the conclusions."""

    __tablename__ = "tally"

    family: Mapped[str] = mapped_column(primary_key=True)
    verdict: Mapped[str] = mapped_column(primary_key=True)
    pieces: Mapped[int]


class ItemRow(Base):
    """One entry of the stores in its public form, with what typing finds it by."""

    __tablename__ = "item"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(unique=True)
    kind: Mapped[str] = mapped_column(index=True)
    searched: Mapped[str]
    body: Mapped[dict[str, Any]]
    gone: Mapped[bool]
    at: Mapped[str]


class DonorRow(Base):
    """One donor in its public form: what pieces and parts came out of."""

    __tablename__ = "donor"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(unique=True)
    body: Mapped[dict[str, Any]]
    at: Mapped[str]


class PlanRow(Base):
    """A plan or a rig as it was kept, with the piece it was made for."""

    __tablename__ = "plan"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(unique=True)
    planner: Mapped[str] = mapped_column(index=True)
    tag: Mapped[str] = mapped_column(index=True)
    body: Mapped[dict[str, Any]]
    at: Mapped[str]


class HandRow(Base):
    """Somebody who answered what is asked before a first live step, by name."""

    __tablename__ = "hand"

    name: Mapped[str] = mapped_column(primary_key=True)
    body: Mapped[dict[str, Any]]
    at: Mapped[str]


class EntryRow(Base):
    """Something entered, by the key its form came with: sent twice, it is stored once."""

    __tablename__ = "entry"

    key: Mapped[str] = mapped_column(primary_key=True)
    tag: Mapped[str]
    said: Mapped[str]
    at: Mapped[str] = mapped_column(index=True)
