"""What to do when somebody has been shocked or burnt: steps in their order. Common practice of
first aid; local emergency services and their word stand above it.
"""

from msgspec import Struct


class Aid(Struct, frozen=True, kw_only=True):
    """One step: what, and why or how."""

    words: str
    how: str


STEPS = (
    Aid(
        words="Power off: plug or breaker, before anybody is touched",
        how="High voltage: keep away until it is off and shorted; nobody pulls a person off it.",
    ),
    Aid(
        words="Call the emergency number: 112, 911, 999, 000",
        how="Say: electric shock, breathing or not, where. Leave the phone on loud.",
    ),
    Aid(
        words="No breath, no answer: press the chest, hard and fast",
        how="5 to 6 cm deep, 100 to 120 a minute, until help comes. A defibrillator as soon as one "
        "is there; it speaks.",
    ),
    Aid(
        words="Breathing, but does not answer: on the side, head back",
        how="Stay, and look at the breath.",
    ),
    Aid(
        words="Burns: cool with water from the tap, ten to twenty minutes",
        how="Rings off, no ice, no grease, cover loosely. Two small wounds may hide a deep one.",
    ),
    Aid(
        words="To a hospital today, even if all seems well",
        how="After high voltage, a path through the chest, a faint, a burn, or with child: the "
        "heart may stumble hours later. Tell them volts, path and how long.",
    ),
    Aid(
        words="Leave the bench as it is, dead and shorted",
        how="What held the current is found later, by two.",
    ),
)
"""European Resuscitation Council guidelines for lay people, from memory."""
