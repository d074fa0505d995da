"""Pictures beside the database: files named by the hash of their content, each kept once, never changed."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

from jarbloom.errors import StoreError
from jarbloom.store.copies import PRIVATE_FILE
from jarbloom.store.db import BACKUPS

FOLDER = "photos"


def path_of(folder: Path, name: str, small: bool = False) -> Path:
    """Where the picture of a hash lies, in the data folder given."""
    return folder / FOLDER / name[:2] / f"{name}{'-small' if small else ''}.jpg"


def find(folder: Path, name: str, small: bool = False) -> Path | None:
    """Where it lies, or its copy in the backups; None where it is in neither."""
    here = (path_of(folder, name, small), path_of(folder / BACKUPS, name, small))
    return next((p for p in here if p.is_file()), None)


def put(folder: Path, whole: bytes, small: bytes) -> str:
    """Keep a picture and its small one; returns the hash. Each is written beside, put on disk and then named: a kill
    leaves it whole or not at all. Raises StoreError when it cannot be written."""
    name = hashlib.sha256(whole).hexdigest()
    try:
        for content, little in ((small, True), (whole, False)):  # the whole one last: it says that both are there
            to = path_of(folder, name, little)
            if not to.exists():
                _write(to, content)
    except OSError as problem:
        raise StoreError(f"The photo could not be kept: {problem.strerror or problem}.") from problem
    return name


def _write(to: Path, content: bytes) -> None:
    to.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    part = to.with_name(f"{to.name}.{os.getpid()}.part")
    try:
        with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, PRIVATE_FILE), "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        part.replace(to)
    finally:
        part.unlink(missing_ok=True)


def read(folder: Path, name: str) -> bytes | None:
    """None where it is not there, or is not what its name says."""
    try:
        content = path_of(folder, name).read_bytes()
    except OSError:
        return None
    return content if hashlib.sha256(content).hexdigest() == name else None


def all_files(folder: Path) -> Iterator[Path]:
    base = folder / FOLDER
    return (f for f in sorted(base.glob("??/*.jpg")) if f.is_file()) if base.is_dir() else iter(())


def copy_new(folder: Path, to: Path) -> int:
    """Every picture that is not in another folder yet, so that none is ever copied twice; returns how many. On the same
    disk a second name is given instead, which takes no room and keeps the picture should the first be deleted.

    Raises StoreError."""
    copied = 0
    try:
        for file in all_files(folder):
            there = to / FOLDER / file.parent.name / file.name
            if there.exists() and there.stat().st_size == file.stat().st_size:
                continue
            there.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            part = there.with_name(f"{there.name}.part")
            part.unlink(missing_ok=True)
            try:
                os.link(file, part)
            except OSError:
                shutil.copyfile(file, part)
            part.chmod(PRIVATE_FILE)
            part.replace(there)
            copied += 1
    except OSError as problem:
        raise StoreError(f"The photos could not be copied to {to}: {problem.strerror or problem}.") from problem
    return copied
