"""Ten lessons, low volts and lamp-limited ones first with the reason, each with a task and a check
by the program; what is checked is the record.
"""

from collections.abc import Callable, Sequence

from msgspec import Struct

from greyfell.core.figures.limits import REINFORCED_OHMS
from greyfell.core.judgement.identification import Identification
from greyfell.core.lessons.hookup import Mishap
from greyfell.core.steps.goals import primary_proved

Check = Callable[[Identification, Sequence[Mishap]], bool]


class Lesson(Struct, frozen=True, kw_only=True):
    """One lesson: the piece it is given on, its task, why it comes here, and its check."""

    key: str
    title: str
    level: str
    number: int
    task: str
    why: str
    done: Check


def _kinds(*wanted: str) -> Check:
    return lambda ident, _happened: any(r.kind in wanted for r in ident.record.standing)


def _ohms(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    """A pair that conducts."""
    read = [r for r in ident.record.standing if r.by_ohmmeter]
    return any(not r.is_open and "core" not in r.between for r in read)


def _proof_first(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    """The core proved before anything was read to it."""
    kinds = [
        "proof" if "core proved" in r.meets else "core"
        for r in ident.record.standing
        if "core proved" in r.meets or (r.by_ohmmeter and "core" in r.between)
    ]
    return kinds[:1] == ["proof"] and "core" in kinds


def _all_found(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    """No lead is loose any more."""
    found = {x for w in ident.windings for x in w.coil.members}
    return bool(found) and {x.id for x in ident.record.leads} <= found | set(
        ident.topology.core_leads
    )


def _primary_clear(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    return primary_proved(ident)


def _named(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    """A right answer was given, as the practice page keeps it."""
    return any(s.kind == NAMED and s.concerns == "right" for s in ident.record.statements)


def _lamp(ident: Identification, happened: Sequence[Mishap]) -> bool:
    grave = [m for m in happened if m.grave == "stop"]
    return _kinds("lamp")(ident, happened) and not grave


def _unhurt(ident: Identification, happened: Sequence[Mishap]) -> bool:
    return _named(ident, happened) and not [m for m in happened if m.grave == "stop"]


def _isolated(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    read = [r for r in ident.record.standing if r.proof_volts]
    open_ = [r for r in read if r.ohms_shown >= REINFORCED_OHMS]
    return any("core" not in r.between for r in open_) and any("core" in r.between for r in open_)


def _planned(ident: Identification, _happened: Sequence[Mishap]) -> bool:
    return any(s.kind == "rewind-plan" for s in ident.record.statements)


NAMED = "practice-answer"
"""Kind of the statement that keeps an answer."""
LESSONS: tuple[Lesson, ...] = (
    Lesson(
        key="first-ohm",
        title="The first ohm",
        level="first",
        number=3,
        task="Nothing drives it. Put the ohmmeter on two leads until a pair conducts.",
        why="An ohmmeter's own volt hurts nobody, but a large winding kicks as it is let go: "
        "fingers off the tips. Everything begins with which leads are one coil.",
        done=_ohms,
    ),
    Lesson(
        key="bare-iron",
        title="Bare iron first",
        level="first",
        number=5,
        task="Read core to earth: two bare spots; then one lead to the core.",
        why="Lacquer reads open as well as insulation does: the iron is proved before it counts.",
        done=_proof_first,
    ),
    Lesson(
        key="every-lead",
        title="Every lead has a place",
        level="first",
        number=8,
        task="Read pairs until no lead is loose.",
        why="A lead that nobody read may be kilovolts.",
        done=_all_found,
    ),
    Lesson(
        key="barrier",
        title="The barrier",
        level="first",
        number=11,
        task="Find the primary, and read it open to the core on the highest range.",
        why="A primary at the core is a fault that kills; open on a low range says little.",
        done=_primary_clear,
    ),
    Lesson(
        key="low-drive",
        title="Twelve volts tell them all",
        level="first",
        number=14,
        task="Drive the primary with 12 V from the low source and read another winding.",
        why="A ratio at a low drive tells every winding's volts before the line does. Work the "
        "open ones out first: above 30 V they count as live.",
        done=_kinds("ratio"),
    ),
    Lesson(
        key="name-it",
        title="Name it",
        level="mains",
        number=4,
        task="Read what you need, then say what it is.",
        why="Few readings that part the families beat many that do not.",
        done=_named,
    ),
    Lesson(
        key="find-fault",
        title="Something is wrong with it",
        level="hard",
        number=29,
        task="Find out whether it is sound, and which fault it has.",
        why="Ohms see open and touching; insulation at 500 V sees leaks; watts at no load see "
        "shorted turns. No one of them clears what another sees.",
        done=_named,
    ),
    Lesson(
        key="lamp",
        title="First power, through a lamp",
        level="mains",
        number=9,
        task="Core bonded, ends covered, clips on: the line through a lamp on the primary.",
        why="Bright is a short, a load left on or the wrong winding: off at once. A dark lamp "
        "clears nothing. It limits amps, not volts: behind it every output is nearly full.",
        done=_lamp,
    ),
    Lesson(
        key="oven",
        title="An oven part, unhurt",
        level="any",
        number=11,
        task="Name it without one move that could have killed.",
        why="Its core is one end of 2 kV: what is not bonded and covered is met by hand, and no "
        "residual-current device sees it.",
        done=_unhurt,
    ),
    Lesson(
        key="build",
        title="From the bench to a build",
        level="any",
        number=28,
        task="Prove the barrier at 500 V, lead to lead and lead to core; then keep a plan of "
        "rewinding it, on its own pages.",
        why="500 V find a barrier that is broken, and prove none for a person: a safety "
        "isolation is two barriers that its maker tested and marked. A match is worked out "
        "before the saw.",
        done=lambda ident, happened: _isolated(ident, happened) and _planned(ident, happened),
    ),
)
"""From the first ohm to a matched rewind and an isolation."""


def lesson_of(key: str) -> Lesson | None:
    """A lesson by its key."""
    return next((x for x in LESSONS if x.key == key), None)
