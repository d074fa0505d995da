"""Photos in a bundle or a house: files named by the hash of their content, under `photos/` (docs/formats.md)."""

from __future__ import annotations

import hashlib
import re
import zipfile
from collections.abc import Iterator, Mapping
from pathlib import Path

from jarbloom.errors import BadBundle
from jarbloom.formats.picture import MOST_BYTES, as_kept

FOLDER = "photos"
MOST_OF_ALL = 4_000_000_000
_NAME = re.compile(rf"(?:^|/){FOLDER}/([0-9a-f]{{64}})\.jpg$")


def is_photo(name: str) -> bool:
    """Whether a file in an archive stands where photos stand."""
    return f"/{FOLDER}/" in f"/{name}"


def pack(archive: zipfile.ZipFile, photos: Mapping[str, Path]) -> None:
    """A picture is packed already: it goes in as it is."""
    for name, file in photos.items():
        archive.write(file, f"{FOLDER}/{name}.jpg", zipfile.ZIP_STORED)


def copy_into(folder: Path, photos: Mapping[str, Path]) -> None:
    for name, file in photos.items():
        to = folder / FOLDER / f"{name}.jpg"
        to.parent.mkdir(exist_ok=True)
        to.write_bytes(file.read_bytes())


def photos_in(path: Path) -> Iterator[tuple[str, bytes]]:
    """(hash, content) of each picture of a folder or zip, proven: its content is what its name says, and a picture as
    we keep them. Sizes are counted as they come out. Raises BadBundle naming the file."""
    left = MOST_OF_ALL
    for name, content in _files(path):
        told = _NAME.search(name)
        if told is None:
            raise BadBundle(f"{name[-80:]}: a photo is named by the 64 figures of its content, and .jpg.")
        left -= len(content)
        if len(content) > MOST_BYTES or left < 0:
            raise BadBundle(f"{name[-80:]} is too large.")
        if hashlib.sha256(content).hexdigest() != told[1] or not as_kept(content):
            raise BadBundle(f"{name[-80:]} is not the picture that its name says; it may be damaged.")
        yield told[1], content


def _files(path: Path) -> Iterator[tuple[str, bytes]]:
    if path.is_dir():
        for file in sorted((path / FOLDER).glob("*")):
            with file.open("rb") as opened:
                yield f"{FOLDER}/{file.name}", opened.read(MOST_BYTES + 1)
        return
    try:
        with zipfile.ZipFile(path) as archive:
            for info in archive.infolist():
                if not info.is_dir() and is_photo(info.filename):
                    with archive.open(info) as packed:
                        yield info.filename, packed.read(MOST_BYTES + 1)
    except (zipfile.BadZipFile, OSError, RuntimeError, ValueError, NotImplementedError, EOFError) as problem:
        raise BadBundle(f"{path.name}: a photo in it cannot be read: {problem}.") from None
