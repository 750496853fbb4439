"""Two primaries on one core: which pieces of a shelf lend a coil that goes into another's window,
and whose turns are equal.
"""

from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.planners.two_primaries import EQUAL, SLACK_MM, Found, Given, work
from greyfell.core.uses.core_to_wind import CoreToWind, barred, iron_of

TIGHT_MM, LOOSE_MM = 1.0, 4.0
"""A hole so much smaller than the tongue may be the tape's error; one so much larger is wedged.
Common practice."""
GOES, MAY, NOT = "should go in", "measure first", "does not"
EQUALS, UNEQUAL, UNTOLD = "equal", "unequal", "five test turns on both tell"
SHELL = "shell"


class PairCore(Struct, frozen=True, kw_only=True):
    """A piece that may take or lend a coil: its tag, iron, shape; whether tongue and stack were
    measured, its window, and test turns read on its primary.
    """

    tag: str
    iron: CoreToWind
    shape: str | None
    sized: bool
    measured: bool
    tested: bool

    @classmethod
    def of(cls, ident: Identification) -> "PairCore | None":
        """The core of a piece; None where nothing is known to wind on, or nothing may be."""
        iron = None if barred(ident) else iron_of(ident)
        if iron is None:
            return None
        core, fed = ident.record.core, set(ident.belief.fed)
        turned = (r for r in ident.record.standing if "test turn" in r.meets)
        return cls(
            tag=ident.record.tag,
            iron=iron,
            shape=core.shape if core else None,
            sized=bool(core and core.tongue_mm and core.stack_mm),
            measured=bool(core and core.window_width_mm and core.window_height_mm),
            tested=any(set(r.driven) == fed for r in turned),
        )

    @property
    def turns(self) -> Quantity:
        """Turns of its primary, by its supply over its volts per turn. REF-M-02."""
        per, volts = self.iron.volts_per_turn, self.iron.supply_volts
        return Quantity(volts / per.value, volts / per.high, volts / per.low, per.basis)


class Paired(Struct, frozen=True, kw_only=True):
    """One coil in one window: who stays, who lends; whether it goes in and why; whether turns are
    equal; what it would put out.
    """

    stays: str
    lends: str
    verdict: str
    why: str
    turns: str
    found: Found

    @property
    def order(self) -> tuple[int, int, float]:
        """The better the sooner: what goes in, equal turns, the nearest volts."""
        apart = self.found.apart_percent
        return (
            (GOES, MAY, NOT).index(self.verdict),
            (EQUALS, UNTOLD, UNEQUAL).index(self.turns),
            abs(apart.value),
        )


def paired(cores: Iterable[PairCore]) -> list[Paired]:
    """Every coil in every other's window, of one supply, shell cores; the best first."""
    shells = [c for c in cores if c.shape in (SHELL, None)]
    found = [_pair(one, two) for one in shells for two in shells if _alike(one, two)]
    return sorted(found, key=lambda p: (p.order, p.stays, p.lends))


def _alike(one: PairCore, two: PairCore) -> bool:
    """Two pieces for the same supply."""
    same = one.iron.supply_volts == two.iron.supply_volts and one.iron.hertz == two.iron.hertz
    return one.tag != two.tag and same


def _pair(one: PairCore, two: PairCore) -> Paired:
    """The coil of the second in the window of the first."""
    verdict, why = _fit(one, two)
    found = work(
        Given(
            supply_volts=one.iron.supply_volts,
            first_turns=one.turns,
            second_turns=two.turns,
        )
    )
    return Paired(
        stays=one.tag,
        lends=two.tag,
        verdict=verdict,
        why=why,
        turns=_turns(one, two, found),
        found=found,
    )


def _turns(one: PairCore, two: PairCore, found: Found) -> str:
    """Whether turns are equal within one per cent: by test turns on both, or so far apart that
    nothing could bring them together.
    """
    apart = found.apart_percent
    if min(abs(apart.low), abs(apart.high)) > 100 * EQUAL and apart.low * apart.high > 0:
        return UNEQUAL
    if not (one.tested and two.tested):
        return UNTOLD
    return EQUALS if abs(apart.value) <= 100 * EQUAL else UNEQUAL


def _fit(one: PairCore, two: PairCore) -> tuple[str, str]:
    """Whether the second's coil goes on the first's tongue beside its primary, and why. Shunts and
    high-voltage coil are out; how high primaries stand is usual, not read. mm.
    """
    if not (one.sized and two.sized):
        return MAY, "tongue and stack were not measured"
    window, coil = one.iron.window, two.iron.window
    sides = ((window.tongue_mm, coil.tongue_mm), (window.stack_mm, coil.stack_mm))
    for what, (tongue, hole) in zip(("tongue", "stack"), sides, strict=True):
        if hole < tongue - TIGHT_MM:
            return NOT, f"its hole is {tongue - hole:.0f} mm too small for the {what}"
        if hole > tongue + LOOSE_MM:
            return NOT, f"its hole is {hole - tongue:.0f} mm too large for the {what}"
    if not (one.measured and two.measured):
        return MAY, "the hole does; the windows were not measured"
    high = coil.primary_mm + SLACK_MM - (window.height_mm - window.primary_mm)
    if high > 0:
        return NOT, f"it is {high:.1f} mm too high for what is left of the window"
    wide = coil.width_mm - window.width_mm
    if wide > 0:
        return NOT, f"it is {wide:.1f} mm too thick for the window"
    if any(hole < tongue for tongue, hole in sides):
        return MAY, "its hole is tight, within a millimetre"
    return GOES, f"{-high:.0f} mm to spare along the tongue, by usual heights of primaries"
