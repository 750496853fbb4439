"""Sign transformers: up to tens of kilovolts, their middle on the case, shunts that limit them."""

import math

from greyfell.core.families import giving
from greyfell.core.families.row import (
    HV,
    PRIMARY,
    PRIMARY_STRAND,
    Bars,
    Behaviour,
    Family,
    FamilyModel,
    Look,
    PieceKind,
    Plated,
    RoleRow,
    SaidWord,
    Spread,
    Strand,
)

SIGN = PieceKind(
    key="sign",
    words="a sign transformer",
    share=1.0,
    assign=giving.sign,
    here_only=False,
    has_high=True,
    said_by=(SaidWord(r"\bneon|luminous|\bsign\b|cold[- ]cathode"),),
    plated=Plated(low=1500.0, high=20e3, midpoint=0.85),
    bushings=0.7,
    # M-T6: 2 to 15 kV, bonded in the middle
    roles={
        "primary": PRIMARY,
        HV: RoleRow(
            volts=(7500.0, 0.50),
            copper=(0.94, 0.18),
            coupling=(-0.117, 0.030),
            bonds={"middle": 0.86, "end": 0.11, None: 0.03},
            ohms=(150.0, 60e3),
            centre_tap=0.0,
            other_tap=0.0,
        ),
    },
)
ROW = Family(
    key="sign",
    word="sign",
    name="sign transformer",
    choice="from a neon sign",
    told="a sign transformer",
    prior=0.12,
    # common practice
    model=FamilyModel(
        a=(math.log(7e-5), 0.80),
        v_offset=(-0.42, 0.21),
        tesla=Spread(1.30, 0.13),
        mass_offset=(0.5, 0.85),
        permeance=(math.log(6e-6), 0.7),
        low_flux=(1.1, 0.38),
    ),
    kinds=(SIGN,),
    look=Look(
        shape={"core": 0.75, "shell": 0.22, "toroid": 0.005, "c-core": 0.025},
        shunts={"present": 0.9, "absent": 0.07, "removed": 0.03},
        assembly={"potted": 0.6, "interleaved": 0.25, "welded": 0.1, "banded": 0.05},
        place={
            "primary": {"middle coil": 0.55, "inner coil": 0.25, "lower coil": 0.15},
            HV: {"outer coils": 0.6, "upper coil": 0.2, "outer coil": 0.15},
        },
        end={
            "primary": {"flying": 0.4, "screw": 0.3, "tab": 0.2},
            HV: {"bushing": 0.7, "flying": 0.2},
        },
        usual_shape="core",
    ),
    # limited to its rating by its shunts; 400 kΩ of leakage beside 30 from memory. IEC 61050 ends
    # at 0.1 A, from memory
    does=Behaviour(
        own_share=(0.70, 0.95, 1.20),
        at_full=0.95,
        reactive=15.0,
        coupling=(0.88, 0.975),
        saturates=(1.0, 1.25),
        power=(9.0, 7.0, 11.0),
        loss_per_kg=(2.6, 0.5),
        tesla=1.4,
        most_amps=0.12,
    ),
    bars=Bars(
        bench="A sign part puts out kilovolts; nothing of it feeds a bench.",
        amps="a part of this kind is not rewound for amps.",
        isolation="a part of this kind gives no isolated mains.",
    ),
    leads=(
        PRIMARY_STRAND,
        Strand(
            words="HV winding, its middle on the case",
            roles=(HV,),
            count=2,
            absent="one bushing may be a case: an HV winding bonded at its end has one",
        ),
    ),
    more_leads="more than a sign has: a tap of the primary, a lamp's winding, or no sign's",
    handling=("by-the-case", "oil"),
    donors=("sign",),
    theirs="a sign's installation, its wiring and its place on a wall",
    primary_words="sign ",
    slack=12.0,
    high=True,
    shunted=True,
    hv_bond="middle",
    old_oil=True,
    ground_fault_unit=True,
    for_mains=True,
    plate_kind="sign",
    scrap="potted",
)
