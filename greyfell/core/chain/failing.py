"""Every single failure of a rig, solved: each element shorted and open, the bond off, a diode
shorted and open; what then flows, stands and is newly beyond its rating.
"""

from collections.abc import Iterator

from msgspec import Struct

from greyfell.core.chain.building import BOND, DIODE, OPEN, SHORTED, Failure
from greyfell.core.chain.elements import Rig
from greyfell.core.chain.over_rating import beyond
from greyfell.core.chain.solving import Solved, solve
from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import begun, engineering

STEPS = 160
"""Steps of a cycle: a failure is told in two digits."""
MORE, LESS = 1.25, 0.8
"""A figure that a failure changes by more than this is said. House rule."""


class Failed(Struct, frozen=True, kw_only=True):
    """One failure, and what it makes of the rig; nothing is told of it where it does not settle."""

    failure: Failure
    name: str
    solved: Solved | None
    words: str
    grave: bool

    def as_json(self) -> dict[str, object]:
        """The public form."""
        amps = None if self.solved is None else self.solved.line.amps
        volts = None if self.solved is None else self.solved.load.volts
        peak = None if self.solved is None else self.solved.after("piece").peak_volts
        return {
            "at": self.failure.at,
            "how": self.failure.how,
            "wall_amps": amps,
            "load_volts": volts,
            "peak_volts": peak,
            "sentence": self.words,
            "grave": self.grave,
        }


def failures(rig: Rig) -> list[tuple[Failure, str]]:
    """Every single failure that the row allows, with its name."""
    out: list[tuple[Failure, str]] = []
    for e in rig.elements:
        kind = e.kind.key
        if kind == "rectifier":
            out += [(Failure(at=DIODE, how=how), f"a diode {how}") for how in (SHORTED, OPEN)]
            continue
        if kind != "short":
            out.append((Failure(at=e.id, how=SHORTED), f"{e.name} shorted"))
        if kind != "open":
            out.append((Failure(at=e.id, how=OPEN), f"{e.name} open"))
    if rig.piece.bond != "none":
        out.append((Failure(at=BOND, how=OPEN), "the core's bond off"))
    return out


def failed(whole: Solved) -> Iterator[Failed]:
    """Each failure of a rig that is solved sound, solved too."""
    before = {(b.at, b.what) for b in beyond(whole)}
    for failure, name in failures(whole.rig):
        try:
            found = solve(whole.rig, failure, steps=STEPS)
        except FieldError as error:
            yield Failed(failure=failure, name=name, solved=None, words=error.sentence, grave=True)
            continue
        new = [b for b in beyond(found) if (b.at, b.what) not in before and b.at != failure.at]
        words = _words(whole, found, failure)
        words += [f"{b.name}: {engineering(b.has, b.unit)}, {b.fails}" for b in new[:2]]
        said = "; ".join(words) or "little changes"
        yield Failed(
            failure=failure,
            name=name,
            solved=found,
            words=begun(said) + ".",
            grave=bool(new) or failure.at == BOND,
        )


def _words(whole: Solved, found: Solved, failure: Failure) -> list[str]:
    """What changes that a person at the bench would see or feel."""
    out = []
    if failure.at == BOND:
        opened = whole.rig.piece.get("ratio") * found.after("primary").volts
        case = max(opened, found.after("piece").volts)
        case /= 2 if whole.rig.piece.bond == "middle" else 1
        out.append(f"the core may stand at up to {engineering(case, 'V')} to earth")
    amps, then = whole.line.amps, found.line.amps
    if then > MORE * amps:
        out.append(f"{engineering(then, 'A')} from the wall, {engineering(amps, 'A')} before")
    elif then < LESS * amps:
        out.append(f"only {engineering(then, 'A')} from the wall")
    out += _risen(whole, found)
    if whole.rig.rectified is not None and failure.how == OPEN and _bleeds(whole, failure):
        out.append("nothing takes its charge away any more")
    return out


def _risen(whole: Solved, found: Solved) -> list[str]:
    """Volts out of the piece that rise."""
    peak, then = whole.after("piece").peak_volts, found.after("piece").peak_volts
    if then > MORE * peak and then > 1.0:
        return [f"{engineering(then, 'V')} of peak out of it, {engineering(peak, 'V')} before"]
    return []


def _bleeds(whole: Solved, failure: Failure) -> bool:
    """Whether what opened is the only way for the charge."""
    bleeders = [e.id for e in whole.rig.behind if e.kind.key == "bleeder"]
    return bleeders == [failure.at]
