"""What is printed of a piece and what leaves as a file: tag, labels, the full record, drawings, the
passport.
"""

from collections.abc import Callable
from ipaddress import ip_address
from typing import Any

import segno
from flask import Response, abort, redirect, request, session, url_for
from markupsafe import Markup

from greyfell import clock
from greyfell.core.bench.kept_setup import KeptSetup, standing_setup
from greyfell.core.bench.piece_on_bench import needs_of
from greyfell.core.circuit.sweep import sweep_on_record
from greyfell.core.dangers.listing import strip
from greyfell.core.dangers.of_live import live_notes
from greyfell.core.dangers.rule import Danger
from greyfell.core.errors import FieldError
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Transformer
from greyfell.core.exchange.passport import FILE, picture, sealed
from greyfell.core.judgement.gates import Gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.load_test import ShortPlan, short_plans
from greyfell.core.steps.pairs import fan_of
from greyfell.core.steps.windup_sheet import SheetStep, sheet_of
from greyfell.core.telling.isolating import Report, report
from greyfell.core.telling.labels import Label, TagLine, labels, tag_lines
from greyfell.core.telling.terminals import SCHEMES, Terminals, terminals
from greyfell.core.telling.under_power import hands_off, theirs_alone
from greyfell.core.telling.usual_ranges import bands
from greyfell.records.photos import size_of
from greyfell.records.rows import Kept, now
from greyfell.web.drawings.alone import alone, look, unlinked
from greyfell.web.drawings.bundle import bundle
from greyfell.web.drawings.fan import fan
from greyfell.web.drawings.iron import iron
from greyfell.web.drawings.nameplate import nameplate
from greyfell.web.drawings.photo import photo as draw_photo
from greyfell.web.drawings.schematic import schematic
from greyfell.web.drawings.section import section
from greyfell.web.drawings.setup import setup_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.pieces import refused
from greyfell.web.shelf import SCANNED
from greyfell.web.showing import Page, Shown
from greyfell.web.support import before, drawn, kept, key, repository, stored

SIZES = {"label": "one label, 90 × 55 mm", "a4": "A4"}
MOST_LINES = {"label": 3, "a4": 12}
"""So many windings stand on a tag of each size."""
QR_LEVEL = "m"
"""How much of a code may be lost: 15 %. ISO/IEC 18004."""


class IsolationPage(Page, frozen=True, kw_only=True):
    """The isolation report, to print and to keep with the piece."""

    template = "isolation.html"
    record: Transformer
    report: Report
    drawing: Drawing
    today: str


def isolation(tag: str) -> Any:
    """The isolation report, to print and to keep with the piece."""
    piece = kept(tag)
    today = clock.moment()
    return IsolationPage(
        record=piece.record,
        report=report(piece.ident, today),
        drawing=schematic(piece.ident),
        today=today.date().isoformat(),
    ).render()


def scan_words(tag: str, host: str) -> str:
    """What the code of a tag holds: the address of the piece, where others can reach it; else the
    tag in words.

    >>> scan_words("CQ-014", "127.0.0.1:8730")
    'Greyfell CQ-014'
    >>> scan_words("CQ-014", "bench.local:8730")
    'http://bench.local:8730/pieces/CQ-014/'
    """
    name = host.rpartition(":")[0] if host.rpartition(":")[2].isdigit() else host
    bare = name.strip("[]")
    try:
        loop = ip_address(bare).is_loopback
    except ValueError:
        loop = bare == "localhost" or bare.endswith(".localhost")
    return f"{SCANNED} {tag}" if loop else f"http://{host}/pieces/{tag}/"


def code(words: str) -> Markup:
    """Words as a QR code, as SVG."""
    made = segno.make(words, error=QR_LEVEL, micro=False)
    return Markup(made.svg_inline(border=4, omitsize=True, svgclass="code", lineclass=None))


class TagPage(Page, frozen=True, kw_only=True):
    """The tag to tie on, in one of two sizes."""

    template = "tag.html"
    sizes: dict[str, str]
    size: str
    lines: tuple[TagLine, ...]
    most: int
    code: Markup
    of_piece: "PaperShown"


def tag(tag: str) -> str:
    """The tag to tie on, in one of two sizes."""
    piece = kept(tag)
    size = request.args.get("size", "label")
    return TagPage(
        sizes=SIZES,
        size=size if size in SIZES else "label",
        lines=tag_lines(piece.ident),
        most=MOST_LINES[size] if size in SIZES else MOST_LINES["label"],
        code=code(scan_words(piece.tag, request.host)),
        of_piece=_told(piece),
    ).render()


class LabelsPage(Page, frozen=True, kw_only=True):
    """A label for both ends of every lead."""

    template = "labels.html"
    sizes: dict[str, str]
    size: str
    schemes: dict[str, str]
    of_piece: "PaperShown"


def label_sheet(tag: str) -> str:
    """A label for both ends of every lead."""
    size = request.args.get("size", "a4")
    return LabelsPage(
        sizes=SIZES,
        size=size if size in SIZES else "a4",
        schemes=SCHEMES,
        of_piece=_told(kept(tag)),
    ).render()


class PaperPage(Page, frozen=True, kw_only=True):
    """The full record."""

    template = "paper.html"
    code: Markup
    photos: list[tuple[Any, Drawing]]
    of_piece: "PaperShown"


def whole(tag: str) -> str:
    """The full record."""
    piece = kept(tag)
    return PaperPage(
        code=code(scan_words(piece.tag, request.host)),
        photos=_photos(piece, embed=False),
        of_piece=_told(piece),
    ).render()


class SheetPage(Page, frozen=True, kw_only=True):
    """The wind-up sheet: bench, steps with their stops, shorts, what people get wrong."""

    template = "sheet.html"
    gate: Gate
    theirs: str
    hands_off: list[str]
    standing: KeptSetup | None
    setup_drawing: Drawing | None
    sheet: tuple[SheetStep, ...]
    short_plans: list[ShortPlan]
    notes: list[Danger]
    of_piece: "PaperShown"


def sheet(tag: str) -> str:
    """The wind-up sheet: bench, steps with their stops, shorts, what people get wrong."""
    piece = kept(tag)
    ident = piece.asked
    found = sweep_on_record(ident.record, ident.belief)
    standing = standing_setup(ident)
    setup = standing.setup if standing is not None else None
    return SheetPage(
        gate=piece.gate,
        theirs=theirs_alone(ident),
        hands_off=hands_off(ident),
        standing=standing,
        setup_drawing=setup_drawing(setup, standing.wrongs, needs_of(ident))
        if setup and standing
        else None,
        sheet=sheet_of(ident, found),
        short_plans=short_plans(ident),
        notes=live_notes(ident),
        of_piece=_told(piece),
    ).render()


class PassportPage(Page, frozen=True, kw_only=True):
    """The piece as one file that outlives the program."""

    template = "passport.html"
    photos: list[tuple[Any, Drawing]]
    iron: Drawing
    record_json: Markup
    look: Markup
    of_piece: "PaperShown"


def passport(tag: str) -> Response:
    """The piece as one file that outlives the program."""
    piece = kept(tag)
    page = PassportPage(
        photos=_photos(piece, embed=True),
        iron=unlinked(iron(piece.ident)),
        record_json=Markup(sealed(piece.document)),
        look=Markup(look()),
        of_piece=_told(piece),
    ).render()
    answer = Response(page, mimetype="text/html")
    answer.headers["Content-Disposition"] = f'attachment; filename="{piece.tag}-passport.html"'
    return answer


def drawing(tag: str, drawing: str) -> Response:
    """One drawing of a piece as a file."""
    if drawing not in DRAWINGS:
        abort(404)
    piece = kept(tag)
    made = DRAWINGS[drawing](piece)
    if made is None:
        abort(404)
    answer = Response(alone(made), mimetype="image/svg+xml")
    answer.headers["Content-Disposition"] = f'attachment; filename="{piece.tag}-{drawing}.svg"'
    return answer


def marking(tag: str) -> Any:
    """Keep how the terminals are marked."""
    chosen = request.form.get("marking", "")
    piece = kept(tag)
    try:
        if chosen not in SCHEMES:
            raise FieldError("marking", "Terminals are marked in one of three ways; choose one.")
        if before() is None:
            repository().correct(tag, {"marking": chosen}, piece.version, key())
    except FieldError as error:
        return refused(piece, "record", error)
    stored()
    return redirect(url_for(".label_sheet", tag=tag))


class PaperShown(Shown, frozen=True, kw_only=True):
    """What every paper of a piece says."""

    piece: Kept
    record: Transformer
    ident: Identification
    hurts: list[Danger]
    labels: tuple[Label, ...]
    last_read: str
    marked: Terminals
    schematic: Drawing
    told: Callable[[Any], str]
    today: str
    hand: str


def _told(piece: Kept) -> PaperShown:
    """What every paper of a piece says."""
    ident = piece.ident
    marked = terminals(ident)
    told_of = labels(ident, marked)
    last = max(told_of, key=lambda label: label.date)
    return PaperShown(
        piece=piece,
        record=piece.record,
        ident=ident,
        hurts=drawn(piece, "strip", lambda: strip(ident)),
        labels=told_of,
        last_read=", ".join(x for x in (last.date, last.hand) if x),
        marked=marked,
        schematic=drawn(piece, "schematic", lambda: schematic(ident)),
        told=told,
        today=now()[:10],
        hand=str(session.get("hand", "")),
    )


def _photos(piece: Kept, *, embed: bool) -> list[tuple[Any, Drawing]]:
    """The photos that are here, drawn with their marks; with their pictures inside for a file."""
    found = []
    for one in piece.record.photos:
        data = repository().picture(piece.tag, one.file)
        if data is None:
            continue
        name = one.file.rpartition("/")[2]
        address = picture(data) if embed else url_for("photos.picture", tag=piece.tag, name=name)
        made = draw_photo(one, address, size_of(data))
        made.shapes[0].attrs[FILE] = one.file
        found.append((one, made))
    return found


def _fan(piece: Kept) -> Drawing | None:
    found = bands(piece.ident)
    return fan(fan_of(piece.ident, found, piece.steps), piece.ident.record.leads)


def _bundle(piece: Kept) -> Drawing:
    wound = [w.coil.members for w in piece.ident.windings]
    return bundle(piece.record.leads, wound, (), "")


DRAWINGS: dict[str, Callable[[Kept], Drawing | None]] = {
    "schematic": lambda piece: schematic(piece.ident),
    "iron": lambda piece: iron(piece.ident, piece.steps[0]),
    "pairs": _fan,
    "leads": _bundle,
    "section": lambda piece: section(piece.record.core, ""),
    "plate": lambda piece: nameplate(piece.record.nameplate, ""),
}
"""Every drawing of a piece that is its own file, by its name."""
