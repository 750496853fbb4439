"""The words of the trade for what the program keeps as codes: one dictionary each."""

from typing import Literal

from greyfell.core.belief.found import Winding
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.loading import PRACTICE
from greyfell.core.evidence.record import BROUGHT_BACK, RETIRED
from greyfell.core.families.registry import family_of, has, kind_of

Mood = Literal["sound", "caution", "stop", "quiet"]
"""How a sentence is meant, never told by colour alone."""

NOT_KNOWN = "not yet known"
"""What a family is called before anything is known."""


def family_word(key: str) -> str:
    """A family in a word, as on the shelf; what is none is its own word."""
    family = family_of(key)
    return key if family is None else family.word


def family_name(key: str) -> str:
    """A family by name, as on a piece."""
    family = family_of(key)
    return NOT_KNOWN if family is None else family.name


def family_choices() -> dict[str, str]:
    """Families as they are chosen by an owner who has only looked."""
    return {key: family.choice for key in FAMILIES if (family := family_of(key)) is not None}


def kind_words(key: str) -> str:
    """A kind of piece, finer than families, as it is said of an alternative."""
    kind = kind_of(key)
    return key if kind is None else kind.words


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
    PRACTICE: "for practice",
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
SURE_ENOUGH = 0.85
"""From this chance a role is named without a question mark."""


def role_words(role: str, family: str, supply_volts: float) -> str:
    """A role in the field's words.

    >>> role_words("primary", "mains", 230.0)
    '230 V mains primary'
    """
    if role != "primary":
        return ROLE_NAMES.get(role, "winding")
    if has(family, "isolates_nothing"):
        return "variable autotransformer"
    row = family_of(family)
    return f"{supply_volts:g} V {'mains ' if row is None else row.primary_words}primary"


def short_role(winding: Winding, family: str) -> str:
    """A winding's name on its coil; a question mark where it is not sure."""
    words = (
        "variac ring"
        if has(family, "isolates_nothing")
        else ROLE_WORDS.get(winding.role, "winding")
    )
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
