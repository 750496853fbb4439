"""A capacitor-discharge welder beside the transformer, on the same tips and the same weld: peak,
pulse, what it puts into the spot, how long it takes to charge again.
"""

import cmath
import math
from collections.abc import Callable
from dataclasses import dataclass

from greyfell.core.coil_design.welding import ONE_SIDED, STUFF, TIPS, Job, job
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.never import SAID, Asked
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

WEAK, DOES, BLOWS = "too weak", "does", "may hole it"
EMPTY = 0.05
"""A bank counts as recharged when so much of its volts is missing: three time constants."""
METAL_THROWN = 20.0
"""Joules from which loose tips throw metal. Common practice."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The weld and its tips, the bank and its loop, what charges it; mm, F, V, Ω, H, A."""

    metal: str = asked("Metal", default="nickel", choices=tuple(STUFF))
    thickness_mm: float = asked(
        "Thickness of one sheet", "mm", default=0.15, above=0, at_most=3, slide=(0.05, 0.5)
    )
    tips: str = asked("Tips", default=ONE_SIDED, choices=TIPS)
    spacing_mm: float = asked("Between them", "mm", aside=True, default=8.0, above=0, at_most=200)
    bank_farads: float = asked("Bank", "F", above=0, at_most=1000, slide=(0.1, 5), chosen=True)
    bank_volts: float = asked("charged to", "V", above=0, at_most=100, slide=(3, 40), chosen=True)
    bank_rated_volts: float | None = asked(
        "The bank bears", "V", default=None, above=0, at_most=1000
    )
    bank_ohms: Quantity = asked("Its series resistance", "Ω", at_least=0, at_most=10)
    loop_ohms: Quantity = asked("Switch, cables, tips", "Ω", at_least=0, at_most=10)
    loop_henries: float = asked(
        "The loop's inductance", "H", aside=True, default=1e-6, at_least=0, at_most=1e-3
    )
    charge_amps: float = asked("Charger gives", "A", default=3.0, above=0, at_most=1000)
    bled: bool = asked(SAID["bled"], default=False)
    enclosed: bool = asked(SAID["enclosed"], default=False)
    proved: bool = asked(SAID["proved"], default=False)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Whether the pulse does the weld, peak amps and pulse beside what the job asks for, joules,
    time to charge again.
    """

    verdict: str = shown("The pulse", lead=True)
    peak_amps: Quantity = shown("Peak", "A", lead=True)
    wanted_amps: Quantity = shown("the weld asks for", "A")
    pulse_seconds: Quantity = shown("Pulse, three parts of it", "s")
    wanted_seconds: Quantity = shown("the weld asks for", "s")
    heating: Quantity = shown("Heats by I²·t", "A²s")
    wanted_heating: Quantity = shown("the weld asks for", "A²s")
    stored_joules: Quantity = shown("The bank stores", "J")
    weld_joules: Quantity = shown("of which the spot gets", "J")
    least_volts: Quantity = shown("Does from", "V")
    charge_seconds: Quantity = shown("To charge again", "s")
    transformer: str = shown("By a transformer on the same tips")


def _least_volts(given: Given, heating: Quantity, wanted: Quantity) -> Quantity:
    return corners(lambda h: math.sqrt(wanted.low / h) * given.bank_volts, heating)


def work(given: Given) -> Found:
    """A series circuit of R, L, C from full charge: ∫i²·dt = ½·C·V²/R whatever L is, the spot's
    part of the joules its part of the ohms; the peak by R, L, C (V/R without L), the pulse three
    time constants, or what is left of a ring that is damped. Asked: I²·t from the weld's shortest
    pulse at its most amps to its longest at its least. REF-R-05, REF-R-06; A, V, F, H, Ω, J, s.

    Raises FieldError where the metal or a figure is out of bounds.

    >>> told = Given(bank_farads=1.0, bank_volts=10.0, bank_ohms=exact(2e-3),
    ...              loop_ohms=exact(3e-3), loop_henries=0.0)
    >>> round(work(told).stored_joules.value), work(told).verdict
    (50, 'may hole it')
    """
    weld = job(given.metal, given.thickness_mm, given.tips, given.spacing_mm)
    ohms = (given.bank_ohms, given.loop_ohms, weld.ohms)

    def of_loop(read: Callable[[float], float]) -> Quantity:
        return corners(lambda bank, leads, weld: read(bank + leads + weld), *ohms)

    stored = given.bank_farads * given.bank_volts**2 / 2
    heating = of_loop(lambda whole: stored / whole)
    wanted = _wanted(weld)
    peak = of_loop(lambda whole: peak_amps(given, whole))
    return Found(
        verdict=_verdict(heating, wanted, peak, weld),
        peak_amps=peak,
        wanted_amps=weld.amps,
        pulse_seconds=of_loop(lambda whole: pulse_seconds(given, whole)),
        wanted_seconds=weld.seconds,
        heating=heating,
        wanted_heating=wanted,
        stored_joules=exact(stored, "½CV²"),
        weld_joules=corners(lambda b, w, j: stored * j / (b + w + j), *ohms),
        least_volts=_least_volts(given, heating, wanted),
        charge_seconds=_charging(given),
        transformer=_by_transformer(weld),
    )


def _wanted(weld: Job) -> Quantity:
    """I²·t of a weld: a short pulse of many amps, a long one of few; the lesser first."""
    ends = (weld.amps.high**2 * weld.seconds.low, weld.amps.low**2 * weld.seconds.high)
    low, high = min(ends), max(ends)
    return Quantity(math.sqrt(low * high), low, high, ("I²·t of amps and seconds",))


def _verdict(heating: Quantity, wanted: Quantity, peak: Quantity, weld: Job) -> str:
    """By the heat of the pulse against the weld's: too weak where the middle is short of the least,
    or the peak of the least amps.
    """
    if heating.value < wanted.low or peak.value < weld.amps.low:
        return WEAK
    return BLOWS if heating.value > wanted.high else DOES


def amps_at(given: Given, ohms: float, t: float) -> float:
    """Current of a charged C through R and L in series, so many seconds after the switch.

    The textbook solution, i = V/(w·L)·exp(−a·t)·sin(w·t) with a = R/2L and w² = 1/LC − a², w
    imaginary where it does not ring; V/R·exp(−t/RC) without L.

    >>> told = Given(bank_farads=1.0, bank_volts=10.0, bank_ohms=exact(2e-3),
    ...              loop_ohms=exact(3e-3), loop_henries=0.0)
    >>> round(amps_at(told, 5e-3, 0.0))
    2000
    """
    volts, farads, henries = given.bank_volts, given.bank_farads, given.loop_henries
    if henries <= LEAST_HENRIES * farads * ohms**2:
        return volts / ohms * math.exp(-t / (ohms * farads))
    a, w = _damping(given, ohms)
    swing = cmath.exp((-a + 1j * w) * t) - cmath.exp((-a - 1j * w) * t)
    return (volts / (w * henries) * swing / 2j).real


def _damping(given: Given, ohms: float) -> tuple[float, complex]:
    """Damping and, kept off nought, what it rings with. 1/s."""
    a = ohms / (2 * given.loop_henries)
    square = 1 / (given.loop_henries * given.bank_farads) - a * a
    return a, cmath.sqrt(square) if abs(square) > CRITICAL * a * a else complex(CRITICAL * a)


def peak_amps(given: Given, ohms: float) -> float:
    """The highest current of the pulse, at t = atan(w/a)/w. Its derivative at nought, Kirchhoff.

    >>> told = Given(bank_farads=1.0, bank_volts=10.0, bank_ohms=exact(2e-3),
    ...              loop_ohms=exact(3e-3), loop_henries=0.0)
    >>> peak_amps(told, 5e-3)
    2000.0
    """
    if given.loop_henries <= LEAST_HENRIES * given.bank_farads * ohms**2:
        return amps_at(given, ohms, 0.0)
    a, w = _damping(given, ohms)
    return amps_at(given, ohms, (cmath.atan(w / a) / w).real)


CRITICAL = 1e-5
"""So near to critical damping the two solutions are the same."""
LEAST_HENRIES = 1e-6
"""Below this share of C·R² an inductance is none: the peak differs by less than a thousandth."""


def pulse_seconds(given: Given, ohms: float) -> float:
    """Until a twentieth of the current is left: three time constants, R·C while it does not ring,
    2·L/R where it does. REF-R-06.
    """
    henries = given.loop_henries
    rings = 4 * henries > ohms**2 * given.bank_farads
    return 3 * (2 * henries / ohms if rings else ohms * given.bank_farads)


def _charging(given: Given) -> Quantity:
    """Charge over amps: at a steady current, or three time constants of a resistor that begins with
    these amps.
    """
    steady = given.bank_farads * given.bank_volts / given.charge_amps
    return Quantity(steady, steady, -math.log(EMPTY) * steady, ("steady amps, or a resistor",))


def _by_transformer(weld: Job) -> str:
    """What does the same weld from the rewound core."""
    if weld.refused:
        return weld.refused
    low, high = weld.amps.low, weld.amps.high
    seconds = f"{weld.seconds.low:.2g} to {weld.seconds.high:.2g} s"
    timed = "a foot may time it" if weld.foot else "a timer of half cycles, no foot"
    return f"{low:.0f} to {high:.0f} A, {seconds}; {timed}"


def _asked(given: Given, found: Found) -> Asked:
    """What its bank is to the list of what is never planned."""
    return Asked(
        held_volts=given.bank_volts,
        held_joules=found.stored_joules.value,
        bled=given.bled,
        enclosed=given.enclosed,
        proved=given.proved,
    )


PULSE_WELD = Planner(
    name="pulse_weld",
    title="A capacitor-discharge welder on the same tips",
    purpose="Peak, pulse and heat of a bank against what the weld asks for.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="∫i²·dt = ½·C·V²/(R_bank + R_loop + R_spot); peak by R, L, C; charge C·V/I",
        source="REF-R-05, REF-R-06; the weld by common practice",
        put="{bank_farads} at {bank_volts}: {stored_joules}, {heating} against {wanted_heating}",
    ),
    cautions=(
        Caution(
            code="metal-refused",
            severity="stop",
            sentence="This metal is for neither of the two: the reason stands beside them.",
            when=lambda given, found: bool(STUFF[given.metal].refused),
        ),
        Caution(
            code="over-rated",
            severity="stop",
            sentence=(
                "The bank bears {bank_rated_volts} and would stand at {bank_volts}: electrolytics "
                "burst, and double-layer cells in series each want their share held."
            ),
            when=lambda given, found: (
                given.bank_rated_volts is not None and given.bank_volts > given.bank_rated_volts
            ),
        ),
        Caution(
            code="rated-unknown",
            severity="caution",
            sentence="What volts the bank bears was not said: read it off every capacitor.",
            when=lambda given, found: given.bank_rated_volts is None,
        ),
        Caution(
            code="touch-volts",
            severity="stop",
            sentence=(
                "{bank_volts} is more than may be touched, and these tips are held bare: stay "
                "below 50 V and take more farads."
            ),
            when=lambda given, found: given.bank_volts > TOUCH_VOLTS,
        ),
        Caution(
            code="stored",
            severity="caution",
            sentence=(
                "{stored_joules} jump out of loose tips as molten metal: eyes covered, both tips "
                "pressed before it is armed, a bleeder on the bank, volts seen to fall."
            ),
            when=lambda given, found: found.stored_joules.value >= METAL_THROWN,
        ),
        Caution(
            code="rings",
            severity="caution",
            sentence=(
                "It rings: the bank is driven backwards, which spoils electrolytics. A diode of "
                "its pulse across the bank, or more ohms."
            ),
            when=lambda given, found: rings(given),
        ),
        Caution(
            code="too-weak",
            severity="note",
            sentence="Too weak as it is: it does from about {least_volts}, or with less loop.",
            when=lambda given, found: found.verdict == WEAK,
        ),
        Caution(
            code="may-hole",
            severity="caution",
            sentence="More heat than the weld asks for: begin near {least_volts} and go up.",
            when=lambda given, found: found.verdict == BLOWS,
        ),
        Caution(
            code="cells",
            severity="caution",
            sentence=(
                "On a cell: never with one tip on its other pole, strip over its vent, or a cell "
                "that is warm. Sand and open air beside it."
            ),
            when=lambda given, found: given.metal == "nickel",
        ),
    ),
    never=_asked,
    draws={"capacitor": {"bank_farads": "farads"}},
    example={
        "bank_farads": 0.47,
        "bank_volts": 12.0,
        "bank_rated_volts": 16.0,
        "bank_ohms": 1.5e-3,
        "loop_ohms": 2e-3,
    },
    checks=(
        Check(
            given={
                "bank_farads": 1.0,
                "bank_volts": 10.0,
                "bank_ohms": 2e-3,
                "loop_ohms": 3e-3,
                "loop_henries": 0.0,
            },
            expected={"stored_joules": 50.0, "charge_seconds": 3.333},
            source="REF-R-05: ½CV²; charge is C·V, 10 A·s at 3 A",
        ),
        Check(
            given={
                "metal": "nickel",
                "thickness_mm": 0.15,
                "bank_farads": 1.0,
                "bank_volts": 10.0,
                "bank_ohms": 2e-3,
                "loop_ohms": 3e-3,
            },
            expected={"wanted_amps": 848.5, "wanted_heating": 5577.0},
            source="common practice for nickel tab: 600 to 1200 A for 3 to 20 ms",
            rel=0.01,
        ),
    ),
)


def rings(given: Given) -> bool:
    """Whether the loop with the least of its ohms drives the bank backwards: R < 2·√(L/C)."""
    weld = job(given.metal, given.thickness_mm, given.tips, given.spacing_mm)
    ohms = given.bank_ohms.low + given.loop_ohms.low + weld.ohms.low
    return ohms < 2 * math.sqrt(given.loop_henries / given.bank_farads)
