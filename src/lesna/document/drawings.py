"""The drawings of a job: found from its folder, read, and held until they change on the disk."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from lesna.model.drawn import Drawn
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_bytes, write_atomic
from lesna.model.job import Cut, Feature, Job

if TYPE_CHECKING:
    from lesna.geometry.drawing import Drawing

#: bytes of a drawing or a part that is taken along
_MOST_BYTES = 101_000_000
#: drawings that are kept
_KEPT = 8
#: what of a feature decides what is read of its drawing
LAYERS = ("part_layer", "stock_layer", "island_layer", "keep_out_layer")
_ELSEWHERE = "must be a drawing in the job's folder, named from there"


class Drawings:
    """Reads what features say they are drawn in.

    Parameters
    ----------
    chosen : iterable of Path
        Drawings outside the job's folder that somebody chose by hand.
    """

    def __init__(self, chosen: Iterable[Path] = ()) -> None:
        self.chosen = {path.resolve() for path in chosen}
        self._read: dict[Path, tuple[tuple[int, int], Drawing]] = {}
        self._seen: dict[tuple[object, ...], tuple[tuple[int, int], Drawn]] = {}

    def of(self, job: Job, folder: Path | None) -> Job:
        """The job with the outlines of its drawings as they are now; the same job where nothing is drawn."""
        if not any(cut.feature is not None and cut.feature.dxf for cut in job.cuts):
            return job
        return job.model_copy(update={"cuts": tuple(self._cut(cut, folder) for cut in job.cuts)})

    def _cut(self, cut: Cut, folder: Path | None) -> Cut:
        feature = cut.feature
        if feature is None or feature.dxf is None:
            return cut
        try:
            path = self.path_of(feature.dxf, folder)
        except InputError as error:
            drawn = Drawn(trouble=str(error))
        else:
            drawn = self._drawn(feature, path)
        return cut if feature.drawn == drawn else cut.model_copy(update={"feature": feature.drawn_as(drawn)})

    def path_of(self, name: str, folder: Path | None) -> Path:
        """The file of a drawing."""
        path = Path(name)
        if path.is_absolute():
            if path.resolve() in self.chosen:
                return path
            raise InputError(f"{name}: {_ELSEWHERE}")
        if folder is None:
            raise InputError(f"{name}: save the job beside its drawing first")
        if not (folder / path).resolve().is_relative_to(folder.resolve()):
            raise InputError(f"{name}: {_ELSEWHERE}")
        return folder / path

    def carry(self, job: Job, old: Path | None, new: Path) -> None:
        """Takes the drawings and parts of a job's folder along to another one; those that are there already stay."""
        names = {
            name
            for cut in job.cuts
            if cut.feature is not None
            for name in (cut.feature.dxf, cut.feature.stl)
            if name is not None
        }
        if old is None or old.resolve() == new.resolve():
            return
        for name in sorted(names):
            is_inside = not Path(name).is_absolute() and (new / name).resolve().is_relative_to(new.resolve())
            if is_inside and (old / name).is_file() and not (new / name).exists():
                content = read_bytes(old / name, largest=_MOST_BYTES)
                try:
                    (new / name).parent.mkdir(parents=True, exist_ok=True)
                except OSError as error:
                    raise FileProblem(f"the folder of its drawing {name} cannot be made ({error.strerror})") from None
                write_atomic(new / name, content)

    def read(self, path: Path) -> Drawing:
        """A drawing as it is now; read again only where its file changed."""
        from lesna.geometry.drawing import MOST_BYTES, read_drawing

        stamp = _stamp(path)
        known = self._read.get(path)
        if known is None or known[0] != stamp:
            known = self._read[path] = stamp, read_drawing(read_bytes(path, largest=MOST_BYTES))
            while len(self._read) > _KEPT:
                del self._read[next(iter(self._read))]
        return known[1]

    def _drawn(self, feature: Feature, path: Path) -> Drawn:
        from lesna.geometry.drawn import drawn_of

        stamp, asked = _stamp(path), (path, *(getattr(feature, layer) for layer in LAYERS))
        known = self._seen.get(asked)
        if known is None or known[0] != stamp:
            try:
                drawn = drawn_of(feature, self.read(path), path.name)
            except (InputError, FileProblem) as error:
                drawn = Drawn(trouble=f"{path.name}: {error}")
            known = self._seen[asked] = stamp, drawn
        return known[1]


def _stamp(path: Path) -> tuple[int, int]:
    try:
        stat = path.stat()
    except OSError:
        return 0, -1
    return stat.st_mtime_ns, stat.st_size


def troubles_of(job: Job) -> tuple[tuple[int, str], ...]:
    """Cuts whose drawing gives no outline (position, why)."""
    return tuple((index, cut.feature.drawn.trouble) for index, cut in enumerate(job.cuts)
                 if cut.feature is not None and cut.feature.drawn is not None and cut.feature.drawn.trouble)  # fmt: skip
