"""What fits no usual family: igniters, inverter ovens' ferrite, ferroresonant parts, the rest."""

import math

from greyfell.core.families import giving, said
from greyfell.core.families.row import (
    HV,
    ITSELF,
    PRIMARY,
    Family,
    FamilyModel,
    Look,
    PieceKind,
    Plated,
    RoleRow,
    SaidWord,
    Spread,
)

UNKNOWN_KIND = PieceKind(
    key="other",
    words="none of the usual families",
    share=0.577,
    assign=giving.anything,
    said_by=(
        SaidWord(
            r"audio|output transformer|push-?pull|microphone|modulation|interstage"
            r"|\d+\s*[:/]\s*\d+\s*(?:ohm|Ω)|(?:70|100)\s*V[- ]line"
        ),
        SaidWord(r"ferrite|SMPS|switch(?:ed|ing)?[- ]mode|litz|flyback"),
        said.INVERTER,
        SaidWord(r"current transformer|\b\d+\s*[/:]\s*[15]\s*A\b|\bGFCI\b|ground[- ]fault"),
        SaidWord(r"\b400\s*Hz|three[- ]phase|3[- ]?phase|\b3\s*~"),
        SaidWord(
            r"ignition coil|spark coil|induction coil|electronic (?:transformer|ballast)"
            r"|\bLED driver|\bkHz|distribution transformer"
            r"|(?:(?<!constant )voltage|potential) transformer"
        ),
        said.WELD,
        SaidWord(r"contactor|solenoid|relay coil"),
    ),
    # anything at all
    roles={
        "unknown": RoleRow(
            volts=(30.0, 1.8),
            copper=(1.5, 1.6),
            coupling=(-0.03, 0.03),
            bonds={None: 0.6, "end": 0.2, "middle": 0.2},
            ohms=(0.0, 1e9),
            centre_tap=0.2,
            other_tap=0.2,
        ),
    },
)
IGNITER = PieceKind(
    key="igniter",
    words="an igniter's or insect killer's",
    share=0.12,
    assign=giving.igniter,
    said_by=(SaidWord(r"insect|ignit|burner"),),
    called="sign",
    plated=Plated(low=1500.0, high=20e3, midpoint=0.2),
    bushings=0.3,
    # insect killers, oil igniters, test parts: 2 to 10 kV, often floating. Common practice
    roles={
        "primary": PRIMARY,
        HV: RoleRow(
            volts=(4500.0, 0.55),
            copper=(1.0, 0.4),
            coupling=(-0.04, 0.03),
            bonds={None: 0.6, "end": 0.37, "middle": 0.03},
            ohms=(150.0, 60e3),
        ),
    },
)
INVERTER = PieceKind(
    key="inverter",
    words="an inverter oven's ferrite",
    share=0.30,
    assign=giving.inverter,
    said_by=(said.INVERTER, said.OVEN),
    called="microwave",
    plated=Plated(low=1500.0, high=5000.0),
    # inverter ovens: ferrite at tens of kilohertz, half a kilogram. Common practice
    roles={
        "unknown": RoleRow(volts=(160.0, 0.3), copper=(0.05, 1.5), ohms=(0.0, 0.3)),
        HV: RoleRow(
            volts=(2200.0, 0.25),
            coupling=ITSELF,
            bonds={"end": 0.6, None: 0.4},
            ohms=(4.0, 60.0),
        ),
        "filament": RoleRow(volts=(3.3, 0.15), copper=(5.0, 1.5), ohms=(0.0, 0.3)),
    },
)
RESONANT = PieceKind(
    key="resonant",
    words="a ferroresonant part",
    share=0.003,
    assign=giving.resonant,
    said_by=(SaidWord(r"constant[- ]voltage|ferro-?resonan|\bCVT\b"),),
    named_nats=3.0,  # nearly always said by its plate, and hardly met otherwise. From memory
    called="mains",
    plated=Plated(low=90.0, high=700.0),
    # ferroresonant parts: the capacitor's winding has most ohms and most volts. Common practice
    roles={
        "primary": PRIMARY,
        HV: RoleRow(
            volts=(650.0, 0.25),
            copper=(1.0, 0.5),
            coupling=(-0.1, 0.15),
            ohms=(0.5, 400.0),
            other_tap=0.2,
        ),
        "lv-secondary": RoleRow(
            volts=(110.0, 0.9), copper=(1.5, 0.6), coupling=(-0.1, 0.15), ohms=(0.0, 100.0)
        ),
    },
)
ROW = Family(
    key="other",
    word="other",
    name="fits no usual family",
    choice="something else",
    told="other",
    prior=0.08,
    # anything at all
    model=FamilyModel(
        a=(math.log(2e-4), 2.5),
        v_offset=(0.0, 1.2),
        tesla=Spread(0.8, 0.8),
        mass_offset=(0.0, 1.5),
        permeance=(math.log(3e-6), 2.0),
    ),
    kinds=(UNKNOWN_KIND, IGNITER, INVERTER, RESONANT),
    look=Look(
        shape={"shell": 0.35, "core": 0.25, "toroid": 0.25, "c-core": 0.15},
        shunts={"absent": 0.8, "present": 0.15, "removed": 0.05},
        assembly={"banded": 0.3, "potted": 0.3, "interleaved": 0.2, "welded": 0.2},
    ),
    stores=None,
)
