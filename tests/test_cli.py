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
from scripts import write_schema
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


@pytest.mark.parametrize("name", sorted(PLANNERS))
def test_planners_answer_with_the_published_keys(name, tmp_path, request):
    """The exact keys of the public contract in docs/format, and the warnings that every answer may
    carry.
    """
    path = tmp_path / "in.json"
    path.write_text(run("plan", name, "--example").output)
    answer = json.loads(run("plan", name, path).output)
    file = request.config.rootpath / f"docs/format/plan-{name}.schema.json"
    published = json.loads(file.read_text(encoding="utf-8"))["properties"]["result"]["properties"]

    assert set(answer) - {"refused"} == {*published, "warnings"} - {"refused"}


def test_no_published_key_of_a_planner_is_dropped():
    """The script that writes the schemas refuses: a key may be added, never taken away."""

    def schema(*keys):
        found = {key: {} for key in keys}
        return json.dumps({"properties": {"result": {"properties": found}}})

    name = "format/plan-peak.schema.json"
    assert write_schema.dropped(name, schema("a", "b", "c"), schema("a", "b")) == []
    assert write_schema.dropped(name, schema("a"), schema("a", "b")) == ["b"]


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
