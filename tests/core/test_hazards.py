"""What a piece is said to be able to do to its owner, situation by situation; never milder than the
evidence allows.
"""

import re
from pathlib import Path

import pytest

from greyfell.core.dangers.ends import volts_words
from greyfell.core.dangers.listing import ORDER
from greyfell.core.dangers.own import ORDER as OWN_ORDER
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.limits import HV_WINDING_VOLTS, TOUCH_VOLTS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.identify import identify
from greyfell.core.judgement import acts, leaks, shorts, touches
from greyfell.core.judgement import odd_readings as misfits
from greyfell.core.judgement.fault import FAULTS
from tests.conftest import OVEN, TRUTH, case, every, piece, truth

MAINS = {"volts": 230, "hertz": 50}
SIGN = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 4.2),
    ("C", "D", 9800.0),
    ("C", "core", 4900.0),
    ("D", "core", 4900.0),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("B", "core", "open"),
]
BELL = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 160.0),
    ("C", "D", 1.1),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
]
VARIABLE = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 5.2),
    ("A", "C", 2.1),
    ("C", "B", 3.1),
    ("A", "core", "open"),
]


def dangers(leads, readings, **more):
    """The hazards of a record made by hand, by code."""
    more.setdefault("supply", MAINS)
    record = parse_record(piece(leads, readings, **more))
    return {h.code: h for h in hazards(identify(record))}


@pytest.mark.parametrize(
    ("leads", "readings", "more", "expected"),
    [
        ("ABCDE", OVEN, {}, {"core-live", "capacitor", "mains"}),
        (
            "ABCD",
            SIGN,
            {"core": {"shape": "core", "shunts": "present", "assembly": "potted"}},
            {"hv-to-case", "mains"},
        ),
        ("ABCD", BELL, {}, {"mains"}),
        ("ABC", VARIABLE, {"core": {"shape": "toroid"}}, {"no-isolation"}),
        ("AB", [], {}, {"unknown"}),
    ],
)
def test_each_kind_of_piece_says_what_can_hurt(leads, readings, more, expected):
    assert expected <= set(dangers(leads, readings, **more))


def test_the_gravest_comes_first():
    """A live core at kilovolts is named before the mains on the primary."""
    codes = list(dangers("ABCDE", OVEN))
    assert codes.index("core-live") < codes.index("capacitor") < codes.index("mains")


def test_nothing_measured_is_never_harmless():
    """For want of data the lead is treated as the worst it could be."""
    (only,) = dangers("ABCD", []).values()
    assert "kilovolts" in only.sentence
    assert "safe" not in only.sentence.lower()


def test_the_case_of_a_sign_piece_is_half_way():
    """Middle bonded: each terminal stands at half the whole to the case. Common practice."""
    words = dangers("ABCD", SIGN, core={"shape": "core", "shunts": "present"})[
        "hv-to-case"
    ].sentence
    assert "to the case" in words
    assert "earthed" in words
    assert words.count("about") == 2


def test_a_low_voltage_piece_is_not_cried_over():
    """160 Ω might still be an oven's HV winding cut from its core: said as an open question, not as
    a finding.
    """
    found = dangers("ABCD", BELL)
    assert not {"hv", "core-live", "hv-to-case"} & set(found)
    assert "may yet be" in found["hv-not-ruled-out"].sentence
    assert "%" in found["hv-not-ruled-out"].sentence


def test_a_choke_is_said_to_kick():
    """Opening DC through an inductance makes kilovolts: common practice, ramp down first."""
    inductance = {"kind": "inductance", "across": ["A", "B"], "henries": 0.4, "hertz": 100}
    assert "kick" in dangers("AB", [("A", "B", 9.0), ("A", "core", "open"), inductance])


@pytest.mark.parametrize(("ohms", "sensed", "above"), [(1.7, 0.52, False), (75.0, 3.6, True)])
def test_the_touch_limit_divides(ohms, sensed, above):
    """10 V in: 0.52 V out makes some 12 V on 230 V mains, 3.6 V makes some 83 V; the limit of 50 V
    is IEC 61140's.
    """
    ratio = {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 10.0,
        "sensed": ["C", "D"],
        "sensed_volts": sensed,
    }
    assert TOUCH_VOLTS == 50.0
    wound = {
        ("A", "B"): 440.0,
        ("C", "D"): ohms,
    }  # too many ohms for an oven's HV winding: nothing else is left open
    readings = [(*r[:2], wound.get(r[:2], r[2])) for r in BELL if isinstance(r, tuple)]
    light = {"core": {"mass_kg": 0.3, "shunts": "absent"}, "nameplate": {"primary_volts": 230.0}}
    assert ("above-touch" in dangers("ABCD", [BELL[0], *readings, ratio], **light)) == above


@pytest.mark.parametrize(
    "number", sorted(n.removeprefix("case-").removesuffix(".json") for n in TRUTH)
)
def test_no_public_case_hides_its_kilovolts(number):
    """Whatever has an HV winding is said to have one, in words that give the danger; nothing is
    called safe.
    """
    record = case(number)
    found = hazards(identify(record))
    assert found
    roles = {w["role"] for w in truth(number)["windings"]}
    if "hv-secondary" in roles:
        assert {h.code for h in found} & {
            "core-live",
            "hv-to-case",
            "hv",
            "hv-not-ruled-out",
        }
    for h in found:
        assert h.sentence.endswith((".", "?"))
        assert not {"safe", "harmless", "only"} & set(h.sentence.lower().replace(".", "").split())


def test_volts_in_words_carry_their_range():
    assert volts_words(None) == "unknown volts"
    words = volts_words(Quantity(2080.0, 1900.0, 2250.0, "calculated"))
    assert words.startswith("about 2.08 kV")
    assert "1.9 to 2.3" in words
    assert HV_WINDING_VOLTS == 600.0


# ------------------------------------------------------------------ every rule, as it is declared


@pytest.mark.parametrize("rule", OWN_ORDER, ids=lambda r: f"{r.code} {r.condition}")
def test_every_hazard_is_declared_whole(rule):
    """Code, condition, what ends it, headline, sentence and source; nothing is called safe."""
    said = (rule.condition, rule.cleared, rule.headline, rule.reason, rule.source)

    assert every(said)
    assert rule.code == rule.code.lower().replace(" ", "-")
    assert rule.headline.endswith((".", "?"))
    told = " ".join((rule.headline, rule.reason, rule.instead)).lower()
    assert "safe" not in re.sub("no safety isolation|“safety isolating”|unsafe reading", "", told)


@pytest.mark.parametrize(
    ("earlier", "later"),
    [
        ("shorted-to-core", "capacitor-first"),
        ("capacitor-first", "core-at-mains"),
        ("core-at-mains", "mains-on-output"),
        ("mains-on-output", "never-on-mains"),
        ("never-on-mains", "core-live"),
        ("core-live", "hv"),
        ("hv", "hv-not-ruled-out"),
        ("hv-not-ruled-out", "capacitor"),
        ("capacitor", "no-isolation"),
        ("no-isolation", "back-fed"),
        ("back-fed", "above-touch"),
        ("above-touch", "other-mains"),
        ("other-mains", "mains"),
        ("mains", "breaker"),
    ],
)
def test_hazards_stand_from_the_gravest_down(earlier, later):
    """What stops, then charge, mains by a fault, kilovolts, what is stored, what is touched."""
    order = [rule.code for rule in ORDER]

    assert order.index(earlier) < order.index(later)


@pytest.mark.parametrize("kind", FAULTS.values(), ids=lambda k: k.code)
def test_every_fault_says_how_it_is_read_again_and_what_clears_it(kind):
    """And from where the rule comes; the kind of the clearing reading is one of the format."""
    told = (kind.beside, kind.headline, kind.again, kind.clears, kind.source)

    assert every((kind.condition, kind.instead, *told))
    assert kind.clearing in by_key()


def test_every_fault_a_rule_names_is_declared():
    """The codes that the sources of the rules write out, against the table."""
    written = set()
    for module in (acts, leaks, misfits, shorts, touches):
        source = Path(module.__file__).read_text(encoding="utf-8")
        written |= set(re.findall(r"\bcode=\"([a-z-]+)\"", source))

    assert written
    assert written <= set(FAULTS)


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"title": "constant voltage transformer 250 VA"}, True),
        ({"title": "CVT", "nameplate": {"primary_volts": 230.0, "hertz": 50.0}}, True),
        ({"nameplate": {"text": "ferroresonant regulator", "secondary_volts": 24.0}}, True),
        ({"parts": [{"id": "p1", "what": "capacitor of a constant-voltage part"}]}, True),
        ({"title": "bell transformer"}, False),
    ],
)
def test_a_ferroresonant_part_is_told_of_its_tuned_winding_and_its_charge(more, told):
    """Hundreds of volts that no ratio at a low drive tells; whatever its plate puts out."""
    document = piece("ABCD", BELL, supply={"volts": 230, "hertz": 50}, **more)
    found = [h.code for h in hazards(identify(parse_record(document)))]

    assert ("tuned" in found) == told
    assert "capacitor" in found or not told
