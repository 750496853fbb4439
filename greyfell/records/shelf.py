"""The shelf: one conclusion kept for every piece, counted, sorted and shown a page at a time."""

from collections.abc import Iterable
from functools import lru_cache
from typing import Any

import sqlalchemy as sa
from msgspec import Struct
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from greyfell.core import CORE_VERSION
from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import PRACTICE
from greyfell.core.evidence.record import RETIRED
from greyfell.core.figures.notation import span
from greyfell.core.steps.summary import summarise
from greyfell.core.telling.outputs_of_shelf import WantedOutput
from greyfell.records.models import ConclusionRow, OutputRow, PieceRow, TallyRow, VerdictRow
from greyfell.records.rows import Kept, find, kept_of
from greyfell.records.store import Store

PAGE = 24
ASIDE = (PRACTICE, RETIRED)
"""Verdicts that are no judgement: these pieces are shown where they are asked for."""
BATCH = 20
"""So many pieces are concluded in one go after an upgrade: nobody waits long for the file."""
ORDERS: dict[str, tuple[Any, ...]] = {
    "danger": (sa.text("conclusion.danger DESC"), ConclusionRow.tag),
    "tag": (ConclusionRow.tag,),
    "newest": (ConclusionRow.piece_id.desc(),),
    "family": (ConclusionRow.family, sa.text("conclusion.danger DESC"), ConclusionRow.tag),
}


class Item(Struct, frozen=True, kw_only=True):
    """A piece on a page of the shelf: `key` is the fingerprint of the record that was concluded,
    `earlier` whether an earlier version of the program did it.
    """

    tag: str
    title: str
    key: str
    earlier: bool
    piece_id: int


class ShelfPage(Struct, frozen=True):
    """One page of the shelf: its pieces, how many there are in all, counts by family and by
    verdict, and the piece nearest to a screening that still lacks one.
    """

    items: list[Item]
    total: int
    matching: int
    families: dict[str, int]
    verdicts: dict[str, int]
    page: int
    wanting: dict[str, Any] | None = None

    @property
    def pages(self) -> int:
        """How many pages hold what matches."""
        return max(1, -(-self.matching // PAGE))


class Asked(Struct, frozen=True, kw_only=True):
    """What is asked of the shelf: a family, a verdict, words of tag or title, an order, a page."""

    family: str = ""
    verdict: str = ""
    find: str = ""
    sort: str = "tag"
    page: int = 1


def _item(piece_id: int, tag: str, title: str, key: str, version: str) -> Item:
    return Item(tag=tag, title=title, key=key, earlier=version != CORE_VERSION, piece_id=piece_id)


def _how_many(connection: sa.Connection, query: Any, family: str, verdict: str) -> int:
    every = query.with_only_columns(sa.func.count()).order_by(None).limit(None).offset(None)
    return connection.scalar(every, {"family": family, "verdict": verdict}) or 0


def page_of(connection: sa.Connection, wanted: Asked) -> ShelfPage:
    """One page of what is concluded. Its cost does not grow with readings, nor, where no words are
    looked for, with pieces.
    """
    family, verdict, words = wanted.family, wanted.verdict, wanted.find.split()[:MOST_WORDS]
    counts = connection.execute(COUNTS).all()
    matching = sum(n for f, v, n in counts if family in ("", f) and _shown(v, verdict))
    query = _ordered(wanted.sort if wanted.sort in ORDERS else "tag", bool(family), bool(verdict))
    if words:
        query = query.where(*map(_holds, words))
        matching = _how_many(connection, query, family, verdict)
    page = min(max(1, wanted.page), max(1, -(-matching // PAGE)))
    asked = {"family": family, "verdict": verdict, "skipped": (page - 1) * PAGE}
    families, verdicts, total = _counts(counts)
    return ShelfPage(
        items=[_item(*row) for row in connection.execute(query, asked)],
        total=total,
        matching=matching,
        families=families,
        verdicts=verdicts,
        page=page,
        wanting=_wanting(connection),
    )


MOST_WORDS = 6
"""So many words of a search count."""


def _holds(word: str) -> Any:
    """Whether a piece's tag or title holds a word."""
    return sa.or_(
        PieceRow.tag_folded.contains(word.casefold(), autoescape=True),
        PieceRow.title.icontains(word, autoescape=True),
    )


def _shown(verdict: str, asked: str) -> bool:
    """Whether pieces of a verdict are shown where one was asked for; of those put away, and those
    for practice, only where just these were.
    """
    return verdict == asked if asked else verdict not in ASIDE


COUNTS = sa.select(TallyRow.family, TallyRow.verdict, TallyRow.pieces)
UNSCREENED = (
    sa.select(ConclusionRow.tag, PieceRow.title, ConclusionRow.summary)
    .join(PieceRow, PieceRow.id == ConclusionRow.piece_id)
    .where(ConclusionRow.verdict == "unknown")
    .order_by(ConclusionRow.piece_id.desc())
    .limit(1)
)


@lru_cache
def _ordered(sort: str, by_family: bool, by_verdict: bool) -> Any:
    """The query of a page, made once."""
    query = (
        sa.select(
            ConclusionRow.piece_id,
            ConclusionRow.tag,
            PieceRow.title,
            ConclusionRow.record_hash,
            ConclusionRow.core_version,
        )
        .join(PieceRow, PieceRow.id == ConclusionRow.piece_id)
        .order_by(*ORDERS[sort])
        .limit(PAGE)
        .offset(sa.bindparam("skipped"))
    )
    if by_family:
        query = query.where(ConclusionRow.family == sa.bindparam("family"))
    if by_verdict:
        query = query.where(ConclusionRow.verdict == sa.bindparam("verdict"))
    else:
        query = query.where(ConclusionRow.verdict.not_in(ASIDE))
    return query


class Answer(Struct, frozen=True, kw_only=True):
    """A piece that gives what was asked: which output, its volts and amps low and high, and whether
    it surely does.
    """

    item: Item
    name: str
    volts: tuple[float, float]
    amps: tuple[float, float]
    surely: bool

    @property
    def sure(self) -> str:
        """How sure, in a word."""
        return "surely" if self.surely else "perhaps"

    @property
    def figures(self) -> str:
        """Its open volts and its amps."""
        return f"{span(*self.volts, 'V')} open, {span(*self.amps, 'A')}"


def giving(connection: sa.Connection, wanted: WantedOutput, page: int) -> tuple[list[Answer], int]:
    """A page of the outputs that give what is wanted, those that surely do first and the least
    dangerous of them; and how many there are. By `telling.outputs_of_shelf.answers`.
    """
    least, most = OutputRow.amps_low, OutputRow.amps_high
    if wanted.brief:
        least, most = OutputRow.minute_low, OutputRow.minute_high
    drop = wanted.amps * OutputRow.ohms
    low, high = OutputRow.volts_low - drop, OutputRow.volts_high - drop
    fits = sa.and_(
        OutputRow.volts_high >= wanted.least,
        high >= wanted.least,
        low <= wanted.most,
        most >= wanted.amps,
    )
    within = sa.and_(low >= wanted.least, high <= wanted.most, least >= wanted.amps)
    surely = sa.case((within, 1), else_=0).label("surely")
    count = connection.scalar(sa.select(sa.func.count()).select_from(OutputRow).where(fits)) or 0
    query = (
        sa.select(ConclusionRow, PieceRow.title, OutputRow, least, most, surely)
        .join(OutputRow, OutputRow.piece_id == ConclusionRow.piece_id)
        .join(PieceRow, PieceRow.id == ConclusionRow.piece_id)
        .where(fits)
        .order_by(surely.desc(), ConclusionRow.danger, ConclusionRow.tag, OutputRow.id)
        .limit(PAGE)
        .offset((max(1, page) - 1) * PAGE)
    )
    columns = (
        ConclusionRow.piece_id,
        ConclusionRow.tag,
        PieceRow.title,
        ConclusionRow.record_hash,
        ConclusionRow.core_version,
        OutputRow.name,
        OutputRow.volts_low,
        OutputRow.volts_high,
        least.label("least"),
        most.label("most"),
        surely,
    )
    rows = connection.execute(query.with_only_columns(*columns))
    return [_answer(row) for row in rows], count


def _answer(row: Any) -> Answer:
    item = Item(
        tag=row.tag,
        title=row.title,
        key=row.record_hash,
        earlier=row.core_version != CORE_VERSION,
        piece_id=row.piece_id,
    )
    return Answer(
        item=item,
        name=row.name,
        volts=(row.volts_low, row.volts_high),
        amps=(row.least, row.most),
        surely=bool(row.surely),
    )


def summaries(connection: sa.Connection, pieces: list[int]) -> dict[int, dict[str, Any]]:
    """What is concluded of some pieces, by their row."""
    query = sa.select(ConclusionRow.piece_id, ConclusionRow.summary)
    found = connection.execute(query.where(ConclusionRow.piece_id.in_(pieces)))
    return {key: BARE | summary for key, summary in found}


BARE = {
    "family": "unknown",
    "sure": 0.0,
    "danger": 3,
    "headline": "not yet looked at: take it for live",
    "mood": "caution",
    "reached": "salvage",
    "next_step": "open it",
    "sketch": {"shape": "shell", "shunts": False, "windings": [], "loose": []},
}
"""What is shown of a piece of which nothing was concluded yet."""


def _counts(rows: Iterable[Any]) -> tuple[dict[str, int], dict[str, int], int]:
    """Pieces by family, by verdict, and in all."""
    families: dict[str, int] = {}
    verdicts: dict[str, int] = {}
    for family, verdict, n in rows:
        if n:
            families[family] = families.get(family, 0) + n * (verdict not in ASIDE)
            verdicts[verdict] = verdicts.get(verdict, 0) + n
    total = sum(n for verdict, n in verdicts.items() if verdict != PRACTICE)
    return {k: n for k, n in families.items() if n}, verdicts, total


def _wanting(connection: sa.Connection) -> dict[str, Any] | None:
    """The piece nearest to a screening that still lacks one: its tag, title and next step; None
    where none does.
    """
    row = connection.execute(UNSCREENED).first()
    if row is None:
        return None
    return {"tag": row[0], "title": row[1], "next_step": row[2].get("next_step", "")}


# ------------------------------------------------------------------ keeping conclusions


def concluded(kept: Kept) -> dict[str, Any]:
    """What the shelf keeps of a piece, worked out."""
    summary = summarise(kept.ident, kept.kept_steps)
    aside = PRACTICE if kept.record.practised else ""
    aside = aside or (RETIRED if kept.record.put_away is not None else "")
    return {
        "record_hash": kept.record_hash,
        "core_version": CORE_VERSION,
        "tag": kept.tag,
        "family": summary.family,
        "verdict": aside or kept.ident.verdict,
        "danger": summary.danger,
        "summary": summary.as_json(),
        "outputs": [] if aside else [out.as_json() for out in summary.outputs],
        "why": _why(kept),
    }


def keep(session: Session, piece_id: int, told: dict[str, Any]) -> None:
    """Keep a conclusion and its outputs in place of those before."""
    values = {k: v for k, v in told.items() if k not in ("outputs", "why")}
    _give(session, piece_id, told)
    written = insert(ConclusionRow).values(piece_id=piece_id, **values)
    session.execute(written.on_conflict_do_update(index_elements=["piece_id"], set_=values))
    session.execute(sa.delete(OutputRow).where(OutputRow.piece_id == piece_id))
    session.add_all(OutputRow(piece_id=piece_id, **out) for out in told["outputs"])


def _why(kept: Kept) -> str:
    """What a verdict rests on, in a sentence: the gravest fault, or that none is found."""
    faults = kept.ident.faults
    return faults[0].sentence if faults else "These rules find no fault in its readings."


def _give(session: Session, piece_id: int, told: dict[str, Any]) -> None:
    """Keep a piece's verdict; where another version of the rules gave the same record another one,
    or a stop came or went, that is to be told.
    """
    now = {
        "record_hash": told["record_hash"],
        "core_version": told["core_version"],
        "verdict": told["verdict"],
        "headline": told["summary"]["headline"],
        "stops": told["danger"] == STOPS,
    }
    row = session.get(VerdictRow, piece_id)
    if row is None:
        session.add(VerdictRow(piece_id=piece_id, news=None, **now))
        return
    other_rules = row.record_hash == now["record_hash"] and row.core_version != now["core_version"]
    if other_rules and (row.verdict, row.stops) != (now["verdict"], now["stops"]):
        first = row.news or {"from": row.verdict, "was": row.headline}
        row.news = {**first, "to": now["verdict"], "is": now["headline"], "why": told["why"]}
    for name, value in now.items():
        setattr(row, name, value)


STOPS = 5
"""The danger rank of a piece that a fault stops."""


class News(Struct, frozen=True, kw_only=True):
    """A verdict that newer rules changed: of which piece, from what to what, and why."""

    tag: str
    title: str
    before: str
    was: str
    after: str
    now: str
    why: str


MOST_NEWS = 24
"""So many are told at once; the others after these were read."""


def news(connection: sa.Connection, tag: str = "") -> list[News]:
    """What newer rules changed and nobody has read yet: of the whole shelf, or of one piece."""
    query = (
        sa.select(PieceRow.tag, PieceRow.title, VerdictRow.news)
        .join(PieceRow, PieceRow.id == VerdictRow.piece_id)
        .where(VerdictRow.news.is_not(None))
        .order_by(PieceRow.tag)
        .limit(MOST_NEWS)
    )
    if tag:
        query = query.where(PieceRow.tag == tag)
    return [
        News(
            tag=tag,
            title=title,
            before=told["from"],
            was=told["was"],
            after=told["to"],
            now=told["is"],
            why=told["why"],
        )
        for tag, title, told in connection.execute(query)
    ]


def waiting(session: Session) -> int:
    """How many pieces no conclusion of this version stands for."""
    done = sa.select(sa.func.count()).where(ConclusionRow.core_version == CORE_VERSION)
    all_of_them = sa.select(sa.func.count()).select_from(PieceRow)
    return int(session.scalar(all_of_them) or 0) - int(session.scalar(done) or 0)


def conclude_some(store: Store, most: int = BATCH) -> int:
    """Work out conclusions that are missing or an earlier version's. Returns how many were."""
    with store.reading() as session:
        query = (
            sa.select(PieceRow.id, PieceRow.tag)
            .outerjoin(ConclusionRow, ConclusionRow.piece_id == PieceRow.id)
            .where(sa.func.coalesce(ConclusionRow.core_version, "") != CORE_VERSION)
            .limit(most)
        )
        found = session.execute(query).all()
        told = [(key, _of_row(session, tag)) for key, tag in found]
    with store.writing() as session:
        for key, values in told:
            present = session.get(PieceRow, key)
            if present is not None and present.record_hash == values["record_hash"]:
                keep(session, key, values)
    return len(found)


def _of_row(session: Session, tag: str) -> dict[str, Any]:
    """The conclusion of a stored piece; one that cannot be read at all says so."""
    row = find(session, tag)
    if row is None:
        return {"record_hash": None}
    try:
        return concluded(kept_of(row))
    except Exception as error:  # one piece keeps no other from being concluded
        said = error.sentence if isinstance(error, FieldError) else "open it"
        summary = {**BARE, "headline": "cannot be read: export it", "next_step": said}
        return {
            "record_hash": row.record_hash,
            "core_version": CORE_VERSION,
            "tag": row.tag,
            "family": "unknown",
            "verdict": "unknown",
            "danger": 3,
            "summary": summary,
            "outputs": [],
            "why": said,
        }
