"""What every part of a record is made of: figures between generous bounds, times, names.

Nothing here knows what a record holds.
"""

from datetime import datetime
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from greyfell.core.errors import LEAST_FIGURE


def _stamp(text: str) -> str:
    """A time as it was written, once it has been seen to be one with a zone."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise ValueError(
            "a time is written 2026-05-02T10:12:00+01:00 (ISO 8601 datetime)"
        ) from None
    if found.tzinfo is None:
        raise ValueError("a time needs its zone, such as 2026-05-02T10:12:00+01:00")
    return text


Stamp = Annotated[str, Field(max_length=40), AfterValidator(_stamp)]


def _told(number: float) -> float:
    """A figure that a meter can tell from nought, or nought itself."""
    if 0 < abs(number) < LEAST_FIGURE:
        raise ValueError("nearer to nought than any meter tells; write 0")
    return number


MOST_FIGURE = 1e15
"""No figure of a record is larger, of whatever unit."""
Number = Annotated[
    float,
    Field(strict=True, allow_inf_nan=False, ge=-MOST_FIGURE, le=MOST_FIGURE),
    AfterValidator(_told),
]


def _figure(most: float, least: float = LEAST_FIGURE) -> Any:
    """A figure above nought, between generous physical bounds."""
    return Field(strict=True, allow_inf_nan=False, ge=least, le=most)


def _amount(most: float) -> Any:
    """A figure that may be nought, up to a generous physical bound."""
    return Field(strict=True, allow_inf_nan=False, ge=0, le=most)


TOLD = AfterValidator(_told)
# What no bench meets, each far beyond what it does meet: a record that says so has a slip in it.
Volts = Annotated[float, _figure(1e7, 1e-9)]
NoVolts = Annotated[float, _amount(1e7), TOLD]
Amps = Annotated[float, _figure(1e6, 1e-12)]
NoAmps = Annotated[float, _amount(1e6), TOLD]
Watts = Annotated[float, _amount(1e9), TOLD]
VoltAmperes = Annotated[float, _figure(1e9, 1e-6)]
Ohms = Annotated[float, _figure(1e15, 1e-9)]
NoOhms = Annotated[float, _amount(1e15), TOLD]
Henries = Annotated[float, _figure(1e6, 1e-12)]
Hertz = Annotated[float, _figure(1e9, 1e-3)]
Quality = Annotated[float, _amount(1e6), TOLD]
Counted = Annotated[float, _figure(1e7, 1e-2)]
Millimetres = Annotated[float, _figure(1e5, 1e-4)]
NoMillimetres = Annotated[float, _amount(1e5), TOLD]
Kilograms = Annotated[float, _figure(1e6, 1e-6)]
Percent = Annotated[float, _amount(1e4), TOLD]
Minutes = Annotated[float, _figure(1e5, 1e-2)]
AnyAmount = Annotated[float, _amount(MOST_FIGURE), TOLD]
"""A figure in the unit of the reading it belongs to."""


Text = Annotated[str, Field(max_length=4000)]


Short = Annotated[str, Field(max_length=200)]


Id = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]*$")]


LeadId = Annotated[str, Field(min_length=1, max_length=8, pattern=r"^[A-Za-z0-9]+$")]


Tag = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[A-Za-z0-9-]+$")]


Pair = Annotated[tuple[str, str], Field(description="two leads, or a lead and core or earth")]


class Part(BaseModel):
    """Everything in a record is frozen and keeps the keys it does not know."""

    model_config = ConfigDict(extra="allow", frozen=True, defer_build=True)
