"""Photos as they are kept: turned upright, made smaller, encoded anew, with nothing in them but the
picture.
"""

import ctypes
import hashlib
import io
import threading
import warnings
from contextlib import suppress
from typing import TYPE_CHECKING

from greyfell.core.errors import FieldError

if TYPE_CHECKING:
    from PIL import Image

MOST_BYTES = 20 * 1024 * 1024
"""A photo larger than this is refused."""
MOST_SIDE = 2000
"""So many pixels its longer side keeps."""
MOST_PIXELS = 80_000_000
"""A photo of more pixels is refused before it is unfolded: it would take some 240 MB."""
QUALITY = 85
TAKEN = ("JPEG", "PNG", "WEBP")
FOLDER = "photos"
END = b"\xff\xd9"
"""How a JPEG ends; inside its picture these two bytes never stand together. ITU-T T.81 B.1.1.2."""


def encoded(data: bytes) -> bytes:
    """A photo as a JPEG to keep: upright, at most 2000 px, without metadata. One that is all this
    already stays as it is, byte by byte. One at a time is unfolded, and what that took is given
    back. Raises FieldError.
    """
    with ONE_AT_A_TIME:
        try:
            return _encoded(data)
        finally:
            _give_back()


ONE_AT_A_TIME = threading.Lock()
"""Several at once would take their memory at once."""


def _give_back() -> None:
    """Return freed memory to the machine, where its C library keeps it: glibc's malloc_trim."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def _plain(image: "Image.Image") -> "Image.Image":
    # small, upright, on white, and nothing else of its file
    from PIL import Image, ImageOps

    image.thumbnail((MOST_SIDE, MOST_SIDE))
    ImageOps.exif_transpose(image, in_place=True)
    plain = Image.new("RGB", image.size, "white")
    seen = image.convert("RGBA")
    plain.paste(seen, mask=seen.getchannel("A"))
    return plain


def _encoded(data: bytes) -> bytes:
    """The same, unguarded."""
    from PIL import Image, UnidentifiedImageError

    if len(data) > MOST_BYTES:
        raise FieldError("photo", f"A photo may have {MOST_BYTES // 2**20} MB at most.")
    if not data:
        raise FieldError("photo", "No photo was chosen.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=TAKEN)
            _small_enough(image.size)
            if max(image.size) > MOST_SIDE:
                image.draft("RGB", (MOST_SIDE, MOST_SIDE))
            image.load()
            if _is_ours(data, image):
                return data
            plain = _plain(image)
    except FieldError:
        raise
    except UnidentifiedImageError:
        raise FieldError("photo", "A photo is a JPEG, PNG or WebP; this file is none.") from None
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise FieldError("photo", _TOO_LARGE) from None
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError, IndexError):
        raise FieldError("photo", "The photo is damaged or cut short; send it anew.") from None
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()


_TOO_LARGE = f"A photo may have {MOST_PIXELS // 1_000_000} million pixels at most."


def _small_enough(size: tuple[int, int]) -> None:
    """Raises FieldError where a picture unfolds to too much."""
    if size[0] * size[1] > MOST_PIXELS:
        raise FieldError("photo", f"{_TOO_LARGE} This has {size[0]} × {size[1]}.")


def _is_ours(data: bytes, image: object) -> bool:
    """Whether a file is what `encoded` makes: a small JPEG with nothing beside its picture."""
    segments = [name for name, _ in getattr(image, "applist", [])]
    plain = (
        getattr(image, "format", "") == "JPEG"
        and getattr(image, "mode", "") == "RGB"
        and set(segments) <= {"APP0"}
    )
    return (
        plain
        and max(getattr(image, "size", (0, 0))) <= MOST_SIDE
        and data.find(END) == len(data) - len(END)
    )


def named(data: bytes) -> str:
    """The file name of a photo in a record: by its content, so that the same is kept once."""
    return f"{FOLDER}/{hashlib.sha256(data).hexdigest()[:16]}.jpg"


def size_of(data: bytes) -> tuple[int, int]:
    """Width and height of a kept photo in pixels."""
    from PIL import Image

    with Image.open(io.BytesIO(data)) as image:
        width, height = image.size
    return width, height
