"""What iron to look for, for a job that nothing on the shelf does."""

from greyfell.core.uses.catalogue import Use

LARGE_WATTS = 400.0
"""Watts in a load from which a core of oven size is wanted. Common practice."""


def iron_to_look_for(use: Use) -> str:
    """In words, from what the use asks: its open volts, its amps, what parts its windings, and the
    size of core for its watts.
    """
    low, high = use.open_volts
    watts = use.amps * max(use.loaded_volts, use.amps * use.load_ohms.low)
    needs = [f"{low:g} to {high:g} V open", f"{use.amps:.3g} A and more"]
    if use.barrier != "basic":
        needs.append("two windings apart, marked to IEC 61558-2-6 or in chambers of their own")
    if watts > LARGE_WATTS:
        needs.append("a core of 1 kVA and more, 4 kg and up")
    return "; ".join(needs)
