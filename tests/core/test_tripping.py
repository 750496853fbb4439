"""A sign part that trips: causes in order, each with a low-energy test; no way round the unit."""

from greyfell.core.telling.tripping import BYPASS, CAUSES, KNOWN_BY


def test_every_cause_has_a_test_of_low_energy_and_what_is_done_then():
    """Plug out, or behind a lamp with everything off it."""
    for cause in CAUSES:
        assert cause.test
        assert cause.shows
        assert cause.mend.endswith(".")
    live = [c for c in CAUSES if "lamp" in c.test]
    assert [c.key for c in live] == ["unit"]
    assert CAUSES[-1].key == "unit"


def test_the_unit_is_never_bypassed():
    """Named, refused, with what it hides; no cause is mended by leaving it out."""
    said = " ".join(f"{c.test} {c.mend}" for c in CAUSES)

    assert "not bypassed" in BYPASS
    assert "burns walls" in BYPASS
    assert "bridge" not in said
    assert KNOWN_BY
