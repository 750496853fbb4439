"""Ordinary mains transformers: a primary or two halves, outputs, valve sets' high voltage."""

import math

from greyfell.core.families import giving, said
from greyfell.core.families.row import (
    HV,
    PRIMARY,
    PRIMARY_STRAND,
    Behaviour,
    Family,
    FamilyModel,
    Look,
    PieceKind,
    Plated,
    RoleRow,
    SaidWord,
    Spread,
)

HALF = RoleRow(
    volts=(1.0, 0.035),
    of="half",
    copper=(1.08, 0.07),
    ohms=(0.03, 5000.0),
    centre_tap=0.02,
)
"""One of two equal mains windings: 115 or 120 V each, whatever the region. Common practice."""
UNEVEN = 0.15
"""How often several secondaries do not share the copper evenly: a main winding and auxiliary ones.
From memory."""


def _secondary(
    copper: float, spread: float, *, centre: float = 0.35, other: float = 0.12
) -> RoleRow:
    """A low-voltage secondary: some volts to a hundred, its copper shared. Common practice."""
    return RoleRow(
        volts=(20.0, 0.75),
        copper=(copper, spread),
        shared=True,
        ohms=(0.0, 3000.0),
        centre_tap=centre,
        other_tap=other,
    )


VALVE = PieceKind(
    key="valve",
    words="a valve set's transformer",
    share=0.32,
    assign=giving.valve,
    here_only=False,
    said_by=(SaidWord(r"valve|tube|\bHT\b"),),
    plated=Plated(low=100.0, high=1500.0, midpoint=0.1),
    shares="filament",
    # the valve trade: 250-0-250 to 450-0-450 V, heaters of 5 and 6.3 V. Common practice
    roles={
        "primary": PRIMARY,
        HV: RoleRow(
            volts=(680.0, 0.27),
            copper=(1.5, 0.23),
            ohms=(4.0, 5000.0),
            centre_tap=0.8,
            other_tap=0.08,
        ),
        "filament": RoleRow(
            volts=(6.1, 0.09),
            copper=(4.6, 0.36),
            shared=True,
            ohms=(0.0, 6.0),
            centre_tap=0.25,
        ),
        "bias": RoleRow(volts=(55.0, 0.35), copper=(75.0, 0.6), ohms=(0.4, 900.0)),
    },
)
PLAIN = PieceKind(
    key="lv",
    words="an ordinary mains transformer",
    share=0.42,
    assign=giving.plain,
    here_only=False,
    said_by=(said.WELD, said.SITE),
    roles={"primary": PRIMARY, "lv-secondary": _secondary(1.2, 0.33)},
    uneven=(UNEVEN, {"primary": PRIMARY, "lv-secondary": _secondary(1.7, 0.8)}),
    twins=True,
)
DUAL = PieceKind(
    key="dual",
    words="two primary halves",
    share=0.10,
    assign=giving.two_halves({1: 0.5, 2: 0.42, 3: 0.06}),
    said_by=(said.SITE,),
    roles={
        "primary-half": HALF,
        "lv-secondary": _secondary(0.62, 0.22, centre=0.3, other=0.1),
    },
    twins=True,
)
ISOLATING = PieceKind(
    key="isolating",
    words="a one-to-one transformer",
    share=0.08,
    assign=giving.of_few,
    said_by=(said.SITE,),
    plated=Plated(low=90.0, high=280.0),
    # open volts a little above the supply's: the drop under load is wound in. Common practice
    roles={
        "primary": PRIMARY,
        "lv-secondary": RoleRow(
            volts=(1.08, 0.07), of="supply", copper=(1.16, 0.14), ohms=(0.05, 5000.0)
        ),
    },
)
STEP = PieceKind(
    key="step",
    words="a step-up or step-down transformer",
    share=0.05,
    assign=giving.of_few,
    said_by=(said.SITE,),
    plated=Plated(low=90.0, high=280.0, midpoint=0.1),
    roles={
        "primary": PRIMARY,
        "lv-secondary": RoleRow(
            volts=(1.06, 0.10), of="other region", copper=(1.2, 0.18), ohms=(0.05, 5000.0)
        ),
    },
)
DUAL_STEP = PieceKind(
    key="dual-step",
    words="two primary halves and a step-up or step-down winding",
    share=0.03,
    assign=giving.two_halves({1: 0.4, 2: 0.58}),
    said_by=(said.SITE,),
    plated=Plated(low=90.0, high=280.0, midpoint=0.1),
    roles={
        "primary-half": HALF,
        "lv-secondary": RoleRow(volts=(130.0, 0.10), copper=(1.25, 0.16), ohms=(0.05, 5000.0)),
    },
)
ROW = Family(
    key="mains",
    word="mains",
    name="mains transformer",
    choice="mains transformer",
    told="a mains transformer",
    prior=0.36,
    # M-T1, M-T2, M-T3: from 3 VA to some kVA
    model=FamilyModel(
        a=(math.log(7e-4), 2.3),
        v_offset=(0.0, 0.20),
        tesla=Spread(1.22, 0.13),
        mass_offset=(0.0, 0.45),
        permeance=(math.log(5e-6), 0.7),
        low_flux=(1.15, 0.3),
    ),
    kinds=(VALVE, PLAIN, DUAL, ISOLATING, STEP, DUAL_STEP),
    look=Look(
        shape={"shell": 0.76, "toroid": 0.16, "core": 0.04, "c-core": 0.04},
        shunts={"absent": 0.93, "present": 0.06, "removed": 0.01},
        assembly={"interleaved": 0.68, "welded": 0.12, "banded": 0.14, "potted": 0.06},
        place={
            "primary": {
                "inner coil": 0.78,
                "lower coil": 0.08,
                "upper coil": 0.05,
                "outer coil": 0.06,
            },
            "primary-half": {"inner coil": 0.75, "lower coil": 0.1, "outer coil": 0.08},
            HV: {"middle coil": 0.6, "outer coil": 0.2, "inner coil": 0.1, "lower coil": 0.05},
            "filament": {"outer coil": 0.8, "middle coil": 0.08, "inner coil": 0.06},
            "lv-secondary": {
                "outer coil": 0.8,
                "upper coil": 0.07,
                "lower coil": 0.05,
                "inner coil": 0.05,
            },
            "bias": {"middle coil": 0.6, "outer coil": 0.3},
        },
        end={"any": {"flying": 0.55, "tab": 0.18, "screw": 0.10, "lug": 0.06, "pin": 0.08}},
    ),
    does=Behaviour(own_share=(0.03, 0.10, 0.25), reactive=0.3, loss_per_kg=(3.5, 0.5), rated=True),
    leads=(PRIMARY_STRAND,),
    handling=("cut-out",),
    donors=("cabinet", "valve set"),
    for_mains=True,
    rewound=True,
)
