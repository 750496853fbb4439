"""The clues as they are shown: bundle, core and plate drawn with what is touched on them, the
bundle to expect, plate words, how the last fact moved the odds.
"""

import re
from types import ModuleType

from greyfell.core.dangers.of_act import said_at
from greyfell.core.evidence.plate_words import Explained
from greyfell.core.evidence.plate_words import explain as explain_plate
from greyfell.core.evidence.record import Lead
from greyfell.core.telling.copper_or_aluminium import telling
from greyfell.core.telling.last_fact import Moved, moved
from greyfell.core.telling.lead_bundle import Bundle, bundle_of, proposals
from greyfell.records.rows import Kept
from greyfell.web import clue_form as boxes
from greyfell.web.clue_form import Box
from greyfell.web.drawings.bundle import bundle
from greyfell.web.drawings.nameplate import nameplate, outputs_words
from greyfell.web.drawings.section import section
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Shown

MOST_TOUCH = 40
LEAD_BOX = re.compile(r"lead_([A-Za-z0-9]{1,8})_\w+")


class CluesShown(Shown, frozen=True, kw_only=True):
    """What clues tell: kinds they speak for, what else would, the plate explained."""

    seen: ModuleType
    odds: list[Moved]
    expected: Bundle | None
    explained: Explained | None
    look_cautions: tuple[str, ...]
    cut_cautions: tuple[str, ...]


def clues_shown(piece: Kept) -> CluesShown:
    """What the station shows as long as the record stands."""
    ident = piece.ident
    plate = piece.record.nameplate
    return CluesShown(
        seen=boxes,
        odds=moved(piece.document),
        expected=bundle_of(ident),
        explained=explain_plate(plate.text) if plate is not None and plate.text else None,
        look_cautions=said_at("look"),
        cut_cautions=said_at("cut free"),
    )


def touched_by(field: str) -> str:
    """What is touched where a box was refused: the box itself, or its lead."""
    lead = LEAD_BOX.fullmatch(field)
    if lead is not None:
        return lead.group(1)
    return field.replace("nameplate.", "plate.").replace(".", "_")


class TouchedShown(Shown, frozen=True, kw_only=True):
    """The drawings of the clues, with what is touched on them; another touch is another picture."""

    touch: str
    touched_leads: list[Lead]
    metal: list[str]
    touched_box: Box | None
    bundle: Drawing
    section: Drawing
    nameplate: Drawing
    outputs_words: str


def _bundle_shown(piece: Kept, here: list[str]) -> Drawing:
    wound = [w.coil.members for w in piece.ident.windings]
    read = {x for members in wound for x in members}
    expected = bundle_of(piece.ident)
    return bundle(
        piece.record.leads,
        wound,
        proposals(piece.record, read),
        "-".join(here),
        missing=expected.missing if expected is not None else (),
    )


def touched_shown(piece: Kept, touch: str) -> TouchedShown:
    """The drawings of the clues, with what is touched on them; another touch is another picture."""
    record, ident = piece.record, piece.ident
    touch = touch[:MOST_TOUCH]
    ids = [lead.id for lead in record.leads]
    here = [x for x in touch.split("-") if x in ids][:2]
    box = boxes.BOXES.get(touch)
    return TouchedShown(
        touch=touch,
        touched_leads=[lead for x in here for lead in record.leads if lead.id == x],
        metal=[x for lead in record.leads if [lead.id] == here for x in telling(ident, lead)],
        touched_box=box if box is not None and not box.choices else None,
        bundle=_bundle_shown(piece, here),
        section=section(record.core, touch),
        nameplate=nameplate(record.nameplate, touch),
        outputs_words=outputs_words(record.nameplate),
    )
