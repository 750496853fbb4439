"""Chokes and ballasts: one winding on gapped iron."""

import math

from msgspec.structs import replace

from greyfell.core.families import said
from greyfell.core.families.giving import single
from greyfell.core.families.row import (
    ITSELF,
    PRIMARY_STRAND,
    Bars,
    Family,
    FamilyModel,
    Look,
    PieceKind,
    RoleRow,
    SaidWord,
    Spread,
)

CHOKE = PieceKind(
    key="choke",
    words="a choke",
    share=1.0,
    assign=single("choke", -0.7),
    said_by=(said.WELD, SaidWord(r"\bballast|\bchoke|\breactor|inductor")),
    roles={
        "choke": RoleRow(
            volts=(1.0, 0.4),
            of="supply",
            coupling=ITSELF,
            ohms=(0.02, 3000.0),
            centre_tap=0.02,
            other_tap=0.06,
        ),
    },
)
ROW = Family(
    key="choke",
    word="choke",
    name="choke",
    choice="choke or ballast",
    told="a choke",
    prior=0.10,
    # common practice: the gap decides
    model=FamilyModel(
        a=(math.log(2e-4), 1.4),
        v_offset=(-0.2, 0.6),
        tesla=Spread(1.1, 0.3),
        mass_offset=(-0.6, 0.9),
        permeance=(math.log(1.0e-6), 0.45),
    ),
    kinds=(CHOKE,),
    look=Look(
        shape={"shell": 0.85, "core": 0.08, "toroid": 0.05, "c-core": 0.02},
        shunts={"absent": 0.92, "present": 0.07, "removed": 0.01},
        assembly={"welded": 0.5, "banded": 0.25, "interleaved": 0.1, "potted": 0.15},
        place={"choke": {"coil": 0.9}},
        end={"choke": {"screw": 0.35, "tab": 0.35, "flying": 0.2}},
    ),
    bars=Bars(
        bench="A choke has one winding: nothing of it is isolated.",
        wound="A choke has a gap and one winding: it limits, it does not transform.",
        amps="a part of this kind is not rewound for amps.",
        lamps="one winding is no supply: nothing of it is isolated from the mains.",
        isolation="a part of this kind gives no isolated mains.",
    ),
    leads=(replace(PRIMARY_STRAND, roles=("choke",), words="one winding"),),
    more_leads="a tap, or a second winding: then it is no plain choke",
    scrap="choke",
)
