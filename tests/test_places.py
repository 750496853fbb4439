"""What is added weekly has one place: how many files name a family, or a kind of reading."""

import ast
import importlib.util
from pathlib import Path

import pytest

SCRIPT = Path(__file__).parents[1] / "scripts" / "places.py"
SPEC = importlib.util.spec_from_file_location("places", SCRIPT)
places = importlib.util.module_from_spec(SPEC)
SPEC.loader.exec_module(places)


@pytest.mark.parametrize("name", [*places.FAMILIES, *places.KINDS])
def test_a_family_and_a_kind_of_reading_are_named_in_few_files(name):
    """Its own module, the truth side's, donors or steps, and what is published."""
    found = places.named(name)

    assert found, "nothing names it: the script looks in the wrong place"
    assert len(found) <= places.MOST[name], [str(path) for path in found]


def test_a_name_is_a_literal_a_class_or_a_constant_and_no_docstring(tmp_path):
    """What counts, on a file made by hand."""
    source = (
        '"""sign"""\nfrom families import sign\n\nSIGN = 1\n\n\ndef sign():\n    """sign"""\n'
        '    return "sign"\n'
    )

    found = list(places.names_in(ast.parse(source)))
    assert found.count("SIGN") == 1
    assert found.count("sign") == 2, "the import and the literal"
