"""Uses as data: what each asks of volts, amps, duty and isolation, what it can do to a person, and
those that are refused with their reason.
"""

from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.coil_design.welding import ONE_SIDED, OPPOSED, Job, job
from greyfell.core.dangers.scene import Plan
from greyfell.core.figures.quantity import Quantity, exact

FOR_GOOD = 3600.0
"""Seconds of what runs for hours."""
BASIC, REINFORCED = "basic", "reinforced"
"""Between mains and the new winding: one barrier, or two. IEC 61558-1."""
MILD, BURNS, SHOCKS = "harms little", "burns", "shocks, and may kill"
PRACTICAL = ("enamelled", "cable", "welding cable", "strands")
"""What is wound where nobody asks for sheet."""
ARC_FLOOR = 50.0
"""An arc wants 50 to 80 V open. Common practice."""


class Use(Struct, frozen=True, kw_only=True):
    """One use. Volts open between two bounds, volts at least under its amps; amps at least, and the
    ohms that they flow through; ohms of cables and joints; seconds on, seconds off; the barrier it
    needs; what it can do; what eyes and lungs need; the source. `least_seconds` is the shortest
    time that is still of use, `made` what may be wound; `most_watts` where more is better, `job`
    the weld that it is, `planner` what works out the rest of it.
    """

    key: str
    title: str
    words: str
    open_volts: tuple[float, float]
    amps: float
    load_ohms: Quantity
    loaded_volts: float = 0.0
    loop_ohms: float = 0.0
    on_seconds: float = FOR_GOOD
    off_seconds: float = 0.0
    least_seconds: float = FOR_GOOD
    made: tuple[str, ...] = PRACTICAL
    most_watts: bool = False
    barrier: str = BASIC
    danger: str = BURNS
    source: str = "common practice"
    refused: str = ""
    shield: str = ""
    job: Job | None = None
    planner: str = ""

    def plan(self, **more: Any) -> Plan:
        """The same as what a piece is to become: what is dangerous of it is asked of this."""
        return Plan(use=self.key, title=self.title, refused=self.refused, **more)

    @property
    def duty(self) -> float:
        """Share of the time it is on."""
        return self.on_seconds / (self.on_seconds + self.off_seconds)


def weld(metal: str, thickness_mm: float, tips: str = OPPOSED, spacing_mm: float = 8.0) -> Use:
    """A spot or tab weld as a use. mm."""
    asked = job(metal, thickness_mm, tips, spacing_mm)
    on = min(max(asked.seconds.value, 0.02), 1.0)
    return Use(
        key=f"weld-{metal}",
        title=f"Weld {thickness_mm:g} mm {metal}, {tips} tips",
        words=f"{asked.amps.low:.0f} to {asked.amps.high:.0f} A for "
        f"{asked.seconds.low:.2g} to {asked.seconds.high:.2g} s",
        open_volts=(0.3, 12.0),
        amps=asked.amps.low,
        load_ohms=asked.ohms,
        loop_ohms=LOOP_OHMS,
        on_seconds=on,
        off_seconds=20.0,
        least_seconds=max(asked.seconds.low, 0.02),
        most_watts=True,
        source="resistance-welding tables and common practice",
        refused=asked.refused,
        job=asked,
        planner="pulse_weld" if not asked.foot else "weld_match",
        shield="eyes covered, no zinc, leather on the hands: metal is thrown out",
    )


LOOP_OHMS = 4e-4
"""Cables, lugs and electrodes of half a metre, well made. Common practice, 9.3."""


def _use(key: str, title: str, words: str, **more: object) -> Use:
    return Use(key=key, title=title, words=words, **more)  # type: ignore[arg-type]


FIRST: tuple[Use, ...] = (
    weld("nickel", 0.15, ONE_SIDED),
    weld("steel", 0.3, OPPOSED),
    weld("stainless", 0.2, OPPOSED),
    _use(
        "solder",
        "Resistance soldering of brass and lugs",
        "2 to 6 V, 20 to 200 A, tweezers or carbon",
        open_volts=(1.5, 6.5),
        amps=60.0,
        load_ohms=Quantity(0.02, 0.01, 0.04, ("common practice",)),
        loop_ohms=3e-3,
        on_seconds=10.0,
        off_seconds=30.0,
        least_seconds=3.0,
        source="common practice, 9.3",
        shield="carbon glows: eyes off it, flux fumes away",
    ),
    _use(
        "rod",
        "Heat a steel rod, 8 mm by 120 mm, to red",
        "300 A and more through a milliohm",
        open_volts=(0.5, 5.0),
        amps=300.0,
        load_ohms=Quantity(1e-3, 5e-4, 3e-3, ("steel from cold to red",)),
        loop_ohms=LOOP_OHMS,
        on_seconds=60.0,
        off_seconds=120.0,
        least_seconds=20.0,
        most_watts=True,
        shield="it lights what it lies on: brick under it, eyes covered",
    ),
    _use(
        "anneal",
        "Anneal wire and strip",
        "5 to 24 V at 20 A, seconds",
        open_volts=(4.0, 24.0),
        amps=20.0,
        load_ohms=Quantity(0.4, 0.2, 0.8, ("a metre of wire",)),
        loop_ohms=5e-3,
        on_seconds=20.0,
        off_seconds=60.0,
        least_seconds=5.0,
    ),
    _use(
        "stick",
        "Stick welding, 2.0 mm rods",
        "60 A at 22 V, 50 to 80 V open",
        open_volts=(ARC_FLOOR, 80.0),
        amps=60.0,
        loaded_volts=22.4,
        load_ohms=exact(22.4 / 60.0, "REF-C-03"),
        loop_ohms=5e-3,
        on_seconds=60.0,
        off_seconds=240.0,
        least_seconds=45.0,
        made=("cable", "welding cable"),
        danger=SHOCKS,
        source="REF-C-03, REF-C-06",
        shield="shade 9 to 13, fume drawn off, skin covered, nothing that burns near",
    ),
    _use(
        "charge",
        "Charge a 12 V lead battery at 5 A",
        "18 V open, rectified, fused at the battery",
        open_volts=(14.0, 20.0),
        amps=7.0,
        loaded_volts=13.5,
        load_ohms=exact(2.0, "14.4 V over 7 A of RMS"),
        loop_ohms=0.05,
        barrier=REINFORCED,
        source="9.3; IEC 60335-2-29, from memory",
        planner="dc_supply",
        shield="gas: no spark, air, eyes covered",
    ),
    _use(
        "lamps",
        "Low-voltage lamps, 12 V 50 W",
        "12 V within a tenth, 4.2 A, for hours",
        open_volts=(11.0, 13.8),
        amps=4.2,
        loaded_volts=10.8,
        load_ohms=exact(12 / 4.2, "12 V over 4.2 A"),
        loop_ohms=0.05,
        barrier=REINFORCED,
        danger=MILD,
        source="IEC 61558-2-6, from memory",
    ),
    _use(
        "heater",
        "A heater supply, 6.3 V 3 A",
        "6.3 V within a tenth under load",
        open_volts=(6.2, 7.4),
        amps=3.0,
        loaded_volts=5.7,
        load_ohms=exact(2.1, "6.3 V over 3 A"),
        loop_ohms=0.02,
        danger=MILD,
    ),
    _use(
        "one-to-one",
        "A 1 : 1 for the bench, 230 V 0.5 A",
        "line volts, floating, two barriers",
        open_volts=(215.0, 255.0),
        amps=0.5,
        loaded_volts=205.0,
        load_ohms=exact(460.0, "230 V over 0.5 A"),
        barrier=REINFORCED,
        danger=SHOCKS,
        source="IEC 61558-2-4",
    ),
    _use(
        "anode",
        "Anode supply of a small valve stage, 250 V 60 mA",
        "a half of 230 to 300 V, two barriers, its DC kills",
        open_volts=(220.0, 300.0),
        amps=0.09,
        loaded_volts=200.0,
        load_ohms=exact(250 / 0.09, "250 V over 90 mA of RMS"),
        barrier=REINFORCED,
        danger=SHOCKS,
        source="common practice; rectified by `valve_supply`",
        planner="valve_supply",
        shield="its capacitors hold a lethal charge: bleeder, stick, volts seen to fall",
    ),
    _use(
        "insulation",
        "Source of an insulation tester, 500 V 2 mA",
        "350 to 380 V behind 200 kΩ and a rectifier",
        open_volts=(340.0, 390.0),
        amps=0.0015,
        load_ohms=exact(2.2e5, "its own limiting ohms"),
        barrier=REINFORCED,
        on_seconds=60.0,
        off_seconds=60.0,
        least_seconds=60.0,
        danger=SHOCKS,
        source="common practice; IEC 61557-2 asks 500 V at 1 mA",
    ),
    _use(
        "step",
        "Step down 230 V to 115 V for 200 VA",
        "two windings, not one with a tap: isolated",
        open_volts=(112.0, 124.0),
        amps=1.74,
        loaded_volts=106.0,
        load_ohms=exact(115 / 1.74, "115 V over 1.74 A"),
        barrier=REINFORCED,
        danger=SHOCKS,
        source="IEC 61558-2-6 and -2-4, from memory",
    ),
)
"""The first uses of a rewound piece."""


def shorter(use: Use, seconds: float) -> Use:
    """The same, each time for so long."""
    return replace(use, on_seconds=seconds)
