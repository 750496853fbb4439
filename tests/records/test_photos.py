"""Photos: encoded anew, kept with their piece, gone when they are taken away; bad ones refused."""

import io
import random
import subprocess
import sys
from contextlib import suppress

import pytest
from PIL import Image, PngImagePlugin

from greyfell.core.errors import FieldError, Missing
from greyfell.records.archive import packed, unpacked
from greyfell.records.backup import backup, restore
from greyfell.records.checking import check
from greyfell.records.photos import MOST_BYTES, MOST_PIXELS, MOST_SIDE, encoded, named, size_of
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from tests.conftest import OVEN, every, piece

SCRIPT = b"<script>alert(1)</script>"
TURNED = 6
"""EXIF orientation: the camera was turned a quarter."""


def photo(size=(60, 40), form="JPEG", colour="#8d7a61", **how):
    """A photo as a camera sends it."""
    image = Image.new("RGBA" if form == "PNG" else "RGB", size, colour)
    image.putpixel((1, 1), (255, 0, 0))
    out = io.BytesIO()
    image.save(out, form, **how)
    return out.getvalue()


def metadata(**more):
    """EXIF with a place, an owner, a script and an orientation."""
    exif = Image.Exif()
    exif[0x010E] = SCRIPT.decode()
    exif[0x013B] = "somebody"
    exif[0x0112] = more.get("turned", TURNED)
    return exif


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
def test_what_a_camera_writes_beside_the_picture_is_gone_and_it_stands_upright(form):
    """A script in the metadata too; a picture on its side is turned."""
    kept = encoded(photo(form=form, exif=metadata()))
    image = Image.open(io.BytesIO(kept))

    assert image.format == "JPEG"
    assert image.size == (40, 60)
    assert SCRIPT not in kept
    assert dict(image.getexif()) == {}
    assert b"somebody" not in kept


def test_a_comment_in_a_png_is_gone():
    """Text chunks are metadata as well."""
    said = PngImagePlugin.PngInfo()
    said.add_text("Comment", SCRIPT.decode())

    assert SCRIPT not in encoded(photo(form="PNG", pnginfo=said))


def test_what_was_encoded_once_stays_byte_for_byte():
    """So a passport comes back without loss; with anything added it is made anew."""
    once = encoded(photo())

    assert encoded(once) == once
    assert encoded(once + SCRIPT) != once + SCRIPT
    assert SCRIPT not in encoded(once + SCRIPT)


@pytest.mark.parametrize(
    ("side", "kept"), [(MOST_SIDE - 1, MOST_SIDE - 1), (MOST_SIDE + 1, MOST_SIDE)]
)
def test_two_thousand_pixels_are_kept(side, kept):
    """Just below stays, just above is made smaller."""
    assert size_of(encoded(photo((side, 30))))[0] == kept


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "No photo was chosen"),
        (b"this is a text file renamed to .jpg", "JPEG, PNG or WebP"),
        (b"GIF89a" + b"\x00" * 60, "JPEG, PNG or WebP"),
        (photo((900, 900))[:700], "damaged or cut short"),
        (photo(form="PNG")[:60], "damaged or cut short"),
        (b"\xff" * (MOST_BYTES + 1), "20 MB at most"),
    ],
)
def test_what_is_no_photo_is_refused_with_a_sentence(data, says):
    """A renamed text file, another format, a truncated one, one too large."""
    with pytest.raises(FieldError) as refused:
        encoded(data)

    assert refused.value.field == "photo"
    assert says in refused.value.sentence


@pytest.mark.parametrize(("side", "refuses"), [(8_900, False), (9_000, True), (14_000, True)])
def test_a_picture_that_unfolds_to_too_much_is_refused_before_it_does(side, refuses):
    """Either side of eighty millions of pixels, and beyond what the library itself unfolds."""
    out = io.BytesIO()
    Image.new("1", (side, side)).save(out, "PNG", compress_level=1)

    assert (side * side > MOST_PIXELS) == refuses
    if refuses:
        with pytest.raises(FieldError) as refused:
            encoded(out.getvalue())
        assert "million pixels" in refused.value.sentence
    else:
        assert size_of(encoded(out.getvalue())) == (MOST_SIDE, MOST_SIDE)


def test_no_bytes_bring_it_down():
    """Two hundred photos with bytes changed at random: kept or refused, and nothing else."""
    chance = random.Random(7)
    whole = photo((64, 64))
    for _ in range(200):
        bad = bytearray(whole)
        for _ in range(4):
            bad[chance.randrange(len(bad))] = chance.randrange(256)
        with suppress(FieldError):
            assert max(size_of(encoded(bytes(bad)))) <= MOST_SIDE


@pytest.fixture
def kept(repository):
    """The sound oven with one photo, marked."""
    repository.add(piece("ABCDE", OVEN))
    whole = repository.add_photo("T-1", photo(), "before cutting")
    file = whole.record.photos[0].file
    mark = {"lead": "A", "x": 0.25, "y": 0.5, "end": "far"}
    repository.note_photo("T-1", file, {"marks": [mark]})
    return repository, file


def test_a_photo_is_kept_with_its_piece_once(kept):
    """Its picture, its note, its mark; the same again is refused."""
    repository, file = kept
    record = repository.get("T-1").record

    assert repository.picture("t-1", file) == encoded(photo())
    assert named(encoded(photo())) == file
    assert (record.photos[0].note, record.photos[0].marks[0].end) == ("before cutting", "far")
    with pytest.raises(FieldError, match="here already"):
        repository.add_photo("T-1", photo())


def test_a_photo_taken_away_is_gone_and_that_it_was_there_stays(kept):
    """No picture is left without its entry, no entry without its picture."""
    repository, file = kept
    after = repository.drop_photo("T-1", file)

    assert after.record.photos == []
    assert repository.picture("T-1", file) is None
    assert after.record.edits[-1]["from"] == file
    with pytest.raises(Missing):
        repository.drop_photo("T-1", file)


def test_a_refused_photo_leaves_nothing_behind(kept):
    """Neither row nor entry."""
    repository, _ = kept
    before = repository.get("T-1").document
    with pytest.raises(FieldError):
        repository.add_photo("T-1", b"no photo")

    assert repository.get("T-1").document == before
    assert check(repository.store).counts["photos"] == 1


def test_photos_travel_in_the_archive_and_in_a_backup(kept, tmp_path):
    """Pictures and marks, to another machine and back from a copy."""
    repository, file = kept
    other = Store(tmp_path / "other")
    told = list(unpacked(Repository(other), packed(repository)))
    copy = backup(repository.store.path.parent, tmp_path / "copy.sqlite")
    other.close()
    restore(tmp_path / "again", copy)
    again = Store(tmp_path / "again")

    assert [b.outcome for b in told] == ["added"]
    for store in (Store(tmp_path / "other"), again):
        there = Repository(store)
        assert there.picture("T-1", file) == encoded(photo())
        assert there.get("T-1").record.photos[0].marks[0].lead == "A"
        store.close()


def test_a_merge_brings_photos_that_are_not_here(kept, tmp_path):
    """By their file; the mark here stays as it is."""
    repository, _ = kept
    other = Store(tmp_path / "other")
    there = Repository(other)
    list(unpacked(there, packed(repository)))
    there.add_photo("T-1", photo(colour="#123456"))
    told = list(unpacked(repository, packed(there), merge=True))
    photos = repository.get("T-1").record.photos
    other.close()

    assert [b.outcome for b in told] == ["merged"]
    assert len(photos) == 2
    assert every(repository.picture("T-1", p.file) for p in photos)
    assert photos[0].marks[0].end == "far"


def test_a_picture_that_no_record_names_is_not_brought_in(kept):
    """Only what the record of the piece calls by its name."""
    repository, _ = kept

    assert repository.bring_pictures("T-1", {"photos/x.jpg": photo(colour="#654321")}) == 0
    assert check(repository.store).counts["photos"] == 1


# ------------------------------------------------------------------ another tag, put away


def test_a_piece_under_another_tag_is_found_by_both(repository):
    """The correction is kept; a tag in use is refused."""
    repository.add(piece("AB", [("A", "B", 3.0)]))
    repository.add(piece("AB", [("A", "B", 4.0)], tag="T-2"))
    repository.rename("T-1", "KIOSK-1")

    assert repository.get("T-1") is None
    assert repository.known_as("t-1") == "KIOSK-1"
    assert repository.known_as("KIOSK-1") == "KIOSK-1"
    assert repository.known_as("T-9") is None
    with pytest.raises(FieldError, match="in use"):
        repository.rename("KIOSK-1", "T-2")


def test_a_piece_that_is_put_away_leaves_the_shelf_and_comes_back_whole(repository):
    """Not counted, not asked for, not lost; found where it is asked for."""
    repository.add(piece("AB", [("A", "B", 3.0)]))
    repository.add(piece("AB", [("A", "B", 4.0)], tag="T-2"))
    away = {"kind": "retired", "text": "given to the school"}
    repository.append_statement("T-1", away)

    assert [i.tag for i in repository.shelf().items] == ["T-2"]
    assert repository.shelf().matching == 1
    assert [i.tag for i in repository.shelf(verdict="retired").items] == ["T-1"]
    assert repository.get("T-1").record.put_away.text == "given to the school"

    repository.append_statement("T-1", {"kind": "brought-back", "text": "back"})

    assert repository.get("T-1").record.put_away is None
    assert repository.shelf().matching == 2


def test_a_piece_that_is_put_away_gives_nothing_on_the_shelf(repository):
    """Its outputs are asked for no more, and are again when it is back."""
    from greyfell.core.telling.outputs_of_shelf import parse_wanted
    from greyfell.records.demo import demo_documents

    repository.bring_in(next(d for d in demo_documents() if d["tag"] == "CQ-021"))
    wanted = parse_wanted("5 A at 24 V")
    before = repository.giving(wanted)[1]
    repository.append_statement("CQ-021", {"kind": "retired", "text": "sold"})

    assert before >= 1
    assert repository.giving(wanted)[1] == 0


MEMORY = """
import subprocess, sys, threading
from greyfell.records.photos import encoded

def made(side):
    code = "import sys; from PIL import Image; "
    code += f"Image.new('RGB', ({side}, {side})).save(sys.stdout.buffer, 'PNG', compress_level=1)"
    return subprocess.run([sys.executable, "-c", code], capture_output=True).stdout

def held(name):
    lines = open("/proc/self/status").read().splitlines()
    return int(next(x for x in lines if x.startswith(name)).split()[1]) / 1024

encoded(made(10))
large = made(4000)
before = held("VmRSS")
at_once = [threading.Thread(target=encoded, args=[large]) for _ in range(4)]
[t.start() for t in at_once]
[t.join() for t in at_once]
print(held("VmHWM") - before, held("VmRSS") - before)
"""


@pytest.mark.skipif(sys.platform != "linux", reason="reads /proc")
def test_photos_are_unfolded_one_at_a_time_and_memory_is_given_back():
    """Four of 16 megapixels at once: one unfolds to 64 MB, and two copies of it would be 128 MB.
    (Four of 79 megapixels took 430 MB, 3 GB before.)
    """
    done = subprocess.run(
        [sys.executable, "-c", MEMORY], capture_output=True, text=True, check=True
    )
    peak, left = map(float, done.stdout.split())

    assert peak < 120
    assert left < 50


def test_a_large_photo_of_a_camera_is_read_at_the_size_that_is_kept(monkeypatch):
    """A JPEG unfolds to no more than twice what is kept on either side: its own scaling."""
    seen = []
    load = Image.Image.load

    def watched(self, *args):
        seen.append(self.size)
        return load(self, *args)

    data = photo((6000, 4000))
    monkeypatch.setattr(Image.Image, "load", watched)
    kept = encoded(data)

    assert size_of(kept) == (2000, 1333)
    assert max(size[0] for size in seen) <= 2 * MOST_SIDE
