"""Whether every reader is total: `python -m benchmarks.fuzz [files]`.

Valid files of every kind are damaged in thousands of ways and read; what is not a good object must be one plain
sentence (an expected fault), within ten seconds and half a gigabyte. Counted by kind: taken, refused, and neither.
"""

from __future__ import annotations

import json
import os
import random
import resource
import shutil
import sys
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from time import monotonic

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import finish

FILES = 50_000
ASSETS = Path(__file__).parent.parent / "src" / "waxtwin" / "assets"
DEMO = ASSETS / "demo"
_SECONDS, _BYTES = 10.0, 500 * 1024**2
_WORDS = (b"nan", b"-", b"1e999", b"1e308", b"\x00", b",,", b"\t", b"}", b'"', b"\n", b"[" * 40, b"9" * 40, b"null",
          b"-1", b"\xff\xfe", b"\x1b[31m", b"../..", "٣".encode())  # fmt: skip


def damaged(data: bytes, seed: int) -> bytes:
    """A valid file with some of its bytes changed, lost, doubled or cut off."""
    rng = random.Random(seed)
    out = bytearray(data)
    for _ in range(rng.choice([1, 1, 1, 2, 5, 20, 80])):
        if not out:
            return b""
        at = rng.randrange(len(out))
        match rng.randrange(6):
            case 0:
                out[at] = rng.randrange(256)
            case 1:
                del out[at : at + rng.randrange(1, 30)]
            case 2:
                out[at:at] = out[at : at + rng.randrange(1, 60)]
            case 3:
                out[at:at] = rng.choice(_WORDS)
            case 4:
                out[at] = ord(rng.choice("0123456789.-eE"))
            case 5:
                out = out[: max(at, 1)]
    return bytes(out)


@dataclass(frozen=True)
class Kind:
    """A kind of file: its name on disk, a valid one, and how it is read; `share` of all that are tried."""

    file: str
    make: Callable[[Path], None]
    read: Callable[[Path], object]
    share: float


def _track(path: Path) -> None:
    from waxtwin.core.track import Track
    from waxtwin.formats.tracks import write_track
    from waxtwin.library.simulated import Recording, record
    from waxtwin.simulate.delivery import simulate
    from waxtwin.simulate.presets import PRESETS

    whole = record(simulate(PRESETS["wren"].params), Recording(60.0))
    write_track(Track(whole.times[:40], whole.points[:40], whole.confidence[:40]), path)


def _read_track(path: Path) -> object:
    from waxtwin.formats.tracks import read_track

    return read_track(path)


def _sidecar(path: Path) -> None:
    said = json.loads((DEMO / "wren-tollander.delivery.json").read_text())
    said["lab"] = {"landmarks": {"head": {"markers": ["A"], "offset": [0, 0, 1]}}, "forward": "+x", "up": "+z",
                   "part": [0, 2]}  # fmt: skip
    said["events"] = {"release": 2.1, "foot_contact": 1.9}
    path.write_text(json.dumps(said, indent=1))


def _read_sidecar(path: Path) -> object:
    from waxtwin.formats.sidecar import read_sidecar

    return read_sidecar(path)


def _person(path: Path) -> None:
    said = json.loads((DEMO / "wren-tollander.athlete.json").read_text())
    path.write_text(json.dumps(said, indent=1))


def _read_person(path: Path) -> object:
    """Into a library, and out of it as a throw's sidecar: what came in must not break what is there."""
    from waxtwin.library.athletes import take_person
    from waxtwin.library.throws import fetch

    library = _library(path.parent)
    key = take_person(library, path)
    library.undo()
    return key, fetch(library, 1)


def _copied(name: str) -> Callable[[Path], None]:
    return lambda path: path.write_bytes((ASSETS / name).read_bytes()) and None


def _of_library(module: str, name: str) -> Callable[[Path], object]:
    def read(path: Path) -> object:
        from importlib import import_module

        return getattr(import_module(f"waxtwin.library.{module}"), name)(path)

    return read


def _clip(path: Path) -> None:
    import av
    import numpy as np

    with av.open(str(path), "w") as container:
        stream = container.add_stream("mpeg4" if path.suffix == ".avi" else "libx264", rate=30)
        stream.width, stream.height = 96, 64
        for k in range(12):
            picture = np.full((64, 96, 3), 20 * k, np.uint8)
            container.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")))
        container.mux(stream.encode(None))


def _read_clip(path: Path) -> object:
    from waxtwin.capture.clip import ClipReader

    with ClipReader(path) as reader:
        return reader.facts, reader.read(0), reader.read(reader.times.size - 1)


_OPEN: dict[str, object] = {}


def _library(place: Path):  # type: ignore[no-untyped-def]
    """One library a process, to take into and out of."""
    from waxtwin.library.importing import bring
    from waxtwin.library.store import Library

    if "library" not in _OPEN:
        made = Library(place / "library")
        finish(bring(made, DEMO / "pell-ardmoor.csv"))
        _OPEN["library"] = made
    return _OPEN["library"]


def _bundle(path: Path) -> None:
    from waxtwin.library.bundles import bundle_athlete
    from waxtwin.library.importing import bring
    from waxtwin.library.store import Library

    place = path.parent / "for-bundle"

    def others(folder: str, names: list[str]) -> list[str]:
        return [name for name in names if not name.startswith("wren") or name.endswith(".mp4") or "october" in name]

    shutil.copytree(DEMO, place / "in", ignore=others)
    with closing(Library(place / "made")) as library:
        finish(bring(library, place / "in" / "wren-tollander-2.csv"))
        finish(bundle_athlete(library, 1, path))


def _read_bundle(path: Path) -> object:
    from waxtwin.library.bundles import open_bundle

    library = _library(path.parent)
    before = library.next_undo()
    try:
        return finish(open_bundle(library, path))
    finally:
        library.take_back_to(before.id if before else 0)


def _shuffled_manifest(path: Path, seed: int) -> None:
    """A bundle whose zip is in order and whose manifest is not: damage that gets past the checksums."""
    rng = random.Random(seed)
    with zipfile.ZipFile(path) as packed:
        held = {name: packed.read(name) for name in packed.namelist()}
    held["manifest.json"] = damaged(held["manifest.json"], rng.randrange(2**31))
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        for name, data in held.items():
            out.writestr(name, data)


def _lines(path: Path) -> None:
    path.write_text(
        "radar 1700000000.5 33.2\nforce lead 1700000000 1000 " + "700 " * 40 + "\nfault drive 1700000000 cable out\n"
        "radar 1700000009 misread\n" * 3
    )


def _read_lines(path: Path) -> object:
    from waxtwin.capture.devices import Hub

    hub = Hub({}, clock=lambda: 1700000005.0)
    out = []
    for line in path.read_bytes().decode("utf-8", "replace").split("\n"):
        try:
            out += hub._understood(line)
        except (ValueError, OverflowError):  # what a look counts as a line that is not understood
            continue
    return out


def _cameras(path: Path) -> None:
    view = json.loads((DEMO / "wren-tollander.delivery.json").read_text())["views"][0]
    path.write_text(json.dumps({"side": {"view": view["camera"], "calibration": view["calibration"]}}))


def _read_cameras(path: Path) -> object:
    from waxtwin.capture.devices import WatchedFolder

    return WatchedFolder(path.parent).cameras()


KINDS: dict[str, Kind] = {
    "csv": Kind("t.csv", _track, _read_track, 3),
    "trc": Kind("t.trc", _track, _read_track, 3),
    "json": Kind("t.json", _track, _read_track, 3),
    "c3d": Kind("t.c3d", _track, _read_track, 0.06),
    "sidecar": Kind("x.delivery.json", _sidecar, _read_sidecar, 4),
    "person": Kind("p.athlete.json", _person, _read_person, 1),
    "bands": Kind("bands.json", _copied("bands.json"), _of_library("bands", "load_book"), 1),
    "matters": Kind("matters.json", _copied("matters.json"), _of_library("bands", "load_matters"), 1),
    "findings": Kind("findings.json", _copied("findings.json"), _of_library("playbook", "load_playbook"), 1),
    "school": Kind("school.json", _copied("schools/drive.json"), _of_library("playbook", "load_school"), 1),
    "screening": Kind("screening.json", _copied("screening.json"), _of_library("judging", "load_screening"), 1),
    "cameras": Kind("cameras.json", _cameras, _read_cameras, 1),
    "device lines": Kind("lines.txt", _lines, _read_lines, 2),
    "bundle": Kind("b.waxtwin", _bundle, _read_bundle, 0.6),
    "mp4": Kind("c.mp4", _clip, _read_clip, 0.5),
    "mkv": Kind("c.mkv", _clip, _read_clip, 0.5),
    "avi": Kind("c.avi", _clip, _read_clip, 0.5),
    "ts": Kind("c.ts", _clip, _read_clip, 0.5),
}


def attempts(kind: str, seeds: range, place: Path) -> Iterator[tuple[str, str]]:
    """Read a damaged file for every seed: ("taken" | "refused" | "wrong", what was wrong)."""
    made = KINDS[kind]
    good, path = place / f"good-{made.file}", place / made.file
    if not good.exists():
        made.make(path)
        made.read(path)  # what is damaged is whole to begin with
        path.replace(good)
    data = good.read_bytes()
    for seed in seeds:
        path.write_bytes(damaged(data, seed) if kind != "bundle" or seed % 2 else data)
        if kind == "bundle" and not seed % 2:
            _shuffled_manifest(path, seed)
        began = monotonic()
        try:
            made.read(path)
            said = ("taken", "")
        except WaxTwinError as fault:
            words = str(fault)
            fine = "\n" not in words and len(words) <= 700 and words.isprintable()
            said = ("refused", "") if fine else ("wrong", f"{kind} {seed}: {words[:200]!r}")
        except Exception as fault:
            said = ("wrong", f"{kind} {seed}: {fault!r}"[:300])
        if monotonic() - began > _SECONDS:
            said = ("wrong", f"{kind} {seed}: took {monotonic() - began:.0f} s")
        yield said


def counted(kind: str, seeds: range, place: Path) -> tuple[dict[str, int], list[str]]:
    """Files of one kind by outcome, and what was wrong in words."""
    counts, wrong = {"taken": 0, "refused": 0, "wrong": 0}, []
    _OPEN.clear()
    for outcome, words in attempts(kind, seeds, place):
        counts[outcome] += 1
        wrong += [words] if words else []
    library = _OPEN.pop("library", None)
    if library is not None:
        library.close()  # type: ignore[attr-defined]
    return counts, wrong


def shares(files: int) -> dict[str, int]:
    """How many files of each kind make `files` of all."""
    whole = sum(kind.share for kind in KINDS.values())
    return {name: max(round(files * kind.share / whole), 1) for name, kind in KINDS.items()}


def _batch(kind: str, seeds: range) -> tuple[str, dict[str, int], list[str], int]:
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        counts, wrong = counted(kind, seeds, Path(folder))
        return kind, counts, wrong, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def main() -> None:
    files = int(sys.argv[1]) if len(sys.argv) > 1 else FILES
    batches = [(name, range(first, min(first + 500, count))) for name, count in shares(files).items()
               for first in range(0, count, 500)]  # fmt: skip
    total = {name: {"taken": 0, "refused": 0, "wrong": 0} for name in KINDS}
    wrong: list[str] = []
    largest = 0
    with ProcessPoolExecutor(2) as pool:
        for kind, counts, said, peak in pool.map(_batch, *zip(*batches, strict=True)):
            largest = max(largest, peak)
            wrong += said
            for outcome, count in counts.items():
                total[kind][outcome] += count
    print("| kind | files | taken | refused in one sentence | wrong |\n|---|---|---|---|---|")
    for name, counts in total.items():
        print(f"| {name} | {sum(counts.values())} | {counts['taken']} | {counts['refused']} | {counts['wrong']} |")
    print(f"largest process: {largest / 1024**2:.0f} MB")
    print("\n".join(wrong[:40]))
    sys.exit(bool(wrong) or largest > _BYTES)


if __name__ == "__main__":
    main()
