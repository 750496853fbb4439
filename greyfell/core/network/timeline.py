"""A network in time: switched on, and in its steady state; saturating iron, diodes, arcs, lamps."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import FieldError
from greyfell.core.network.bending import LEAST, CoreInductor, Filament
from greyfell.core.network.laws import Pieces
from greyfell.core.network.parts import EARTH, CircuitPart, Figures
from greyfell.core.network.stepping import STRIDE, Leap, Stepping, Stride, Where

STEPS, STAYS = 400, 16
"""Steps of one cycle; and how many are made one by one on the same pieces before strides are
tried: iron that bends leaves its piece again sooner."""
TRIES, SINGLE = 200, 12
"""Most changes of piece within a step; after so many only one part is changed at a time."""
EDGE = 1e-9
"""A part may stand beyond its piece's end by this share."""
WARM, ROUNDS, VAIN, SETTLED, LOOSE = (3, 10, 40, 200), 12, 2, 1e-4, 1e-2
"""Cycles before the steady state is looked for, more where it was not found; most rounds of Newton
each time, and how many in a row may come no nearer; it stands where a cycle ends as it began within
this share, at worst the last."""
FILAMENT_ROUNDS, FILAMENT_SAME = 40, 1e-3
UNSETTLED = "This network does not settle: two of its parts switch each other."


class Run(Struct, frozen=True):
    """A network over time: `times` in s, and every unknown at each, shape (times, unknowns)."""

    stepping: Stepping
    times: Figures
    unknowns: Figures
    held: Figures

    def volts(self, one: str, two: str = EARTH) -> Figures:
        """Volts from one node to another at each time."""
        return self.stepping.layout.found(self.unknowns, one, two)

    def over(self, part: CircuitPart) -> Figures:
        """Volts over a part."""
        return self.volts(part.one, part.two)

    def amps(self, part: CircuitPart) -> Figures:
        """Amps through a part, from its first node to its second; out of a source's first node they
        count against it.
        """
        return part.amps_in(self)

    def own_amps(self, part: CircuitPart) -> Figures:
        """Amps of a part whose amps are an unknown of their own."""
        return self.unknowns[:, self.stepping.layout.branches[part.name]]

    def held_by(self, part: CircuitPart) -> tuple[Figures, Figures]:
        """The two figures that a part holds, at each time."""
        k = 2 * self.stepping.place[part.name]
        return self.held[:, k], self.held[:, k + 1]

    def conductance(self, part: CircuitPart) -> float:
        """Of a part that does not bend, over one step. S."""
        return self.stepping.conductance(part)

    def flux(self, part: CoreInductor) -> Figures:
        """Flux linkage of an iron part, Wb."""
        return self.held_by(part)[0]


def rms(instants: Figures) -> float:
    """RMS over whole cycles, evenly stepped, in the unit of the instants: V or A. By definition.

    >>> rms(np.array([1.0, -1.0, 1.0, -1.0]))
    1.0
    """
    return float(np.sqrt(np.mean(instants**2)))


class _Ends(Struct, frozen=True, kw_only=True):
    """How far every bending part may go on its piece, as lists and as arrays."""

    low: list[float]
    high: list[float]
    lows: Figures
    highs: Figures

    @classmethod
    def of(cls, pieces: Sequence[Pieces], where: Where) -> "_Ends":
        """The ends of these pieces, a little slack beyond."""
        low = [p.low[k] for p, k in zip(pieces, where, strict=True)]
        high = [p.high[k] for p, k in zip(pieces, where, strict=True)]
        low = [a - EDGE * abs(a) if a > -np.inf else a for a in low]
        high = [b + EDGE * abs(b) if b < np.inf else b for b in high]
        return cls(low=low, high=high, lows=np.array(low), highs=np.array(high))


class _Walk:
    """A network walked step by step."""

    def __init__(self, stepping: Stepping) -> None:
        self.s = stepping
        self.state = np.zeros(stepping.width)
        self.state[-1] = 1.0
        self.state[: stepping.held] = stepping.begun()
        self.ends: dict[Where, _Ends] = {}
        self.where: Where = tuple(port.pieces.at(port.begins) for port in stepping.ports)
        self._bounds()

    def _bounds(self) -> None:
        found = self.ends.get(self.where)
        if found is None:
            found = self.ends[self.where] = _Ends.of(self.s.pieces, self.where)
        self.end = found

    def _step(self, driven: Figures, euler: bool) -> tuple[Leap, Figures, bool]:
        """One step from what is held: its leap, what comes out, whether a sharp bend was passed."""
        s, turned = self.s, False
        self.state[s.held : -1] = driven
        n = len(s.pieces)
        for tries in range(TRIES):
            leap = s.leap(self.where, euler)
            out = leap.matrix @ self.state
            ports = out[:n].tolist()
            wrong = [
                k
                for k, (x, a, b) in enumerate(zip(ports, self.end.low, self.end.high, strict=True))
                if not a <= x <= b
            ]
            if not wrong:
                return leap, out, turned
            turned = turned or any(s.sharp[k] for k in wrong)
            self._moved(ports, wrong if tries < SINGLE else wrong[:1], tries)
        raise FieldError("parts", UNSETTLED)

    def _moved(self, ports: list[float], wrong: Sequence[int], tries: int) -> None:
        """Parts beyond their piece's end, each on the piece that holds it; later by one piece."""
        where = list(self.where)
        for k in wrong:
            pieces, at = self.s.pieces[k], where[k]
            if tries < SINGLE:
                where[k] = pieces.at(ports[k])
            else:
                where[k] = at + (1 if ports[k] > pieces.high[at] else -1)
        self.where = tuple(where)
        self._bounds()

    def run(
        self, driven: Figures, halves: Figures, *, linked: bool = False
    ) -> tuple[Figures, Figures, Figures | None]:
        """All unknowns and all that is held after each step, by what drives it at each step's end
        and half; and, where it is `linked`, how the end hangs on the beginning.
        """
        s, n, h = self.s, len(self.s.pieces), self.s.held
        states, held = np.empty((len(driven), s.width)), np.empty((len(driven), h))
        states[:, h:-1], states[:, -1] = driven, 1.0
        leaps: dict[int, tuple[int, Leap]] = {}
        which = np.empty(len(driven), dtype=np.intp)
        carried = np.eye(h) if linked else None
        ahead = np.concatenate([driven, np.zeros((STRIDE, len(s.sources)))])
        state, out = self.state, np.empty(n + h)
        leap = s.leap(self.where, False)
        at = _place(leaps, leap)
        soft, bends, k, stay = True, False, 0, 0
        while k < len(driven):
            if stay >= STAYS and not bends:
                stride, room = s.stride(self.where), held[k : k + STRIDE]
                far = self._strode(stride, ahead[k : k + STRIDE], room)
                bends = far < len(room)
                if far:
                    states[k, :h], states[k + 1 : k + far, :h] = state[:h], room[: far - 1]
                    which[k : k + far] = at
                    state[:h] = room[far - 1]
                    carried = None if carried is None else stride.linked[far] @ carried
                k, stay = k + far, stay + far
                continue
            state[h:-1] = driven[k]
            leap.matrix.dot(state, out=out)
            if not (soft or bends) and self._stands(out[:n].tolist()):
                made, stay = leap, stay + 1
            else:
                made, after, carried, soft = self._turned(driven[k], halves[k], carried, soft=soft)
                out[:] = after
                leap, stay, bends = s.leap(self.where, False), 0, False
                at = _place(leaps, leap)
            if carried is not None:
                carried = made.matrix[n:, :h] @ carried
            states[k, :h], which[k] = state[:h], at if made is leap else _place(leaps, made)
            state[:h] = held[k] = out[n:]
            k += 1
        return _solved(s, states, [leap for _, leap in leaps.values()], which), held, carried

    def _stands(self, ports: list[float]) -> bool:
        """Whether every bending part stands on its piece."""
        for x, low, high in zip(ports, self.end.low, self.end.high, strict=True):
            if x < low or x > high:
                return False
        return True

    def _strode(self, stride: Stride, driven: Figures, held: Figures) -> int:
        """How many steps are made before a part leaves its piece, as many as `held` has room for at
        most; what is held after each is put there.
        """
        s = self.s
        given = np.concatenate([self.state[: s.held], driven.ravel(), self.state[-1:]])
        ports = (stride.ports @ given).reshape(STRIDE, len(s.pieces))
        stands = ((ports >= self.end.lows) & (ports <= self.end.highs)).all(axis=1)
        far = len(held) if stands.all() else min(int(stands.argmin()), len(held))
        if far:
            held[:far] = (stride.held[: far * s.held] @ given).reshape(far, s.held)
        return far

    def _turned(
        self, driven: Figures, half: Figures, carried: Figures | None, *, soft: bool
    ) -> tuple[Leap, Figures, Figures | None, bool]:
        """A step within which parts change their piece; in two halves where the bend is sharp, and
        so the step after it, which would still ring. Returns whether that comes next.
        """
        n, h = len(self.s.pieces), self.s.held
        before, where = self.state[:h].copy(), self.where
        leap, out, turned = self._step(driven, False)
        if not (turned or soft):
            return leap, out, carried, False
        self.state[:h], self.where = before, where
        self._bounds()
        leap, out, _ = self._step(half, True)
        if carried is not None:
            carried = leap.matrix[n:, :h] @ carried
        self.state[:h] = out[n:]
        leap, out, _ = self._step(driven, True)
        return leap, out, carried, turned


def _place(leaps: dict[int, tuple[int, Leap]], leap: Leap) -> int:
    """Where a leap stands among those made; a new one is put last."""
    return leaps.setdefault(id(leap), (len(leaps), leap))[0]


def _solved(
    s: Stepping, states: Figures, leaps: Sequence[Leap], which: NDArray[np.intp]
) -> Figures:
    """Every unknown at each step: steps of one leap at once, `which` of them each step was."""
    out = np.empty((len(states), s.size))
    for k, leap in enumerate(leaps):
        steps = which == k
        out[steps] = states[steps] @ leap.solved.T
    return out


def switched_on(
    parts: Sequence[CircuitPart],
    *,
    cycles: float,
    hertz: float,
    steps: int = STEPS,
    ohms: dict[str, float] | None = None,
) -> Run:
    """A network from the moment it is switched on, for so many cycles. Filaments keep the ohms
    given, or else their hot ones. Raises FieldError where it has no solution.

    >>> from greyfell.core.network.parts import Resistor, Source
    >>> parts = [Source(name="V", one="a", volts=10.0, hertz=50.0),
    ...          Resistor(name="R", one="a", ohms=5.0)]
    >>> round(rms(switched_on(parts, cycles=1, hertz=50.0).amps(parts[1])), 3)
    2.0
    """
    step = 1 / hertz / steps
    stepping = Stepping(parts, step, _filaments(parts) | (ohms or {}))
    walk = _Walk(stepping)
    times: Figures = step * np.arange(1.0, round(cycles * steps) + 1.0)
    unknowns, held, _ = walk.run(stepping.driven(times), stepping.driven(times - step / 2))
    return Run(stepping, times, unknowns, held)


def steady(parts: Sequence[CircuitPart], *, hertz: float, steps: int = STEPS) -> Run:
    """One cycle of a network in its steady state: a cycle that ends as it began, found by Newton's
    method on what is held at its beginning; filaments at the ohms of their own amps.

    Raises FieldError where no steady state is found.
    """
    ohms = _filaments(parts)
    lamps = [p for p in parts if isinstance(p, Filament)]
    run, held = _steady(parts, hertz, steps, ohms, None)
    for _ in range(FILAMENT_ROUNDS if lamps else 0):
        off = 0.0
        for lamp in lamps:
            new = lamp.ohms_at(rms(run.amps(lamp)))
            off = max(off, abs(new / ohms[lamp.name] - 1))
            ohms[lamp.name] = float(np.sqrt(new * ohms[lamp.name]))
        if off < FILAMENT_SAME:
            break
        run, held = _steady(parts, hertz, steps, ohms, held)
    return run


def _filaments(parts: Sequence[CircuitPart]) -> dict[str, float]:
    """Hot ohms of every lamp."""
    return {p.name: p.hot_ohms for p in parts if isinstance(p, Filament)}


def _steady(
    parts: Sequence[CircuitPart],
    hertz: float,
    steps: int,
    ohms: dict[str, float],
    begin: Figures | None,
) -> tuple[Run, Figures]:
    step = 1 / hertz / steps
    stepping = Stepping(parts, step, dict(ohms))
    walk = _Walk(stepping)
    times: Figures = step * np.arange(1.0, steps + 1.0)
    driven, halves = stepping.driven(times), stepping.driven(times - step / 2)
    if begin is not None:
        walk.state[: stepping.held] = begin
    best: tuple[float, Run, Figures] | None = None
    for warm in WARM if begin is None else (0, *WARM[1:]):
        for _ in range(warm):
            walk.run(driven, halves)
        vain, nearest = 0, np.inf
        for _ in range(ROUNDS):
            start = walk.state[: stepping.held].copy()
            unknowns, held, carried = walk.run(driven, halves, linked=True)
            assert carried is not None
            end = walk.state[: stepping.held].copy()
            scale = np.abs(held).max(axis=0) + LEAST
            off = float(np.max(np.abs(end - start) / scale)) if len(scale) else 0.0
            if best is None or off < best[0]:
                best = (off, Run(stepping, times, unknowns, held), start)
            if off < SETTLED:
                return best[1], best[2]
            vain, nearest = (0, off) if off < nearest else (vain + 1, nearest)
            if vain == VAIN:
                break
            back = np.linalg.lstsq(np.eye(stepping.held) - carried, end - start, rcond=1e-10)[0]
            walk.state[: stepping.held] = start + back
        walk.state[: stepping.held] = start if best is None else best[2]
    if best is None or best[0] > LOOSE:
        raise FieldError("parts", "No steady state was found: it goes on changing cycle by cycle.")
    return best[1], best[2]
