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
from lesna.physics.compiled.seal import is_sound, sealed
from tools import attack_cache


class Seals(unittest.TestCase):
    def test_only_what_was_written_is_sound(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "kernel.nbc"
            self.assertFalse(is_sound(path))
            path.write_bytes(sealed(b"machine code"))
            self.assertTrue(is_sound(path))
            for damaged in (b"", sealed(b"machine code")[:-1], b"x" + sealed(b"machine code"), b"machine code"):
                path.write_bytes(damaged)
                os.utime(path, ns=(0, len(damaged)))
                self.assertFalse(is_sound(path), damaged)
            path.unlink()
            os.mkfifo(path)  # would be waited at
            self.assertFalse(is_sound(path))


class DamagedCaches(unittest.TestCase):
    def test_each_kind_of_damage_costs_the_cache_and_not_the_kernels(self) -> None:
        with tempfile.TemporaryDirectory() as home:
            attack = attack_cache.Attack(Path(home))
            kept = list(attack.warm.rglob("*.nb[ic]"))
            self.assertGreaterEqual(len(kept), 4)
            self.assertTrue(all(map(is_sound, kept)), "what is compiled is kept, and whole")
            ends = [attack.once(seed) for seed in (1, 5, 17)]
        self.assertEqual(ends, [("garbled", ""), ("no place", ""), ("full disk", "")])

    def test_damaged_kernels_do_not_count_as_compiled(self) -> None:
        with tempfile.TemporaryDirectory() as home, mock.patch.dict(os.environ, XDG_CACHE_HOME=home):
            self.assertFalse(compiled.is_cached("grids"))
            path = compiled.folder() / "grids.x.nbi"
            path.write_bytes(sealed(b"index"))
            self.assertTrue(compiled.is_cached("grids"))
            path.write_bytes(b"index")
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
