"""Files: nothing half written, nothing lost, trouble said in words."""

import errno
import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from lesna.model import files
from lesna.model.errors import FileProblem
from tests.support import READ_ONLY, job


def _refuse() -> None:
    raise OSError(errno.EINVAL, "cannot sync a folder")


class Files(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.path = self.folder / "a job.lesna"

    def test_save_keeps_the_former_version(self) -> None:
        files.save_job(job(), self.path)
        first = self.path.read_bytes()
        files.save_job(job(ae_mm=2.0), self.path)
        self.assertEqual((self.folder / "a job.lesna~").read_bytes(), first)
        self.assertEqual(files.load_job(self.path).cuts[0].ae_mm, 2.0)
        self.assertEqual(sorted(p.name for p in self.folder.iterdir()), ["a job.lesna", "a job.lesna~"])

    def test_a_new_file_with_the_number_of_one_that_was_read_is_new(self) -> None:
        files.write_atomic(self.path, b"written")
        found = self.path.stat()
        every = mock.MagicMock(wraps={(found.st_dev, found.st_ino)}, spec=set)
        every.__contains__.side_effect = lambda place: (
            place not in [call.args[0] for call in every.discard.call_args_list]
        )
        with mock.patch.object(files, "_READ", every):
            other = self.folder / "other.nc"
            files.write_atomic(other, b"made here")
            self.assertFalse(files.was_read(other))
            self.assertTrue(files.was_read(self.path))

    def test_pipes_devices_and_endless_files_are_refused_at_once(self) -> None:
        pipe = self.folder / "pipe.lesna"
        os.mkfifo(pipe)
        link = self.folder / "zero.lesna"
        link.symlink_to("/dev/zero")
        for path in (pipe, link, Path("/dev/zero")):
            with self.subTest(path=path.name), self.assertRaisesRegex(FileProblem, "pipe or a device"):
                files.read_bytes(path, largest=1000)
            self.assertEqual(files.fingerprint(path), "")
        long = self.folder / "long.lesna"
        long.write_bytes(b"x" * 1001)
        with self.assertRaisesRegex(FileProblem, "larger than"):
            files.read_bytes(long, largest=1000)
        self.assertEqual(len(files.read_bytes(long, largest=1001)), 1001)

    def test_a_private_file_is_its_owners_alone(self) -> None:
        files.write_atomic(self.path, b"mine", private=True)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)

    def test_a_full_disk_leaves_the_old_file_and_no_rubbish(self) -> None:
        files.save_job(job(), self.path)
        before = self.path.read_bytes()
        for step in ("fsync", "replace"):
            with (
                self.subTest(step=step),
                mock.patch.object(os, step, side_effect=OSError(errno.ENOSPC, "No space left")),
            ):
                with self.assertRaises(FileProblem) as caught:
                    files.save_job(job(ae_mm=2.0), self.path)
                self.assertIn("no space left", str(caught.exception))
            self.assertEqual(self.path.read_bytes(), before)
            self.assertFalse([p for p in self.folder.iterdir() if p.name.startswith(".") and "former" not in p.name])

    def test_a_real_full_device(self) -> None:
        if not Path("/dev/full").exists():
            self.skipTest("no /dev/full here")
        with self.assertRaises(OSError), open("/dev/full", "wb") as handle:
            handle.write(b"x" * 10_000)
            handle.flush()

    def test_a_folder_that_takes_no_files_is_said(self) -> None:
        with self.assertRaises(FileProblem) as caught:  # nobody, not even root, may create files here
            files.save_job(job(), READ_ONLY / "x.lesna")
        self.assertIn("save it elsewhere", str(caught.exception))

    def test_a_link_stays_a_link_and_its_target_is_written(self) -> None:
        target = self.folder / "elsewhere.lesna"
        files.save_job(job(), target)
        self.path.symlink_to(target)
        files.save_job(job(ae_mm=2.0), self.path)
        self.assertTrue(self.path.is_symlink())
        self.assertEqual(files.load_job(target).cuts[0].ae_mm, 2.0)

    def test_a_read_only_file_is_written_only_where_that_is_wanted(self) -> None:
        files.save_job(job(), self.path)
        self.path.chmod(0o444)
        with self.assertRaisesRegex(FileProblem, "is read-only; make it writable first"):
            files.save_job(job(ae_mm=2.0), self.path)
        files.save_job(job(ae_mm=2.0), self.path, over_read_only=True)
        self.assertEqual(files.load_job(self.path).cuts[0].ae_mm, 2.0)
        self.assertTrue(files.is_read_only(self.path), "it stays protected")

    def test_what_a_killed_process_left_goes_and_what_a_living_one_writes_stays(self) -> None:
        files.save_job(job(), self.path)
        gone = self.folder / f".{self.path.name}.4194305-abc.part"  # no process has this number
        alive = self.folder / f".{self.path.name}.{os.getpid()}-abc.part"
        young = self.folder / f".{self.path.name}.4194306-abc.part"
        for left in (gone, alive, young):
            left.write_bytes(b"half")
        for left in (gone, alive):
            os.utime(left, (0, 0))
        files.save_job(job(ae_mm=2.0), self.path)
        self.assertEqual([left.exists() for left in (gone, alive, young)], [False, True, True])

    def test_names_that_no_file_has_are_said(self) -> None:
        loop = self.folder / "loop.lesna"
        loop.symlink_to(loop)
        for path in (loop, Path("a\x00b.lesna"), self.folder / ("x" * 300)):
            with self.subTest(path=path):
                with self.assertRaises(FileProblem):
                    files.load_job(path)
                with self.assertRaises(FileProblem):
                    files.save_job(job(), path)
                self.assertFalse(files.is_same_file(path, self.path) or files.is_read_only(path))

    def test_a_folder_that_cannot_be_synced_after_a_good_rename_is_no_failure(self) -> None:
        plain = os.fsync
        with mock.patch.object(
            os, "fsync", side_effect=lambda h: plain(h) if not os.path.isdir(f"/proc/self/fd/{h}") else _refuse()
        ):
            files.save_job(job(ae_mm=2.0), self.path)
        self.assertEqual(files.load_job(self.path).cuts[0].ae_mm, 2.0)

    def test_a_missing_folder_is_said(self) -> None:
        with self.assertRaises(FileProblem):
            files.save_job(job(), self.folder / "nowhere" / "x.lesna")

    def test_what_cannot_be_read_is_said(self) -> None:
        binary = self.folder / "binary.lesna"
        binary.write_bytes(bytes(range(256)) * 20)
        large = self.folder / "large.lesna"
        with large.open("wb") as handle:
            handle.truncate(files.LARGEST_JOB_BYTES + 1)
        cases = ((binary, "not a text file"), (large, "larger than"), (self.folder, "is a folder"),
                 (self.folder / "gone", "does not exist"))  # fmt: skip
        for path, words in cases:
            with self.subTest(words=words), self.assertRaises(FileProblem) as caught:
                files.load_job(path)
            self.assertIn(words, str(caught.exception))

    def test_a_byte_order_mark_is_no_trouble(self) -> None:
        self.path.write_bytes(b"\xef\xbb\xbf" + files.job_text(job()).encode())
        self.assertEqual(files.load_job(self.path), job())

    def test_permissions_of_the_file_stay(self) -> None:
        files.save_job(job(), self.path)
        self.path.chmod(0o640)
        files.save_job(job(ae_mm=2.0), self.path)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o640)
