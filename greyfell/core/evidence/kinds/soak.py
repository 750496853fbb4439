"""A winding's ohms before and after minutes on the line: how warm it got."""

import re
from typing import Annotated, Literal

from pydantic import Field

from greyfell.core.evidence.kinds.reading import AnyReading, ends
from greyfell.core.evidence.part import Minutes, Ohms, Pair, Volts, Watts
from greyfell.core.evidence.typed_line import Form, Heard, Said, ending, first, refuse
from greyfell.core.figures.notation import as_read, parse_quantity

_MINUTES = re.compile(r"([\d.,]+)\s*min(?:utes?)?\b", re.I)


def _read(heard: Heard) -> Said:
    """Minutes on the line and the winding's ohms, cold then hot."""
    minutes = _MINUTES.search(heard.rest)
    if minutes is None:
        refuse("A soak needs its minutes: “A-B soak 20min 230V 3.10 3.41”.")
    words = _MINUTES.sub(" ", heard.rest).split()[1:]
    volts, watts = ending(words, "v", "volt", "volts"), ending(words, "w", "watt", "watts")
    left = [w for w in words if not re.search(r"\d[vw]$", w, re.I)]
    if len(left) != 2:
        refuse("A soak needs two figures of ohms, cold then hot: “A-B soak 20min 230V 3.10 3.41”.")
    cold, hot = (parse_quantity(w, "ohm", field="ohms") for w in left)
    fed = {} if volts is None else {"volts": volts}
    took = {} if watts is None else {"watts": watts}
    run = parse_quantity(minutes[1], "number", field="minutes")
    ohms = {"cold_ohms": cold, "hot_ohms": hot}
    return {"kind": "soak", "across": heard.pair, "minutes": run, **ohms, **fed, **took}


class Soak(AnyReading):
    """A winding's ohms before and after minutes on the line, at no load; `cold_celsius` is of the
    air when it was cold.
    """

    kind: Literal["soak"] = "soak"
    across: Pair
    cold_ohms: Ohms
    hot_ohms: Ohms
    minutes: Minutes
    driven: Pair | None = None
    volts: Volts | None = None
    watts: Watts | None = None
    cold_celsius: Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-40, le=80)] = 20.0
    settled: bool | None = None

    lines = (("A-B soak 20min 230V 3.10 3.41", "minutes on the line, ohms cold and hot"),)
    after_pair = (Form(first("soak"), _read),)
    usual_percent = 1.2
    station = "power"

    def words(self) -> str:
        """As it is read out."""
        at = "" if self.volts is None else f" on {as_read(self.volts, 'V')}"
        watts = "" if self.watts is None else f", {as_read(self.watts, 'W')}"
        ohms = f"{as_read(self.cold_ohms, 'Ω')} to {as_read(self.hot_ohms, 'Ω')}"
        return f"{ends(self.across)} soak {self.minutes:g} min{at}{watts}: {ohms}"
