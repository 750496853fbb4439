"""Oven transformers: some kilovolts with an end on the iron, shunts, a heater."""

import math

from greyfell.core.families import said
from greyfell.core.families.giving import oven
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
    Spread,
    Strand,
)

OVEN = PieceKind(
    key="oven",
    words="an oven transformer",
    share=1.0,
    assign=oven,
    here_only=False,
    has_high=True,
    said_by=(said.WELD, said.OVEN),
    plated=Plated(low=1500.0, high=3000.0),
    # M-T4: some 2.1 kV, 50 to 200 Ω, its end on the core; the heater 3.1 to 3.4 V
    roles={
        "primary": PRIMARY,
        HV: RoleRow(
            volts=(2080.0, 0.077),
            copper=(0.77, 0.155),
            coupling=(-0.040, 0.015),
            bonds={"end": 0.93, None: 0.06, "middle": 0.01},
            ohms=(15.0, 900.0),
            centre_tap=0.01,
            other_tap=0.01,
        ),
        "filament": RoleRow(
            volts=(3.2, 0.09),
            copper=(21.0, 0.33),
            coupling=(-0.032, 0.022),
            ohms=(0.0, 1.0),
            centre_tap=0.01,
            other_tap=0.0,
        ),
        # the owner's own turns of cable
        "lv-secondary": RoleRow(
            volts=(3.0, 1.3), copper=(1.0, 1.8), coupling=(-0.03, 0.03), ohms=(0.0, 5.0)
        ),
    },
)
ROW = Family(
    key="microwave",
    word="oven",
    name="oven transformer",
    choice="from a microwave oven",
    told="an oven transformer",
    prior=0.28,
    # M-T4: 0.8–2.5 Ω at 230 V, 0.2–0.6 Ω at 120 V; M-T1: 1.5–1.75 T
    model=FamilyModel(
        a=(math.log(3.3e-5), 0.35),
        v_offset=(-0.07, 0.15),
        tesla=Spread(1.62, 0.09),
        mass_offset=(-0.4, 0.35),
        permeance=(math.log(7e-6), 0.6),
        low_flux=(0.6, 0.5),
        bend=(0.4, 0.25),
    ),
    kinds=(OVEN,),
    look=Look(
        shape={"shell": 0.97, "toroid": 0.003, "core": 0.02, "c-core": 0.007},
        shunts={"present": 0.75, "removed": 0.2, "absent": 0.05},
        assembly={"welded": 0.92, "interleaved": 0.03, "banded": 0.03, "potted": 0.02},
        place={
            "primary": {"lower coil": 0.75, "upper coil": 0.2, "inner coil": 0.03},
            HV: {"upper coil": 0.78, "lower coil": 0.15, "outer coil": 0.03},
            "filament": {
                "between coils": 0.6,
                "upper coil": 0.25,
                "lower coil": 0.08,
                "outer coil": 0.04,
            },
        },
        end={
            "primary": {"tab": 0.9, "flying": 0.07},
            HV: {"tab": 0.65, "flying": 0.28},
            "filament": {"flying": 0.85, "tab": 0.1},
        },
    ),
    # M-T4: half an ampere to one shorted at full volts; 14 Ω of leakage beside 3.3 from memory
    does=Behaviour(
        own_share=(0.15, 0.35, 0.50),
        at_full=0.55,
        reactive=4.5,
        coupling=(0.935, 0.985),
        saturates=(1.0, 1.8),
        power=(9.0, 7.0, 11.0),
        loss_per_kg=(12.0, 0.45),
        tesla=1.6,
        ratios={True: (7.8, 11.0), False: (15.0, 20.5)},
        rated=True,
        shunts_give_way=True,
    ),
    bars=Bars(
        bench=(
            "Oven parts are no safety isolation, alone or back to back over their HV link: one "
            "barrier to the mains in each, the cores as return, 2 kV in the cable between. It is "
            "explained here, no wiring is offered."
        ),
        isolation="oven parts are never a safety isolation, however good their readings.",
    ),
    leads=(
        PRIMARY_STRAND,
        Strand(
            words="heater of the magnetron",
            roles=("filament", "lv-secondary"),
            count=2,
            optional=True,
            absent="no heater winding: cut away, or an oven fed another way",
        ),
        Strand(
            words="HV winding, its other end on the iron",
            roles=(HV,),
            count=1,
            optional=True,
            absent="no HV winding: it was cut out, or its lead is not named",
        ),
    ),
    more_leads="more than an oven has: a thermal link brought out, a tap, or no oven's",
    handling=("magnetron", "second-store"),
    donors=("oven",),
    theirs="an oven put back into use",
    primary_words="oven ",
    slack=12.0,
    high=True,
    shunted=True,
    hv_bond="end",
    heater_never_fed=True,
    coils_apart=True,
    exposed_never=True,
    magnetron=True,
    primary_leads=2,
    lightest_kg=1.5,  # half a kilogram is an inverter's ferrite. Common practice, M-T4
    stores=True,
    for_mains=True,
    rewound=True,
)
