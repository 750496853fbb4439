"""What of a rewinding is proved by readings on record: each proof of the build sheet, and whether
something holds it.
"""

from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

from greyfell.core.evidence.kinds.registry import meeting
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import REINFORCED_OHMS, TEST_VOLTS
from greyfell.core.judgement.identification import Identification

REMOVED, REWOUND = ("winding-removed", "rewound", "core-split", "shunts-removed"), ("rewound",)
OPEN_RANGE = 20e6
Proof = Callable[[Transformer, Identification], bool]


def _after(record: Transformer, kinds: tuple[str, ...]) -> datetime | None:
    """When the last change of these kinds was; None where there was none."""
    times = [c.at for c in record.changes if c.what in kinds and c.at]
    return max((datetime.fromisoformat(t) for t in times), default=None)


def _since(record: Transformer, changed: datetime | None) -> list[Any]:
    """Readings that stand, of after a change; none before there was one."""
    if changed is None:
        return []
    return [r for r in record.standing if r.at and datetime.fromisoformat(r.at) >= changed]


def _cold(record: Transformer, ident: Identification) -> bool:
    """The primary's ohms, and it open to the core on a range that counts."""
    return _read_cold(record.standing, ident)


def _no_load(record: Transformer, _ident: Identification) -> bool:
    """After the cut: with the old winding on it would stand at its own volts."""
    return bool(meeting("idle amps", _since(record, _after(record, REMOVED))))


def _test_turn(record: Transformer, _ident: Identification) -> bool:
    return bool(meeting("test turn", record.standing))


def _after_cut(record: Transformer, ident: Identification) -> bool:
    """The primary open to the core on a range that counts, and its ohms, after the cut."""
    return _read_cold(_since(record, _after(record, REMOVED)), ident)


def _read_cold(readings: Sequence[Any], ident: Identification) -> bool:
    """Whether among these readings are the primary's ohms, and it open to the core on a range that
    counts.
    """
    primary = ident.belief.primary
    if primary is None:
        return False
    leads = set(primary.coil.leads)
    opened = any(
        r.by_ohmmeter
        and r.is_open
        and "core" in r.between
        and leads & set(r.between)
        and (r.range_ohms or 0) >= OPEN_RANGE
        for r in readings
    )
    ohms = any(r.of_wire and set(r.ohms_between) <= leads and not r.is_open for r in readings)
    return opened and ohms


def _new_turns(record: Transformer, _ident: Identification) -> bool:
    later = _since(record, _after(record, REWOUND))
    return bool(meeting("new turns", later))


def _insulation(record: Transformer, _ident: Identification) -> bool:
    return any(
        r.proof_volts >= TEST_VOLTS and r.ohms_shown >= REINFORCED_OHMS for r in record.standing
    )


def _open_volts(record: Transformer, _ident: Identification) -> bool:
    later = _since(record, _after(record, REWOUND))
    return bool(meeting("open volts", later))


def _short(record: Transformer, _ident: Identification) -> bool:
    later = _since(record, _after(record, REWOUND))
    return bool(meeting("short circuit", later))


PROOFS: dict[str, Proof] = {
    "cold": _cold,
    "no-load": _no_load,
    "test-turn": _test_turn,
    "after-cut": _after_cut,
    "test-turn-new": _new_turns,
    "barrier": _insulation,
    "open-volts": _open_volts,
    "short-circuit": _short,
}
"""Each proof that a step of the sheet names."""
WANTED = {
    "cold": "the primary's ohms, and primary to core open on 20 MΩ",
    "no-load": "amps and watts at no load, after the cut",
    "test-turn": "five test turns",
    "after-cut": "primary to core open on 20 MΩ, and its ohms, after the cut",
    "test-turn-new": "the new winding's volts at a low drive",
    "barrier": "500 V with 7 MΩ between mains and the new winding",
    "open-volts": "the new winding's open volts",
    "short-circuit": "a short circuit of the new winding",
}
"""The same in words."""


def missing(ident: Identification) -> list[str]:
    """Proofs that no reading holds."""
    return [key for key, holds in PROOFS.items() if not holds(ident.record, ident)]
