"""A bench of stand-ins around one simulated piece: a multimeter on a winding, a wattmeter in the
line of a variac that somebody winds up.
"""

import time
from collections.abc import Callable

from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.readings import induced_volts, inductance, no_load
from greyfell.core.truth.sample import BELL
from greyfell.instruments.declared import instrument_of
from greyfell.instruments.standin import Device, StandIn

FED, OUT = ("A", "B"), ("C", "D")
SUPPLY, HERTZ = 230.0, 50.0
WINDING_SECONDS, LEAST_VOLTS = 60.0, 5.0


def wound(seconds: float = WINDING_SECONDS, top: float = SUPPLY) -> Callable[[], float]:
    """Volts of a variac that goes up to the line in so many seconds, stays, and begins anew."""
    began = time.monotonic()

    def volts() -> float:
        share = ((time.monotonic() - began) % (2 * seconds)) / seconds
        return max(LEAST_VOLTS, top * min(1.0, share))

    return volts


def stand_ins(first_port: int = 0, seconds: float = WINDING_SECONDS) -> list[StandIn]:
    """A multimeter, a wattmeter and an inductance meter on a sample bell transformer."""
    volts = wound(seconds)
    multimeter = {
        "ohms": lambda: dc_ohms(BELL, *FED),
        "ohms-4": lambda: dc_ohms(BELL, *OUT),
        "volts": lambda: induced_volts(BELL, FED, volts(), OUT, HERTZ),
        "volts-dc": lambda: 0.0,
        "amps": lambda: no_load(BELL, FED, volts(), HERTZ)[0],
    }
    wattmeter = {
        "volts": volts,
        "amps": lambda: no_load(BELL, FED, volts(), HERTZ)[0],
        "watts": lambda: no_load(BELL, FED, volts(), HERTZ)[1],
    }
    lcr = {
        "henries": lambda: inductance(BELL, FED, 100.0)[0],
        "q": lambda: inductance(BELL, FED, 100.0)[1],
    }
    told = (("multimeter", multimeter), ("wattmeter", wattmeter), ("inductance-meter", lcr))
    return [
        StandIn(
            Device(instrument=instrument_of(key), values=values),
            first_port + n if first_port else 0,
        )
        for n, (key, values) in enumerate(told)
    ]
