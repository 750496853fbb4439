"""The command line as a script would use it: JSON in, JSON out, exit codes, nothing half-done."""

import json
import subprocess
import sys
import urllib.request
from pathlib import Path

import jsonschema
import pytest
from click.testing import CliRunner

from greyfell.cli import data_folder, main
from greyfell.core.identify import answer, identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import CASES, OVEN, case, piece

ROOT = Path(__file__).parents[1]
FILES = sorted(str(p) for p in CASES.glob("case-*.json"))


def run(*args, **more):
    """Run a command in this process."""
    return CliRunner().invoke(main, [str(a) for a in args], **more)


def test_identify_prints_one_document_per_line_in_order(tmp_path):
    """A refused file answers on its line, the others still answer, exit status 1."""
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "greyfell.transformer/7"}')

    done = run("identify", "--lines", FILES[0], bad, tmp_path / "missing.json", FILES[1])
    lines = [json.loads(x) for x in done.output.splitlines()]

    assert done.exit_code == 1
    assert [("error" in x) for x in lines] == [False, True, True, False]
    assert lines[1]["file"] == str(bad)
    assert "greyfell.transformer/1" in lines[1]["error"]
    assert "cannot be read" in lines[2]["error"]


def test_identify_says_what_python_says():
    """Page, command line and function give one answer."""
    done = run("identify", "--lines", FILES[0])

    told = json.loads(done.output)
    assert told == json.loads(json.dumps(answer(identify(case("001")))))
    assert told["gate"]["open"] is live_gate(identify(case("001"))).open
    assert {"voltamperes", "meters"} <= set(told)


def published(request, name):
    """A validator of one published schema, itself checked once."""
    path = request.config.rootpath / f"docs/format/{name}.schema.json"
    schema = json.loads(path.read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    return jsonschema.Draft202012Validator(schema)


def test_identifications_keep_to_their_published_schema(request):
    """docs/format/identification-1.schema.json, every public case."""
    validator = published(request, "identification-1")
    for line in run("identify", "--lines", *FILES).output.splitlines():
        validator.validate(json.loads(line))


def test_records_keep_to_their_published_schema(request):
    """docs/format/transformer-1.schema.json accepts every third public case and refuses what the
    program refuses.
    """
    validator = published(request, "transformer-1")
    for path in sorted(CASES.glob("case-*.json"))[::3]:
        validator.validate(json.loads(path.read_text()))
    for change in (
        {"tag": "has space"},
        {"format": "x"},
        {"readings": [{"kind": "core_proof", "ohms": -1}]},
    ):
        with pytest.raises(jsonschema.ValidationError):
            validator.validate({**piece("AB"), **change})


def test_identify_next_gives_the_next_step(tmp_path):
    """Worked out only when asked for."""
    path = tmp_path / "oven.json"
    path.write_text(
        json.dumps(
            piece(
                "ABCDE",
                OVEN[1:],
                supply={"volts": 230, "hertz": 50},
                statements=[{"kind": "salvage-done", "text": "0.3 V"}],
            )
        )
    )

    assert "next" not in json.loads(run("identify", "--lines", path).output)
    assert (
        json.loads(run("identify", "--lines", "--next", path).output)["next"]["kind"]
        == "core_proof"
    )


@pytest.mark.parametrize("name", sorted(PLANNERS))
def test_planners_have_example_schema_and_answer(name, tmp_path):
    """`--example` is valid input; the result keeps to `--schema`."""
    example = json.loads(run("plan", name, "--example").output)
    schema = json.loads(run("plan", name, "--schema").output)
    path = tmp_path / "in.json"
    path.write_text(json.dumps(example))

    jsonschema.validate(example, schema["input"])
    jsonschema.validate(json.loads(run("plan", name, path).output), schema["result"])
    assert name in run("plan", "--list").output


KEYS = {
    "rewind": """turns open_circuit_volts one_turn_fewer_volts one_turn_more_volts least_turns
        layers turns_per_layer turns_that_fit fits fill length_metres winding_ohms drop_volts
        loaded_volts copper_watts mass_kg amps_per_mm2""",
    "ballast": """reactance_ohms inductance_henries reactive_voltamperes shorted_amps peak_amps
        first_peak_amps core_must_store_joules loaded_amps load_volts load_watts added_up_amps""",
    "halves": "best arrangements",
    "touch_map": "isolates why_not worst_zone pairs",
    "autotransformer": "through_voltamperes common_amps gain",
    "weld_match": "best_turns rows mainly_reactive",
    "turns_scale": "rows",
    "current_path": """amps_found parts_found loop_ohms resistance_ohms reactance_ohms consistent
        repeat amps_without shunt_watts shunt_overload most_seconds hottest_joint_volts""",
    "duty": """rise_per_shot_kelvin shots_to_limit rest_seconds rest_wants equivalent_amps
        amps_per_mm2""",
    "ballast_bank": """recommended choices next_above ways""",
    "choke": """turns card_mm henries gap_total_mm fringing wire_mm fill fits amps_that_fit
        winding_ohms copper_watts core_watts rise_kelvin copper_kg pull_newtons
        henries_at_double_amps""",
    "sliding_choke": """millimetres_found henries least_amps most_amps range_amps monotone
        pull_newtons""",
    "saturable_reactor": """dc_amps dc_volts unbiased_amps most_load_amps induced_volts_open_dc""",
    "series_capacitor": """reactance_ohms capacitance_found_farads amps_shorted amps_loaded
        capacitor_volts capacitor_peak_volts resonance_ratio resonant_farads worst_volts""",
    "output": """open_volts peak_volts loaded_volts to_case_volts hazard_class flux_ratio
        tap_volts""",
    "dc_supply": """open_volts loaded_volts ripple_volts peak_inverse_volts diodes_in_string
        capacitor_volts stored_joules bleeder_ohms bleeder_watts bleeder_resistors secondary_amps
        peak_diode_amps least_choke_amps""",
    "gap": """millimetres_found volts_peak_found keep_away_millimetres air_density""",
    "limiter": """recommended because unlimited_amps choices""",
    "feed": """most_volts recommended choices""",
    "source": """source_resistance_ohms source_reactance_ohms short_amps_as_built match_ohms
        most_watts volts_at_match amps_at_match points""",
    "circuit_from_tests": """core_ohms magnetising_ohms equivalent_resistance_ohms
        leakage_reactance_ohms regulation efficiency short_amps secondary_short_amps""",
    "lamp": """loop_amps lamp_volts_across lamp_watts_drawn winding_volts glow
        shorted_watts shorted_glow tells_apart suggested_watts""",
    "reflected_short": "secondary_short_amps",
    "primary_turns": """flux_ratio volts_per_turn_new output_ratio no_load_watts_new
        test_volts""",
    "leakage": """capacitance_found_farads leakage_found_amps ghost_volts low_z_volts
        grade""",
    "claim": """open_volts reflected_primary_amps voltamperes amps_from_voltamperes
        amps_from_loop over_balance believable""",
    "valve_supply": """capacitor_input_volts choke_input_volts least_choke_amps bridge_volts
        bridge_amps open_volts ripple_volts bias_volts_direct heater_amps
        heaters_within rails_held""",
    "crank_welder": """reach_amps covers reactor_volts idle_open_volts idle_short_amps henries_in
        henries_out""",
    "variac": """setting_fraction dial_setting brush_amps_drawn line_amps headroom_amps fuse_amps
        sheet most_volts brush_limit_volts""",
    "breaker": "cases inrush_peak_amps_used chance_per_switching suggestion",
    "scrap": "copper_kg aluminium_kg steel_kg worth",
    "nameplate": """plate_volts_per_hertz supply_volts_per_hertz flux_ratio most_volts
        secondary_volts open_volts end_to_case_volts short_amps plate_voltamperes""",
    "temperature": "hot_celsius rise_kelvin headroom_kelvin hot_spot_celsius",
    "wire": """mm2_found millimetres_found awg_found amps_per_mm2 ohms_per_metre seconds_to_limit
        service""",
    "discharge": """start_volts energy_joules chain_ohms time_constant_seconds seconds_to_safe
        hold_seconds peak_amps peak_watts volts_each joules_each pulse_ratio resistors_needed
        left_volts recovered_volts bleeder_seconds_to_safe""",
    "metering": """chain_ohms resistors ohms_each volts_each watts_each chain_watts
        full_scale_volts_as_built error_fraction open_meter_volts""",
    "ratio_check": "secondary_over_primary output_volts coupling",
    "peak": "peak_volts neon",
    "dc_routes": "route routes",
    "pulse_weld": """verdict peak_amps wanted_amps pulse_seconds wanted_seconds heating
        wanted_heating stored_joules weld_joules least_volts charge_seconds transformer""",
    "two_primaries": "output_volts loaded_volts apart_percent equal goes_in",
}
"""Keys of the public contract; they hold once released."""


@pytest.mark.parametrize("name", sorted(PLANNERS))
def test_planners_use_the_published_keys(name, tmp_path):
    """The exact keys of the public contract, and the warnings that every answer may carry."""
    path = tmp_path / "in.json"
    path.write_text(run("plan", name, "--example").output)
    answer = json.loads(run("plan", name, path).output)

    assert set(answer) - {"refused"} == {*KEYS[name].split(), "warnings"}


def test_a_plan_starts_from_a_piece(tmp_path):
    """What is known of a record or a tag fills in, and a file says the rest."""
    record, rest = tmp_path / "piece.json", tmp_path / "rest.json"
    record.write_text(json.dumps(piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50})))
    rest.write_text('{"target_volts": 12}')
    run("import", record, "--data", tmp_path / "shelf")
    by_file = run("plan", "rewind", rest, "--from", record)
    by_tag = run("plan", "rewind", rest, "--from", "T-1", "--data", tmp_path / "shelf")

    assert json.loads(by_file.output)["turns"] >= 10
    assert by_file.output == by_tag.output
    assert run("plan", "rewind", rest, "--from", "NOPE", "--data", tmp_path).exit_code == 2


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (("plan", "weld"), "no planner"),
        (("plan", "rewind"), "JSON file"),
        (("plan", "rewind", "nope.json"), "cannot be read"),
        (("serve", "--host", "0.0.0.0"), "GREYFELL_PASSPHRASE"),
        (("export", "NOPE"), "no piece"),
    ],
)
def test_wrong_calls_are_answered_with_a_sentence(args, words, tmp_path, monkeypatch):
    """Never a traceback."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    done = run(*args)

    assert done.exit_code == 2
    assert words in done.output
    assert "Traceback" not in done.output


def test_bad_plan_input_names_the_field(tmp_path):
    """NaN, missing and wrong fields."""
    for text, words in (
        ('{"supply_volts": 230, "volts_per_turn": 0.9}', "target_volts"),
        ('{"supply_volts": NaN}', "NaN"),
        ("", "empty"),
    ):
        path = tmp_path / "x.json"
        path.write_text(text)
        done = run("plan", "rewind", path)
        assert done.exit_code == 2
        assert words in done.output


def test_import_and_export_round_trip(tmp_path):
    """Export, import into an empty copy: the same document; twice: nothing new; refused: said, the
    rest goes on.
    """
    bad = tmp_path / "bad.json"
    bad.write_text("{}")
    done = run("import", *FILES[:4], bad, "--data", tmp_path / "one")
    assert done.exit_code == 1
    assert done.output.count("added") == 4
    tag = json.loads((CASES / "case-001.json").read_text())["tag"]
    run("export", tag, "--data", tmp_path / "one", "--to", tmp_path / "out")
    assert (
        "added"
        in run("import", tmp_path / "out" / f"{tag}.json", "--data", tmp_path / "two").output
    )
    assert (
        "nothing new"
        in run("import", tmp_path / "out" / f"{tag}.json", "--data", tmp_path / "two").output
    )
    assert (
        run("export", tag, "--data", tmp_path / "one").output
        == run("export", tag, "--data", tmp_path / "two").output
    )


def test_the_demo_has_a_folder_of_its_own(tmp_path, monkeypatch):
    """Demo data never mixes with the owner's."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))

    assert data_folder(None) != data_folder(None, demo=True)
    assert data_folder(tmp_path / "mine") == tmp_path / "mine"


def test_demo_serves_on_this_machine_only(tmp_path):
    """What `make demo` runs, as a new user starts it: demo data at a local address."""
    asked = ["make", "--no-print-directory", "-n", "demo", "PORT=18731"]
    printed = subprocess.run(asked, cwd=ROOT, capture_output=True, text=True, check=True).stdout
    (recipe,) = [
        line.split() for line in printed.splitlines() if line.endswith("demo --port 18731")
    ]
    command = [sys.executable, *recipe[1:], "--no-browser", "--data", str(tmp_path)]
    with subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True) as server:
        try:
            line = server.stdout.readline()
            assert "http://127.0.0.1:18731/" in line
            for _ in range(50):
                try:
                    text = (
                        urllib.request.urlopen("http://127.0.0.1:18731/", timeout=5).read().decode()
                    )
                    break
                except OSError:
                    pass
            assert "Cinder Quay" in text
        finally:
            server.terminate()
