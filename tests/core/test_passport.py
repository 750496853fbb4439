"""The passport: a record inside a page, and out of it again."""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.exchange.passport import FILE, RECORD_ID, is_passport, opened, picture, sealed
from tests.conftest import OVEN, piece

PAGE = """<!doctype html><html><body>{image}
<script type="application/json" id="{id}">{record}</script>
<script>var other = 1;</script></body></html>"""


def page(document, image=""):
    """A passport by hand."""
    return PAGE.format(id=RECORD_ID, record=sealed(document), image=image)


def test_a_record_comes_out_as_it_went_in():
    """With an end of a script element in its title, and its picture."""
    document = piece("ABCDE", OVEN, title="</script><b>&amp; “x”")
    image = f'<svg><image {FILE}="photos/a.jpg" href="{picture(b"12")}"></image></svg>'

    assert opened(page(document, image)) == (document, {"photos/a.jpg": b"12"})


@pytest.mark.parametrize(
    ("text", "so"),
    [
        (page({}), True),
        ("\n" + page({}), True),
        ("<!doctype html><p>none", False),
        ('{"format": "greyfell.transformer/1"}', False),
    ],
)
def test_a_passport_is_known_by_its_looks(text, so):
    """HTML that holds a record."""
    assert is_passport(text) is so


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (page([1]), "holds no record"),
        (PAGE.format(id=RECORD_ID, record="{", image=""), "JSON"),
        (page({"title": "x" * 5_000_000}), "at most 4 MB"),
        (page({}, f'<image {FILE}="photos/a.jpg" href="{picture(b"1")}!"></image>'), "damaged"),
    ],
)
def test_a_damaged_passport_is_refused_with_a_sentence(text, says):
    """Nothing comes out of it."""
    with pytest.raises(FieldError) as refused:
        opened(text)

    assert says in refused.value.sentence
