"""Whether a kill ever costs anything: `python -m benchmarks.kills [times]`.

A child works on a library - making one, bringing files and a bundle in, editing, undoing, erasing, writing a bundle
out, migrating an old one - and tells every change that it was promised is kept. It is killed at a moment drawn by
chance; then the library is opened here. Counted: libraries that do not open, lost promises, leftovers.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from pathlib import Path

from waxtwin.core.steps import finish
from waxtwin.library.layout import BACKUPS, CLIPS, DATABASE
from waxtwin.library.store import Library

TIMES = 500
DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
WORKS = ("create", "import", "bundle", "edit", "undo", "erase", "export", "migrate")
_LONGEST = 1.6  # s after which a child is killed at the latest


def work(kind: str, folder: Path, made: Path) -> None:
    """One kind of work, again and again until it is killed; what is promised is printed as one line each."""
    from waxtwin.library.bundles import bundle_athlete, open_bundle
    from waxtwin.library.erasing import erase
    from waxtwin.library.importing import bring
    from waxtwin.library.throws import set_fields

    def promise(**said: object) -> None:
        print(json.dumps(said), flush=True)

    promise(ready=True)
    library = Library(folder)
    promise(open=True)
    while True:
        if kind in ("create", "import", "migrate"):
            finish(bring(library, made / "in", kept=lambda one: one.key is None or promise(file=one.file.name)))
        elif kind == "bundle":
            finish(open_bundle(library, made / "all.waxtwin"))
            promise(bundle=True)
        elif kind in ("edit", "undo"):
            for n in range(40):
                set_fields(library, 1, "Note", notes=f"note {n}")
                promise(note=f"note {n}")
                if kind == "undo" and n % 3 == 2:
                    library.undo()
                    promise(note=f"note {n - 1}")
        elif kind == "erase":
            erase(library, _athlete(library, "Ines Corvane"))
            promise(erased=True)
        else:
            finish(bundle_athlete(library, _athlete(library, "Wren Tollander"), made / "out.waxtwin"))
            promise(written=True)
        if kind in ("create", "import", "migrate", "bundle", "erase"):
            return


def _athlete(library: Library, name: str) -> int:
    from sqlalchemy import select

    from waxtwin.library.records import Athlete

    with library.reading() as session:
        return session.scalars(select(Athlete.id).where(Athlete.name == name)).one()


def prepare(made: Path) -> None:
    """A library to be worked on, an old one to be migrated, a bundle and a few files."""
    from waxtwin.library.bundles import bundle_athlete
    from waxtwin.library.importing import bring

    (made / "in").mkdir(parents=True)
    for name in ("pell-ardmoor", "juno-wexcombe"):
        for file in DEMO.glob(f"{name}*"):
            if not file.name.endswith(".truth.json"):
                shutil.copyfile(file, made / "in" / file.name)
    with closing(Library(made / "full")) as library:
        for name in ("wren-tollander", "ines-corvane"):
            finish(bring(library, DEMO / f"{name}.csv"))
        finish(bundle_athlete(library, _athlete(library, "Ines Corvane"), made / "all.waxtwin"))
    _old_library(made / "old")


def _old_library(folder: Path) -> None:
    """An empty library of the first version."""
    from alembic import command
    from sqlalchemy import create_engine

    from waxtwin.library.schema import migrations

    for part in (folder, folder / CLIPS, folder / BACKUPS):
        part.mkdir(parents=True)
    engine, config = create_engine(f"sqlite:///{folder / DATABASE}"), migrations()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0001")
    engine.dispose()


def once(kind: str, seed: int, made: Path, place: Path) -> list[str]:
    """Kill one child at some moment; what was wrong afterwards, in words."""
    rng = random.Random(seed)
    folder = place / "library"
    start = {"create": None, "migrate": made / "old"}.get(kind, made / "full")
    if kind == "bundle":
        start = None
    if start is not None:
        shutil.copytree(start, folder)
    out = made / "out.waxtwin"
    shutil.copyfile(made / "all.waxtwin", out)
    before = out.read_bytes()
    child = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.kills", "--work", kind, str(folder), str(made)],
        stdout=subprocess.PIPE, text=True, env={**os.environ, "XDG_CACHE_HOME": str(place / "cache")},
    )  # fmt: skip
    assert child.stdout is not None
    child.stdout.readline()  # ready: its libraries are loaded
    time.sleep(rng.uniform(0, _LONGEST) ** 2 / _LONGEST)
    child.send_signal(signal.SIGKILL)
    promised = [json.loads(line) for line in child.stdout.read().splitlines() if line.endswith("}")]
    child.wait()
    return list(_wrong(kind, folder, promised, out, before))


def _wrong(kind: str, folder: Path, promised: list[dict], out: Path, before: bytes):
    try:
        library = Library(folder)
    except Exception as fault:
        yield f"does not open: {fault!r}"
        return
    with closing(library):
        from sqlalchemy import select

        from waxtwin.library.records import Athlete, ClipRow, DeliveryRow

        with library.reading() as session:
            origins = set(session.scalars(select(DeliveryRow.origin)))
            names = set(session.scalars(select(Athlete.name)))
            note = session.scalars(select(DeliveryRow.notes).where(DeliveryRow.id == 1)).first()
            rows = set(session.scalars(select(ClipRow.file)))
        for said in promised:
            if "file" in said and said["file"] not in origins:
                yield f"lost: {said['file']}"
        notes = [said["note"] for said in promised if "note" in said]
        if notes and note is not None and kind == "edit" and int(note.split()[1]) < int(notes[-1].split()[1]):
            yield f"lost: {notes[-1]}, found {note}"
        if any("erased" in said for said in promised) and "Ines Corvane" in names:
            yield "erased, and still there"
        if kind == "erase" and "Ines Corvane" not in names and _holds(folder, b"Ines Corvane"):
            yield "erased, but not from every file"
        if kind == "bundle" and "Ines Corvane" in names and not any("bundle" in said for said in promised):
            tables = len(origins)
            if tables != 3:
                yield f"half a bundle: {tables} throws"
        files = {f"{CLIPS}/{file.name}" for file in (folder / CLIPS).iterdir()}
        patterns = (".bundle-*", "*.new*", "**/*.part", "importing.json", "erasing.json")
        found = [path for pattern in patterns for path in folder.glob(pattern)]
        for left in (*(files - library.clip_files()), *found):
            yield f"left over: {left}"
        if rows - files:
            yield f"clips without a file: {rows - files}"
    if kind == "export" and not any("written" in said for said in promised) and out.read_bytes() != before:
        import zipfile

        with zipfile.ZipFile(out) as packed:
            if packed.testzip() is not None:
                yield "half a bundle was written"


def _holds(folder: Path, words: bytes) -> bool:
    return any(words in file.read_bytes() for file in folder.rglob("*") if file.is_file())


def main() -> None:
    times = int(sys.argv[1]) if len(sys.argv) > 1 else TIMES
    wrong: dict[str, list[str]] = {kind: [] for kind in WORKS}
    with tempfile.TemporaryDirectory() as root:
        made = Path(root) / "made"
        prepare(made)
        for n in range(times):
            kind, place = WORKS[n % len(WORKS)], Path(root) / f"{n}"
            place.mkdir()
            wrong[kind] += [f"{n}: {one}" for one in once(kind, n, made, place)]
            shutil.rmtree(place)
    print("| work | kills | went wrong |\n|---|---|---|")
    for n, kind in enumerate(WORKS):
        print(f"| {kind} | {len(range(n, times, len(WORKS)))} | {len(wrong[kind])} |")
    for kind, said in wrong.items():
        for one in said:
            print(f"{kind} {one}")
    sys.exit(any(wrong.values()))


if __name__ == "__main__":
    if sys.argv[1:2] == ["--work"]:
        work(sys.argv[2], Path(sys.argv[3]), Path(sys.argv[4]))
    else:
        main()
