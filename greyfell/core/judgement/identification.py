"""Everything concluded about one record: its present evidence, what is believed, what is judged."""

from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.present import Superseded
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.judgement.fault import Fault
from greyfell.core.judgement.verdict import Verdict
from greyfell.core.wiring.coil import Topology


class Judgement(Struct, frozen=True):
    """What is wrong, and how far the piece is tested."""

    faults: tuple[Fault, ...]
    verdict: Verdict


class Identification(Struct, frozen=True):
    """The present record, the belief and the judgement; which readings no longer count, and which
    were struck out. `now` is when the gate is asked; without it nothing is said of age or of times
    to come.
    """

    record: Transformer
    belief: Belief
    judgement: Judgement
    superseded: tuple[Superseded, ...] = ()
    struck: tuple[Reading, ...] = ()
    now: datetime | None = None

    def at(self, now: datetime) -> "Identification":
        """The same, asked at a time: only the gate and what follows it look at it."""
        return replace(self, now=now)

    @property
    def tag(self) -> str:
        """The piece's tag."""
        return self.record.tag

    @property
    def topology(self) -> Topology:
        """The wiring."""
        return self.belief.topology

    @property
    def windings(self) -> tuple[Winding, ...]:
        """Every winding believed."""
        return self.belief.windings

    @property
    def families(self) -> dict[str, float]:
        """The chance of each family."""
        return self.belief.families

    @property
    def family(self) -> str:
        """The likeliest family; `unknown` before anything is known."""
        return self.belief.family

    @property
    def sure(self) -> float:
        """The chance of the likeliest family, as a share of one."""
        return self.families.get(self.family, 0.0)

    @property
    def faults(self) -> tuple[Fault, ...]:
        """Every fault, the gravest first."""
        return self.judgement.faults

    @property
    def verdict(self) -> str:
        """The verdict's word."""
        return self.judgement.verdict.word

    @property
    def stop(self) -> Fault | None:
        """The gravest stop fault that stands; None where there is none."""
        return next((f for f in self.faults if f.severity == "stop"), None)

    @property
    def stopped(self) -> bool:
        """Whether a stop fault stands."""
        return self.stop is not None
