"""Kernels from a damaged cache, from none, and from a machine on which nothing compiles."""

import contextlib
import io
import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from lesna.cli.common import open_kernels
from lesna.physics import compiled, engine
from lesna.physics.compiled import manifest
from tools import attack_cache


class Manifests(unittest.TestCase):
    def test_only_what_was_written_is_sound_and_the_rest_is_taken_away(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder, path = Path(name), Path(name) / "kernel.run-1.py311.nbc"
            other = Path(name) / "other.run-1.py311.nbi"
            for file in (path, other):
                file.write_bytes(b"machine code")
            self.assertFalse(manifest.is_sound(folder, "kernel"))
            manifest.seal(folder, "kernel")
            self.assertTrue(manifest.is_sound(folder, "kernel"))
            for damaged in (b"", b"machine cod", b"xmachine code", b"Machine code"):
                path.write_bytes(damaged)
                self.assertFalse(manifest.is_sound(folder, "kernel"), damaged)
            path.unlink()
            self.assertFalse(manifest.is_sound(folder, "kernel"))
            os.mkfifo(path)  # would be waited at
            self.assertFalse(manifest.is_sound(folder, "kernel"))
            manifest.clean(folder, "kernel")
            self.assertEqual(manifest.files_of(folder, "kernel"), [])
            self.assertTrue(other.exists(), "what another module keeps is left alone")

    def test_without_its_manifest_nothing_is_trusted(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "kernel.run-1.py311.nbi"
            for text in ("", "[]", "{", '{"gone.nbc": "0"}'):
                path.write_bytes(b"index")
                (Path(name) / "kernel.digests").write_text(text)
                manifest.clean(Path(name), "kernel")
                self.assertFalse(path.exists(), text)


class DamagedCaches(unittest.TestCase):
    def test_each_kind_of_damage_costs_the_cache_and_not_the_kernels(self) -> None:
        with tempfile.TemporaryDirectory() as home:
            attack = attack_cache.Attack(Path(home), compiled.folder())
            ends = [attack.once(1)]
            folder = next((Path(home) / "damaged").rglob("*.digests")).parent
            self.assertGreaterEqual(len(list(folder.rglob("*.nb[ic]"))), 2)
            self.assertTrue(manifest.is_sound(folder, attack_cache.MODULE), "what is compiled anew is kept, and whole")
            ends.append(attack.once(17))
        self.assertEqual(ends, [("garbled", ""), ("full disk", "")])

    def test_damaged_kernels_do_not_count_as_compiled(self) -> None:
        with tempfile.TemporaryDirectory() as home, mock.patch.dict(os.environ, XDG_CACHE_HOME=home):
            self.assertFalse(compiled.is_cached("grids"))
            path = compiled.folder() / "grids.x.nbi"
            path.write_bytes(b"index")
            manifest.seal(compiled.folder(), "grids")
            self.assertTrue(compiled.is_cached("grids"))
            path.write_bytes(b"Index")
            self.assertFalse(compiled.is_cached("grids"))

    def test_a_machine_that_compiles_nothing_says_so_and_cuts_all_the_same(self) -> None:
        with (
            mock.patch.object(compiled, "load", side_effect=OSError("no compiler")),
            mock.patch.dict(engine._loaded, clear=True),
        ):
            with self.assertRaisesRegex(engine.NoKernel, "cannot be prepared on this machine .*no compiler"):
                engine.kernel("turn")
            with mock.patch.object(engine, "is_cached", return_value=True):
                open_kernels(needed=False)
                with contextlib.redirect_stderr(io.StringIO()), self.assertRaises(SystemExit):
                    open_kernels(needed=True)
