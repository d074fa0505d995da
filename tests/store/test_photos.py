"""Photos: what comes of a file, where it lies, in the log, in bundles and in backups."""

import hashlib
import io
import os
import struct
import tempfile
import zipfile
import zlib
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from PIL import Image

from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.deeds import back_up, exchange, keep_tank, log, photos
from jarbloom.deeds.photos import Sent
from jarbloom.devices.stand_in_camera import Scene, Shoal, photo
from jarbloom.errors import BadBundle, NotFound, Refused
from jarbloom.formats import picture
from jarbloom.store import journal, photo_files
from tests.make import NOW, WithDesk, tank


def jpeg(size=(640, 480), colour="teal", exif: Image.Exif | None = None) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "JPEG", **({"exif": exif} if exif else {}))
    return out.getvalue()


def bomb() -> bytes:
    """A PNG of a few hundred bytes that says it has four thousand million points."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 65000, 65000, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


class Kept(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=300)))

    def live(self) -> list[Photo]:
        return [e.body for e in journal.entries(self.conn, self.tank.id) if isinstance(e.body, Photo)]

    def add(self, *content: bytes, **more: object):
        return photos.add(self.desk, self.tank.slug, [Sent(f"{k}.jpg", c) for k, c in enumerate(content)], **more)

    def test_upright_and_without_what_the_camera_tells(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6  # turned by a quarter
        exif[0x010F] = "SECRET MAKER"
        exif.get_ifd(0x8825)[2] = (52.0, 31.0, 7.0)  # a place
        exif.get_ifd(0x8769)[0x9003] = "2026:10:01 09:30:00"
        saved = self.add(jpeg((640, 480), exif=exif))
        (body,) = self.live()
        self.assertEqual((body.width, body.height), (480, 640))
        file = photos.file_of(self.desk, self.tank.slug, saved.entry_ids[0], small=False)
        content = file.read_bytes()
        self.assertEqual(hashlib.sha256(content).hexdigest(), body.file)
        self.assertNotIn(b"SECRET", content)
        self.assertEqual(dict(Image.open(io.BytesIO(content)).getexif()), {})
        little = photos.file_of(self.desk, self.tank.slug, saved.entry_ids[0], small=True)
        self.assertLessEqual(max(Image.open(io.BytesIO(little.read_bytes())).size), picture.SMALL)
        self.assertEqual(os.stat(file).st_mode & 0o777, 0o600)
        at = journal.entry(self.conn, self.tank.id, saved.entry_ids[0], NOW.tzinfo).at
        self.assertEqual(f"{at:%Y-%m-%d %H:%M}", "2026-10-01 09:30")  # as the camera noted it

    def test_a_camera_whose_clock_is_wrong_is_not_believed(self) -> None:
        for noted in ("2001:01:01 00:00:00", "2031:01:01 00:00:00", "no clock"):
            exif = Image.Exif()
            exif.get_ifd(0x8769)[0x9003] = noted
            saved = self.add(jpeg(colour="#%06x" % (abs(hash(noted)) % 0xFFFFFF), exif=exif))
            self.assertEqual(journal.entry(self.conn, self.tank.id, saved.entry_ids[0]).at, NOW)

    def test_what_is_no_picture_is_told_and_nothing_is_kept(self) -> None:
        heic = b"\0\0\0\x18ftypheic" + b"\0" * 100
        drawn = b"<svg xmlns='http://www.w3.org/2000/svg'/>"
        for content, words in (
            (b"MZ\x90\0" + b"\0" * 2000, "no picture"), (b"", "empty"), (jpeg()[:300], "no picture"),
            (bomb(), "points"), (heic, "HEIC"), (b"\xff\xd8\xff" + b"\0" * 50, "no picture"), (drawn, "no picture"),
            (b"x" * (picture.MOST_BYTES + 1), "MB"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(Refused, words):
                self.add(content)
        with self.assertRaisesRegex(Refused, r"1\.jpg: .*no picture"):  # a bad one among good ones: none of them
            self.add(jpeg(), b"nothing")
        self.assertEqual(self.live(), [])
        with self.assertRaises(Refused):
            self.add(*[jpeg()] * (photos.MOST_AT_ONCE + 1))

    def test_several_are_one_act_and_one_undo(self) -> None:
        saved = self.add(jpeg(colour="red"), jpeg(colour="blue"), of="Rosa", text="first day")
        self.assertEqual([b.of for b in self.live()], ["Rosa", "Rosa"])
        log.undo(self.desk, self.tank.slug, saved.act_id)
        self.assertEqual(self.live(), [])
        self.assertTrue(photos.file_of(self.desk, self.tank.slug, saved.entry_ids[0], small=False).is_file())
        with self.assertRaisesRegex(Refused, "already"):
            self.add(jpeg(colour="green"), jpeg(colour="green"), at=NOW - timedelta(days=2))
            self.add(jpeg(colour="green"), at=NOW - timedelta(days=2))

    def test_transparent_and_large_ones(self) -> None:
        out = io.BytesIO()
        Image.new("RGBA", (5000, 2500), (0, 0, 0, 0)).save(out, "PNG")
        self.add(out.getvalue())
        (body,) = self.live()
        self.assertEqual((body.width, body.height), (picture.LONGEST, picture.LONGEST // 2))
        kept = Image.open(io.BytesIO(photo_files.read(self.folder, body.file)))
        self.assertEqual(kept.getpixel((5, 5)), (255, 255, 255))

    def test_a_file_that_is_gone_is_said(self) -> None:
        saved = self.add(jpeg())
        photo_files.path_of(self.folder, self.live()[0].file).unlink()
        with self.assertRaisesRegex(NotFound, "backup"):
            photos.file_of(self.desk, self.tank.slug, saved.entry_ids[0], small=False)

    def test_a_tank_with_photos_goes_out_and_comes_in_unchanged(self) -> None:
        self.add(jpeg(colour="red"), jpeg(colour="blue"), text="both sides")
        before = [(b.file, b.text, photo_files.read(self.folder, b.file)) for b in self.live()]
        with tempfile.TemporaryDirectory() as holder:
            for to in (Path(holder) / "b.zip", Path(holder) / "folder"):
                exchange.export(self.desk, self.tank.slug, to)
                for file in photo_files.all_files(self.folder):
                    file.unlink()
                made = exchange.bring_in(self.desk, to)
                after = [e.body for e in journal.entries(self.conn, made.id) if isinstance(e.body, Photo)]
                told = [(b.file, b.text, photo_files.read(self.folder, b.file)) for b in after]
                self.assertEqual(told, before)
                self.assertTrue(photo_files.path_of(self.folder, after[0].file, small=True).is_file())
            whole = Path(holder) / "house.zip"
            exchange.write_house(self.desk, whole)
            with zipfile.ZipFile(whole) as archive:  # each picture once, though three tanks name it
                self.assertEqual(sum(n.startswith("photos/") for n in archive.namelist()), 2)
            self.assertEqual(len(exchange.bring_in_any(self.desk, whole)), 3)

    def test_a_bundle_with_a_false_picture_is_refused_whole(self) -> None:
        self.add(jpeg())
        with tempfile.TemporaryDirectory() as holder:
            good, bad = Path(holder) / "good.zip", Path(holder) / "bad.zip"
            exchange.export(self.desk, self.tank.slug, good)
            script = b"#!/bin/sh\nrm -rf ~"
            name = hashlib.sha256(script).hexdigest()
            false = {f"photos/{name}.jpg": script, "photos/../../etc/x.jpg": jpeg(), "photos/x.jpg": jpeg(),
                     f"photos/{'0' * 64}.jpg": jpeg()}  # fmt: skip
            for inside, content in false.items():
                bad.write_bytes(good.read_bytes())
                with zipfile.ZipFile(bad, "a") as archive:
                    archive.writestr(inside, content)
                with self.subTest(inside=inside), self.assertRaisesRegex(BadBundle, "photos"):
                    exchange.bring_in(self.desk, bad)
            self.assertEqual(self.conn.execute("SELECT count(*) FROM tank").fetchone()[0], 1)

    def test_backups_take_each_picture_once(self) -> None:
        self.add(jpeg(colour="red"))
        with tempfile.TemporaryDirectory() as second:
            back_up.choose_second(self.desk, second)
            self.desk = replace(self.desk, preferences=replace(self.desk.preferences, backup_to=second))
            back_up.now(self.desk)
            there = sorted(p.name for p in Path(second, "photos").rglob("*.jpg"))
            self.assertEqual(len(there), 2)  # the picture and its small one
            self.add(jpeg(colour="blue"))
            self.assertEqual(photo_files.copy_new(self.folder, Path(second)), 2)
            self.assertEqual(photo_files.copy_new(self.folder, Path(second)), 0)
            for file in photo_files.all_files(self.folder):  # what is deleted here is still in the copy
                file.unlink()
            first = next(e for e in journal.entries(self.conn, self.tank.id) if isinstance(e.body, Photo))
            self.assertIn("backups", photos.file_of(self.desk, self.tank.slug, first.id, small=False).parts)
            self.assertEqual(len(list(Path(self.folder, "backups", "photos").rglob("*.jpg"))), 2)

    def test_the_readings_of_a_photos_days(self) -> None:
        log.log_line(replace(self.desk, now=NOW - timedelta(days=3)), self.tank.slug, "na 20 ph 7.2")
        log.log_line(replace(self.desk, now=NOW - timedelta(days=90)), self.tank.slug, "kh 5")
        saved = self.add(jpeg(), at=NOW - timedelta(days=1))
        seen = photos.looked_at(self.desk, self.tank.slug, saved.entry_ids[0])
        self.assertEqual(
            [(q, days) for q, _, days in seen.readings], [("nitrate", 2), ("ph", 2)]
        )  # an old KH says nothing


class StandInCamera(WithDesk):
    def test_what_lives_there_is_what_is_drawn(self) -> None:
        at = datetime(2026, 5, 1, 12, 0)
        empty, full = (photo(Scene(at, [Shoal(n, 80, 30, 0.3, (220, 40, 40))], 0.5), seed=1) for n in (0, 9))
        pixels = (np.asarray(Image.open(io.BytesIO(x)), int) for x in (empty, full))
        red = [int(((p[..., 0] > 180) & (p[..., 1] < 90)).sum()) for p in pixels]
        self.assertEqual(red[0], 0)
        self.assertGreater(red[1], 5000)
        self.assertEqual(picture.keep(full).taken, at)
        self.assertEqual(full, photo(Scene(at, [Shoal(9, 80, 30, 0.3, (220, 40, 40))], 0.5), seed=1))
