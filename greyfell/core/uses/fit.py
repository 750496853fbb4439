"""The one function that fits a use to a piece of iron: turns, conductor, volts, amps through the
whole loop, primary amps against the breaker, seconds of duty, the barrier; and, where it does not,
the figure that fails and the nearest change.
"""

import math
from collections.abc import Callable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.coil_design.conductors import Conductor
from greyfell.core.coil_design.loop import LOOP_REACTANCE, LoopSource, Shot, WeldLoop, shot
from greyfell.core.coil_design.thickest import enough, thickest
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.wire import seconds_to
from greyfell.core.judgement.put_out import BURNING_AMPS
from greyfell.core.planners import breaker
from greyfell.core.uses.catalogue import BASIC, BURNS, MILD, SHOCKS, Use, shorter
from greyfell.core.uses.core_to_wind import CoreToWind

FITS, AFTER, NOT = "fits", "fits after", "does not"
AIR_CELSIUS = 25.0
MOST_TURNS = 400
FOR_HOURS = 3.5
"""A/mm² that a buried copper winding bears for hours. W-T6, common practice."""
IN_SHOTS = 8.0
"""A/mm², the mean of shots and rests that a bench's half hour bears. Common practice."""
AMPLE = 1.4
"""Copper over what the amps ask for: 2.5 A/mm². W-T6, common practice."""
MINUTE = 60.0
SOCKETS = (16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0)
LARGEST = 12.0
STEP = 1.2


class Checked(Struct, frozen=True, kw_only=True):
    """One need against what there is: what it is about, words with both figures, whether it holds,
    and by which factor it is off.
    """

    about: str
    words: str
    holds: bool
    off: float = 1.0


class PlannedChange(Struct, frozen=True, kw_only=True):
    """The nearest change that would make it fit: its key, its words, and what it does to iron and
    use.
    """

    key: str
    words: str
    apply: Callable[[CoreToWind, Use], tuple[CoreToWind, Use]]


class Fit(Struct, frozen=True, kw_only=True):
    """How a use fits: the verdict in a word and in a sentence, turns, conductor, the shot into its
    load, every need, the change that would do.
    """

    use: Use
    verdict: str
    words: str
    turns: int = 0
    conductor: Conductor | None = None
    shot: Shot | None = None
    checks: tuple[Checked, ...] = ()
    change: PlannedChange | None = None

    @property
    def failing(self) -> tuple[Checked, ...]:
        """Needs that do not hold."""
        return tuple(c for c in self.checks if not c.holds)


OVEN_NEVER = (
    "Oven iron is never a safety isolation, however well a barrier reads: what its output can do "
    "to a person asks for two that a maker proved. A part marked to IEC 61558 does it. Nothing is "
    "planned."
)


def allowed(iron: CoreToWind, use: Use) -> Use:
    """The use, or the same refused where this iron may not: what shocks and has to be isolated is
    never wound on an oven's. Domain's isolating builds.
    """
    kills = use.danger == SHOCKS and use.barrier != BASIC
    return replace(use, refused=OVEN_NEVER) if iron.oven and kills and not use.refused else use


def tried(iron: CoreToWind, use: Use, turns: int) -> Fit:
    """One number of turns with the thickest conductor that goes in. V, A, Ω, mm²; REF-T-16,
    REF-W-12, REF-P-03.
    """
    conductor = _conductor(iron, use, turns)
    if conductor is None:
        room = f"{iron.window.free.wide:.0f} × {iron.window.free.high:.0f} mm"
        none = Checked(
            about="window",
            words=f"{turns} turns of any conductor do not go into {room}",
            holds=False,
            off=math.inf,
        )
        return Fit(use=use, verdict=NOT, words=none.words, turns=turns, checks=(none,))
    at = source_of(iron)
    metres = iron.window.mean_turn_m(iron.window.free.wide / 2) * iron.cores
    loop = WeldLoop(
        turn_ohms=conductor.ohms(metres, celsius=50.0),
        ohms=use.loop_ohms,
        reactance_ohms=LOOP_REACTANCE if use.loop_ohms else 0.0,
    )
    found = shot(at, loop, use.load_ohms.value, turns)
    checks = tuple(_checks(iron, use, conductor, found))
    return Fit(
        use=use,
        verdict=FITS if all(c.holds for c in checks) else NOT,
        words="",
        turns=turns,
        conductor=conductor,
        shot=found,
        checks=checks,
    )


def _conductor(iron: CoreToWind, use: Use, turns: int) -> Conductor | None:
    """The thickest that goes in where more is better, else what the amps ask for."""
    if use.most_watts:
        return thickest(iron.window, turns, made=use.made)
    wanted = AMPLE * use.amps * math.sqrt(use.duty) / FOR_HOURS
    return enough(iron.window, turns, wanted, use.made)


def source_of(iron: CoreToWind) -> LoopSource:
    """The iron as a source for new turns; alike cores in series add volts and impedance."""
    k = iron.cores
    return LoopSource(
        volts_per_turn=iron.new_volts_per_turn.value * k,
        resistance_ohms=iron.resistance_ohms.value * k,
        reactance_ohms=iron.reactance_ohms.value * k,
        primary_turns=iron.primary_turns,
        magnetising_amps=iron.magnetising_amps,
        hertz=iron.hertz,
    )


def _checks(iron: CoreToWind, use: Use, conductor: Conductor, found: Shot) -> Iterator[Checked]:
    """Every need of a use, each able to say no."""
    low, high = use.open_volts
    yield Checked(
        about="open volts",
        words=f"{engineering(found.open_volts, 'V')} open, wanted {low:g} to {high:g} V",
        holds=low <= found.open_volts <= high,
        off=max(low / found.open_volts, found.open_volts / high),
    )
    held = found.amps >= use.amps * (1 - 1e-9)
    yield Checked(
        about="amps",
        words=f"{engineering(found.amps, 'A')} through the whole loop, wanted "
        f"{engineering(use.amps, 'A')}",
        holds=held,
        off=use.amps / max(found.amps, 1e-9),
    )
    if use.loaded_volts:
        volts = _volts_at(found, use)
        yield Checked(
            about="loaded volts",
            words=f"{engineering(volts, 'V')} at {engineering(use.amps, 'A')}, wanted "
            f"{use.loaded_volts:g} V",
            holds=volts >= use.loaded_volts * (1 - 1e-9),
            off=use.loaded_volts / max(volts, 1e-9),
        )
    yield _danger(iron, use, found)
    yield _window(use, conductor, found)
    yield _primary(iron, use, found)
    yield _breaker(iron, use, found)
    if use.barrier != BASIC:
        yield Checked(
            about="isolation",
            words=f"{iron.barrier} insulation between mains and the new winding, wanted "
            f"{use.barrier}: 500 V and 7 MΩ, 5 mm over surfaces",
            holds=iron.barrier == use.barrier,
            off=1.5,
        )


def danger_of(volts: float, short_amps: float, *, fused: bool) -> str:
    """What an output can do to a person: above 50 V it shocks, above 200 A shorted it burns where
    no fuse stands behind it. V, A. IEC 61140; house rule.

    >>> danger_of(12.0, 900.0, fused=False), danger_of(12.0, 900.0, fused=True)
    ('burns', 'harms little')
    """
    if volts > TOUCH_VOLTS:
        return SHOCKS
    return BURNS if short_amps > BURNING_AMPS and not fused else MILD


DANGERS = (MILD, BURNS, SHOCKS)
"""What an output can do, the least first."""


def _danger(iron: CoreToWind, use: Use, found: Shot) -> Checked:
    """Whether the output does no more to a person than the use says."""
    real = danger_of(found.open_volts, found.short_amps, fused=iron.fused)
    loop = " through its loop" if use.loop_ohms else ""
    amps, volts = engineering(found.short_amps, "A"), engineering(found.open_volts, "V")
    said = f"{amps} shorted{loop}, {volts} open"
    behind = " behind its fuse" if iron.fused else ""
    return Checked(
        about="danger",
        words=f"{said}{behind}: it {real}; this use should be no more than “{use.danger}”",
        holds=DANGERS.index(real) <= DANGERS.index(use.danger),
        off=max(found.short_amps / BURNING_AMPS, found.open_volts / TOUCH_VOLTS),
    )


def _fuse(use: Use) -> PlannedChange:
    amps = next((f for f in OUTPUT_FUSES if f >= FUSE_TIMES * use.amps), OUTPUT_FUSES[-1])

    def apply(iron: CoreToWind, changed: Use) -> tuple[CoreToWind, Use]:
        return replace(iron, fused=True), changed

    return PlannedChange(key="fuse", words=f"a fuse of {amps:g} A in its output", apply=apply)


OUTPUT_FUSES = (0.5, 1.0, 2.0, 3.15, 5.0, 6.3, 8.0, 10.0, 16.0, 25.0)
"""A, IEC 60127-2 and blade fuses."""
FUSE_TIMES = 1.4
"""A fuse over the amps it carries. Common practice."""


def _volts_at(found: Shot, use: Use) -> float:
    """Volts over the load where its amps flow: as drawn, or what is left at the amps wanted."""
    if found.amps >= use.amps:
        return found.open_volts * _share(found, use)
    return found.job_volts


def _share(found: Shot, use: Use) -> float:
    """What of the open volts is left at the amps wanted, by the load line of this source."""
    drop = use.amps * found.match_ohms
    rest = found.open_volts**2 - drop**2
    return math.sqrt(max(rest, 0.0)) / found.open_volts


def _window(use: Use, conductor: Conductor, found: Shot) -> Checked:
    """Whether the thickest conductor bears the amps for as long."""
    amps = min(found.amps, max(use.amps, 1e-9) * 2)
    density = amps / conductor.whole_mm2 / conductor.metal.derating
    mean = density * math.sqrt(use.duty)
    limit = conductor.limit_celsius
    once = seconds_to(limit, max(density, 1e-9), conductor.metal, AIR_CELSIUS)
    most = FOR_HOURS if use.on_seconds >= MINUTE else IN_SHOTS
    at_once = density <= FOR_HOURS or use.on_seconds <= once
    ends = f"{engineering(once, 's', 2)} to {limit:.0f} °C"
    if mean <= FOR_HOURS:
        ends = "for hours" if density <= FOR_HOURS else "with these rests for hours"
    return Checked(
        about="window",
        words=f"{density:.2g} A/mm² in {conductor.name}: {ends}, wanted {_asked(use)}",
        holds=at_once and mean <= most,
        off=max(1.0 if at_once else use.on_seconds / once, mean / most),
    )


def _asked(use: Use) -> str:
    """Seconds that are asked for."""
    if not use.off_seconds:
        return "hours"
    return f"{use.on_seconds:.3g} s of every {use.on_seconds + use.off_seconds:.3g} s"


def _primary(iron: CoreToWind, use: Use, found: Shot) -> Checked:
    """Whether the primary bears its amps: by the square of them from what it bears for a minute."""
    once = MINUTE * (iron.primary_minute / max(found.primary_amps, 1e-9)) ** 2
    mean = found.primary_amps * math.sqrt(use.duty)
    hours = iron.primary_minute / MINUTE_OVER_HOURS
    most = hours if use.on_seconds >= MINUTE else iron.primary_minute
    at_once = found.primary_amps <= hours or use.on_seconds <= once
    return Checked(
        about="duty",
        words=f"{engineering(found.primary_amps, 'A')} in the primary, which bears {hours:.2g} A "
        f"for hours, these for {min(once, 3600.0):.0f} s; wanted {_asked(use)}",
        holds=at_once and mean <= most,
        off=max(1.0 if at_once else use.on_seconds / once, mean / most),
    )


MINUTE_OVER_HOURS = 2.6
"""Amps that copper bears for a minute over those it bears for hours. The engine's ratings."""


def _breaker(iron: CoreToWind, use: Use, found: Shot) -> Checked:
    """Whether the socket's breaker carries the primary's amps as long; above its magnet's band no
    pulse is short enough.
    """
    amps = Quantity(found.primary_amps, found.primary_amps, found.primary_amps)
    said = breaker.trips(iron.breaker_amps, iron.curve, amps, use.on_seconds)
    if found.primary_amps >= breaker.CURVES[iron.curve].magnet[1] * iron.breaker_amps:
        said = breaker.WILL
    return Checked(
        about="breaker",
        words=f"{engineering(found.primary_amps, 'A')} from the wall for {_asked(use)} on "
        f"{iron.curve}{iron.breaker_amps:g}: trips {said}",
        holds=said != breaker.WILL,
        off=found.primary_amps / iron.breaker_amps,
    )


def best(iron: CoreToWind, use: Use) -> Fit:
    """The number of turns that leaves least undone; of those that fit the least, or where more is
    better the one of most watts in the load.
    """
    counts = list(_counts(iron, use))
    found = [tried(iron, use, n) for n in counts]
    fitting = [f for f in found if f.verdict == FITS]
    if fitting and use.most_watts:
        return max(fitting, key=lambda f: f.shot.job_watts if f.shot is not None else 0.0)
    if fitting:
        return fitting[0]
    return min(found, key=_undone)


def _undone(found: Fit) -> tuple[int, float]:
    """Needs that fail, and how far off they are together."""
    return len(found.failing), sum(math.log(max(c.off, 1.0)) for c in found.failing)


def _counts(iron: CoreToWind, use: Use) -> Iterator[int]:
    """Turns worth a trial: those whose open volts lie in the use's bounds, a dozen of them."""
    per_turn = iron.new_volts_per_turn.value * iron.cores
    low, high = use.open_volts
    least = max(1, math.ceil(low / per_turn - 1e-9))
    most = max(least, min(MOST_TURNS, math.floor(high / per_turn + 1e-9)))
    step = max(1, (most - least) // 11)
    yield from range(least, most + 1, step)


def fit(iron: CoreToWind, use: Use) -> Fit:
    """How a use fits this iron: as it is, after the nearest change, or not, with the change that
    would. Refused uses are answered with their reason and nothing else.

    >>> from greyfell.core.uses.core_to_wind import exact_iron
    >>> from greyfell.core.uses.all_uses import use_of
    >>> from greyfell.core.coil_design.window import Window
    >>> oven = exact_iron(Window(width_mm=19, height_mm=57, tongue_mm=38, stack_mm=60,
    ...                          primary_mm=25, shunts_mm=6), 0.9, shunts_in=True)
    >>> fit(oven, use_of("stick")).verdict, fit(oven, use_of("magnetron")).verdict
    ('does not', 'does not')
    """
    use = allowed(iron, use)
    if use.refused:
        return Fit(use=use, verdict=NOT, words=use.refused)
    found = best(iron, use)
    if found.verdict == FITS:
        return replace(found, words=_said(found))
    change = nearest(iron, use, found)
    reason = found.failing[0].words
    small = change is not None and change.key in SMALL
    verdict = AFTER if small else NOT
    then = "" if change is None else f" Nearest change: {change.words}."
    return replace(found, verdict=verdict, change=change, words=f"{reason}.{then}")


def _said(found: Fit) -> str:
    """A fit in a sentence."""
    assert found.conductor is not None
    assert found.shot is not None
    at = found.shot
    turns = "turn" if found.turns == 1 else "turns"
    return (
        f"{found.turns} {turns} of {found.conductor.name}: "
        f"{engineering(at.open_volts, 'V')} open, {engineering(at.amps, 'A')} in the load, "
        f"{engineering(at.primary_amps, 'A')} from the wall"
    )


def _barrier(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
    return replace(iron, barrier=use.barrier), use


def _socket(amps: float) -> PlannedChange:
    def apply(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
        return replace(iron, breaker_amps=amps), use

    return PlannedChange(
        key="socket", words=f"a socket of {amps:g} A, its wiring to match", apply=apply
    )


def _slow(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
    return replace(iron, curve="D"), use


def _pulse(use: Use, share: float) -> PlannedChange:
    seconds = float(f"{use.on_seconds * share:.1g}")

    def apply(iron: CoreToWind, changed: Use) -> tuple[CoreToWind, Use]:
        rest = replace(changed, off_seconds=max(changed.off_seconds, 9 * seconds))
        return iron, shorter(rest, seconds)

    return PlannedChange(
        key="pulse", words=f"{seconds:g} s at a time with rests nine times as long", apply=apply
    )


def _larger(factor: float) -> PlannedChange:
    def apply(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
        return iron.scaled(factor), use

    return PlannedChange(
        key="core", words=f"a core {factor:.2g} times as large every way", apply=apply
    )


def _series(count: int) -> PlannedChange:
    def apply(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
        return replace(iron, cores=count), use

    return PlannedChange(key="series", words=f"{count} such cores, wound in series", apply=apply)


SMALL = ("shunts", "barrier", "fuse", "socket", "curve", "pulse", "several")
"""Changes after which it is still this piece."""


def changes(iron: CoreToWind, use: Use) -> list[PlannedChange]:
    """Single changes, the nearest first."""
    out = []
    if iron.shunts_in:
        out.append(
            PlannedChange(
                key="shunts", words="the shunts out", apply=lambda i, u: (i.without_shunts(), u)
            )
        )
    if use.barrier != iron.barrier:
        out.append(
            PlannedChange(
                key="barrier",
                words="a former of its own with two barriers (three layers, 5 mm over surfaces), "
                "proved at 500 V with 7 MΩ",
                apply=_barrier,
            )
        )
    if not iron.fused:
        out.append(_fuse(use))
    if iron.curve != "D":
        out.append(PlannedChange(key="curve", words="a breaker of curve D", apply=_slow))
    out += [_socket(a) for a in SOCKETS if a > iron.breaker_amps]
    shares = (0.5, 0.25, 0.1, 0.03)
    out += [_pulse(use, s) for s in shares if use.on_seconds * s >= use.least_seconds]
    out += [_series(n) for n in (2, 3)]
    return out


HELPS = {
    "window": ("shunts", "pulse", "series"),
    "amps": ("shunts", "series"),
    "loaded volts": ("shunts", "series"),
    "open volts": ("shunts", "series"),
    "duty": ("pulse", "series"),
    "breaker": ("curve", "socket", "pulse"),
    "isolation": ("barrier",),
    "danger": ("fuse",),
}
"""Which changes may help a need that fails."""


def nearest(iron: CoreToWind, use: Use, found: Fit) -> PlannedChange | None:
    """The nearest change that makes it fit: one alone, two together, then a larger core with what
    else it wants. None where nothing in reach does.
    """
    help_it = {key for c in found.failing for key in HELPS[c.about]}
    singles = [c for c in changes(iron, use) if c.key in help_it]
    for one in singles:
        if _does(one, iron, use):
            return one
    for n, one in enumerate(singles):
        for two in singles[n + 1 :]:
            both = _together(one, two)
            if one.key != two.key and _does(both, iron, use):
                return both
    factor = STEP
    extras = [c for c in changes(iron, use) if c.key in ("shunts", "barrier", "fuse")]
    if SOCKETS[-1] > iron.breaker_amps:
        extras.append(_socket(SOCKETS[-1]))
    while factor < LARGEST:
        change = _larger(factor)
        for more in extras:
            change = _together(more, change)
        if _does(change, iron, use):
            return replace(change, key="core")
        factor *= STEP
    return None


def _does(change: PlannedChange, iron: CoreToWind, use: Use) -> bool:
    return best(*change.apply(iron, use)).verdict == FITS


def _together(one: PlannedChange, two: PlannedChange) -> PlannedChange:
    """Both changes."""

    def apply(iron: CoreToWind, use: Use) -> tuple[CoreToWind, Use]:
        return two.apply(*one.apply(iron, use))

    key = "several" if one.key in SMALL and two.key in SMALL else two.key
    return PlannedChange(key=key, words=f"{one.words}, and {two.words}", apply=apply)
