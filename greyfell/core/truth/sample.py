"""One small sound piece for the examples in docstrings: 230 V, 50 Hz, 1000 and 110 turns."""

from greyfell.core.truth.piece import Iron, Piece, Wound

BELL = Piece(
    family="mains",
    subtype="lv",
    iron=Iron(shape="shell", area_m2=9e-4, path_m=0.17, gap_m=5e-5, mass_kg=1.1),
    windings=(
        Wound(
            name="primary",
            role="primary",
            leads=(("A", 0.0), ("B", 1.0)),
            turns=1000.0,
            wire_mm=0.4,
            mean_turn_m=0.17,
        ),
        Wound(
            name="output",
            role="lv-secondary",
            leads=(("C", 0.0), ("D", 1.0)),
            turns=110.0,
            wire_mm=1.2,
            mean_turn_m=0.19,
        ),
    ),
    rated_volts=230.0,
    rated_hertz=50.0,
    leakage_ohms=4.0,
)
"""A made-up bell transformer."""
