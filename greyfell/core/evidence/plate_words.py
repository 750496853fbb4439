"""What stands on a plate, explained as it is read; a figure without its unit is asked for. Marks of
isolation by IEC 61558 and IEC 60417, abbreviations by common practice.
"""

import re

from msgspec import Struct


class PlateWord(Struct, frozen=True):
    """One mark or abbreviation: how it is found, and what it means."""

    pattern: str
    meaning: str


WORDS = (
    PlateWord(r"\bPRI(M|MARY|MAIRE|MÄR)?\b", "primary: what is fed"),
    PlateWord(r"\b(SEC|SEK)(ONDAIRE|UNDÄR|ONDARY)?\b", "secondary: what it gives"),
    PlateWord(r"\bU0\b|\bU20\b|\bUo\b", "open volts of the secondary; loaded it gives less"),
    PlateWord(
        r"\b\d+([.,]\d+)?\s*mA\b", "milliamps of the secondary, on a sign part nearly its short"
    ),
    PlateWord(r"\bHPF\b", "high power factor: a capacitor is inside"),
    PlateWord(r"\bNPF\b|\bLPF\b", "no capacitor for the power factor inside"),
    PlateWord(r"\bta\s*\d+", "hottest air it may stand in, °C"),
    PlateWord(r"\btw\s*\d+", "hottest winding it bears for its life, °C"),
    PlateWord(
        r"\b(cl|class|classe|kl|klasse)\.?\s*[AEBFH]\b",
        "insulation class: A 105, E 120, B 130, F 155, H 180 °C",
    ),
    PlateWord(
        r"\buk\b|\bu_k\b|\bVcc\b", "short-circuit volts in per cent: the smaller, the stiffer"
    ),
    PlateWord(r"\bS[123]\b|\bED\b|\bduty\b", "duty: how long it may be loaded, and how often"),
    PlateWord(r"\bEN(TR[ÉE]E)?\b(?=.*SORTIE)|\bentrée\b", "French: in, the primary"),
    PlateWord(r"\bsortie\b", "French: out, the secondary"),
    PlateWord(r"\beingang\b", "German: in, the primary"),
    PlateWord(r"\bausgang\b", "German: out, the secondary"),
    PlateWord(r"\bspartrafo\b|\bautotrans", "one winding for both: no isolation"),
    PlateWord(r"\btrenntrafo\b|\bisolating\b|\bisolement\b", "isolating: two windings apart"),
    PlateWord(r"\bMID\b|\bM\.?P\.? ?EARTH|\bC\.?T\.?\b", "middle of the winding, often earthed"),
    PlateWord(r"\b(\d+)\s*-\s*0\s*-\s*\1\b", "two halves about a middle: each so many volts to it"),
    PlateWord(r"61558-2-6", "a safety isolating transformer, under 50 V"),
    PlateWord(r"61558-2-4", "an isolating transformer"),
    PlateWord(r"\bIP\s?\d\d\b", "how far case keeps out fingers and water"),
)
UNITLESS = re.compile(
    r"(?<![\w.,:/-])(\d+(?:[.,]\d+)?)(?!\d)(?![.,]\d)"
    r"(?!\s*(?:/\s*\d+\s*)?(?:[kmµ]?(?:V|A|W|VA|Hz|H|F|Ω)\b|%|°|~|mm|kg|ph))",
    re.I,
)
"""A figure with nothing behind it that would say what it is."""
NAMED = re.compile(r"61558-[\d-]+|IP\s?\d\d|ta\s*\d+|tw\s*\d+|U20|U0|S[123]|\b(19|20)\d\d\b", re.I)
"""Figures that belong to a mark, or are a year."""
MOST_ASKED = 3


class Explained(Struct, frozen=True):
    """A plate's marks with their meanings, and the figures whose unit is to be asked for."""

    told: tuple[tuple[str, str], ...]
    asked: tuple[str, ...]


def explain(text: str) -> Explained:
    """Every mark on a plate that is known, in the order it stands there, and what to ask.

    >>> explain("PRI 230 V 50 Hz SEC 24").asked
    ('24',)
    """
    found = []
    for word in WORDS:
        hit = re.search(word.pattern, text, re.I)
        if hit is not None:
            found.append((hit.start(), hit.group(0).strip(), word.meaning))
    bare = NAMED.sub(" ", text)
    asked = tuple(dict.fromkeys(m.group(1) for m in UNITLESS.finditer(bare)))[:MOST_ASKED]
    return Explained(tuple((mark, meaning) for _, mark, meaning in sorted(found)), asked)
