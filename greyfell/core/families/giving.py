"""Who gets which role: every way of giving windings their roles, with its log-odds."""

import itertools
import math
from collections.abc import Iterator

from greyfell.core.families.row import Assign, Given, Role, ToAssign
from greyfell.core.wiring.coil import Coil

LOOSE_ON_A_SINGLE = -2.5
"""Log-odds for a choke or variac with a lead that goes nowhere. From memory."""
MISSING = {"primary": -3.5, "hv-secondary": -4.5, "secondary": -3.0}
"""Log-odds for a piece on which a winding it should have was not found. From memory."""
ALIKE = 1.35
"""Ohms within this factor, beyond their limits, may belong to windings wound alike: the outer is
longer. Common practice."""
TOO_MANY = math.log(0.1)
"""Ovens have two or three windings, sign pieces two: each more that untested leads must belong to.
Common practice."""
SLACK = 1.5
"""A heater has fewer ohms than the windings of many turns, by more than any limit of error here.
Common practice."""
LEAST_BIAS_OHMS = 0.4
"""A bias winding of some ten volts and little current has more ohms than this. From memory."""
BIASED = 0.2
"""How often a valve set's transformer has a winding for its bias. From memory."""


def fill(n: int, placed: dict[int, Role], rest: Role) -> tuple[Role, ...]:
    """Roles of so many windings: those that are placed, and one for the rest."""
    return tuple([placed.get(i, rest) for i in range(n)])


def alike(a: Coil, b: Coil) -> bool:
    """Whether two windings may be wound alike by their ohms."""
    return not (
        a.broken or b.broken or a.ohms.high * ALIKE < b.ohms.low or b.ohms.high * ALIKE < a.ohms.low
    )


def single(role: Role, per_unread: float) -> Assign:
    """One winding and no other; what each untested lead that may be its tap counts for."""

    def assign(seen: ToAssign) -> Iterator[Given]:
        if seen.count == 1:
            apart, unread = _strays(seen)
            lost = len(seen.topology.loose)
            yield (role,), LOOSE_ON_A_SINGLE * (lost + apart) + per_unread * unread

    return assign


def _strays(seen: ToAssign) -> tuple[int, int]:
    """How many untested leads read open to the only winding found, and how many were not read to
    it: they may be its taps.
    """
    members, untested = set(seen.coils[0].members), set(seen.topology.untested)
    apart: set[str] = set()
    for r in seen.record.standing:
        if r.kind == "resistance" and r.ohms == "open" and set(r.between) & members:
            apart |= set(r.between) & untested
    return len(apart), len(untested) - len(apart)


def anything(seen: ToAssign) -> Iterator[Given]:
    """Windings of which nothing is said."""
    yield ("unknown",) * seen.count, -0.5 * seen.count


def oven(seen: ToAssign) -> Iterator[Given]:
    """An oven's: its HV winding has one lead, the other end is on the iron; or what its owner
    wound.
    """
    n = seen.count
    if any(c.what == "rewound" for c in seen.record.changes):
        yield from _rewound(n)
        return
    weight = TOO_MANY * max(0, n + seen.hidden - 3)
    for roles, w in _oven(n, 0.0 if seen.topology.untested else seen.short):
        yield roles, w + weight


def sign(seen: ToAssign) -> Iterator[Given]:
    """A primary and an HV winding, one of which may not have been found."""
    n = seen.count
    weight = TOO_MANY * max(0, n + seen.hidden - 2)
    for roles, w in _sign(n, seen.short):
        yield roles, w + weight


def valve(seen: ToAssign) -> Iterator[Given]:
    """A valve set's: primary, HV winding, heaters, perhaps one for the bias."""
    if not seen.hidden:
        yield from _valve(seen.count, seen.coils)
    else:
        yield from _valve_in_part(seen.count, seen.coils, seen.hidden)


def plain(seen: ToAssign) -> Iterator[Given]:
    """One primary and what it feeds."""
    n = seen.count
    counts = {1: 0.55, 2: 0.28, 3: 0.1, 4: 0.04}
    if n == 1:
        yield ("primary",), seen.short * MISSING["secondary"]
    else:
        yield from _one_primary(n, counts)
    if seen.hidden:
        yield fill(n, {}, "lv-secondary"), math.log(0.5)


def of_few(seen: ToAssign) -> Iterator[Given]:
    """One primary and one output, seldom two."""
    if seen.count > 1:
        yield from _one_primary(seen.count, {1: 0.85, 2: 0.14})


def _one_primary(n: int, counts: dict[int, float]) -> Iterator[Given]:
    for p in range(n):
        yield (
            fill(n, {p: "primary"}, "lv-secondary"),
            math.log(counts.get(n - 1, 0.01)) - math.log(n),
        )


def two_halves(counts: dict[int, float]) -> Assign:
    """Two equal mains windings, and outputs by how common so many are."""

    def assign(seen: ToAssign) -> Iterator[Given]:
        n, coils = seen.count, seen.coils
        if n < 3:
            return
        for x, y in itertools.combinations(range(n), 2):
            if alike(coils[x], coils[y]):
                roles = fill(n, {x: "primary-half", y: "primary-half"}, "lv-secondary")
                yield roles, math.log(counts.get(n - 2, 0.01)) - math.log(n * (n - 1) / 2)

    return assign


def _oven(n: int, short: float) -> Iterator[Given]:
    heaters = {0: math.log(0.25), 1: math.log(0.70), 2: math.log(0.05)}
    for p, h in itertools.permutations(range(n), 2):
        if n - 2 in heaters:
            yield (
                fill(n, {p: "primary", h: "hv-secondary"}, "filament"),
                heaters[n - 2] - math.log(n * (n - 1)),
            )
    for p in range(n):
        if n - 1 in heaters:
            yield (
                fill(n, {p: "primary"}, "filament"),
                heaters[n - 1] + short * MISSING["hv-secondary"] - math.log(n),
            )
            yield (
                fill(n, {p: "hv-secondary"}, "filament"),
                heaters[n - 1] + short * MISSING["primary"] - math.log(n),
            )


def _rewound(n: int) -> Iterator[Given]:
    """An oven's core with the owner's own windings: the primary, perhaps the HV winding still."""
    for p in range(n):
        yield fill(n, {p: "primary"}, "lv-secondary"), math.log(0.9) - math.log(n)
    for p, h in itertools.permutations(range(n), 2):
        if n > 2:
            placed = {p: "primary", h: "hv-secondary"}
            yield fill(n, placed, "lv-secondary"), math.log(0.1) - math.log(n * (n - 1))


def _sign(n: int, short: float) -> Iterator[Given]:
    if n == 2:
        yield ("primary", "hv-secondary"), math.log(0.5)
        yield ("hv-secondary", "primary"), math.log(0.5)
    if n == 1:
        yield ("primary",), short * MISSING["hv-secondary"]
        yield ("hv-secondary",), short * MISSING["primary"]


def _valve(n: int, coils: tuple[Coil, ...]) -> Iterator[Given]:
    if n < 3 or n > 8:
        return
    high = [c.broken or c.ohms.high >= 4.0 for c in coils]
    counts = {1: 0.35, 2: 0.4, 3: 0.18, 4: 0.05, 5: 0.02}
    for p, h in itertools.permutations(range(n), 2):
        if not high[h]:
            continue
        rest = [i for i in range(n) if i not in (p, h)]
        least = SLACK * min(coils[p].ohms.high, coils[h].ohms.high)
        choices = [
            (("filament",) if coils[i].broken or coils[i].ohms.low <= least else ())
            + (("bias",) if high[i] or coils[i].ohms.high > LEAST_BIAS_OHMS else ())
            for i in rest
        ]
        for picked in itertools.product(*choices):
            biases = picked.count("bias")
            heaters = len(picked) - biases
            if biases > 1 or heaters < 1:
                continue
            weight = math.log(counts.get(heaters, 0.005))
            weight += math.log(BIASED if biases else 1 - BIASED)
            ways = math.log(n * (n - 1) * (max(1, len(rest)) if biases else 1))
            yield (
                fill(
                    n, {p: "primary", h: "hv-secondary", **dict(zip(rest, picked, strict=True))}, ""
                ),
                weight - ways,
            )


def _valve_in_part(n: int, coils: tuple[Coil, ...], hidden: int) -> Iterator[Given]:
    """A valve set's transformer of which some windings were not found yet, the primary or the HV
    winding perhaps among them.
    """
    if not 3 <= n + hidden <= 8:
        return
    high = [c.broken or c.ohms.high >= 4.0 for c in coils]
    found: list[dict[int, Role]] = []
    for p, h in itertools.product([*range(n), None], repeat=2):
        if (
            (p is None) + (h is None) > hidden
            or (p == h and p is not None)
            or (h is not None and not high[h])
        ):
            continue
        placed = {i: role for i, role in ((p, "primary"), (h, "hv-secondary")) if i is not None}
        least = SLACK * min((coils[i].ohms.high for i in placed), default=math.inf)
        if all(coils[i].broken or coils[i].ohms.low <= least for i in range(n) if i not in placed):
            found.append(placed)
    for placed in found:
        weight = math.log(0.6) - math.log(len(found))
        able = [i for i in range(n) if i not in placed and coils[i].ohms.high > LEAST_BIAS_OHMS]
        able = able if n - len(placed) + hidden > 1 else []
        yield fill(n, placed, "filament"), weight + math.log(1 - BIASED if able else 1.0)
        for i in able:
            roles = fill(n, {**placed, i: "bias"}, "filament")
            yield roles, weight + math.log(BIASED / len(able))


def igniter(seen: ToAssign) -> Iterator[Given]:
    """A primary and an HV winding, however bonded."""
    n = seen.count
    if n == 2:
        yield ("primary", "hv-secondary"), math.log(0.5)
        yield ("hv-secondary", "primary"), math.log(0.5)


def inverter(seen: ToAssign) -> Iterator[Given]:
    """An inverter oven's ferrite: a primary of few turns that never sees the mains, heater, HV
    winding.
    """
    n = seen.count
    if n not in (2, 3):
        return
    for h in range(n):
        rest = [i for i in range(n) if i != h]
        for p in rest:
            placed = {h: "hv-secondary", p: "unknown"}
            yield fill(n, placed, "filament"), -math.log(n * len(rest))


def resonant(seen: ToAssign) -> Iterator[Given]:
    """A ferroresonant part: primary, output, and the winding of its capacitor."""
    n = seen.count
    if n < 3:
        return
    for p, c in itertools.permutations(range(n), 2):
        placed = {p: "primary", c: "hv-secondary"}
        yield fill(n, placed, "lv-secondary"), -math.log(n * (n - 1))
