"""How each act is done and with what: settings, proofs, needs against the stores, what to borrow,
"I have none" remembered, what is no test, what digits are worth.
"""

import pytest

from greyfell.core.evidence.parse import parse_reading, parse_record
from greyfell.core.evidence.stores import parse_item
from greyfell.core.identify import identify
from greyfell.core.steps import step as steps
from greyfell.core.steps.methods import BY_ACT, means, with_what_there_is
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.step import Words
from greyfell.core.telling.false_tests import NO_TESTS, no_test
from greyfell.core.telling.ratio_digits import digits_worth
from tests.conftest import KNOWN_OVEN, OVEN, piece

DONE = {"id": "s1", "kind": "salvage-done", "concerns": "capacitor", "text": "shorted, 0.2 V"}
METER = {"kind": "meter", "title": "green", "most_ohms": 6e7}
NO_INSTRUMENT = {"clear", "capacitor", "none here", "set-up", ""}


def item(**document):
    """An entry of the stores."""
    return parse_item({"id": "s1", **document})


def oven(*said):
    """A screened oven's identification with what somebody said."""
    statements = [DONE, *said]
    record = parse_record(
        piece("ABCDE", OVEN, declared_family="microwave", statements=statements, **KNOWN_OVEN)
    )
    return identify(record)


def step(act):
    """The first step of an oven that is this act."""
    return next(s for s in next_steps(oven()) if s.act == act)


def test_every_measuring_act_says_its_setting_its_proof_and_what_it_needs():
    """None without; none of the table without an act."""
    words = {w.act for w in vars(steps).values() if isinstance(w, Words)}

    assert set(BY_ACT) | NO_INSTRUMENT == words | {"clear"}
    for method in BY_ACT.values():
        assert method.setting
        assert method.prove
        assert method.needs


@pytest.mark.parametrize(
    ("act", "entry", "there"),
    [
        ("inductance", {"kind": "inductance-meter", "hertz": 100.0}, True),
        ("inductance", {"kind": "inductance-meter", "hertz": 130.0}, True),
        ("inductance", {"kind": "inductance-meter", "hertz": 131.0}, False),
        ("inductance", {"kind": "inductance-meter", "hertz": 1000.0}, False),
        ("bond", {"kind": "bench-supply", "volts": 30.0, "amps": 1.0}, True),
        ("bond", {"kind": "bench-supply", "volts": 30.0, "amps": 0.99}, False),
        ("reverse ratio", {"kind": "source", "volts": 24.0, "current": "AC"}, True),
        ("reverse ratio", {"kind": "source", "volts": 24.0, "current": "DC"}, False),
        ("reverse ratio", {"kind": "source", "volts": 61.0, "current": "AC"}, False),
        ("reverse ratio", {"kind": "source", "volts": 1.9, "current": "AC"}, False),
        ("reverse ratio", {"kind": "source", "volts": 2.0, "current": "AC"}, True),
        ("reverse ratio", {"kind": "source", "volts": 24.0, "current": "AC", "count": 0}, False),
    ],
)
def test_an_instrument_that_cannot_reach_a_reading_is_not_proposed_for_it(act, entry, there):
    """Just inside and just outside each limit."""
    if entry["kind"] == "source":
        entry = {"amps": 1.0, **entry}
    known = means(step(act), [item(**METER), item(**entry, title="this one")])

    assert ("this one" in dict(known.has).values()) is there
    assert bool(known.borrow) is not there


@pytest.mark.parametrize(("most", "there"), [(2e7, True), (1.9e7, False), (None, True)])
def test_an_open_is_read_by_a_meter_with_a_range_that_counts(most, there):
    """20 MΩ or above; of a meter whose ranges are not known it is not denied."""
    bare = [r for r in OVEN if not (isinstance(r, tuple) and r[2] == "open")]
    record = parse_record(piece("ABCDE", bare, statements=[DONE], **KNOWN_OVEN))
    asked = next(s for s in next_steps(identify(record)) if s.act == "open to core")
    figures = {} if most is None else {"most_ohms": most}
    known = means(asked, [item(kind="meter", title="green", **figures)])

    assert (known.borrow == ()) is there


def test_stores_that_say_nothing_of_the_bench_deny_nothing():
    """No instrument entered: nothing is said to be missing, and the order stays."""
    found = next_steps(oven())

    assert means(step("inductance"), [item(kind="lamp", watts=40.0)]).borrow == ()
    assert with_what_there_is(found, []) == found


def test_the_next_test_is_one_that_the_stores_can_do():
    """With an inductance meter and no source: inductance before the ratio that tells more."""
    on_hand = [item(**METER), item(kind="inductance-meter", hertz=100.0, title="bridge")]
    found = with_what_there_is(next_steps(oven()), on_hand)
    low = [s.act for s in found if s.station == "low" and s.act != "bond"]

    assert next_steps(oven())[0].act == "reverse ratio"
    assert low[0] == "inductance"
    assert "isolated AC source" in means(step("reverse ratio"), on_hand).borrow[0]


def test_i_have_none_is_remembered_and_the_next_test_comes_first():
    """In the core, so in JSON too: what there is no instrument for waits behind all else."""
    first = next_steps(oven())[0]
    none = {"id": "s2", "kind": "have-none", "concerns": first.act, "text": "none"}
    after = next_steps(oven(none))

    assert first.station == "low"
    assert after[0].act != first.act
    assert first.act in [s.act for s in after]


def test_lacking_everything_is_no_dead_end():
    """The finished step stands first, the tests behind it."""
    acts = {s.act for s in next_steps(oven()) if s.station == "low"}
    none = [
        {"id": f"s{n}", "kind": "have-none", "concerns": act, "text": "none"}
        for n, act in enumerate(sorted(acts), 2)
    ]
    found = next_steps(oven(*none))

    assert found[0].act not in acts - {"bond"}
    assert acts <= {s.act for s in found}


def test_a_stop_is_not_put_behind_for_want_of_an_instrument():
    """The reading that clears it stays the only one."""
    struck = [("A", "core", 2.0), *OVEN]
    none = {"id": "s2", "kind": "have-none", "concerns": "clear", "text": "none"}
    found = next_steps(identify(parse_record(piece("ABCDE", struck, statements=[DONE, none]))))

    assert [s.act for s in found] == ["clear"]


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("A-B magnet stuck", "tells nothing of its turns"),
        ("drew a 3 cm arc", "no voltmeter"),
        ("part number 6170", "plate's volts"),
        ("it hums", "shorted turns do"),
        ("upper coil", "a clue, no test"),
    ],
)
def test_what_is_no_test_is_said_when_it_is_tried(line, says):
    """With what to do instead; of ohms nothing is said."""
    assert says in no_test(line)
    assert no_test("A-B 1.3") == ""
    assert len(NO_TESTS) == 5


@pytest.mark.parametrize(
    ("typed", "worth"),
    [
        ({"driven_volts": "12.0", "sensed_volts": "1.3"}, "1.3 has two digits: worth 4 %"),
        ({"driven_volts": "6", "sensed_volts": "1.30"}, "6 has one digit: worth 8 %"),
        ({"driven_volts": "12.0", "sensed_volts": "1.30"}, ""),
        ({"driven_volts": "12.0", "sensed_volts": "0.043"}, "0.043 has two digits: worth 1 %"),
    ],
)
def test_two_digits_say_what_they_are_worth(typed, worth):
    """Half a unit of the last digit; zeros in front are none."""
    volts = {k: float(v) for k, v in typed.items()}
    document = {"kind": "ratio", "driven": ["A", "B"], "sensed": ["C", "D"], **volts}
    said = digits_worth(parse_reading({**document, "typed": typed}, ["A", "B", "C", "D"]))

    assert said.startswith(worth)
    assert bool(said) is bool(worth)


AGED = [
    ({"core": {**KNOWN_OVEN["core"], "damage": "rusted"}}, True),
    ({"leads": ["A", "B", "C", "D", {"id": "E", "damage": "nicked"}]}, True),
    ({}, False),
]


@pytest.mark.parametrize(("facts", "asked"), AGED)
def test_damage_that_was_seen_raises_what_must_be_tested(facts, asked):
    """An insulation test of the mains winding, before anything is fed; not of sound iron."""
    more = {**KNOWN_OVEN, "declared_family": "microwave", **facts}
    leads = more.pop("leads", "ABCDE")
    found = next_steps(identify(parse_record(piece(leads, OVEN, statements=[DONE], **more))))

    assert (found[0].act == "insulation") is asked


def test_an_insulation_test_is_asked_once_and_not_of_who_has_no_tester():
    """Read, or said to have none: the low-energy tests come."""
    core = {**KNOWN_OVEN["core"], "damage": "burnt smell"}
    read = {"kind": "insulation", "between": ["A", "core"], "ohms": 2e8, "test_volts": 500.0}
    none = {"id": "s2", "kind": "have-none", "concerns": "insulation", "text": "none"}
    for readings, said in (([*OVEN, read], [DONE]), (OVEN, [DONE, none])):
        told = piece("ABCDE", readings, statements=said, declared_family="microwave", core=core)
        assert "insulation" not in [s.act for s in next_steps(identify(parse_record(told)))]


def test_who_gets_an_instrument_says_so_and_the_test_is_back():
    """The last word for an act counts."""
    first = next_steps(oven())[0]
    said = [
        {
            "id": f"s{n}",
            "kind": kind,
            "concerns": first.act,
            "text": "said",
            "at": f"2026-05-0{n}T10:00:00+01:00",
        }
        for n, kind in enumerate(("have-none", "have-one"), 2)
    ]

    assert next_steps(oven(said[0]))[0].act != first.act
    assert next_steps(oven(*said))[0].act == first.act
    assert next_steps(oven(*reversed(said)))[0].act == first.act  # by its time, not its place
