"""The weld log: each shot with its turns, tips, pulse, sheet, volts and how it came apart; the next
single change, one thing at a time.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError, within
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import parse_quantity

KIND = "weld-shot"
RESULTS = {
    "none": "nothing held",
    "peel": "it peels off",
    "button": "a button is torn out: good",
    "hole": "a hole is blown",
}
"""How a weld came apart under hammer and chisel."""
FIGURES = {
    "turns": ("turns", "number", 1.0, 100.0),
    "tip_mm": ("tip, mm", "millimetre", 0.2, 30.0),
    "seconds": ("pulse", "second", 1e-4, 60.0),
    "sheet_mm": ("sheet, mm", "millimetre", 0.01, 10.0),
    "volts_least": ("least volts at the work", "volt", 0.0, 100.0),
    "volts_mean": ("mean volts", "volt", 0.0, 100.0),
    "volts_most": ("most volts", "volt", 0.0, 100.0),
}
NEEDED = ("turns", "seconds")


class Logged(Struct, frozen=True, kw_only=True):
    """One shot of the log."""

    at: str
    result: str
    figures: Mapping[str, float]
    changed: str

    @property
    def words(self) -> str:
        """How it came apart."""
        return RESULTS.get(self.result, self.result)


def weld_of(form: Mapping[str, str]) -> dict[str, Any]:
    """A shot from a form, as the statement that is kept. Raises FieldError that names the field."""
    result = form.get("result", "")
    if result not in RESULTS:
        raise FieldError("result", f"How it came apart is one of: {', '.join(RESULTS.values())}.")
    out: dict[str, Any] = {"kind": KIND, "concerns": result, "text": form.get("note", "")[:200]}
    for key, (words, unit, least, most) in FIGURES.items():
        text = form.get(key, "").strip()
        if text:
            value = parse_quantity(text, unit, field=words)
            out[key] = within(key, value, at_least=least, at_most=most)
        elif key in NEEDED:
            raise FieldError(key, f"A shot has its {words}; none was given.")
    volts = [out[k] for k in ("volts_least", "volts_mean", "volts_most") if k in out]
    if volts != sorted(volts):
        raise FieldError("volts_mean", "Least, mean and most volts rise in this order.")
    return out


def shots_of(record: Transformer) -> list[Logged]:
    """The log as it stands, each beside the one thing that was changed before it."""
    out: list[Logged] = []
    for s in record.statements:
        if s.kind != KIND:
            continue
        extra = s.model_extra or {}
        figures = {k: float(extra[k]) for k in FIGURES if isinstance(extra.get(k), int | float)}
        changed = _changed(out[-1].figures, figures) if out else ""
        out.append(Logged(at=s.at or "", result=s.concerns, figures=figures, changed=changed))
    return out


SET = ("turns", "tip_mm", "seconds", "sheet_mm")
"""What a hand sets; volts only answer."""


def _changed(before: Mapping[str, float], after: Mapping[str, float]) -> str:
    """What was changed between two shots, with its effect on the mean volts in per cent."""
    moved = [k for k in SET if before.get(k) != after.get(k)]
    if not moved:
        return "the same once more"
    words = " and ".join(FIGURES[k][0] for k in moved)
    if len(moved) > 1:
        words += ": more than one at a time tells nothing"
    one, two = before.get("volts_mean"), after.get("volts_mean")
    if one and two:
        words += f"; mean volts {100 * (two / one - 1):+.0f} %"
    return words


def proposed(shots: Sequence[Logged]) -> str:
    """The next single change. Common practice: a hole means too many volts for the tip."""
    if not shots:
        return "First shot: the shortest pulse of the range, on scrap of the same sheet."
    last = shots[-1]
    seconds = last.figures.get("seconds", 0.0)
    tip = last.figures.get("tip_mm")
    if last.result == "button":
        return "Leave it as it is: three more the same, then re-dress the tips every few dozen."
    if last.result == "hole":
        holes = sum(s.result == "hole" for s in shots[-2:])
        if holes > 1:
            return "One turn fewer, or a larger tip: too many volts for the tip."
        return f"Half the pulse: {seconds / 2:.3g} s; nothing else."
    if last.result == "peel":
        return f"Half as long again: {1.5 * seconds:.3g} s; nothing else."
    if len([s for s in shots[-3:] if s.result == "none"]) >= 3:
        return "A smaller tip, re-dressed, aligned: the same amps on less face." if tip else MORE
    return f"Twice the pulse: {2 * seconds:.3g} s; nothing else."


MORE = "Feel for the warm joint with the plug out, then its millivolts: the loop eats the volts."
