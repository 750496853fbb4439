"""The bench from the wall to the piece, as a form over the stores: what is chosen becomes the
set-up that the record keeps, and what is wrong in it is said on the drawing.
"""

from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.bench.kept_setup import KeptSetup, standing_setup
from greyfell.core.bench.piece_on_bench import needs_of
from greyfell.core.bench.setup import BOTH, LINE, NEUTRAL, Attached, BenchPart, Setup, parse_setup
from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Meter
from greyfell.core.evidence.stores import Item
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.lamps import BRIGHT_PROVES, DARK_PROVES, Lamps, lamps_of
from greyfell.records.rows import Kept
from greyfell.web.drawings.setup import setup_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Shown
from greyfell.web.stores import stores
from greyfell.web.support import drawn


class Place(Struct, frozen=True, kw_only=True):
    """One place of the bench, in its order from the wall: its name in the form, its words, the
    kinds of the stores that may stand there, and the conductor they stand in.
    """

    name: str
    words: str
    kinds: tuple[str, ...]
    where: str = BOTH


PLACES = (
    Place(name="rcd", words="Residual-current device", kinds=("residual-current-device",)),
    Place(name="guard", words="Fuse or breaker", kinds=("fuse", "breaker"), where=LINE),
    Place(name="switch", words="Switch", kinds=("switch",)),
    Place(name="wattmeter", words="Wattmeter", kinds=("wattmeter",)),
    Place(name="dial", words="Variac", kinds=("variac",)),
    Place(name="brush", words="Fuse at its brush", kinds=("fuse",), where=LINE),
    Place(name="limiter", words="Limiter", kinds=("lamp", "heater", "ballast")),
    Place(name="source", words="or an isolated source instead of the line", kinds=("source",)),
)
PLUGS = {
    "reversible": "goes in both ways",
    "proved": "both ways, its line proved today",
    "fixed": "goes in one way",
}
SIDES = {NEUTRAL: "not known, or in the neutral", LINE: "in the line conductor, proved"}
HELD = {"clips": "clipped on before power", "hand": "held by hand"}
KINDS = tuple(dict.fromkeys(kind for place in PLACES for kind in place.kinds))


def setup_of(
    form: Any, ident: Identification, on_hand: Sequence[Item], hand: Sequence[Meter]
) -> Setup:
    """The set-up a form tells. Raises FieldError that names the box."""
    leads = [x.id for x in ident.record.leads]
    by_id = {i.id: i for i in on_hand}
    document = Setup(
        fed=_pair(form.get("fed", ""), "fed"),
        plug=form.get("plug") or "reversible",
        earthed="earthed" in form,
        chain=tuple(_chain(form, by_id)),
        meters=tuple(_meters(form, hand)),
        earth=("core",) if "bond" in form else (),
        covered=tuple(x for x in leads if f"cover_{x}" in form),
        hands_off="hands_off" in form,
    ).as_json()
    return parse_setup(document, leads)


def _pair(text: str, name: str) -> tuple[str, str]:
    """Two points as they are typed. Raises FieldError."""
    points = text.replace("–", "-").strip().split("-")
    if len(points) != 2:
        raise FieldError(name, f"Two points are written as A-B; “{text[:20]}” was given.")
    return points[0].strip(), points[1].strip()


def _chain(form: Any, by_id: dict[str, Item]) -> Iterable[BenchPart]:
    """The elements chosen, from the wall on."""
    for place in PLACES:
        item = by_id.get(form.get(place.name, ""))
        if item is None:
            continue
        where = place.where
        if place.name == "limiter":
            where = LINE if form.get("side") == LINE else NEUTRAL
        figures = {
            k: float(v) for k, v in item.figures.items() if isinstance(v, int | float) and v > 0
        }
        if item.kind.key == "switch":
            figures.setdefault("poles", 1.0)  # not known counts as one
        yield BenchPart(
            id=f"{place.name}:{item.id}",
            kind=item.kind.key,
            where=where,
            figures=figures,
            title=item.title,
            reach=place.name == "switch" and "reach" in form,
            isolated=item.kind.key == "source",
            rcd_type=str(item.figures.get("type", "")),
        )


def _meters(form: Any, hand: Sequence[Meter]) -> Iterable[Attached]:
    """Meters that were put on two points. Raises FieldError."""
    for m in hand:
        at = form.get(f"meter_{m.id}", "").strip()
        if at:
            yield Attached(
                id=m.id,
                at=_pair(at, f"meter_{m.id}"),
                held=form.get(f"held_{m.id}") or "hand",
                volts=m.max_volts_ac,
                category=m.category,
                title=m.title,
            )


class SetupShown(Shown, frozen=True, kw_only=True):
    """What first power shows of the bench: the drawing, what is wrong, the form, and the lamps."""

    setup: Setup | None
    standing: KeptSetup | None
    setup_drawing: Drawing | None
    places: list[tuple[Place, dict[str, str], str]]
    plugs: dict[str, str]
    sides: dict[str, str]
    held: dict[str, str]
    ends: list[str]
    fed_pair: str
    side: str
    metered: dict[str, Attached]
    lamps: Lamps | None
    proves: tuple[str, ...]


def setup_shown(piece: Kept) -> SetupShown:
    """What first power shows of the bench: the drawing, what is wrong, the form, and the lamps."""
    ident = piece.ident
    on_hand = stores().of(KINDS)
    standing = drawn(piece, "setup", lambda: standing_setup(ident))
    setup = standing.setup if standing is not None else None
    wrongs = standing.wrongs if standing is not None else ()
    needs = drawn(piece, "needs", lambda: needs_of(ident))
    fed = setup.fed if setup is not None else _fed(ident)
    return SetupShown(
        setup=setup,
        standing=standing,
        setup_drawing=setup_drawing(setup, wrongs, needs) if setup else None,
        places=[(p, {i.id: _called(i) for i in _fit(p, on_hand)}, _at(setup, p)) for p in PLACES],
        plugs=PLUGS,
        sides=SIDES,
        held=HELD,
        ends=sorted(needs.ends - set(fed)),
        fed_pair="-".join(fed),
        side=_side(setup),
        metered={m.id: m for m in setup.meters} if setup else {},
        lamps=drawn(piece, f"lamps {_lamps(on_hand)}", lambda: lamps_of(ident, on_hand)),
        proves=(BRIGHT_PROVES, DARK_PROVES),
    )


def _lamps(on_hand: Sequence[Item]) -> str:
    """The lamps on hand, by which what they show is kept in mind."""
    held = {i.figures["watts"] for i in on_hand if i.kind.key == "lamp" and i.count}
    return " ".join(f"{w:g}" for w in sorted(held))


def _side(setup: Setup | None) -> str:
    """The conductor that the limiter stands in."""
    chain = setup.chain if setup else ()
    return next((e.where for e in chain if e.id.startswith("limiter:")), NEUTRAL)


def _fed(ident: Identification) -> Sequence[str]:
    """The two points that the line goes on."""
    fed = ident.belief.fed
    return (fed[0], fed[-1]) if len(fed) >= 2 else ()


def _fit(place: Place, on_hand: Sequence[Item]) -> list[Item]:
    return [i for i in on_hand if i.kind.key in place.kinds and i.count and not i.gone]


def _called(item: Item) -> str:
    return f"{item.title}, {item.lead}" if item.lead != item.title else item.title


def _at(setup: Setup | None, place: Place) -> str:
    """Which entry of the stores stands at a place."""
    chain = setup.chain if setup else ()
    found = next((e.id for e in chain if e.id.startswith(f"{place.name}:")), "")
    return found.partition(":")[2]
