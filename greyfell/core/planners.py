"""One registry: a planner's name, its typed input, its typed result, its function. Page, JSON and
Python share it.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from greyfell.core.ballast import plan_ballast
from greyfell.core.errors import FieldError
from greyfell.core.quantity import Quantity, from_json
from greyfell.core.rewind import plan_rewind

Plain = Annotated[float, Field(strict=True, allow_inf_nan=False)]


class Ranged(BaseModel):
    """An uncertain figure: its value and the limits it lies between."""

    model_config = ConfigDict(extra="forbid")
    value: Plain
    low: Plain
    high: Plain


class Figure(BaseModel):
    """A worked-out figure: value, limits and what it rests on."""

    value: float
    low: float
    high: float
    basis: list[str]


Uncertain = Plain | Ranged


class RewindInput(BaseModel):
    """SI units, volts RMS. `volts_per_turn` is at that supply."""

    model_config = ConfigDict(extra="forbid")
    supply_volts: Uncertain
    volts_per_turn: Uncertain
    target_volts: Plain


class RewindResult(BaseModel):
    turns: int
    open_circuit_volts: Figure
    one_turn_fewer_volts: Figure
    one_turn_more_volts: Figure


class BallastInput(BaseModel):
    """SI units, RMS. `limit_amps` with the load shorted; source figures are of what is already in
    the loop.
    """

    model_config = ConfigDict(extra="forbid")
    supply_volts: Uncertain
    supply_hertz: Plain
    limit_amps: Uncertain
    source_resistance_ohms: Uncertain = 0.0
    source_reactance_ohms: Uncertain = 0.0
    ballast_resistance_ohms: Uncertain = 0.0


class BallastResult(BaseModel):
    reactance_ohms: Figure
    inductance_henries: Figure
    reactive_voltamperes: Figure
    shorted_amps: Figure


@dataclass(frozen=True)
class Planner:
    """A planner: what it is for, its input and result models, a valid example, and its function on
    a checked input.
    """

    name: str
    purpose: str
    takes: type[BaseModel]
    gives: type[BaseModel]
    example: Mapping[str, Any]
    run: Callable[[Any], dict[str, Any]]

    def __call__(self, given: Any) -> dict[str, Any]:
        """Check `given` and work it out. Raises FieldError that names the field."""
        return self.run(self.check(given))

    def check(self, given: Any) -> Any:
        """The typed input. Raises FieldError that names the field."""
        if not isinstance(given, Mapping):
            raise FieldError("input", f"The {self.name} planner takes one JSON object.")
        try:
            return self.takes.model_validate(dict(given))
        except ValidationError as error:
            first = error.errors(include_url=False, include_context=False)[0]
            field = str(first["loc"][0]) if first["loc"] else "input"
            if first["type"] == "missing":
                raise FieldError(field, f"{field} is missing.") from None
            if first["type"] == "extra_forbidden":
                known = ", ".join(self.takes.model_fields)
                raise FieldError(
                    field, f"{field} is not an input of {self.name} (known: {known})."
                ) from None
            shown = json.dumps(dict(given).get(field), default=str)[:60]
            raise FieldError(
                field,
                f"{field} must be a finite number, or value, low and high; {shown} was given.",
            ) from None


def _q(model: BaseModel, field: str) -> Quantity:
    given = getattr(model, field)
    return from_json(field, given.model_dump() if isinstance(given, BaseModel) else given)


def _rewind(given: RewindInput) -> dict[str, Any]:
    plan = plan_rewind(
        _q(given, "supply_volts").value, _q(given, "volts_per_turn"), given.target_volts
    )
    return {
        "turns": plan.turns,
        "open_circuit_volts": plan.open_circuit_volts.as_json(),
        "one_turn_fewer_volts": plan.one_turn_fewer_volts.as_json(),
        "one_turn_more_volts": plan.one_turn_more_volts.as_json(),
    }


def ballast_of(given: BallastInput) -> Any:
    """The full ballast plan, phasors included, for the drawing."""
    return plan_ballast(
        _q(given, "supply_volts"),
        given.supply_hertz,
        _q(given, "limit_amps"),
        _q(given, "source_resistance_ohms"),
        _q(given, "source_reactance_ohms"),
        _q(given, "ballast_resistance_ohms"),
    )


def _ballast(given: BallastInput) -> dict[str, Any]:
    plan = ballast_of(given)
    return {name: getattr(plan, name).as_json() for name in BallastResult.model_fields}


PLANNERS: dict[str, Planner] = {
    p.name: p
    for p in (
        Planner(
            "rewind",
            "whole turns for the volts wanted",
            RewindInput,
            RewindResult,
            {
                "supply_volts": 230.0,
                "volts_per_turn": {"value": 0.86, "low": 0.84, "high": 0.88},
                "target_volts": 2.5,
            },
            _rewind,
        ),
        Planner(
            "ballast",
            "a series reactance that limits the current",
            BallastInput,
            BallastResult,
            {
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 5.0,
                "source_resistance_ohms": 2.0,
                "source_reactance_ohms": 12.0,
                "ballast_resistance_ohms": 1.5,
            },
            _ballast,
        ),
    )
}
