"""From one winding that was measured to other numbers of turns on the same core."""

from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Turns with their open volts and amps shorted, RMS, and the turns to tell."""

    turns: float = asked("Turns as measured", "turns", at_least=1, at_most=1e4)
    open_volts: Quantity = asked("Open", "V", above=0, at_most=1e5)
    short_amps: Quantity = asked("Shorted at the winding", "A", above=0, at_most=1e5)
    new_turns: tuple[float, ...] = asked(
        "Other turns", "turns", default=(1.0, 2.0, 3.0, 4.0, 5.0, 6.0), at_least=1, at_most=1e4
    )


@dataclass(frozen=True, kw_only=True)
class Scaled(ShownRow):
    """One number of turns."""

    turns: int = shown("Turns")
    open_volts: Quantity = shown("Open", "V")
    short_amps: Quantity = shown("Shorted", "A")
    match_ohms: Quantity = shown("Most into", "Ω")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Every number of turns."""

    rows: tuple[Scaled, ...] = shown("Turns side by side")


def work(given: Given) -> Found:
    """Volts go with the turns, every impedance with their square, so amps against them. REF-M-02,
    REF-T-03; the conductor fills the same room. V, A, Ω.

    >>> from greyfell.core.figures.quantity import exact
    >>> row = work(Given(turns=2.0, open_volts=exact(1.8), short_amps=exact(800.0),
    ...                  new_turns=(4.0,))).rows[0]
    >>> row.open_volts.value, row.short_amps.value, round(row.match_ohms.value, 6)
    (3.6, 400.0, 0.009)
    """
    return Found(rows=tuple(_row(given, n / given.turns, round(n)) for n in given.new_turns))


def _row(given: Given, k: float, turns: int) -> Scaled:
    return Scaled(
        turns=turns,
        open_volts=corners(lambda v: v * k, given.open_volts),
        short_amps=corners(lambda i: i / k, given.short_amps),
        match_ohms=corners(lambda v, i: v / i * k * k, given.open_volts, given.short_amps),
    )


TURNS_SCALE = Planner(
    name="turns_scale",
    title="Other turns on the same core",
    purpose="From turns that were measured to others: volts, amps shorted, and the best job.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="V ∝ N, Z ∝ N², I ∝ 1/N",
        source="REF-M-02, REF-T-03",
        put="{turns} with {open_volts} open and {short_amps} shorted",
    ),
    cautions=(
        Caution(
            code="loop-outside",
            severity="note",
            sentence=(
                "All impedance is taken with the square of turns: cables and joints outside the "
                "window do not do that, and want their own place (turns for a job)."
            ),
        ),
    ),
    example={"turns": 2, "open_volts": 1.8, "short_amps": 800, "new_turns": [1, 2, 3, 4, 6]},
    checks=(
        Check(
            given={"turns": 1, "open_volts": 1.0, "short_amps": 1000.0, "new_turns": [3]},
            expected={
                "rows.0.open_volts": 3.0,
                "rows.0.short_amps": 333.333,
                "rows.0.match_ohms": 0.009,
            },
            source="REF-T-03, by hand: 1 mΩ times nine",
        ),
        Check(
            given={"turns": 4, "open_volts": 3.6, "short_amps": 400.0, "new_turns": [2]},
            expected={"rows.0.short_amps": 800.0, "rows.0.match_ohms": 0.00225},
            source="REF-T-03, by hand: 9 mΩ over four",
        ),
    ),
)
