"""The short form of `make mutants`: what breaks a rule is noticed; what breaks nothing is not."""

import importlib.util
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture(scope="module")
def mutants():
    """The script as a module."""
    spec = importlib.util.spec_from_file_location("mutants", ROOT / "scripts" / "mutants.py")
    module = importlib.util.module_from_spec(spec)
    sys.modules["mutants"] = module
    spec.loader.exec_module(module)
    yield module
    del sys.modules["mutants"]


@pytest.fixture(scope="module")
def found(mutants):
    """Every mutant of the core."""
    return mutants.all_mutants()


def test_every_mutant_is_still_a_program(mutants, found):
    """One of each kind a package: it compiles, and differs from what it was broken from."""
    kinds = {(m.path.rpartition("/")[0], m.kind): m for m in found}

    assert {m.kind for m in found} == {"flipped", "edge", "sign", "doubled", "halved"}
    for mutant in kinds.values():
        compile(mutant.broken(), mutant.path, "exec")
        assert mutant.before != mutant.after.strip()


def test_every_threshold_of_the_rules_is_broken_once(mutants, found):
    """Constants of hazards, metering, gates, screening, faults, shorted turns, verdict, advice."""
    own = [m for m in found if mutants._in(m, mutants.OWN)]
    broken = {(m.path.rpartition("/")[2], m.before) for m in own}

    for name, figure in (
        ("limits.py", "600.0"),
        ("limits.py", "50.0"),
        ("stored.py", "0.3"),
        ("metering.py", "0.8"),
        ("primary.py", "0.95"),
        ("screening.py", "2e7"),
        ("limits.py", "2e6"),
        ("shorts.py", "0.15"),
        ("verdict.py", "0.90"),
        ("next_step.py", "0.1"),
    ):
        assert (name, figure) in broken


def test_a_broken_threshold_is_noticed_and_an_unbroken_copy_passes(mutants, tmp_path):
    """HV from 1200 V instead of 600: the table of thresholds fails; as it was, it passes."""
    tests = ["tests/core/test_thresholds.py::test_a_danger_is_named_from_its_threshold"]
    benches = mutants.Benches(tmp_path, 1)
    files = [path for path in mutants.program() if path.endswith("figures/limits.py")]
    (high,) = [m for m in mutants.all_mutants(files) if (m.before, m.kind) == ("600.0", "doubled")]
    copy = benches.free.get()

    assert mutants._passes(copy, tests)
    benches.free.put(copy)
    assert not benches.survives(high, tests)
    assert (copy / high.path).read_bytes() == (ROOT / high.path).read_bytes()
