"""A reading told in a line, wherever a reading is shown: its own words, and what stands beside."""

from collections.abc import Iterable
from typing import Any

from greyfell.core.evidence.kinds.reading import ends


def told(reading: Any) -> str:
    """A reading as it is read out, in the hand of the jotter.

    >>> from greyfell.core.evidence.kinds.ratio import Ratio
    >>> told(Ratio(driven=("E", "core"), driven_volts=124.5, sensed=("A", "B"), sensed_volts=5.9))
    'E–core 124.5 V > A–B 5.9 V'
    """
    line: str = reading.words()
    extra = [word for word, so in _beside(reading) if so]
    return f"{line} ({', '.join(extra)})" if extra else line


def _beside(r: Any) -> Iterable[tuple[str, Any]]:
    """What stands beside a reading: how it was read, and where."""
    yield "claimed", getattr(r, "claimed", False)
    yield "about", getattr(r, "about", False)
    ends_at = [
        f"{x:g}" for x in (getattr(r, "least", None), getattr(r, "most", None)) if x is not None
    ]
    yield f"moved, {' to '.join(ends_at)}", ends_at
    yield str(getattr(r, "where", None)), getattr(r, "where", None) not in (None, "piece")
    joined = ", ".join(ends(pair) for pair in getattr(r, "links", None) or ())
    yield f"{joined} joined outside", joined
    celsius = getattr(r, "celsius", None)
    yield f"{celsius:g} °C" if celsius is not None else "", celsius is not None


def basis_of(readings: Iterable[Any]) -> tuple[str, ...]:
    """The basis of a figure: each reading's kind and id, once, in order."""
    return tuple(dict.fromkeys(f"{r.kind.replace('_', ' ')} {r.id}" for r in readings))
