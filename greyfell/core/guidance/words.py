"""The words of the trade for what the program keeps as codes: one dictionary each."""

from typing import Literal

from greyfell.core.belief.found import Winding
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.evidence.record import BROUGHT_BACK, RETIRED

Mood = Literal["sound", "caution", "stop", "quiet"]
"""How a sentence is meant, never told by colour alone."""

FAMILY_WORDS = {
    "microwave": "oven",
    "sign": "sign",
    "mains": "mains",
    "choke": "choke",
    "variable": "variac",
    "other": "other",
    "unknown": "unknown",
}
"""Families in a word, as on the shelf."""
FAMILY_NAMES = {
    "microwave": "oven transformer",
    "sign": "sign transformer",
    "mains": "mains transformer",
    "choke": "choke",
    "variable": "variac",
    "other": "fits no usual family",
    "unknown": "not yet known",
}
"""Families by name, as on a piece."""
FAMILY_CHOICES = {
    "microwave": "from a microwave oven",
    "sign": "from a neon sign",
    "mains": "mains transformer",
    "choke": "choke or ballast",
    "variable": "variac",
    "other": "something else",
}
"""Families as they are chosen by an owner who has only looked."""
KIND_WORDS = {
    "igniter": "an igniter's or insect killer's",
    "inverter": "an inverter oven's ferrite",
    "resonant": "a ferroresonant part",
    "oven": "an oven transformer",
    "sign": "a sign transformer",
    "valve": "a valve set's transformer",
    "lv": "an ordinary mains transformer",
    "lv-uneven": "an ordinary mains transformer",
    "dual": "two primary halves",
    "dual-step": "two primary halves and a step-up or step-down winding",
    "isolating": "a one-to-one transformer",
    "step": "a step-up or step-down transformer",
    "variable": "a variac",
    "choke": "a choke",
    "other": "none of the usual families",
}
"""Kinds of piece, finer than families, as they are said of an alternative."""
SALVAGE_WORDS = {
    "salvage-done": "discharged and measured",
    "no-capacitor": "none here",
    "done-elsewhere": "done elsewhere, before this record",
}
"""What may be said of the capacitor, as it is chosen."""
ELSEWHERE_WORDS = {"capacitor": "its capacitor", "cold tests": "the cold tests"}
"""What may have been done elsewhere, as it is chosen."""
STATEMENT_WORDS = {
    **SALVAGE_WORDS,
    RETIRED: "put away",
    BROUGHT_BACK: "on the shelf again",
    "went-on": "gone on",
}
"""What somebody vouched for or did, as it is told; other kinds are their own words."""
ASIDE = (RETIRED, BROUGHT_BACK, "stopped", "went-on")
"""Statements that say nothing of a piece's safety: told in the record alone."""
VERDICT_WORDS = {
    "unknown": "not yet screened",
    "screened": "screened cold",
    "proved": "proved live",
    "doubtful": "doubtful",
    "condemned": "condemned",
}
"""Verdicts as they are said of a piece."""
VERDICT_SHORT = {
    "proved": "proved",
    "screened": "screened",
    "unknown": "not yet screened",
    "doubtful": "doubtful",
    "condemned": "condemned",
    RETIRED: "put away",
}
"""Verdicts in a word or two, as the shelf is narrowed by them."""
ROLE_WORDS = {
    "primary": "primary",
    "primary-half": "half primary",
    "hv-secondary": "HV winding",
    "lv-secondary": "secondary",
    "filament": "heater",
    "bias": "bias",
    "choke": "choke",
    "screen": "screen",
    "unknown": "winding",
}
"""Roles in a word, as on a drawn coil."""
ROLE_NAMES = {
    "primary-half": "half of a dual primary",
    "hv-secondary": "HV winding",
    "lv-secondary": "low-voltage secondary",
    "filament": "heater winding",
    "bias": "bias winding",
    "choke": "choke",
    "screen": "screen",
}
"""Roles by name, as in a sentence."""
OVEN_OR_SIGN = {"microwave": "oven ", "sign": "sign "}
SURE_ENOUGH = 0.85
"""From this chance a role is named without a question mark."""


def role_words(role: str, family: str, supply_volts: float) -> str:
    """A role in the field's words.

    >>> role_words("primary", "microwave", 230.0)
    '230 V oven primary'
    """
    if role != "primary":
        return ROLE_NAMES.get(role, "winding")
    if family == "variable":
        return "variable autotransformer"
    return f"{supply_volts:g} V {OVEN_OR_SIGN.get(family, 'mains ')}primary"


def short_role(winding: Winding, family: str) -> str:
    """A winding's name on its coil; a question mark where it is not sure."""
    words = "variac ring" if family == "variable" else ROLE_WORDS.get(winding.role, "winding")
    return words if winding.sure > SURE_ENOUGH else f"{words}?"


def mains_words(role: str) -> str:
    """What a winding is called where it matters whether it carries the mains."""
    if role not in MAINS_ROLES:
        return "this winding"
    return "the mains winding" if role == "primary" else "a mains winding"


def with_article(words: str) -> str:
    """Words with their indefinite article.

    >>> with_article("HV winding"), with_article("choke")
    ('an HV winding', 'a choke')
    """
    vowel = words[0].lower() in "aeiou" or words.startswith("HV")
    return f"{'an' if vowel else 'a'} {words}"
