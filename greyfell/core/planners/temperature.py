"""Winding temperature by resistance: hot ohms against cold ones."""

from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.figures.wire import HOT_SPOT_KELVIN, METALS
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners.starts import primary_ohms

BASIS = ("REF-W-03",)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Ohms of one winding cold and hot, °C, and its metal."""

    hot_ohms: Quantity = asked("Ohms, hot", "Ω", above=0, at_most=1e6, slide=(0.1, 100))
    cold_ohms: Quantity = asked("Ohms, cold", "Ω", above=0, at_most=1e6, start=primary_ohms)
    cold_celsius: float = asked("at this temperature", "°C", at_least=-40, at_most=80)
    ambient_celsius: float | None = asked(
        "Air when read hot",
        "°C",
        default=None,
        at_least=-40,
        at_most=80,
        help="as cold where not given",
    )
    material: str = asked("Metal", default="copper", choices=tuple(METALS))
    limit_celsius: float = asked(
        "Insulation's limit",
        "°C",
        default=105.0,
        at_least=40,
        at_most=250,
        help="class A, enamel and paper of older iron",
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Mean winding temperature, its rise, what is left to the limit, and the hottest place."""

    hot_celsius: Quantity = shown("Mean of the winding", "°C", lead=True)
    rise_kelvin: Quantity = shown("Rise over the air", "K")
    headroom_kelvin: Quantity = shown("Left to the limit", "K")
    hot_spot_celsius: Quantity = shown("Hottest place, about", "°C")


def work(given: Given) -> Found:
    """Δt = (R2 − R1)/R1·(k + t1) − (t2 − t1), in K; hot = ambient + Δt. REF-W-03, IEC 60335-1 cl.
    11.

    Ohms and °C; valid within seconds of switching off. Limits at their worst.

    >>> from greyfell.core.figures.quantity import exact
    >>> cold, hot = exact(1.2), exact(1.44)
    >>> given = Given(hot_ohms=hot, cold_ohms=cold, cold_celsius=22.0, ambient_celsius=25.0)
    >>> round(work(given).rise_kelvin.value, 1)
    48.3
    """
    k = METALS[given.material].t0
    t1 = given.cold_celsius
    t2 = t1 if given.ambient_celsius is None else given.ambient_celsius

    def rise_of(hot: float, cold: float) -> float:
        return (hot - cold) / cold * (k + t1) - (t2 - t1)

    rise = corners(rise_of, given.hot_ohms, given.cold_ohms)
    mean = Quantity(t2 + rise.value, t2 + rise.low, t2 + rise.high, BASIS)
    least, most = HOT_SPOT_KELVIN
    limit = given.limit_celsius
    return Found(
        hot_celsius=mean,
        rise_kelvin=Quantity(rise.value, rise.low, rise.high, BASIS),
        headroom_kelvin=Quantity(limit - mean.value, limit - mean.high, limit - mean.low, BASIS),
        hot_spot_celsius=Quantity(
            mean.value + (least + most) / 2,
            mean.low + least,
            mean.high + most,
            (*BASIS, "10 to 15 K over the mean"),
        ),
    )


TEMPERATURE = Planner(
    name="temperature",
    title="Temperature",
    purpose="How hot a winding is, by its ohms, and what is left to the limit.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="Δt = (R2 − R1)/R1 · (k + t1) − (t2 − t1)",
        source="REF-W-03",
        put=(
            "({hot_ohms} − {cold_ohms})/{cold_ohms} · (k + {cold_celsius}) = {rise_kelvin}; k is "
            "234.5 for copper, 225 for aluminium"
        ),
    ),
    cautions=(
        Caution(
            code="over-limit",
            severity="caution",
            sentence=(
                "The hottest place is at or over {limit_celsius}: let it cool before the next run, "
                "and run it shorter."
            ),
            when=lambda given, found: found.hot_spot_celsius.high >= given.limit_celsius,
        ),
        Caution(
            code="cooler-than-cold",
            severity="caution",
            sentence="Hot reads less than cold: look at probes, range and which winding was read.",
            when=lambda given, found: given.hot_ohms.value < given.cold_ohms.value,
        ),
        Caution(
            code="unplug",
            severity="note",
            sentence=(
                "Plug out before the ohmmeter goes on, and read within seconds: the copper cools "
                "at once."
            ),
        ),
    ),
    example={"hot_ohms": 1.44, "cold_ohms": 1.2, "cold_celsius": 22.0, "ambient_celsius": 25.0},
    checks=(
        Check(
            given={
                "hot_ohms": 1.44,
                "cold_ohms": 1.2,
                "cold_celsius": 22.0,
                "ambient_celsius": 25.0,
            },
            expected={"rise_kelvin": 48.30},
            source="REF-W-03a",
        ),
        Check(
            given={
                "hot_ohms": 0.63,
                "cold_ohms": 0.5,
                "cold_celsius": 20.0,
                "material": "aluminium",
            },
            expected={"rise_kelvin": 63.70},
            source="REF-W-03b",
        ),
    ),
)
