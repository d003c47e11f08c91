"""What a kill, a full disk, a second program or a wrong backup may do to a library: nothing that is not told."""

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import time
from contextlib import closing, suppress
from pathlib import Path

import pytest
from benchmarks.kills import once, prepare

from conftest import DEMO
from test_bundles import key_of
from test_library import listed, picture_of
from waxtwin.core.steps import finish
from waxtwin.library.blending import keep_blend
from waxtwin.library.bundles import bundle_athlete, open_bundle
from waxtwin.library.erasing import erase
from waxtwin.library.faults import LibraryError
from waxtwin.library.importing import bring_one
from waxtwin.library.layout import BACKUPS, CLIPS, DATABASE
from waxtwin.library.local import LostDatabaseError, backups_in
from waxtwin.library.records import Athlete
from waxtwin.library.store import Library
from waxtwin.library.throws import set_fields


# killed ---------------------------------------------------------------------------------------------------------------
@pytest.fixture(scope="module")
def worked_on(tmp_path_factory):
    made = tmp_path_factory.mktemp("kills")
    prepare(made)
    return made


@pytest.mark.parametrize("kind", ["create", "bundle", "edit", "erase", "migrate"])
def test_a_kill_loses_nothing_that_was_promised(worked_on, tmp_path, kind):
    assert once(kind, 11, worked_on, tmp_path) == []


def dying_at(monkeypatch, target, times):
    """Let `target` work `times` times, and then the program goes away: nothing after it is tidied up."""
    module, name = target.rsplit(".", 1)
    real = getattr(__import__(module, fromlist=[name]), name)
    count = iter(range(times))

    def once_more(*args, **kwargs):
        if next(count, None) is None:
            raise KeyboardInterrupt
        return real(*args, **kwargs)

    monkeypatch.setattr(target, once_more)


@pytest.mark.parametrize("step", ["_erase_rows", "_erase_file"])
def test_erasing_goes_on_where_it_was_cut_off(library, monkeypatch, step):
    wren = next(e for e in listed(library) if e.name == "Wren Tollander")
    with monkeypatch.context() as patched:
        dying_at(patched, f"waxtwin.library.erasing.{step}", 0)
        with pytest.raises(KeyboardInterrupt):
            erase(library, wren.athlete_id)
    library.close()
    with closing(Library(library.folder)) as again:
        assert "Wren Tollander" not in {e.name for e in listed(again)} and len(listed(again)) == 3
        held = {path.name for path in (again.folder / CLIPS).iterdir()}
        assert {f"{CLIPS}/{name}" for name in held} == again.clip_files()
    assert not any(b"Wren Tollander" in path.read_bytes() for path in library.folder.rglob("*.sqlite*"))
    assert not (library.folder / "erasing.json").exists()


def test_a_clip_that_cannot_be_deleted_is_said_and_deleted_later(library, monkeypatch):
    wren = next(e for e in listed(library) if e.name == "Wren Tollander")
    with monkeypatch.context() as patched:
        patched.setattr("pathlib.Path.unlink", lambda path, missing_ok=False: (_ for _ in ()).throw(
            PermissionError(13, "Permission denied", str(path))))  # fmt: skip
        with pytest.raises(LibraryError, match=r"not finished: clips have still to be deleted.*opened again"):
            erase(library, wren.athlete_id)
    library.close()
    with closing(Library(library.folder)) as again:
        assert len(list((again.folder / CLIPS).iterdir())) == len(again.clip_files())


def test_erasing_takes_blends_and_what_was_found_in_the_clips(library, monkeypatch):
    blend = finish(keep_blend(library, [key_of(library, "ines-corvane"), key_of(library, "juno-wexcombe")], "Blend"))
    forgotten = []
    monkeypatch.setattr("waxtwin.capture.pose.forget", lambda file, cache: forgotten.append(file.name))
    ines = next(e for e in listed(library) if e.name == "Ines Corvane")
    erase(library, ines.athlete_id)
    names = {e.name for e in listed(library)}
    assert blend not in {e.id for e in listed(library)} and "Juno Wexcombe" in names and "Blend" not in names
    assert forgotten


def test_half_of_a_bundle_is_taken_back_after_a_kill(library, tmp_path, monkeypatch):
    with library.reading() as session:
        wren = session.query(Athlete).filter_by(name="Wren Tollander").one().id
    _ = finish(bundle_athlete(library, wren, tmp_path / "wren.waxtwin"))
    folder = tmp_path / "other"
    with closing(Library(folder)) as other:
        bring_one(other, DEMO / "pell-ardmoor.csv")
        before, mark = picture_of(other), other.next_undo().id
        finish(open_bundle(other, tmp_path / "wren.waxtwin"))
        assert picture_of(other) != before
        (folder / "importing.json").write_text(json.dumps(mark))  # as a kill on the way leaves it
        (folder / ".bundle-x").mkdir()
    with closing(Library(folder)) as other:
        assert picture_of(other) == before and other.next_redo() is None
        assert {f"{CLIPS}/{p.name}" for p in (folder / CLIPS).iterdir()} == other.clip_files()
    assert sorted(p.name for p in folder.iterdir()) == [BACKUPS, CLIPS, DATABASE]


# a database that is not what it was ---------------------------------------------------------------------------------
@pytest.mark.parametrize("empty", [False, True])
def test_a_lost_database_is_never_an_empty_library(library, empty):
    before = picture_of(library)
    made = library.back_up()
    library.close()
    for path in library.folder.glob(f"{DATABASE}*"):
        path.unlink()
    if empty:
        (library.folder / DATABASE).touch()
    with pytest.raises(LostDatabaseError, match=rf"missing or empty.*{made.name}. Nothing was changed") as fault:
        Library(library.folder)
    assert fault.value.backups == backups_in(library.folder) and fault.value.backups[0] == made
    with closing(Library(library.folder, backup=made)) as again:
        assert picture_of(again) == before
    (library.folder / DATABASE).unlink()
    with closing(Library(library.folder, afresh=True)) as again:
        assert listed(again) == []


def test_the_command_line_brings_a_backup_back(library, run):
    library.back_up()
    library.close()
    (library.folder / DATABASE).unlink()
    code, _, said = run("library", library.folder)
    assert code and "missing or empty" in said
    code, out, said = run("library", library.folder, "--restore", "latest")
    assert not code and not said
    code, out, _ = run("library", library.folder)
    assert "Wren Tollander" in out
    code, _, said = run("library", library.folder, "--restore", "library-1.sqlite")
    assert code and said.startswith("library-1.sqlite: ") and said.count("\n") == 1


def test_backups_stay_in_order_whatever_the_clock_says(library):
    for path in library.backups():
        path.unlink()
    made = []
    for n in range(12):
        set_fields(library, 1, "Note", notes=f"note {n}")
        made.append(library.back_up())
        os.utime(made[-1], (2e9 - n * 1e6,) * 2)  # a clock that is put back again and again
    assert library.backups() == made[:1:-1]
    oldest = library.backups()[-1]
    library.restore(oldest)  # makes room for the present, which must not cost the one that is restored
    with library.reading() as session:
        assert next(e for e in listed(library) if e.id == 1) and "note 2" in str(session.connection().exec_driver_sql(
            "select notes from delivery where id = 1").scalar())  # fmt: skip
    library.restore(library.backups()[0])
    with library.reading() as session:
        assert session.connection().exec_driver_sql("select notes from delivery where id = 1").scalar() == "note 11"


def test_somebody_elses_backup_is_refused(library, tmp_path):
    before = picture_of(library)
    with closing(sqlite3.connect(tmp_path / "recipes.sqlite")) as other:
        other.execute("create table recipes (name text)")
        other.commit()
    with pytest.raises(LibraryError, match=r"^recipes\.sqlite: this is no database of Wax Twin"):
        library.restore(tmp_path / "recipes.sqlite")
    assert picture_of(library) == before


# one at a time, and nobody else -------------------------------------------------------------------------------------
def test_a_second_program_is_kept_out_whatever_lies_in_the_folder(library):
    for left in library.folder.glob("*.lock"):
        left.unlink()
    other = (
        "import sys\nfrom pathlib import Path\nfrom waxtwin.library.store import Library\nLibrary(Path(sys.argv[1]))"
    )
    done = subprocess.run([sys.executable, "-c", other, library.folder], capture_output=True, text=True, check=False)
    said = done.stderr.splitlines()[-1]
    assert done.returncode and "FolderHeldError: " in said and "open in another window" in said


def test_only_its_owner_reads_a_library(tmp_path, monkeypatch):
    before = os.umask(0)
    try:
        folder = tmp_path / "open"
        folder.mkdir(mode=0o777)
        with closing(Library(folder)) as library:
            bring_one(library, DEMO / "wren-tollander.csv")
            library.back_up()
            everything = [folder, *folder.rglob("*")]
            for path in everything:
                assert path.stat().st_mode & 0o077 == 0, path
    finally:
        os.umask(before)


def test_a_library_of_the_first_version_opens_with_its_throws(worked_on, tmp_path):
    folder = Path(shutil.copytree(worked_on / "old", tmp_path / "old"))
    with closing(Library(folder)) as library:
        assert len(library.backups()) >= 1 and listed(library) == []
        bring_one(library, DEMO / "wren-tollander.csv")
    with closing(Library(folder)) as library:
        assert len(listed(library)) == 1


def test_a_clip_outlives_undo_and_goes_once_nothing_names_it(tmp_path):
    with closing(Library(tmp_path / "lib")) as library:
        bring_one(library, DEMO / "wren-tollander.csv")
        library.undo()
        (library.folder / CLIPS / "left.mp4").write_bytes(b"x")
    with closing(Library(tmp_path / "lib")) as library:
        assert not (library.folder / CLIPS / "left.mp4").exists()
        library.redo()
        assert {f"{CLIPS}/{p.name}" for p in (library.folder / CLIPS).iterdir()} == library.clip_files() != set()


def test_the_disk_fills_up_while_a_backup_is_made(library, monkeypatch):
    before = library.backups()
    monkeypatch.setattr("waxtwin.library.local.make_file", lambda path: (_ for _ in ()).throw(
        OSError(28, "No space left on device")))  # fmt: skip
    with pytest.raises(LibraryError, match=r"backup could not be made.*No space left"):
        library.back_up()
    assert library.backups() == before
    library.close()
    old = time.time() - 3 * 86400
    for path in before:
        os.utime(path, (old, old))
    with suppress(LibraryError), closing(Library(library.folder)) as again:  # a full disk keeps nobody out
        assert len(listed(again)) == 4
