"""What may feed a piece whose plate tells other volts or hertz: every source on hand, with flux,
voltamperes, and what then stands at each terminal.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from greyfell.core.evidence.stores import Item
from greyfell.core.figures.limits import MAINS_RISE, MOST_FLUX
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, OnHand, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import starts
from greyfell.core.planners.nameplate import FLUX_CAUTION

NEAR_HALF = 0.05
"""Two like halves in series bear twice the plate's volts; the supply may be so much above."""
LEAST_SHARE = 0.5
"""Below this share of the plate's volts a source is not worth naming."""
DIAL_TOP = 1.17


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The plate, the supply at the wall, what the piece puts out and how it is bonded, and the
    stores.
    """

    plate_volts: Quantity = asked("Plate volts", "V", above=0, at_most=1e5)
    plate_hertz: float = asked("Plate hertz", "Hz", above=0, at_most=1e4, start=starts.plate_hertz)
    plate_voltamperes: float | None = asked(
        "Plate voltamperes", "VA", default=None, above=0, at_most=1e7
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Supply hertz", "Hz", above=0, at_most=1e4, start=starts.supply_hertz
    )
    plate_secondary_volts: float | None = asked(
        "Plate secondary volts",
        "V",
        default=None,
        above=0,
        at_most=1e6,
        start=starts.plate_secondary_volts,
    )
    bond: str = asked("Bonded to the case", default="none", choices=("none", "middle", "end"))
    stores: OnHand = asked("Stores", default=OnHand())


@dataclass(frozen=True, kw_only=True)
class Choice(ShownRow):
    """One source and what it makes of the piece."""

    title: str = shown("Source")
    volts: Quantity = shown("Volts on it", "V")
    flux_ratio: Quantity = shown("Flux, over the plate's")
    voltamperes: Quantity | None = shown("It gives", "VA")
    outputs: str = shown("Comes out")
    to_case_volts: Quantity | None = shown("to the case", "V")
    refused: bool = shown("Refused")
    reason: str = shown("Why")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Sources, best first, and the most volts that the plate allows at this hertz."""

    most_volts: Quantity = shown("The plate allows here", "V", lead=True)
    recommended: str = shown("Take", lead=True)
    choices: tuple[Choice, ...] = shown("Sources")


def work(given: Given) -> Found:
    """Flux ratio (V/f)/(V_p/f_p); the plate's volts scaled by hertz; what a source gives against
    the plate's voltamperes. REF-M-03, REF-T-12. V, Hz, VA.

    >>> told = Given(plate_volts=exact(120.0), plate_hertz=60.0, supply_volts=exact(230.0),
    ...              supply_hertz=50.0)
    >>> found = work(told)
    >>> round(found.most_volts.value, 9), found.recommended
    (100.0, 'nothing on hand')
    """
    scale = given.supply_hertz / given.plate_hertz
    most = corners(lambda v: v * scale, given.plate_volts)
    choices = [_direct(given, most), *_halves(given, most)]
    for item in given.stores.of("variac"):
        choices.append(_dial(given, most, item))
    for item in given.stores.of("source"):
        choices += _source(given, most, item)
    choices.sort(key=lambda c: (c.refused, abs(c.flux_ratio.value - 1)))
    best = choices[0] if not choices[0].refused else None
    return Found(
        most_volts=Quantity(most.value, most.low, most.high, ("REF-M-03",)),
        recommended="nothing on hand" if best is None else best.title,
        choices=tuple(choices),
    )


def _choice(
    given: Given, most: Quantity, title: str, volts: Quantity, gives: float | None, reason: str
) -> Choice:
    """A source with so many volts: refused for its flux or its voltamperes."""
    flux = corners(lambda v, m: v / m, volts, most)
    refused, why = False, reason
    if flux.value >= MOST_FLUX:
        refused, why = True, f"flux {flux.value:.2f} times the plate's: it saturates and burns"
    elif flux.value < LEAST_SHARE:
        refused, why = True, f"only {flux.value:.0%} of its volts"
    elif gives is not None and given.plate_voltamperes is not None:
        needed = given.plate_voltamperes * min(flux.value, 1.0)
        if gives < needed:
            said = f"{engineering(gives, 'VA')} of the {engineering(needed, 'VA')} it may take"
            refused, why = True, said
    share = flux.value * given.supply_hertz / given.plate_hertz
    return Choice(
        title=title,
        volts=volts,
        flux_ratio=flux,
        voltamperes=None if gives is None else exact(gives, "stores"),
        outputs=_outputs(given, share),
        to_case_volts=_case(given, share),
        refused=refused,
        reason=why,
    )


def _outputs(given: Given, share: float) -> str:
    """What its terminals give, in words."""
    if given.plate_secondary_volts is None:
        return f"{share:.0%} of every volt on its plate"
    volts = given.plate_secondary_volts * share
    return f"{engineering(volts, 'V')}, {share:.0%} of its plate's"


def _case(given: Given, share: float) -> Quantity | None:
    """An end to the case, at a line 10 % up at most."""
    if given.plate_secondary_volts is None:
        return None
    part = {"none": 1.0, "middle": 0.5, "end": 1.0}[given.bond]
    volts = given.plate_secondary_volts * share * part
    low = 0.0 if given.bond == "none" else volts * 0.9
    return Quantity(volts, low, volts * MAINS_RISE, (f"bond {given.bond}",))


def _direct(given: Given, most: Quantity) -> Choice:
    """The wall as it is."""
    reason = "as its plate says" if given.supply_volts.value <= most.value else "hotter: time it"
    return _choice(given, most, "the supply itself", given.supply_volts, None, reason)


def _halves(given: Given, most: Quantity) -> Iterator[Choice]:
    """Two like halves in series, where the supply is about twice the plate."""
    half = corners(lambda v: v / 2, given.supply_volts)
    if LEAST_SHARE <= half.value / most.value <= 1 + NEAR_HALF:
        reason = "only where it has two like primary halves, their polarity proved"
        yield _choice(given, most, "two halves in series", half, None, reason)


def _dial(given: Given, most: Quantity, item: Item) -> Choice:
    """A variac with a stop on its dial."""
    line = given.supply_volts.value
    top = DIAL_TOP * line
    volts = min(most.value, top)
    gives = item.figures["brush_amps"] * volts
    reason = f"a mechanical stop at {engineering(volts, 'V')}, measured before it is believed"
    return _choice(given, most, f"{item.title}, with a stop", exact(volts, "dial"), gives, reason)


def _source(given: Given, most: Quantity, item: Item) -> Iterator[Choice]:
    """An isolated source as it is, and as a bucking or boosting winding in the line."""
    if item.figures.get("current") == "DC":
        return
    volts, amps = item.figures["volts"], item.figures.get("amps")
    gives = None if amps is None else amps * volts
    alone = "it isolates too" if gives is not None else "what it gives is not known"
    if volts >= LEAST_SHARE * most.value:
        yield _choice(given, most, item.title, exact(volts, "stores"), gives, alone)
    bucked = corners(lambda v: v - volts, given.supply_volts)
    if LEAST_SHARE * most.value <= bucked.value < given.supply_volts.value:
        through = None if amps is None else amps * bucked.value
        reason = "bucking, polarity proved first; it no longer isolates"
        yield _choice(given, most, f"line less {item.title}", bucked, through, reason)


FEED = Planner(
    name="feed",
    title="What may feed it",
    purpose="For a plate of other volts or hertz: every source on hand that may feed it.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="flux = (V/f)/(V_plate/f_plate)",
        source="REF-M-03, REF-T-12, IEC 60038",
        put="{plate_volts} at {plate_hertz} is {most_volts} at {supply_hertz}: {recommended}",
    ),
    cautions=(
        Caution(
            code="none-may",
            severity="stop",
            sentence=(
                "Nothing on hand may feed it: its plate allows {most_volts} here, and the supply "
                "has {supply_volts}."
            ),
            when=lambda given, found: found.choices[0].refused,
        ),
        Caution(
            code="hotter",
            severity="caution",
            sentence="The best of them drives it above its plate's flux: minutes, and watched.",
            when=lambda given, found: (
                not found.choices[0].refused and found.choices[0].flux_ratio.value > FLUX_CAUTION
            ),
        ),
        Caution(
            code="stop-is-mechanical",
            severity="caution",
            sentence=(
                "A dial is stopped by something that cannot slip; a mark on it is none. It "
                "isolates nothing."
            ),
            when=lambda given, found: any("with a stop" in c.title for c in found.choices),
        ),
        Caution(
            code="case",
            severity="caution",
            sentence="The case is earthed before it is fed, and its bond read.",
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.UNSETTLED, starts.DOUBTFUL),
    example={
        "plate_volts": 120.0,
        "plate_hertz": 60.0,
        "plate_voltamperes": 450.0,
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "plate_secondary_volts": 9000.0,
        "bond": "middle",
        "stores": [
            {"id": "V", "kind": "variac", "title": "dial", "brush_amps": 8, "line_volts": 230},
            {
                "id": "T",
                "kind": "source",
                "title": "site transformer 110 V",
                "volts": 110,
                "amps": 13,
                "current": "AC",
            },
        ],
    },
    checks=(
        Check(
            given={
                "plate_volts": 120.0,
                "plate_hertz": 60.0,
                "supply_volts": 100.0,
                "supply_hertz": 50.0,
            },
            expected={
                "most_volts": 100.0,
                "choices.0.flux_ratio": 1.0,
                "recommended": "the supply itself",
            },
            source="REF-M-03b: 120 V 60 Hz and 100 V 50 Hz are the same flux",
        ),
        Check(
            given={
                "plate_volts": 120.0,
                "plate_hertz": 60.0,
                "supply_volts": 120.0,
                "supply_hertz": 50.0,
            },
            expected={"choices.1.flux_ratio": 1.2, "choices.1.refused": True},
            source="REF-M-03a: 1.55 T become 1.86 T",
        ),
    ),
)
