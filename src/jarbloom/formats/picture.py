"""A photograph as it is kept: turned upright, without what a camera tells of place and maker, no larger than needed."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from datetime import datetime

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from jarbloom.errors import Refused

MOST_BYTES = 40_000_000  # of a file as it is sent
MOST_PIXELS = 80_000_000  # a picture that unpacks to more is a bomb, or of no use here
LONGEST = 2048  # px of the kept picture's longer side
SMALL = 360
QUALITY = 84
READ = ("JPEG", "PNG", "WEBP", "GIF", "BMP", "TIFF", "MPO")
_TAKEN = (ExifTags.Base.DateTimeOriginal, ExifTags.Base.DateTime)


@dataclass(frozen=True)
class Kept:
    """JPEG bytes of the picture and of its small one; px; when the camera says it was taken, by the camera's clock."""

    whole: bytes
    small: bytes
    width: int
    height: int
    taken: datetime | None


def keep(content: bytes) -> Kept:
    """Re-encoded: nothing of the file but its pixels is kept. Raises Refused with what to do."""
    if not content:
        raise Refused("That file is empty.", "photo")
    if len(content) > MOST_BYTES:
        most = f"{MOST_BYTES / 1e6:.0f} MB"
        raise Refused(f"That file is {len(content) / 1e6:.0f} MB; at most {most} can be read.", "photo")
    if _heic(content):
        raise Refused(
            "That is a HEIC picture, which this program cannot read. On the phone choose ‘most compatible’ in the "
            "camera’s formats, or share it as JPEG.",
            "photo",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # a bomb is measured below, odd tags are dropped anyway
            with Image.open(io.BytesIO(content), formats=READ) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise Image.DecompressionBombError
                taken = _taken(opened)
                opened.draft("RGB", (LONGEST, LONGEST))  # a JPEG is unpacked no larger than it will be kept
                upright = _flat(ImageOps.exif_transpose(opened))
    except Image.DecompressionBombError:
        raise Refused(f"That picture has more than {MOST_PIXELS / 1e6:.0f} million points.", "photo") from None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, OverflowError,
            MemoryError, EOFError, IndexError, KeyError, TypeError):  # fmt: skip
        raise Refused("That is no picture that can be read; JPEG, PNG and WebP can.", "photo") from None
    upright.thumbnail((LONGEST, LONGEST), Image.Resampling.LANCZOS)
    small = upright.copy()
    small.thumbnail((SMALL, SMALL), Image.Resampling.LANCZOS)
    return Kept(_jpeg(upright), _jpeg(small), upright.width, upright.height, taken)


def _flat(image: Image.Image) -> Image.Image:
    """On white, in three colours."""
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        layered = image.convert("RGBA")
        ground = Image.new("RGBA", layered.size, "white")
        return Image.alpha_composite(ground, layered).convert("RGB")
    return image.convert("RGB")


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    clean = Image.frombytes("RGB", image.size, image.tobytes())  # no tags come along
    clean.save(out, "JPEG", quality=QUALITY, optimize=True, progressive=True)
    return out.getvalue()


def _taken(image: Image.Image) -> datetime | None:
    exif = image.getexif()
    noted = exif.get_ifd(ExifTags.IFD.Exif)
    told = [noted.get(_TAKEN[0]), exif.get(_TAKEN[0]), exif.get(_TAKEN[1])]
    for text in told:
        try:
            return datetime.strptime(str(text).strip("\x00 "), "%Y:%m:%d %H:%M:%S")
        except ValueError:
            continue
    return None


def _heic(content: bytes) -> bool:
    return content[4:8] == b"ftyp" and content[8:12] in (b"heic", b"heix", b"hevc", b"mif1", b"msf1", b"heim", b"heis")


def as_kept(content: bytes) -> bool:
    """Whether bytes out of a bundle are a picture as we keep them: they are taken as they are, or not at all."""
    try:
        with Image.open(io.BytesIO(content), formats=("JPEG",)) as opened:
            sized = max(opened.size) <= LONGEST
            opened.verify()
            return sized and not opened.getexif()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError, OverflowError):
        return False


def small_of(content: bytes) -> bytes:
    """The small one of a picture as we keep them."""
    with Image.open(io.BytesIO(content), formats=("JPEG",)) as opened:
        small = opened.convert("RGB")
    small.thumbnail((SMALL, SMALL), Image.Resampling.LANCZOS)
    return _jpeg(small)
