"""Variable autotransformers: one tapped ring under a brush."""

import math

from msgspec.structs import replace

from greyfell.core.families.giving import single
from greyfell.core.families.row import (
    ITSELF,
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
)

VARIABLE = PieceKind(
    key="variable",
    words="a variac",
    share=1.0,
    assign=single("primary", 0.0),
    said_by=(SaidWord(r"variable transformer|\bvariac|\b0\s*(?:-|–|to)\s*2\d\d\s*V"),),
    plated=Plated(low=100.0, high=300.0),
    # the whole ring bears some 117 % of the mains, tapped for it. Common practice
    roles={
        "primary": RoleRow(
            volts=(1.08, 0.10),
            of="supply",
            coupling=ITSELF,
            ohms=(0.02, 400.0),
            centre_tap=0.2,
            other_tap=0.95,
        ),
    },
)
ROW = Family(
    key="variable",
    word="variac",
    name="variac",
    choice="variac",
    told="a variable autotransformer",
    prior=0.07,
    # common practice: a ring without a gap
    model=FamilyModel(
        a=(math.log(6e-5), 1.4),
        v_offset=(-0.5, 0.3),
        tesla=Spread(1.3, 0.15),
        mass_offset=(0.0, 0.5),
        permeance=(math.log(1.7e-5), 0.8),
    ),
    kinds=(VARIABLE,),
    look=Look(
        shape={"toroid": 0.95, "shell": 0.03, "core": 0.01, "c-core": 0.01},
        shunts={"absent": 0.93, "present": 0.06, "removed": 0.01},
        assembly={"banded": 0.85, "potted": 0.05, "interleaved": 0.05, "welded": 0.05},
        place={"primary": {"ring": 0.8, "coil": 0.08}},
        end={"primary": {"screw": 0.45, "tab": 0.35, "flying": 0.08}},
        usual_shape="toroid",
    ),
    does=Behaviour(loss_per_kg=(1.0, 0.5), rated=True),
    bars=Bars(
        bench="One tapped winding isolates nothing, whatever its dial says.",
        wound="A variable autotransformer is wound for its brush: it stays what it is.",
        amps="a part of this kind is not rewound for amps.",
        lamps="one winding is no supply: nothing of it is isolated from the mains.",
        isolation="one tapped winding isolates nothing.",
    ),
    leads=(replace(PRIMARY_STRAND, count=3, words="one winding: ends and brush"),),
    more_leads="a second brush, or taps for a dial lamp",
    theirs="a bench that others use",
    isolates_nothing=True,
    scrap="variac",
)
