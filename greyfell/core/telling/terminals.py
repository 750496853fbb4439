"""What the terminals of a piece are called: by its owner's letters, or by a scheme in which like
marks have like polarity as far as it was read.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import Literal

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.belief.polarity import turned
from greyfell.core.judgement.contradictions import undecided_polarity
from greyfell.core.judgement.identification import Identification

Scheme = Literal["own", "H/X", "1U/2U"]
SCHEMES: dict[str, str] = {
    "own": "your own letters",
    "H/X": "H1, H2, X1, X2 …: H is the winding of the highest volts (IEEE C57.12.70)",
    "1U/2U": "1U, 1V, 2U, 2V …: 1 is the winding of the highest volts (practice of EN 60076-1)",
}
"""Ways to mark terminals, in words. The reference table of terminal markings."""
LETTERS = "HXYZWVUTSR"
"""Letters of windings from the highest volts down; after the fourth by our own choice."""


class Terminals(Struct, frozen=True):
    """Marks by lead; the leads that are alike, one of each winding whose polarity is known against
    the first; the windings whose polarity was not read.
    """

    scheme: str
    marks: dict[str, str]
    alike: tuple[str, ...]
    unread: tuple[str, ...]

    @property
    def proposed(self) -> str:
        """What the marks of windings without a polarity are worth, in a sentence; empty where all
        were read.
        """
        if self.scheme == "own" or not self.unread:
            return ""
        return (
            f"Which end is the first was not read for {', '.join(self.unread)}: its marks are "
            "proposed, join it to another only after a polarity test."
        )


def _known_senses(ident: Identification, ranked: Sequence[Winding]) -> dict[str, int]:
    # against the winding on the mains, or the first
    turned = senses(ident)
    reference = next((w.id for w in ranked if w.on_mains), ranked[0].id if ranked else "")
    base = turned.get(reference, (0, 1))
    known = {k: sense * base[1] for k, (island, sense) in turned.items() if island == base[0]}
    known.setdefault(reference, 1)
    return known


def terminals(ident: Identification, scheme: str | None = None) -> Terminals:
    """The terminals of a piece, marked by a scheme; by that of the record where none is named."""
    chosen = scheme or ident.record.marking or "own"
    ranked = _ranked(ident, [w for w in ident.windings if w.coil.members])
    known = _known_senses(ident, ranked)
    marks = {lead.id: lead.id for lead in ident.record.leads}
    marks |= MARKED.get(chosen, _own)(ident, ranked, known)
    alike = [in_order(w, known[w.id])[0] for w in ranked if w.id in known]
    return Terminals(
        scheme=chosen,
        marks=marks,
        alike=tuple(alike) if len(alike) > 1 else (),
        unread=tuple(w.name for w in ranked if w.id not in known),
    )


def _ranked(ident: Identification, wound: Iterable[Winding]) -> list[Winding]:
    """Windings from the highest volts down; one without volts last."""
    return sorted(wound, key=lambda w: -(w.volts.value if w.volts is not None else 0.0))


def in_order(w: Winding, sense: int) -> tuple[str, ...]:
    """The points of a winding from its first end to its last, its core end among them."""
    along = sorted(w.coil.positions, key=lambda x: w.coil.positions[x])
    points = list(dict.fromkeys(along)) or list(w.coil.leads)
    points += [x for x in w.coil.members if x not in points]
    return tuple(points if sense > 0 else reversed(points))


def _islands(told: Sequence[tuple[int, int, bool]]) -> dict[int, tuple[int, int]]:
    links: dict[int, list[tuple[int, int]]] = {}
    for i, j, same in told:
        turn = 1 if same else -1
        links.setdefault(i, []).append((j, turn))
        links.setdefault(j, []).append((i, turn))
    found: dict[int, tuple[int, int]] = {}
    for island, first in enumerate(links):
        waiting = [(first, 1)] if first not in found else []
        while waiting:
            here, sense = waiting.pop()
            if here not in found:
                found[here] = (island, sense)
                waiting += [(there, sense * turn) for there, turn in links[here]]
    return found


def senses(ident: Identification) -> dict[str, tuple[int, int]]:
    """Which way every winding runs against others: the island that polarity readings join it to,
    and its sense there, 1 or −1. An island in which readings contradict each other tells nothing.
    """
    told = [t for p in ident.belief.polarity if (t := turned(p, ident.topology)) is not None]
    found = _islands(told)
    odd = {found[i][0] for i, j, same in told if (found[i][1] == found[j][1]) is not same}
    odd |= {
        found[i][0]
        for pair in undecided_polarity(ident.record, ident.belief)
        for i in pair
        if i in found
    }
    return {ident.windings[i].id: x for i, x in found.items() if x[0] not in odd}


def _own(ident: Identification, ranked: list[Winding], known: dict[str, int]) -> dict[str, str]:
    return {}


def _by_letters(
    ident: Identification, ranked: list[Winding], known: dict[str, int]
) -> dict[str, str]:
    """H1, H2 …: halves of one dual winding share a letter and count on."""
    marks: dict[str, str] = {}
    count: dict[str, int] = {}
    letters: dict[str, str] = {}
    for w in ranked:
        shared = "half" if w.role == "primary-half" else w.id
        letter = letters.setdefault(shared, LETTERS[min(len(letters), len(LETTERS) - 1)])
        for point in in_order(w, known.get(w.id, 1)):
            count[letter] = count.get(letter, 0) + 1
            marks[point] = f"{letter}{count[letter]}"
    return marks


def _by_numbers(
    ident: Identification, ranked: list[Winding], known: dict[str, int]
) -> dict[str, str]:
    """1U, 1V …: a winding with taps counts its points, 2U1, 2U2 …; so does a half of a dual one."""
    marks: dict[str, str] = {}
    numbers: dict[str, int] = {}
    count: dict[int, int] = {}
    for w in ranked:
        half = w.role == "primary-half"
        number = numbers.setdefault("half" if half else w.id, len(numbers) + 1)
        points = in_order(w, known.get(w.id, 1))
        if len(points) == 2 and not half:
            marks |= {points[0]: f"{number}U", points[1]: f"{number}V"}
            continue
        for point in points:
            count[number] = count.get(number, 0) + 1
            marks[point] = f"{number}U{count[number]}"
    return marks


Marker = Callable[[Identification, list[Winding], dict[str, int]], dict[str, str]]
MARKED: dict[str, Marker] = {"own": _own, "H/X": _by_letters, "1U/2U": _by_numbers}
