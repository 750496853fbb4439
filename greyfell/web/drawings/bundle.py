"""The bundle: every lead as it lies on the bench, in its colour and stripe, as thick as it is, with
its end; pairs that are known drawn through, pairs that are proposed dotted. Each is a link.
"""

from collections.abc import Sequence

from greyfell.core.evidence.record import Lead
from greyfell.core.figures.notation import as_read
from greyfell.core.telling.lead_bundle import Proposal
from greyfell.web.drawings.marks import colour_class
from greyfell.web.drawings.shapes import Drawing, Shape, circle, group, line, path, rect, text

WIDE, ROW, TOP = 640.0, 32.0, 24.0
FROM, TO, RING = 92.0, 250.0, 300.0
THIN, THICK = 3.0, 13.0
USUAL_MM = 1.0


def bundle(
    leads: Sequence[Lead],
    pairs: Sequence[tuple[str, ...]],
    proposed: Sequence[Proposal],
    touched: str,
    missing: Sequence[str] = (),
) -> Drawing:
    """The leads one below the other, the one touched marked; below them, dotted, those that the
    expected bundle has and the bench has not.
    """
    rows = len(leads) + len(missing)
    drawing = Drawing(WIDE, TOP + ROW * rows + 8, "The bundle", f"{len(leads)} leads.")
    at = {lead.id: TOP + ROW * (n + 0.5) for n, lead in enumerate(leads)}
    bottom = TOP + ROW * len(leads)
    drawing.add(rect(58, TOP, 34, bottom - TOP, "bundle-sheath"))
    for n, pair in enumerate(pairs):
        drawing.add(*_bracket([at[x] for x in pair if x in at], 44 - 12 * (n % 3), "bundle-wound"))
    for proposal in proposed:
        drawing.add(*_bracket([at[x] for x in proposal.leads], 20, "bundle-maybe"))
    for lead in leads:
        drawing.add(_strand(lead, at[lead.id], touched))
        said = text(RING + 48, at[lead.id] + 5, _words(lead), "t t-small words-over")
        drawing.add(said)
    for n, words in enumerate(missing, len(leads)):
        y = TOP + ROW * (n + 0.5)
        drawing.add(
            line(FROM, y, TO, y, "bundle-maybe"), circle(RING + 24, y, 13, "ring ring-loose")
        )
        drawing.add(
            text(RING + 48, y + 5, f"expected: {words}"[:MOST_LETTERS], "t t-small t-assumed")
        )
    drawing.add(text(58, 16, "touch a lead", "t t-small quiet"))
    return drawing


def _bracket(places: list[float], x: float, look: str) -> list[Shape]:
    """What joins the leads of one winding, at the bundle's other side."""
    if len(places) < 2:
        return []
    low, high = min(places), max(places)
    arms = "".join(f"M58 {y:.1f}H{x:.1f}" for y in places)
    return [path(f"{arms}M{x:.1f} {low:.1f}V{high:.1f}", look)]


def _strand(lead: Lead, y: float, touched: str) -> Shape:
    """One lead: sheath to end to ring, and what is known of it in words."""
    thick = min(THICK, THIN + 3.2 * (lead.wire_mm or USUAL_MM))
    colour = f"lead {colour_class(lead.colour)}"
    parts = [
        rect(56, y - ROW / 2 + 1, WIDE - 60, ROW - 2, "bundle-row"),
        line(FROM, y, TO, y, "lead-edge", **{"stroke-width": thick + 2}),
        line(FROM, y, TO, y, colour, **{"stroke-width": thick}),
    ]
    if lead.stripe:
        stripe = f"lead {colour_class(lead.stripe)} bundle-stripe"
        parts.append(line(FROM, y, TO, y, stripe, **{"stroke-width": max(2.0, thick / 3)}))
    parts += _end(lead.end or "", y)
    look = "ring ring-wanted" if lead.id in touched.split("-") else "ring"
    long = " t-ring-long" if len(lead.id) > 2 else ""
    parts += [
        circle(RING + 24, y, 13, look),
        text(RING + 24, y + 5, lead.id, f"t t-ring{long}", "middle"),
    ]
    label = f"{lead.id}: {_words(lead)}"
    return group("bundle-lead", *parts, link=f"?at=clues&touch={lead.id}#touched", label=label)


def _words(lead: Lead) -> str:
    """What is known of it, in the fewest words."""
    colour = f"{lead.colour}/{lead.stripe}" if lead.stripe else lead.colour
    wire = as_read(lead.wire_mm, "mm") if lead.wire_mm else None
    twist = f"with {lead.twisted_with}" if lead.twisted_with else None
    known = [colour, lead.end, wire, lead.place, twist, lead.material, lead.damage]
    told = ", ".join(x for x in known if x)
    return told if len(told) <= MOST_LETTERS else told[: MOST_LETTERS - 1] + "…"


MOST_LETTERS = 42


def _strands(x: float, y: float) -> list[Shape]:
    ends = ((x + 20, y - 4), (x + 22, y), (x + 20, y + 4))
    return [line(x, y, to, across, "part-line") for to, across in ends]


def _screw(x: float, y: float) -> list[Shape]:
    slot = line(x + 11, y + 5, x + 21, y - 5, "part-line")
    head = circle(x + 16, y, 8, "part-metal")
    return [rect(x, y - 3, 10, 6, "part-metal"), head, slot]


def _end(end: str, y: float) -> list[Shape]:
    """How it ends: a tab, an eye, a screw, a pin, a bushing, bare strands."""
    x = TO
    if end == "flying":
        return _strands(x, y)
    if end == "screw":
        return _screw(x, y)
    shapes = {
        "tab": [rect(x, y - 5, 22, 10, "part-metal"), circle(x + 15, y, 2, "part-body")],
        "lug": [line(x, y, x + 8, y, "part-line"), circle(x + 15, y, 7, "part-metal")],
        "pin": [rect(x, y - 2, 24, 4, "part-metal")],
        "bushing": [
            rect(x, y - 9, 22, 18, "part-body"),
            rect(x + 22, y - 4, 12, 8, "part-metal"),
        ],
    }
    return shapes.get(end, [line(x, y, x + 20, y, "bundle-maybe")])
