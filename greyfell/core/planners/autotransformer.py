"""A winding in series with another: what passes through, and what the common part carries."""

from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The two voltages RMS, and the volt-amperes that the winding in series was made for."""

    low_volts: Quantity = asked("Low side", "V", above=0, at_most=1e5, slide=(12, 400), chosen=True)
    high_volts: Quantity = asked(
        "High side", "V", above=0, at_most=1e5, slide=(12, 400), chosen=True
    )
    winding_voltamperes: Quantity = asked(
        "Rating of the series winding", "VA", above=0, at_most=1e7
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Volt-amperes through it, amps of the common part, how many times its own rating."""

    through_voltamperes: Quantity = shown("Passes through it", "VA", lead=True)
    common_amps: Quantity = shown("The common part carries", "A")
    gain: Quantity = shown("times its own rating")


def work(given: Given) -> Found:
    """S = S_w·V_high/(V_high − V_low); the common part carries I_high·(V_high − V_low)/V_low.
    REF-T-12. VA, A.

    Raises FieldError where the high side is not above the low one.

    >>> from greyfell.core.figures.quantity import exact
    >>> found = work(Given(low_volts=exact(230.0), high_volts=exact(254.0),
    ...                    winding_voltamperes=exact(120.0)))
    >>> round(found.through_voltamperes.value), round(found.common_amps.value, 4)
    (1270, 0.5217)
    """
    if given.high_volts.low <= given.low_volts.high:
        raise FieldError("high_volts", "The high side must lie above the low one, range and all.")
    sides = (given.high_volts, given.low_volts)
    gain = corners(lambda h, low: h / (h - low), *sides)
    through = corners(lambda h, low, s: s * h / (h - low), *sides, given.winding_voltamperes)
    common = corners(
        lambda h, low, s: s * h / (h - low) * (1 / low - 1 / h), *sides, given.winding_voltamperes
    )
    return Found(through_voltamperes=through, common_amps=common, gain=gain)


AUTOTRANSFORMER = Planner(
    name="autotransformer",
    title="An autotransformer",
    purpose="What passes through two windings in series, and what the common one carries.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="S = S_w·V_high/(V_high − V_low)",
        source="REF-T-12",
        put="{low_volts} and {high_volts} from {winding_voltamperes}: {through_voltamperes}",
    ),
    cautions=(
        Caution(
            code="no-isolation",
            severity="caution",
            sentence=(
                "It isolates nothing: with the common part open the low side stands at the high "
                "one's volts, and every point may be live to earth."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.UNSETTLED, starts.DOUBTFUL),
    example={"low_volts": 115.0, "high_volts": 230.0, "winding_voltamperes": 250.0},
    checks=(
        Check(
            given={"low_volts": 230.0, "high_volts": 254.0, "winding_voltamperes": 120.0},
            expected={"through_voltamperes": 1270.0, "common_amps": 0.5217, "gain": 10.58},
            source="REF-T-12a, REF-T-12b",
            rel=1e-3,
        ),
        Check(
            given={"low_volts": 115.0, "high_volts": 230.0, "winding_voltamperes": 500.0},
            expected={"through_voltamperes": 1000.0, "gain": 2.0, "common_amps": 4.348},
            source="REF-T-12, by hand: half of it is transformed",
            rel=1e-3,
        ),
    ),
)
