"""The peak of a sine, and whether a neon lamp would light on it."""

import math
from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

NEON_VOLTS = (60.0, 90.0)
"""A small neon lamp stays dark below the first peak volts and is lit above the second. Common
practice."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts RMS of a sine."""

    volts: Quantity = asked("Volts of a sine, RMS", "V", above=0, at_most=1e6, slide=(1, 1000))


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Its peak, and what a neon lamp shows of it."""

    peak_volts: Quantity = shown("Peak", "V", lead=True)
    neon: str = shown("A neon lamp")


def work(given: Given) -> Found:
    """V̂ = √2·V, volts. Definition of the RMS of a sine; lamp common practice.

    >>> from greyfell.core.figures.quantity import exact
    >>> work(Given(volts=exact(100.0))).neon
    'lit'
    """
    root = math.sqrt(2)
    volts = given.volts
    peak = Quantity(volts.value * root, volts.low * root, volts.high * root, ("√2 · V",))
    dark, lit = NEON_VOLTS
    neon = "dark" if peak.high < dark else "lit" if peak.low > lit else "undecided"
    return Found(peak_volts=peak, neon=neon)


PEAK = Planner(
    name="peak",
    title="Peak",
    purpose="What the peak of a sine is, and whether a neon lamp would show it.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(text="V̂ = √2 · V", source="REF-M-01", put="√2 · {volts} = {peak_volts}"),
    cautions=(
        Caution(
            code="no-proof",
            severity="note",
            sentence="A dark neon proves nothing: it may be broken, and it lights on stray volts.",
        ),
    ),
    example={"volts": 230.0},
    checks=(
        Check(
            given={"volts": 230.0},
            expected={"peak_volts": 325.27},
            source="325 V of 230 V mains; definition of RMS",
        ),
        Check(
            given={"volts": 120.0},
            expected={"peak_volts": 169.71},
            source="170 V of 120 V mains; definition of RMS",
        ),
    ),
)
