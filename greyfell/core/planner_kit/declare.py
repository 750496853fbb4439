"""What a planner is declared with: its names, its input, its result, the function between, its
words and its checks.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from greyfell.core.errors import reckoned
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.never import Asked, refused
from greyfell.core.planner_kit.asking import Input, Known, input_schema, read, slots, starts_of
from greyfell.core.planner_kit.showing import Result, columns, plain, result_schema

if TYPE_CHECKING:
    from greyfell.core.judgement.identification import Identification

Severity = Literal["note", "caution", "stop"]
GRAVEST: tuple[Severity, ...] = ("stop", "caution", "note")
"""Order in which warnings are told."""


@dataclass(frozen=True)
class Said:
    """A warning as it is answered."""

    code: str
    severity: Severity
    sentence: str

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "severity": self.severity, "sentence": self.sentence}


@dataclass(frozen=True, kw_only=True)
class Caution:
    """A warning with its condition; `sentence` may hold keys of input and result in braces.

    A stop means that the plan must not be built: the answer says so, with the figures that prove
    it.
    """

    code: str
    severity: Severity
    sentence: str
    when: Callable[[Any, Any], bool] = lambda given, found: True


@dataclass(frozen=True, kw_only=True)
class OfPiece:
    """What must be said of a piece that a plan starts from; a stop: nothing is built on it."""

    code: str
    severity: Severity
    sentence: str
    when: Callable[["Identification"], bool]


@dataclass(frozen=True, kw_only=True)
class Formula:
    """Where a result comes from: the formula, the same with the figures put in, and the ids of
    references. `put` may hold keys of input and result in braces.
    """

    text: str
    source: str
    put: str


@dataclass(frozen=True, kw_only=True)
class Check:
    """A value from outside: inputs, the figures they must give, and where those stand."""

    given: Mapping[str, Any]
    expected: Mapping[str, float | int | str | bool]
    source: str
    rel: float = 5e-4


@dataclass(frozen=True, kw_only=True)
class Planned:
    """A plan worked out: its input, its result, and what must be said of it."""

    given: Any
    found: Any
    said: tuple[Said, ...]
    put: str

    @property
    def refused(self) -> bool:
        """Whether it must not be built."""
        return any(s.severity == "stop" for s in self.said)

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        out: dict[str, Any] = plain(self.found)
        out["warnings"] = [s.as_json() for s in self.said]
        return {"refused": True, **out} if self.refused else out


@dataclass(frozen=True, kw_only=True)
class Planner:
    """One planner, declared once: names, input, result, function, words, checks.

    `work` takes an instance of `given` and returns one of `found`; it is pure. `of_piece` is
    said of the piece it starts from; `heavy` is one that is solved in time; `draws` names the
    stores' kinds it may draw on, and which figure of an entry fills which key; `never` tells what a
    plan is in the figures that the list of what is never planned asks for.
    """

    name: str
    title: str
    purpose: str
    given: type[Input]
    found: type[Result]
    work: Callable[[Any], Result]
    why: Formula
    example: Mapping[str, Any]
    checks: Sequence[Check]
    cautions: Sequence[Caution] = ()
    of_piece: Sequence[OfPiece] = ()
    note: str = ""
    heavy: bool = False
    draws: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    never: Callable[[Any, Any], Asked] | None = None

    def read(self, given: Any) -> Any:
        """The typed input from JSON. Raises FieldError that names the key."""
        return read(self.given, given)

    def __call__(self, given: Any, known: Known | None = None) -> dict[str, Any]:
        """Input to answer, both JSON. Raises FieldError that names the key."""
        return self.plan(self.read(given), known).as_json()

    def plan(self, given: Any, known: Known | None = None) -> Planned:
        """Work a typed input out, and say what must be said of it and of the piece."""
        with reckoned("given"):
            found = self.work(given)
        words = self._words(given, found)
        piece = [u for u in self.of_piece if known is not None and u.when(known.ident)]
        held = [c for c in self.cautions if c.when(given, found)]
        said = [Said(u.code, u.severity, u.sentence) for u in piece]
        said += [Said(c.code, c.severity, c.sentence.format(**words)) for c in held]
        said += self._never(given, found)
        said.sort(key=lambda s: GRAVEST.index(s.severity))
        put = self.why.put.format(**words)
        return Planned(given=given, found=found, said=tuple(said), put=put)

    def _never(self, given: Any, found: Any) -> list[Said]:
        """Why the plan is one that is never made, where it is."""
        told = None if self.never is None else refused(self.never(given, found))
        return [] if told is None else [Said(f"never-{told.key}", "stop", told.told)]

    def start(self, known: Known) -> dict[str, Quantity | float | str]:
        """What is known of a piece, by the input it fills; nested inputs by a dotted key."""
        return dict(starts_of(self.given, known, ""))

    def _words(self, given: Input, found: Result) -> dict[str, str]:
        """Every input and result as it is put into a sentence."""
        words = {s.key: in_words(getattr(given, s.key), s.ask.unit) for s in slots(self.given)}
        for column, _, _ in columns(self.found):
            words[column.key] = in_words(getattr(found, column.key), column.show.unit)
        return words

    def schema(self) -> dict[str, Any]:
        """The JSON Schemas of input and result."""
        return {"input": input_schema(self.given), "result": result_schema(self.found)}


def in_words(value: Any, unit: str) -> str:
    """A value for a sentence: four digits and the unit."""
    if isinstance(value, Quantity):
        value = value.value
    if isinstance(value, bool) or value is None:
        return {True: "yes", False: "no", None: "not given"}[value]
    if isinstance(value, int):
        return f"{value} {unit}".strip()
    if isinstance(value, float):
        return engineering(value, unit, 4)
    if isinstance(value, tuple):
        return ", ".join(in_words(v, unit) for v in value)
    return str(value)
