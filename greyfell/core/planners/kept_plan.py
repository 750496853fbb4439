"""A plan as it is kept: what it was made of, what it foretold, under which rules; what has changed
since, and what was measured against it. The open format is `greyfell.plan/1`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from greyfell.core import CORE_VERSION
from greyfell.core.chain.elements import MODEL, parse_rig
from greyfell.core.chain.refusing import planned
from greyfell.core.dangers.of_row import as_warning, spoken
from greyfell.core.errors import FieldError, within
from greyfell.core.figures.notation import begun, engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.never import wish
from greyfell.core.planner_kit.asking import Known, nested, slots
from greyfell.core.planner_kit.declare import Planner
from greyfell.core.planner_kit.showing import columns
from greyfell.core.planners.registry import PLANNERS

FORMAT = "greyfell.plan/1"
RIG = "rig"
MOST_WORDS, MOST_MEASURED = 200, 100
SAME = 1e-6
"""Figures are the same within this share."""


@dataclass(frozen=True, kw_only=True)
class Changed:
    """One thing that is other than when the plan was made."""

    key: str
    sentence: str


@dataclass(frozen=True, kw_only=True)
class Met:
    """What was measured of a foretold figure: whether it lies inside its range."""

    key: str
    label: str
    unit: str
    foretold: Quantity
    measured: float
    agrees: bool


def plan_document(
    planner: Planner,
    given: Mapping[str, Any],
    *,
    known: Known | None,
    tag: str = "",
    title: str = "",
    at: str = "",
) -> dict[str, Any]:
    """A plan worked out and put down. Raises FieldError, also for a title that asks for what is
    never planned.
    """
    told = wish(title)
    if told is not None:
        raise FieldError("title", told.sentence)
    found = planner(dict(given), known)
    return {
        "format": FORMAT,
        "planner": planner.name,
        "title": title.strip()[:MOST_WORDS] or planner.title,
        "tag": tag,
        "at": at,
        "core_version": CORE_VERSION,
        "input": dict(given),
        "starts": {} if known is None else _starts(planner, known),
        "result": found,
        "measured": [],
    }


def rig_document(
    rig: Mapping[str, Any], *, model: Mapping[str, Any] | None, at: str = ""
) -> dict[str, Any]:
    """A rig solved and put down; `model` is what the piece's model was then. Raises FieldError."""
    parsed = parse_rig(rig)
    solved = planned(parsed)
    said = [as_warning(danger) for danger in spoken(solved)]
    result: dict[str, Any] = {
        "by": solved.by,
        "joints": [a.as_json() for a in solved.joints],
        "warnings": said,
    }
    if any(s["severity"] == "stop" for s in said):
        result["refused"] = True
    return {
        "format": FORMAT,
        "planner": RIG,
        "title": parsed.title or "a rig",
        "tag": parsed.piece.tag,
        "at": at,
        "core_version": CORE_VERSION,
        "input": parsed.as_json(),
        "starts": dict(model or {}),
        "result": result,
        "measured": [],
    }


def _measured(document: dict[str, Any]) -> list[Any]:
    measured = document.get("measured", [])
    if not isinstance(measured, list) or len(measured) > MOST_MEASURED:
        raise FieldError("measured", f"“measured” is a list of at most {MOST_MEASURED}.")
    for n, one in enumerate(measured):
        if not isinstance(one, dict) or not isinstance(one.get("key"), str):
            raise FieldError(f"measured.{n}", "What was measured names its figure.")
        within(f"measured.{n}.value", one.get("value"))  # type: ignore[arg-type]
    return measured


def _check_words(document: dict[str, Any]) -> None:
    for key in ("title", "tag", "at"):
        words = document.get(key, "")
        if not isinstance(words, str) or len(words) > MOST_WORDS:
            raise FieldError(key, f"“{key}” is text of at most {MOST_WORDS} letters.")


def parse_plan(document: Any) -> dict[str, Any]:
    """A kept plan, checked as far as it must be to be shown. Raises FieldError."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise FieldError("format", f"A kept plan says its format is “{FORMAT}”.")
    name = document.get("planner")
    if name != RIG and name not in PLANNERS:
        raise FieldError("planner", f"There is no planner {str(name)[:40]}.")
    _check_words(document)
    for key in ("input", "result"):
        if not isinstance(document.get(key), dict):
            raise FieldError(key, f"“{key}” is an object.")
    if name == RIG:
        parse_rig(document["input"])
    else:
        PLANNERS[str(name)].read(document["input"])
    measured = _measured(document)
    starts = document.get("starts", {})
    if not isinstance(starts, dict):
        raise FieldError("starts", "“starts” is an object.")
    walked = document.get("walk", [])
    if not isinstance(walked, list) or not all(isinstance(w, dict) for w in walked):
        raise FieldError("walk", "“walk” is a list of steps.")
    return {**document, "starts": starts, "measured": measured}


def _starts(planner: Planner, known: Known) -> dict[str, Any]:
    """What the piece filled, flat."""
    out: dict[str, Any] = {}
    for key, value in planner.start(known).items():
        out[key] = nested({key: value}) if "." in key else _plain(value)
        if "." in key:
            out[key] = _plain(value)
    return out


def _plain(value: Any) -> Any:
    """A start as it is put down: a figure by its middle."""
    return value.value if isinstance(value, Quantity) else value


def _then_and_now(key: str, old: Any, new: Any, unit: str) -> str:
    words = key.replace("_", " ").replace(".", ", ")
    return begun(f"{words}: {_said(old, unit)} then, {_said(new, unit)} now") + "."


def _units(planner: Planner | None) -> dict[str, str]:
    # those of a planner's inputs; those of a piece's model for a rig
    if planner is None:
        return {f.key: f.unit for f in MODEL}
    return {s.key: s.ask.unit for s in slots(planner.given)}


OTHER_RULES = Changed(
    key="core_version", sentence="The rules have changed since: work it out anew."
)


def changed(
    document: Mapping[str, Any], known: Known | None, model: Mapping[str, Any] | None = None
) -> list[Changed]:
    """What is other than when it was made: rules, and facts of its piece. Pure."""
    out = [] if document.get("core_version") == CORE_VERSION else [OTHER_RULES]
    before: Mapping[str, Any] = document.get("starts", {})
    now: Mapping[str, Any] = model or {}
    planner = PLANNERS.get(document["planner"])
    if planner is not None and known is not None:
        now = _starts(planner, known)
    units = _units(planner if known is not None else None)
    if not now or not before:
        return out
    other = [k for k in {*before, *now} if not _same(before.get(k), now.get(k))]
    for key in other:
        unit = units.get(key.rsplit(".", 1)[-1], "")
        said = _then_and_now(key, before.get(key), now.get(key), unit)
        out.append(Changed(key=key, sentence=said))
    return sorted(out, key=lambda c: c.key)


def _same(old: Any, new: Any) -> bool:
    if isinstance(old, int | float) and isinstance(new, int | float):
        return abs(old - new) <= SAME * max(abs(old), abs(new))
    return bool(old == new)


def _said(value: Any, unit: str) -> str:
    if value is None:
        return "not known"
    return engineering(value, unit, 4) if isinstance(value, int | float) else str(value)


def figures_of(document: Mapping[str, Any]) -> list[tuple[str, str, str, Quantity]]:
    """Every foretold figure that may be measured: key, words, unit (V, A, Ω, s), figure."""
    result = document["result"]
    if document["planner"] == RIG:
        return _joints(result.get("joints", []))
    out = []
    for column, kind, _ in columns(PLANNERS[document["planner"]].found):
        value = result.get(column.key)
        if kind == "figure" and isinstance(value, dict) and value.get("value") is not None:
            figure = Quantity(value["value"], value["low"], value["high"])
            out.append((column.key, column.show.label, column.show.unit, figure))
    return out


SPREAD = 0.1
"""A rig's figures are met within this share: its model has ranges of its own. House rule."""


def _joints(joints: Sequence[Mapping[str, Any]]) -> list[tuple[str, str, str, Quantity]]:
    out = []
    for at in joints:
        for key, unit in (("volts", "V"), ("amps", "A"), ("watts", "W")):
            v = float(at[key])
            low, high = sorted((v * (1 - SPREAD), v * (1 + SPREAD)))
            words = f"{key}, {at.get('name') or at['after']}"
            out.append((f"{at['after']}.{key}", words, unit, Quantity(v, low, high)))
    return out


def met(document: Mapping[str, Any]) -> list[Met]:
    """Everything measured against what was foretold."""
    told = {key: (label, unit, q) for key, label, unit, q in figures_of(document)}
    out = []
    for one in document.get("measured", []):
        if one["key"] in told:
            label, unit, q = told[one["key"]]
            value = float(one["value"])
            out.append(
                Met(
                    key=one["key"],
                    label=label,
                    unit=unit,
                    foretold=q,
                    measured=value,
                    agrees=q.low <= value <= q.high,
                )
            )
    return out
