"""Everything that can hurt at a piece: who touches what, what each single failure makes of it, and
every danger in its order, with a use or an act besides.
"""

from typing import Any

from flask import Response, jsonify, request

from greyfell.core.dangers.contacts import Contact, after_failures, contacts
from greyfell.core.dangers.listing import dangers
from greyfell.core.dangers.of_act import ACTS
from greyfell.core.dangers.rule import NEAR, STOP, Danger
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.record import Transformer
from greyfell.core.uses.all_uses import USES, use_of
from greyfell.core.uses.catalogue import Use
from greyfell.records.rows import Kept
from greyfell.web.drawings.contacts import contacts_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page
from greyfell.web.support import drawn, kept

MOST_ROWS = 14


class DangersPage(Page, frozen=True, kw_only=True):
    """All that can hurt, in its order, and who touches what; to look at and to print."""

    template = "dangers.html"
    record: Transformer
    groups: list[tuple[str, list[Danger]]]
    contacts: list[Contact]
    left: int
    failures: list[Contact]
    drawing: Drawing
    uses: tuple[Use, ...]
    acts: tuple[str, ...]
    use: str
    act: str


def show(tag: str) -> Any:
    """The page, to look at and to print."""
    piece = kept(tag)
    scene = _scene(piece)
    found = drawn(piece, "contacts", lambda: contacts(piece.ident))
    told = dangers(scene)
    first = [d for d in told if d.severity == STOP] or told[:1]

    def rest_of(near: str) -> list[Danger]:
        return [d for d in told if d.near == near and d not in first]

    return DangersPage(
        record=piece.record,
        groups=[("first of all", first), *((near, rest_of(near)) for near in NEAR)],
        contacts=found[:MOST_ROWS],
        left=max(0, len(found) - MOST_ROWS),
        failures=after_failures(piece.ident),
        drawing=contacts_drawing(found),
        uses=USES,
        acts=ACTS,
        use=scene.plan.use if scene.plan is not None else "",
        act=scene.act,
    ).render()


def document(tag: str) -> Response:
    """The same as JSON."""
    piece = kept(tag)
    return jsonify(
        dangers=[d.as_json() for d in dangers(_scene(piece))],
        contacts=[c.as_json() for c in contacts(piece.ident)],
        after_failures=[c.as_json() for c in after_failures(piece.ident)],
    )


def _scene(piece: Kept) -> Scene:
    """The piece with the use and the act that are asked for; what is none is left out."""
    use = use_of(request.args.get("use", ""))
    act = request.args.get("act", "")
    plan = None if use is None else use.plan()
    return Scene(ident=piece.ident, plan=plan, act=act if act in ACTS else "")
