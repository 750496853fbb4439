"""Parts of a path that was read by its millivolts: a lug or a joint that takes more watts than it
sheds.
"""

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.kinds.path import Path
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import begun, engineering
from greyfell.core.judgement.fault import Fault

HOT_WATTS = 10.0
"""A lug sheds about so many watts for a quarter of an hour without burning fingers. Common
practice, from memory."""


def hot_joints(record: Transformer, _belief: Belief) -> list[Fault]:
    """A note for the part that takes most, where that is more watts than a joint sheds; the last
    reading of a part counts.
    """
    last: dict[str, Path] = {r.part: r for r in record.standing if r.kind == "path"}
    worst = max(last.values(), key=lambda r: r.volts * r.amps, default=None)
    return [] if worst is None or worst.volts * worst.amps <= HOT_WATTS else [_note(worst)]


def _note(r: Path) -> Fault:
    watts, ohms = r.volts * r.amps, r.volts / r.amps
    return Fault(
        code="hot-joint",
        severity="note",
        leads=(),
        readings=(r.id,),
        sentence=(
            f"{begun(r.part)} has {engineering(ohms, 'Ω')} and takes "
            f"{engineering(watts, 'W')} at {engineering(r.amps, 'A')}: bare metal, a wider lug, "
            "a bolt that stays tight; seconds only until then."
        ),
    )
