"""The bench around identification: jotter, bands, meters, next steps, shelf summary."""

import pytest

from greyfell.core.codes import CODES
from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import Hand, _accuracy, lines, read_line
from greyfell.core.evidence.parse import parse_reading, parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.metering import meter_rules
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.summary import summarise
from greyfell.core.telling.usual_ranges import bands
from tests.conftest import OVEN, every, piece

METERS = [
    {"id": "M1", "title": "pocket", "max_volts_ac": 600.0},
    {"id": "M2", "title": "kilovolt", "max_volts_ac": 10000.0},
    {"id": "M3", "title": "bare"},
]


def judged(readings, leads="ABCDE", **more):
    """A record and what follows from it."""
    more.setdefault("supply", {"volts": 230, "hertz": 50})
    record = parse_record(piece(leads, readings, **more))
    return record, identify(record)


@pytest.mark.parametrize(
    ("line", "reading"),
    [
        ("A-B 1.3", {"kind": "resistance", "between": ("A", "B"), "ohms": 1.3}),
        ("a-b 1,3", {"kind": "resistance", "between": ("A", "B"), "ohms": 1.3}),
        ("A-core open", {"kind": "resistance", "between": ("A", "core"), "ohms": "open"}),
        (
            "A-Fe OL 20M",
            {"kind": "resistance", "between": ("A", "core"), "ohms": "open", "range_ohms": 20e6},
        ),
        (
            "A-B 1.3 probes 0.2",
            {"kind": "resistance", "between": ("A", "B"), "ohms": 1.3, "probe_ohms": 0.2},
        ),
        ("A-B dc 0.1A 9.3V", {"kind": "dc_drop", "across": ("A", "B"), "amps": 0.1, "volts": 9.3}),
        (
            "A-B dc 9.3 mV 1 A",
            {"kind": "dc_drop", "across": ("A", "B"), "amps": 1.0, "volts": 0.0093},
        ),
        (
            "A-B 1.6H 100Hz",
            {"kind": "inductance", "across": ("A", "B"), "henries": 1.6, "hertz": 100.0},
        ),
        (
            "A-B 290 uH 100 Hz q 3.2",
            {
                "kind": "inductance",
                "across": ("A", "B"),
                "henries": 2.9e-4,
                "hertz": 100.0,
                "q": 3.2,
            },
        ),
        (
            "E-core 124.5V > A-B 5.9V",
            {
                "kind": "ratio",
                "driven": ("E", "core"),
                "driven_volts": 124.5,
                "sensed": ("A", "B"),
                "sensed_volts": 5.9,
            },
        ),
        (
            "A-B 12V 50Hz > C-D 0.17V",
            {
                "kind": "ratio",
                "driven": ("A", "B"),
                "driven_volts": 12.0,
                "sensed": ("C", "D"),
                "sensed_volts": 0.17,
                "hertz": 50.0,
            },
        ),
        (
            "A-B lamp 40W dark",
            {
                "kind": "lamp",
                "across": ("A", "B"),
                "supply_volts": 230.0,
                "lamp_watts": 40.0,
                "glow": "dark",
            },
        ),
        (
            "A-B 230V 1.9A 75W",
            {"kind": "no_load", "driven": ("A", "B"), "volts": 230.0, "amps": 1.9, "watts": 75.0},
        ),
        (
            "A-B 120V > 5 turns 4.6V",
            {
                "kind": "test_turn",
                "driven": ("A", "B"),
                "driven_volts": 120.0,
                "turns": 5.0,
                "turn_volts": 4.6,
            },
        ),
        ("C-D 3 turns", {"kind": "turns", "across": ("C", "D"), "turns": 3.0}),
        (
            "A-core ins 500V 200M",
            {"kind": "insulation", "between": ("A", "core"), "test_volts": 500.0, "ohms": 2e8},
        ),
        (
            "A-core ins 500V open",
            {"kind": "insulation", "between": ("A", "core"), "test_volts": 500.0, "ohms": "open"},
        ),
        ("proof 0.1", {"kind": "core_proof", "ohms": 0.1}),
        (
            "A-B 230V > C-D bridge 16.2V",
            {
                "kind": "direct",
                "driven": ("A", "B"),
                "driven_volts": 230.0,
                "rectified": ("C", "D"),
                "rectifier": "bridge",
                "direct_volts": 16.2,
            },
        ),
        (
            "A-B 230V > C-D Half-Wave 14.6V 0.3A",
            {
                "kind": "direct",
                "driven": ("A", "B"),
                "driven_volts": 230.0,
                "rectified": ("C", "D"),
                "rectifier": "half-wave",
                "direct_volts": 14.6,
                "direct_amps": 0.3,
            },
        ),
        (
            "A-B 230V 3.1A > C-D loop 420A",
            {
                "kind": "loop",
                "driven": ("A", "B"),
                "driven_volts": 230.0,
                "driven_amps": 3.1,
                "loaded": ("C", "D"),
                "loop_amps": 420.0,
            },
        ),
        (
            "path the left lug: 12 mV 300A",
            {"kind": "path", "part": "the left lug", "volts": 0.012, "amps": 300.0},
        ),
    ],
)
def test_the_jotter_understands(line, reading):
    """Every line of the jotter's table, and each is a reading the record accepts."""
    jotted = read_line(line, list("ABCDE"), 230.0)

    assert jotted.reading == reading
    assert jotted.words
    assert parse_reading(
        {k: list(v) if isinstance(v, tuple) else v for k, v in reading.items()}, list("ABCDE")
    )


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("", "Type a reading"),
        ("A-B", "What did A–B read"),
        ("A-Z 3", "not a lead"),
        ("A-A 3", "twice"),
        ("A-B banana", "number"),
        ("A-B 3 furlongs", "unit"),
        ("A-B -3", "not be negative"),
        ("A-B 1.6H", "frequency"),
        ("A-B lamp dark", "watts"),
        ("A-core ins 500V", "volts and its ohms"),
        ("strike r7", "why"),
        ("hello there", "two points"),
        ("A-B 12V > C-D", "number"),
        ("A-B dc 3V", "Amps"),
        ("A-B 1e400", "finite"),
        ("<b>A</b>-B 3", "two points"),
    ],
)
def test_the_jotter_explains_what_it_did_not_understand(line, words):
    """A sentence, and nothing stored."""
    with pytest.raises(FieldError, match=words):
        read_line(line, list("ABCDE"), 230.0)


@pytest.mark.parametrize(
    ("line", "dial", "range_ohms"),
    [
        ("A-B open", 2e7, 2e7),
        ("A-B open 2M", 2e7, 2e6),
        ("A-B 1.3", 200.0, 200.0),
        ("A-B 1.3", None, None),
        ("A-B 219", 200.0, 200.0),
        ("A-core ins 500V open", 2e7, None),
        ("A-B dc 1A 3V", 200.0, None),
    ],
)
def test_the_dial_counts_for_ohms_that_name_no_range(line, dial, range_ohms):
    """Typed beside the figure a range wins; an insulation tester has no dial of an ohmmeter's."""
    assert (
        read_line(line, list("AB"), 230.0, Hand(dial=dial)).reading.get("range_ohms") == range_ohms
    )


def test_ohms_beyond_the_dial_are_asked_about():
    """2000 counts and a few more are shown on a range; a tenth beyond it the dial was not there."""
    with pytest.raises(FieldError, match=r"dial stands at 200 Ω.*not noted"):
        read_line("A-B 221", list("AB"), 230.0, Hand(dial=200.0))


@pytest.mark.parametrize(
    ("line", "reading"),
    [
        ("A B 2.1", {"between": ("A", "B"), "ohms": 2.1}),
        ("AB 2.1", {"between": ("A", "B"), "ohms": 2.1}),
        ("a core OL", {"between": ("A", "core"), "ohms": "open"}),
        ("A-core 20M OL", {"between": ("A", "core"), "ohms": "open", "range_ohms": 2e7}),
        ("A-core OL 20M", {"between": ("A", "core"), "ohms": "open", "range_ohms": 2e7}),
        ("A-B >20M", {"between": ("A", "B"), "ohms": "open", "range_ohms": 2e7}),
        ("A-B > 20M", {"between": ("A", "B"), "ohms": "open", "range_ohms": 2e7}),
        ("A-B OL on 20M", {"between": ("A", "B"), "ohms": "open", "range_ohms": 2e7}),
        ("A-B 2.1 on 200", {"between": ("A", "B"), "ohms": 2.1, "range_ohms": 200.0}),
    ],
)
def test_the_jotter_takes_lines_as_hands_type_them(line, reading):
    """A space or nothing between two leads, the range before or after, an arrow for "over"."""
    assert read_line(line, list("ABC")).reading == {"kind": "resistance", **reading}


@pytest.mark.parametrize(
    ("line", "limits"),
    [
        (
            "A-B 230.0V ±0.5% 0.45A ±1% 12W ±2%",
            {"volts": (0.5, 0.3), "amps": (1.0, 0.03), "watts": (2.0, 3.0)},
        ),
        ("A-B 230V±0.5% 450mA±1%", {"volts": (0.5, 3.0), "amps": (1.0, 0.003)}),
        (
            "A-B 230V ±0.5% > C-D 230V ±2%",
            {"driven_volts": (0.5, 3.0), "sensed_volts": (2.0, 3.0)},
        ),
        ("A-B 12V ±1% 4.5e-05A ±1%", {"volts": (1.0, 3.0), "amps": (1.0, 3e-6)}),
        ("A-B 230V ±0.5% 0.45A 12W ±2%", {"volts": (0.5, 3.0), "watts": (2.0, 3.0)}),
        ("A-B 230V ±0.5% 0.4..0.5..0.7A ±1%", {"volts": (0.5, 3.0), "amps": (1.0, 0.3)}),
    ],
)
def test_limits_behind_each_figure_are_that_figures_own(line, limits):
    """Per cent of it, and three counts of its last place; a figure with none keeps the usual."""
    told = read_line(line, list("ABCD")).reading

    assert "percent" not in told
    assert told["accuracy"].keys() == limits.keys()
    for field, (percent, digits) in limits.items():
        assert told["accuracy"][field]["percent"] == percent
        assert told["accuracy"][field]["digits"] == pytest.approx(digits)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("A-B 230V ±0.5% 0.45A ±1% 12W ±2%", "(±0.5 %, ±1 %, ±2 %)"),
        ("A-B 230V 0.45A ±1%", "(±1 %)"),
        ("A-B 1.3 ±0.5%", "A–B 1.3 Ω (±0.5 %)"),
    ],
)
def test_limits_that_were_typed_are_said_as_understood(line, said):
    """Before they are stored."""
    assert read_line(line, list("AB")).words.endswith(said)


def test_limits_behind_a_figure_that_fills_no_field_are_refused():
    """Nothing is guessed of them."""
    with pytest.raises(FieldError, match="±2% stands behind no figure of this reading: 3V"):
        _accuracy({"kind": "no_load", "volts": 230.0}, [("230", "V", "1"), ("3", "V", "2")])


@pytest.mark.parametrize("line", ["AB", "A Z 3", "XY 3", "dc 3V", "core core 3"])
def test_what_could_mean_anything_is_asked_about(line):
    with pytest.raises(FieldError):
        read_line(line, list("ABC"))


@pytest.mark.parametrize(("line", "says"), lines())
def test_every_line_that_is_taught_is_understood(line, says):
    """What stands on the help is no promise that the jotter breaks."""
    assert read_line(line, list("ABCDEF"), hand=Hand(last="r7")).words
    assert says


def test_a_probe_zero_is_said_once_and_taken_off_from_then_on():
    """Stated beside a figure another wins; open has none; more than 20 Ω is no short."""
    jotted = read_line("zero 0.3", list("AB"))
    hand = Hand(zero=jotted.zero)

    assert (jotted.zero, jotted.reading) == (0.3, None)
    assert read_line("A-B 2.1", list("AB"), hand=hand).reading["probe_ohms"] == 0.3
    assert read_line("A-B 2.1 probes 0.1", list("AB"), hand=hand).reading["probe_ohms"] == 0.1
    assert "probe_ohms" not in read_line("A-B OL", list("AB"), hand=hand).reading
    assert read_line("probes 20", list("AB")).zero == 20.0
    for bad in ("zero 20.1", "zero -0.1", "zero many"):
        with pytest.raises(FieldError):
            read_line(bad, list("AB"))


def test_undo_strikes_the_last_reading_out():
    assert read_line("undo", list("AB"), hand=Hand(last="r7")).strike == ("r7", "undone")
    with pytest.raises(FieldError, match="no reading to undo"):
        read_line("Undo", list("AB"))


def test_the_jotter_strikes_out():
    """Undo is striking out with a reason."""
    assert read_line("strike r7 wrong range", ["A"]).strike == ("r7", "wrong range")


def test_lead_letters_keep_their_case_where_it_matters():
    """Case counts when two leads differ only by it."""
    assert read_line("a-A 3", ["a", "A"]).reading["between"] == ("a", "A")


@pytest.mark.parametrize(
    ("points", "mood", "words"),
    [
        (("A", "B"), "sound", "oven primary"),
        (("C", "D"), "caution", "continuity only"),
        (("E", "core"), "sound", "returning through the core"),
        (("A", "core"), "sound", "core proved"),
        (("A", "C"), "sound", "separate"),
    ],
)
def test_each_reading_falls_on_a_band(points, mood, words):
    """A mark, a mood and one sentence for every ohms reading."""
    band = next(b for b in bands(judged(OVEN)[1]) if b.points == points)

    assert band.mood == mood
    assert words in band.sentence


def test_an_unlikely_reading_asks_whether_it_is_a_slip():
    """96 Ω written as 9.6: the band says so, the usual range stands beside it."""
    rows = [("E", "core", 9.6) if r == ("E", "core", 96.0) else r for r in OVEN]
    ratio = {
        "kind": "ratio",
        "driven": ["E", "core"],
        "driven_volts": 100.0,
        "sensed": ["A", "B"],
        "sensed_volts": 10.6,
    }

    band = next(
        b
        for b in bands(
            judged(
                [*rows, ratio],
                declared_family="microwave",
                core={"shape": "shell", "shunts": "present", "assembly": "welded"},
            )[1]
        )
        if b.points == ("E", "core")
    )

    assert band.mood == "caution"
    assert "slip" in band.sentence
    assert band.usual[0] > 20


@pytest.mark.parametrize(
    ("meter", "winding", "allowed"),
    [
        ("M1", "E", False),
        ("M2", "E", False),
        ("M3", "E", None),
        ("M1", "A", True),
        ("M1", "C", True),
    ],
)
def test_which_meter_may_touch_what(meter, winding, allowed):
    """No hand-held meter on an HV winding, whatever its plate says; unknown ones are never fit."""
    rules = meter_rules(judged(OVEN, meters=METERS)[1])

    rule = next(r for r in rules if r.meter == meter and r.points[0] == winding)
    assert rule.allowed is allowed
    assert winding in rule.sentence


def test_no_meter_is_waved_through_after_a_stop():
    """A stop fault leaves nothing to be powered."""
    rules = meter_rules(judged([*OVEN, ("A", "core", 3e5)], meters=METERS)[1])

    assert every("nothing is powered" in r.sentence or not r.allowed for r in rules)


def test_the_next_step_goes_from_safe_to_less_safe():
    """Core proof, unknown leads, primary to core, other windings to core, then low energy with the
    figure to expect.
    """
    readings, titles = [], []
    for extra in (
        [],
        [{"kind": "core_proof", "ohms": 0.1}],
        [
            ("A", "B", 1.3),
            ("E", "core", 96.0),
            ("C", "D", 0.0),
            ("A", "C", "open"),
            ("A", "E", "open"),
        ],
        [("A", "core", "open")],
        [("C", "core", "open")],
    ):
        readings += extra
        steps = next_steps(
            judged(readings, statements=[{"kind": "salvage-done", "text": "0.3 V"}])[1]
        )
        titles.append(steps[0].title)
        energies = [s.energy for s in steps]
        assert energies == sorted(energies, key=["stored", "cold", "low", "live", "none"].index)
        assert "live" not in energies

    assert titles[:4] == [
        "Prove the core",
        "Find what A belongs to",
        "A to the core, highest range",
        "C to the core, highest range",
    ]
    assert steps[0].energy == "low"
    assert every(any(ch.isdigit() for ch in s.expect) for s in steps)


def test_an_unsalvaged_oven_starts_at_the_capacitor():
    """Find the capacitor first, treat it as charged whatever its age."""
    assert next_steps(judged(OVEN)[1])[0].title == "First the capacitor"


def test_after_a_stop_only_the_clearing_reading_is_offered():
    """No statement overrides a stop fault; a better reading may."""
    steps = next_steps(
        judged(
            [*OVEN, ("A", "core", 3e5)], statements=[{"kind": "overrule", "text": "it is fine"}]
        )[1]
    )

    assert [s.kind for s in steps] == ["statement", "resistance"]
    assert "capacitor" in steps[0].title
    assert "repeat A–core" in steps[1].title


def test_nothing_live_is_proposed_for_a_piece_with_an_hv_winding():
    """Even with the gate open."""
    steps = next_steps(judged(OVEN, statements=[{"kind": "salvage-done", "text": "0.3 V"}])[1])

    assert every(s.energy != "live" for s in steps)
    assert "licensed electrician" in CODES


@pytest.mark.parametrize(
    ("more", "danger", "words"), [([], 4, "core live"), ([("A", "core", 3e5)], 5, "stop")]
)
def test_the_shelf_says_it_in_a_few_words(more, danger, words):
    """Headline, danger rank, how far tested."""
    ident = judged([*OVEN, *more])[1]
    summary = summarise(ident, next_steps(ident))

    assert summary.danger == danger
    assert words in summary.headline
    assert {len(w["leads"]) for w in summary.sketch["windings"]} <= {1, 2}
