"""Steps with the mains on the primary: only behind an open gate, in the order of their energy, each
with what it should show.

A piece with an HV winding has them too, from its primary's side alone: its HV leads insulated,
apart and fixed, the core bonded, nobody near, no probe on HV. Its ratio at a few volts comes first.
"""

from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.bench.kept_setup import standing_setup
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.circuit.idle import Idle, idle_of
from greyfell.core.figures.notation import engineering, span
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import high_ruled_out, may_be_high, share_to_earth
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.metering import MARGIN, meter_rules
from greyfell.core.judgement.rating import HAND_HELD_VOLTS
from greyfell.core.judgement.verdict import taken_live
from greyfell.core.steps import step as steps
from greyfell.core.steps.lamps import USUAL_LAMP, Lamps, bench_lamp, lamps_of
from greyfell.core.steps.step import Step
from greyfell.core.telling.under_power import hands_off

SHORT_SHARE = 0.1
"""A short-circuit test begins at this share of the supply. Common practice: a tenth to a fifth."""


def live_steps(ident: Identification) -> list[Step]:
    """What is still to be done under power, the least energy first: the bench set up, the lamp, the
    amps at no load, the volts of each output. Nothing where volts that a few volts at low energy
    would tell are not known, or no winding is fed.
    """
    fed = fed_whole(ident.record, ident.belief)
    if fed is None or fed.coil.broken or not ident.belief.fed:
        return []
    others = [w for w in ident.windings if w not in fed_windings(ident) and not w.coil.broken]
    if any(w.volts is None for w in others):
        return []
    high = not high_ruled_out(ident.belief)
    made = (*_lamp(ident, fed, others, high=high), *_no_load(ident, fed, high=high))
    made = (*made, *_outputs(ident, fed, others))
    return [*_setup(ident), *made] if made else []


def _setup(ident: Identification) -> Iterable[Step]:
    """The bench drawn from the wall to the piece, with nothing wrong in it."""
    standing = standing_setup(ident)
    if standing is None:
        yield steps.SET_UP.of(words="Say at first power what stands between the wall and it.")
    elif standing.wrongs:
        first = standing.wrongs[0].sentence
        more = len(standing.wrongs) - 1
        besides = f" And {more} more." if more else ""
        yield steps.SET_UP.of(words=f"{first}{besides}")


def _lamp(
    ident: Identification, fed: Winding, others: Sequence[Winding], *, high: bool
) -> Iterable[Step]:
    """First power behind a lamp, its glow foretold."""
    if any(r.kind in ("no_load", "lamp") for r in ident.record.standing):
        return
    lamps = lamps_of(ident, wrong_too=False)
    first = None if lamps is None else lamps.windings[0]
    own = bench_lamp(ident)
    watts = f"{first.lamp_watts:g}" if first is not None else f"{own or USUAL_LAMP:g}"
    glow = "Dark, or dim on an oven primary." if first is None else _glow(first.sound)
    named = "; ".join(f"{w.name} {_volts(w)}" for w in others) or "no other winding"
    a, b = fed.coil.leads
    words = steps.FIRST_POWER_HIGH if high else steps.FIRST_POWER
    share = share_to_earth(ident.belief)
    step = words.of((a, b), a=a, b=b, supply=_supply(ident), named=named, watts=watts, share=share)
    yield replace(step, expect=glow, meanwhile=_meanwhile(lamps))


def _glow(glows: Sequence[str]) -> str:
    """What the lamp does on a sound piece."""
    return f"{' or '.join(glows).capitalize()}, if it is sound."


def _meanwhile(lamps: Lamps | None) -> str:
    """What stands live on the others behind the lamp."""
    if lamps is None or not lamps.windings[0].others:
        return ""
    each = (
        f"{m.name} {span(m.volts.low, m.volts.high, 'V')}{', live' if m.live else ''}"
        for m in lamps.windings[0].others
    )
    return f"Meanwhile: {'; '.join(each)}."


def _no_load(ident: Identification, fed: Winding, *, high: bool) -> Iterable[Step]:
    """Amps and watts at no load, wound up to the supply."""
    supply = ident.record.supply.volts
    read = [r for r in ident.record.standing if r.kind == "no_load"]
    near = [r for r in read if r.amps and taken_live(r, ident.record, ident.belief)]
    if near and (not high or any(r.watts is not None for r in near)):
        return
    a, b = fed.coil.leads
    idle = idle_of(ident.record, ident.belief)
    words = steps.NO_LOAD_HIGH if high else steps.NO_LOAD
    step = words.of((a, b), a=a, b=b, supply=_supply(ident))
    yield replace(step, expect=_idle(idle), jotter=f"{a}-{b} {supply:g}V ")


def _idle(idle: Idle | None) -> str:
    """Amps and watts to expect at no load."""
    if idle is None:
        return "A few hundredths to a tenth of its rated amps; an oven's primary 1 to 5 A."
    amps = [c.amps for c in idle.curves]
    watts = [c.watts for c in idle.curves if c.watts]
    told = span(min(amps), max(amps), "A")
    if watts:
        told = f"{told}, {span(min(watts), max(watts), 'W')}"
    return f"{told} ({idle.basis})."


def _outputs(ident: Identification, fed: Winding, others: Sequence[Winding]) -> Iterable[Step]:
    """The volts of every output that a meter may touch, on the supply."""
    read = {
        x
        for r in ident.record.standing
        if r.kind == "ratio" and taken_live(r, ident.record, ident.belief)
        for x in r.sensed
    }
    a, b = fed.coil.leads
    for w in others:
        if may_be_high(w) or read & set(w.coil.members) or w.volts is None:
            continue
        if not _readable(ident, w):
            continue
        c, d = w.coil.leads
        step = steps.LIVE_VOLTS.of((a, b), (c, d), a=a, b=b, c=c, d=d, supply=_supply(ident))
        supply = ident.record.supply.volts
        more = "".join(f" {words}" for words in hands_off(ident))
        yield replace(
            step,
            do=step.do + more,
            expect=f"{_volts(w)}.",
            jotter=f"{a}-{b} {supply:g}V > {c}-{d} ",
        )


def _readable(ident: Identification, w: Winding) -> bool:
    """Whether a meter of the record may be on a winding; where none is on record, whether any
    hand-held one might.
    """
    rules = [r for r in meter_rules(ident) if r.points == w.coil.leads]
    if rules:
        return any(r.allowed for r in rules)
    return w.volts is not None and w.volts.high <= MARGIN * HAND_HELD_VOLTS


def shorted_step(ident: Identification, shorted: Winding, limit: Quantity | None) -> Step:
    """The short-circuit test, wound up from nought until rated amps flow."""
    fed = fed_whole(ident.record, ident.belief)
    a, b = ("", "") if fed is None else fed.coil.leads
    c, d = shorted.coil.leads
    volts = engineering(SHORT_SHARE * ident.record.supply.volts, "V")
    most = "its rated amps" if limit is None else engineering(limit.low, "A")
    words = steps.SHORTED_HIGH if may_be_high(shorted) else steps.SHORTED
    return words.of((a, b), a=a, b=b, c=c, d=d, volts=volts, most=most)


def _supply(ident: Identification) -> str:
    return f"{ident.record.supply.volts:g} V"


def _volts(w: Winding) -> str:
    return "unknown volts" if w.volts is None else span(w.volts.low, w.volts.high, "V")
