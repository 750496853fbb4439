"""Two, three, four turns side by side: what each puts into the job, and what the breaker bears."""

from dataclasses import dataclass

from greyfell.core.coil_design.loop import LOOP_REACTANCE, LoopSource, Shot, WeldLoop, shot
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import breaker, starts

MAINLY_REACTIVE = 2.0
"""A source whose reactance is so many times its resistance is called mainly reactive."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The core as a source on the primary's side, the new winding, the loop, the job, the breaker;
    Ω, V, A RMS.
    """

    volts_per_turn: Quantity = asked(
        "Volts per turn", "V", above=0, at_most=100, start=starts.volts_per_turn
    )
    primary_resistance_ohms: Quantity = asked(
        "Resistance, primary's side", "Ω", at_least=0, at_most=1e4, start=starts.source_resistance
    )
    leakage_reactance_ohms: Quantity = asked(
        "Leakage reactance, primary's side",
        "Ω",
        at_least=0,
        at_most=1e5,
        start=starts.leakage_reactance,
    )
    primary_turns: float = asked(
        "Primary's turns", "turns", above=0, at_most=1e5, start=starts.primary_turns
    )
    magnetising_amps: float = asked(
        "Magnetising amps", "A", at_least=0, at_most=1e3, start=starts.magnetising_amps
    )
    turn_ohms: float = asked("One new turn", "Ω", at_least=0, at_most=1)
    loop_ohms: float = asked("Cables, lugs, electrodes", "Ω", at_least=0, at_most=1)
    loop_reactance_ohms: float = asked(
        "The loop's reactance",
        "Ω",
        default=LOOP_REACTANCE,
        at_least=0,
        at_most=1,
        help="assumed: a loop of 0.5 by 0.2 m",
    )
    job_ohms: Quantity = asked(
        "The job", "Ω", above=0, at_most=100, slide=(5e-5, 1e-2), chosen=True
    )
    turns: tuple[float, ...] = asked(
        "Turns to compare", "turns", default=(1.0, 2.0, 3.0, 4.0, 5.0), at_least=1, at_most=200
    )
    breaker_amps: float = asked(
        "Breaker", "A", above=0, at_most=125, start=starts.breaker_amps, help="of the socket"
    )
    curve: str = asked("Its curve", default="B", choices=tuple(breaker.CURVES))
    on_seconds: float = asked("A shot lasts", "s", default=1.0, above=0, at_most=3600)


@dataclass(frozen=True, kw_only=True)
class Turns(ShownRow):
    """One number of turns."""

    turns: int = shown("Turns")
    open_volts: Quantity = shown("Open", "V")
    short_amps: Quantity = shown("Shorted", "A")
    amps: Quantity = shown("In the job", "A")
    job_volts: Quantity = shown("Over it", "V")
    job_watts: Quantity = shown("Watts in it", "W")
    match_ohms: Quantity = shown("Most into", "Ω")
    primary_amps: Quantity = shown("Primary", "A")
    breaker: str = shown("Breaker trips")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Every number of turns, and the best that the breaker may carry."""

    best_turns: int | None = shown("Best", lead=True)
    rows: tuple[Turns, ...] = shown("Turns side by side")
    mainly_reactive: bool = shown("The source is mainly reactive")


def work(given: Given) -> Found:
    """Each number of turns into the job; shorted, with the job at nought; the best is the one of
    most watts in the job whose primary amps the breaker may carry as long. REF-T-16, REF-T-07,
    REF-P-03. V, A, Ω, W.

    Raises FieldError where turns are not whole.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(volts_per_turn=exact(0.9), primary_resistance_ohms=exact(1.5),
    ...              leakage_reactance_ohms=exact(4.0), primary_turns=250.0, magnetising_amps=2.0,
    ...              turn_ohms=1e-4, loop_ohms=5e-4, job_ohms=exact(1e-3), breaker_amps=16.0)
    >>> work(told).best_turns
    5
    """
    rows = tuple(_row(given, _whole(n)) for n in given.turns)
    carried = [r for r in rows if r.breaker != breaker.WILL]
    best = max(carried, key=lambda r: r.job_watts.value, default=None)
    r, x = given.primary_resistance_ohms.value, given.leakage_reactance_ohms.value
    return Found(
        best_turns=None if best is None else best.turns,
        rows=rows,
        mainly_reactive=x > MAINLY_REACTIVE * r,
    )


def _whole(turns: float) -> int:
    """A number of turns. Raises FieldError."""
    if turns != int(turns):
        raise FieldError("turns", f"Turns are whole; {turns:g} was given.")
    return int(turns)


def shot_of(given: Given, turns: int, job_ohms: float) -> Shot:
    """One number of turns into a job at the middle of every range."""
    return _shot(
        given,
        turns,
        (
            given.volts_per_turn.value,
            given.primary_resistance_ohms.value,
            given.leakage_reactance_ohms.value,
            job_ohms,
        ),
    )


def _shot(given: Given, turns: int, at: tuple[float, float, float, float]) -> Shot:
    volts, r, x, job = at
    source = LoopSource(
        volts_per_turn=volts,
        resistance_ohms=r,
        reactance_ohms=x,
        primary_turns=given.primary_turns,
        magnetising_amps=given.magnetising_amps,
    )
    loop = WeldLoop(
        turn_ohms=given.turn_ohms, ohms=given.loop_ohms, reactance_ohms=given.loop_reactance_ohms
    )
    return shot(source, loop, job, turns)


def _row(given: Given, turns: int) -> Turns:
    asks = (
        given.volts_per_turn,
        given.primary_resistance_ohms,
        given.leakage_reactance_ohms,
        given.job_ohms,
    )

    def figure(key: str) -> Quantity:
        return corners(lambda *at: float(getattr(_shot(given, turns, at), key)), *asks)

    primary = figure("primary_amps")
    return Turns(
        turns=turns,
        open_volts=figure("open_volts"),
        short_amps=figure("short_amps"),
        amps=figure("amps"),
        job_volts=figure("job_volts"),
        job_watts=figure("job_watts"),
        match_ohms=figure("match_ohms"),
        primary_amps=primary,
        breaker=breaker.trips(given.breaker_amps, given.curve, primary, given.on_seconds),
    )


WELD_MATCH = Planner(
    name="weld_match",
    title="Turns for a job",
    purpose="Two, three, four turns side by side: what each puts into the job, by this breaker.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I = N·v / √((N·R_turn + R_loop + R_job + R1/n²)² + (X1/n² + X_loop)²), n = N1/N",
        source="REF-T-16, REF-T-07, REF-P-03",
        put="into {job_ohms}: best with {best_turns} turns",
    ),
    cautions=(
        Caution(
            code="no-turns",
            severity="stop",
            sentence=(
                "Every number of turns trips this breaker within the shot: a shorter pulse, a "
                "longer loop, or a socket of more amps."
            ),
            when=lambda given, found: found.best_turns is None,
        ),
        Caution(
            code="burns",
            severity="caution",
            sentence=(
                "Hundreds of amps at harmless volts: rings and watches off, eyes covered, no hand "
                "near the tips; the foot, not the plug, switches it."
            ),
        ),
        Caution(
            code="shunts",
            severity="note",
            sentence=(
                "Mainly reactive: shunts still stand in the window, or the windings lie far apart. "
                "Out, the same turns give more amps, and the breaker feels it."
            ),
            when=lambda given, found: found.mainly_reactive,
        ),
        Caution(
            code="loop-assumed",
            severity="note",
            sentence="The loop's reactance is assumed: spread cables add it, twisted ones take it.",
            when=lambda given, found: given.loop_reactance_ohms == LOOP_REACTANCE,
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.POTTED, starts.DOUBTFUL, starts.NO_TEST_TURN),
    example={
        "volts_per_turn": {"value": 0.9, "low": 0.88, "high": 0.92},
        "primary_resistance_ohms": 1.5,
        "leakage_reactance_ohms": 4.0,
        "primary_turns": 255,
        "magnetising_amps": 2.0,
        "turn_ohms": 0.0001,
        "loop_ohms": 0.0005,
        "job_ohms": {"value": 0.001, "low": 0.0005, "high": 0.002},
        "breaker_amps": 16,
    },
    checks=(
        Check(
            given={
                "volts_per_turn": 0.95,
                "primary_resistance_ohms": 0.0,
                "leakage_reactance_ohms": 0.0,
                "primary_turns": 240,
                "magnetising_amps": 0.0,
                "turn_ohms": 0.0,
                "loop_ohms": 0.0003,
                "loop_reactance_ohms": 0.0022,
                "job_ohms": 0.001,
                "turns": [3],
                "breaker_amps": 63,
            },
            expected={"rows.0.amps": 1115.0, "rows.0.open_volts": 2.85},
            source="REF-T-16a: three turns of 0.95 V, 1.30 and 2.20 mΩ in all",
        ),
        Check(
            given={
                "volts_per_turn": 0.95,
                "primary_resistance_ohms": 0.0,
                "leakage_reactance_ohms": 0.0,
                "primary_turns": 240,
                "magnetising_amps": 0.0,
                "turn_ohms": 0.0,
                "loop_ohms": 0.0003,
                "loop_reactance_ohms": 0.0012,
                "job_ohms": 0.0005,
                "turns": [2],
                "breaker_amps": 63,
            },
            expected={"rows.0.amps": 1317.0},
            source="REF-T-16b: two turns of 0.95 V, 0.80 and 1.20 mΩ in all",
            rel=1e-3,
        ),
    ),
)
