"""Limits that more than one rule asks for: each stands here once, with its source. A limit that one
rule alone asks for stands beside that rule.

Merged from twins, where they differed the safer one won: iron of a rewound primary saturates from
1.10 of its flux (1.15 stood there), a family is not excluded from 5 % (what is done with its parts
waited for 20 %).
"""

MAINS_RISE = 1.10
"""Mains may stand a tenth above their name. IEC 60038."""
MOST_FLUX = 1.10
"""Volts per hertz over the plate's: mains wander by a tenth (IEC 60038), and what is made for a
voltage bears it; above it iron saturates. Common practice."""
TOUCH_VOLTS = 50.0
"""What may be touched for ever, AC RMS, and what may stay on a capacitor. IEC 61140, IEC
60364-4-41."""
LIVE_VOLTS = 30.0
"""Above this RMS an accessible part counts as live; 25 V AC dry without basic protection. IEC
61010-1 cl. 6.3, IEC 60364-4-41."""
SOON_SECONDS = 60.0
"""A charge is let go where it falls to `TOUCH_VOLTS` within so long. IEC 61140; R-T2."""
BOND_OHMS = 0.1
"""A protective bond has no more ohms. IEC 60335-1 cl. 27.5, IEC 60364 (from memory)."""
HIGH_VOLTAGE = 1000.0
"""From these volts it is high voltage. IEC 60038, IEC 61140."""
HV_WINDING_VOLTS = 600.0
"""Above this no ordinary 600 V meter may be put on, and a winding counts as HV. Common practice."""
TEST_VOLTS = 500.0
"""DC volts of an insulation test. IEC 61558-1, IEC 60335-1, from memory."""
NOT_EXCLUDED = 0.05
"""From this chance a family counts for its dangers. House rule of the gate."""
BASIC_OHMS, REINFORCED_OHMS = 2e6, 7e6
"""Least insulation of one barrier and of two, at `TEST_VOLTS`. IEC 61558-1 and IEC 60335-1 (from
memory)."""
PROVING_AMPS = 10.0
"""A bond that carried so many amps opens what protects it, were a winding to fail to the core. IEC
60335-1 cl. 27.5 asks 10 A at least."""
UNREAD_LEAKAGE_AMPS = 0.75e-3
"""Leakage where nobody measured it: what a sound part may just have. IEC 60335-1 cl. 13."""
BREAKER_HOLDS = 1.13
"""A breaker holds for good up to so many times its amps. IEC 60898-1."""
STOP_AMPS = 1.3
"""A wind-up is ended above so many times the amps that are expected. House rule."""
CREST = 1.6
"""Crest factor from which a wave is peaky (a sine has 1.41). Common practice."""
FUSES = (
    *(0.1, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0),
    *(5.0, 6.3, 8.0, 10.0, 12.5, 13.0, 16.0, 20.0, 25.0),
)
"""Amps of fuses that are sold. IEC 60127; 13 A those of BS 1362."""
SLIP_WITHIN = (0.6, 1.65)
"""A figure so near a power of ten of another looks like a slip of range or point. House rule."""
RESISTOR_VOLTS = 0.70
"""Working share of a resistor's volts. REF-Q-07."""
