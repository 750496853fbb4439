"""What a plate allows on this supply: volts per hertz decides, not volts."""

from dataclasses import dataclass

from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts

FLUX_CAUTION = 1.0
"""Above the plate's flux iron runs hotter and draws more; from a tenth above it is not fed. IEC
61558-1 tests at 1.06 of the volts; common practice."""
OPEN_OVER_RATED = (1.03, 1.07, 1.12)
"""Open volts over loaded ones of a rated winding: least, usual, most. Common practice."""
KINDS = ("rated", "sign")
BONDS = ("none", "middle", "end")


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """What the plate says, and the supply: volts and amps RMS, hertz."""

    supply_volts: Quantity = asked(
        "Supply", "V", above=0, at_most=1e5, slide=(90, 250), start=starts.supply_volts
    )
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    plate_volts: float = asked("Plate: volts", "V", above=0, at_most=1e5, start=starts.plate_volts)
    plate_hertz: tuple[float, ...] = asked(
        "Plate: hertz",
        "Hz",
        at_least=1,
        at_most=1000,
        start=starts.plate_hertz,
        help="one, or several: the lowest counts",
    )
    plate_secondary_volts: float | None = asked(
        "Plate: output volts",
        "V",
        default=None,
        above=0,
        at_most=1e6,
        start=starts.plate_secondary_volts,
    )
    plate_secondary_amps: float | None = asked(
        "Plate: output amps",
        "A",
        default=None,
        above=0,
        at_most=1e5,
        start=starts.plate_secondary_amps,
    )
    plate_kind: str = asked(
        "Its output volts are",
        default="rated",
        choices=KINDS,
        start=starts.plate_kind,
        help="rated: under load; sign: open",
    )
    bond: str = asked("Output bonded to the case", default="none", choices=BONDS)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Flux against the plate's, the most volts it bears, and what it puts out."""

    flux_ratio: Quantity = shown("Flux over the plate's", lead=True)
    most_volts: Quantity = shown("Most volts at this frequency", "V")
    plate_volts_per_hertz: Quantity = shown("Plate, volts per hertz", "V/Hz")
    supply_volts_per_hertz: Quantity = shown("Supply, volts per hertz", "V/Hz")
    secondary_volts: Quantity | None = shown("Output, loaded", "V")
    open_volts: Quantity | None = shown("Output, open", "V")
    end_to_case_volts: Quantity | None = shown("An end to the case", "V")
    short_amps: Quantity | None = shown("Output, shorted", "A")
    plate_voltamperes: Quantity | None = shown("Plate, VA", "VA")


def work(given: Given) -> Found:
    """Flux follows volts per hertz: B2/B1 = (V2/V1)(f1/f2). REF-M-03.

    Volts and amps RMS, hertz; of several plate hertz the lowest counts. A sign part's plate tells
    open volts and what flows shorted; a rated part's tells loaded volts. Common practice.

    >>> from greyfell.core.figures.quantity import exact
    >>> supply = {"supply_volts": exact(230.0), "supply_hertz": 50.0}
    >>> given = Given(plate_volts=120.0, plate_hertz=(60.0,), **supply)
    >>> round(work(given).flux_ratio.value, 2)
    2.3
    """
    volts, hertz = given.plate_volts, min(given.plate_hertz)
    plate, supply = volts / hertz, given.supply_hertz
    per_hertz = _scaled(given.supply_volts, 1 / supply, "V/f")
    flux = _scaled(per_hertz, 1 / plate, "REF-M-03")
    turns = _scaled(given.supply_volts, 1 / volts, "plate")
    loaded, open_volts = _output(given, turns)
    amps = given.plate_secondary_amps
    to_case = {"none": None, "middle": 0.5, "end": 1.0}[given.bond]
    case = None
    if open_volts is not None and to_case is not None:
        case = _scaled(open_volts, to_case, f"bonded at the {given.bond}")
    rated_va = None
    if amps is not None and given.plate_secondary_volts is not None:
        rated_va = exact(given.plate_secondary_volts * amps, "plate")
    shorted = _scaled(flux, amps, "plate") if amps is not None and _sign(given) else None
    return Found(
        flux_ratio=flux,
        most_volts=exact(volts * supply / hertz, "plate", "REF-M-03"),
        plate_volts_per_hertz=exact(plate, "plate"),
        supply_volts_per_hertz=per_hertz,
        secondary_volts=loaded,
        open_volts=open_volts,
        end_to_case_volts=case,
        short_amps=shorted,
        plate_voltamperes=rated_va,
    )


def _sign(given: Given) -> bool:
    return given.plate_kind == "sign"


def _output(given: Given, turns: Quantity) -> tuple[Quantity | None, Quantity | None]:
    """Output volts on this supply, loaded and open; what the plate does not tell is left out."""
    if given.plate_secondary_volts is None:
        return None, None
    told = _scaled(turns, given.plate_secondary_volts, "turns ratio of the plate")
    if _sign(given):
        return None, told
    least, usual, most = OPEN_OVER_RATED
    over = Quantity(usual, least, most, ("open over rated, common practice",))
    return told, corners(lambda v, k: v * k, told, over)


def _scaled(q: Quantity, factor: float, basis: str) -> Quantity:
    """A range times a number."""
    return Quantity(q.value * factor, q.low * factor, q.high * factor, (*q.basis, basis))


NAMEPLATE = Planner(
    name="nameplate",
    title="Nameplate",
    purpose="What a plate allows on this supply, and what comes out: volts per hertz decides.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="B2/B1 = (V2/V1)·(f1/f2)",
        source="REF-M-03",
        put="({supply_volts}/{plate_volts}) · ({plate_hertz}/{supply_hertz}) = {flux_ratio}",
    ),
    cautions=(
        Caution(
            code="over-flux",
            severity="stop",
            sentence=(
                "{flux_ratio} times the plate's flux: the iron saturates, the current runs away "
                "and the winding burns. Feed it at most {most_volts}."
            ),
            when=lambda given, found: found.flux_ratio.value >= MOST_FLUX,
        ),
        Caution(
            code="more-flux",
            severity="caution",
            sentence=(
                "{flux_ratio} times the plate's flux: hotter iron and more current at no load. "
                "{most_volts} is what the plate entitles it to."
            ),
            when=lambda given, found: FLUX_CAUTION < found.flux_ratio.value < MOST_FLUX,
        ),
        Caution(
            code="case-live",
            severity="caution",
            sentence="{end_to_case_volts} stand between an end and the case: the case is earthed.",
            when=lambda given, found: found.end_to_case_volts is not None,
        ),
        Caution(
            code="any-voltage",
            severity="note",
            sentence=(
                "A plate may be another's: trust readings over it, and read a ratio at a few volts."
            ),
        ),
    ),
    example={
        "supply_volts": 120.0,
        "supply_hertz": 50.0,
        "plate_volts": 120.0,
        "plate_hertz": [50.0, 60.0],
        "plate_secondary_volts": 12000.0,
        "plate_secondary_amps": 0.03,
        "plate_kind": "sign",
        "bond": "middle",
    },
    checks=(
        Check(
            given={
                "supply_volts": 120.0,
                "supply_hertz": 50.0,
                "plate_volts": 120.0,
                "plate_hertz": 60.0,
            },
            expected={"flux_ratio": 1.2, "most_volts": 100.0},
            source="REF-M-03, by hand: 60/50 of the flux, so 120 V · 50/60",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "plate_volts": 220.0,
                "plate_hertz": 50.0,
            },
            expected={"flux_ratio": 1.04545},
            source="REF-M-03, by hand: 230/220",
        ),
    ),
)
