"""Further uses of a piece: magnets, staples, stored pulses, machines on trial; and those that are
refused, each with its reason.
"""

from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.never import NEVER, NOTHING
from greyfell.core.uses.catalogue import BURNS, REINFORCED, SHOCKS, Use


def _refused(key: str, title: str, words: str, reason: str) -> Use:
    """A use that is named, and refused with its reason."""
    return Use(
        key=key,
        title=title,
        words=words,
        open_volts=(0.0, 1e5),
        amps=0.0,
        load_ohms=exact(1.0),
        danger=SHOCKS,
        refused=f"{reason} {NOTHING}",
    )


MORE: tuple[Use, ...] = (
    Use(
        key="magnet",
        title="Electromagnet, 24 V 4 A DC",
        words="27 to 34 V, rectified, a diode across the coil",
        open_volts=(26.0, 34.0),
        amps=4.4,
        loaded_volts=25.0,
        load_ohms=exact(6.0, "24 V over 4 A"),
        loop_ohms=0.05,
        barrier=REINFORCED,
        danger=BURNS,
        source="common practice; 1.11 RMS amps an ampere behind a bridge, REF-R-01",
        planner="dc_supply",
        shield="it kicks when opened, and lets go what it holds when the fuse blows",
    ),
    Use(
        key="staple",
        title="Hot stapler for cracked plastic",
        words="a staple of 0.6 mm steel wire glows in three seconds",
        open_volts=(1.5, 4.0),
        amps=18.0,
        load_ohms=Quantity(0.06, 0.04, 0.1, ("3 cm of 0.6 mm steel, cold to hot",)),
        loop_ohms=5e-3,
        on_seconds=4.0,
        off_seconds=20.0,
        least_seconds=2.0,
        source="from memory",
        shield="plastic smokes: air, eyes covered",
    ),
    Use(
        key="pulse-charger",
        title="Charger of a capacitor-discharge welder",
        words="up to 40 V on a farad or less, 3 A into it",
        open_volts=(24.0, 30.0),
        amps=3.0,
        load_ohms=exact(8.0, "its own limiting ohms"),
        loop_ohms=0.05,
        on_seconds=60.0,
        off_seconds=60.0,
        least_seconds=30.0,
        barrier=REINFORCED,
        danger=BURNS,
        source="common practice; 1.414 of the volts on the capacitors, REF-R-01",
        planner="pulse_weld",
        shield="a joule jumps out of loose tips: both hands away when it is armed",
    ),
    Use(
        key="machine",
        title="Small motor or generator on trial, 24 V",
        words="24 V within a tenth at 3 A, for half an hour",
        open_volts=(23.0, 28.0),
        amps=3.0,
        loaded_volts=21.6,
        load_ohms=exact(8.0, "24 V over 3 A"),
        loop_ohms=0.05,
        barrier=REINFORCED,
        danger=BURNS,
        shield="what turns takes sleeves: guard it; a fuse of its own",
    ),
    Use(
        key="kilovolt-dc",
        title="Kilovolt DC for a bench, 1 kV 5 mA",
        words="700 V of winding and more, rectified by one of three routes, behind its limiter",
        open_volts=(700.0, 1100.0),
        amps=0.0065,
        loaded_volts=650.0,
        load_ohms=exact(1e5, "650 V over 6.5 mA of RMS"),
        barrier=REINFORCED,
        danger=SHOCKS,
        source="common practice; REF-R-03",
        planner="dc_routes",
        shield="its reservoir kills after it is off: bleeder, stick, volts seen to fall",
    ),
    Use(
        key="floating-scope",
        title="A floating bench for a scope, 230 V 0.2 A",
        words="line volts for what is measured, never for the scope",
        open_volts=(215.0, 255.0),
        amps=0.2,
        loaded_volts=205.0,
        load_ohms=exact(1150.0, "230 V over 0.2 A"),
        barrier=REINFORCED,
        danger=SHOCKS,
        source="IEC 61558-2-4; the scope stays earthed",
        shield="the piece floats, the scope does not: one clip ends the isolation",
    ),
    _refused(
        "back-to-back",
        "Isolation from two oven parts back to back",
        "a kilovolt link between two cores",
        "Each core is the return of its own winding, one barrier to the mains stands in each, and "
        "the cable between them carries 2 kV: at idle both draw their magnetising amps, under "
        "load their leakage halves the volts. A part marked to IEC 61558-2-4, or two primaries on "
        "one core, isolates.",
    ),
    _refused(
        "spark-coil",
        "A resonant spark coil from a sign part",
        "a spark gap, a tank, a tall coil",
        "Its tank capacitor kills after power, its sparks destroy the sign part's windings, and "
        "no residual-current device sees its output.",
    ),
    *(_refused(n.key, n.title, n.what, f"{n.why} {n.instead}") for n in NEVER),
)
"""What stands beside the first uses; refused ones are named with the reason."""
