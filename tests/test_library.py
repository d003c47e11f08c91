"""The library: what is brought in stays, every change can be undone, what is erased is gone."""

import errno
import shutil
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import DEMO, SINGLES, delivery_of, idle, reopened
from films import film
from waxtwin.core.analysis import analyse
from waxtwin.core.cautions import is_minor
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.formats.files import FormatError
from waxtwin.formats.sidecar import Athlete, Sidecar, write_sidecar
from waxtwin.formats.tracks import write_track
from waxtwin.library.catalogue import entries, matching
from waxtwin.library.erasing import erase
from waxtwin.library.faults import LibraryError
from waxtwin.library.folders import sources
from waxtwin.library.importing import add_view, bring, bring_one, cut_into
from waxtwin.library.layout import DATABASE
from waxtwin.library.preparing import keep_athlete, keep_steadying, preparation_of
from waxtwin.library.privacy import athlete_facts, export_athlete, overdue, set_athlete_facts
from waxtwin.library.store import Library
from waxtwin.library.stored import load
from waxtwin.library.throws import delivery_row, fetch, remove, set_events, set_fields, set_tags, sidecar_of


def listed(library):
    with library.reading() as session:
        return entries(session)


def test_what_was_brought_in_is_the_same_throw(library):
    for entry in listed(library):
        kept, loose = fetch(library, entry.id), load(DEMO / entry.origin)
        assert kept.title == loose.title and kept.delivery.throws == loose.delivery.throws
        assert kept.sidecar.ball_speed_mps == loose.sidecar.ball_speed_mps and kept.sidecar.pitch == loose.sidecar.pitch
        assert [c.view for c in kept.clips] == [c.view for c in loose.clips]
        a, b = analyse(kept.delivery), analyse(loose.delivery)
        for name in ("stride_length", "landing_separation", "peak_speed_throwing_hand"):
            assert a.measures[name].value == pytest.approx(b.measures[name].value, rel=1e-4)
        assert all(c.path.is_relative_to(library.folder) for c in kept.clips)


def test_the_same_file_is_noticed_and_originals_are_never_touched(library, tmp_path):
    before = {p.name: p.read_bytes() for p in DEMO.iterdir()}
    again = [b for name in SINGLES for b in finish(bring(library, DEMO / f"{name}.csv"))]
    assert all(b.known for b in again) and len(listed(library)) == 4
    shutil.copy(DEMO / "wren-tollander.csv", tmp_path / "another-name.csv")
    assert bring_one(library, tmp_path / "another-name.csv").known
    set_events(library, {1: StopsByHand({"release": 2.0})}, "Move")
    assert {p.name: p.read_bytes() for p in DEMO.iterdir()} == before


@pytest.mark.folder
def test_a_moved_library_still_has_its_clips(library, tmp_path):
    library.close()
    moved = shutil.move(library.folder, tmp_path / "elsewhere" / "winter")
    with closing(Library(Path(moved))) as again:
        clips = fetch(again, 1).clips
        assert len(clips) == 2 and all(c.path.is_file() and str(moved) in str(c.path) for c in clips)


def test_linked_clips_stay_where_they_are_and_their_loss_is_told(tmp_path):
    clip = film(tmp_path / "phone.mp4", count=40)
    with closing(Library(tmp_path / "lib")) as library:
        key = bring_one(library, clip, link=True).key
        view = preparation_of(library, key).views[0]
        assert view.path == clip.resolve() and not list((tmp_path / "lib" / "clips").iterdir())
        clip.unlink()
        from waxtwin.library.preparing import todo

        assert any("missing" in one for one in todo(preparation_of(library, key), view)["clip"])


def test_search_tags_and_filters(library):
    set_tags(library, [1, 2], "cold day", on=True)
    set_fields(library, 3, "Note", notes="Felt the hip <b>today</b> – 肩")
    everything = listed(library)
    assert {e.name for e in matching(everything, "COLD")} == {"Ines Corvane", "Juno Wexcombe"}
    assert [e.name for e in matching(everything, "wren fastball")] == ["Wren Tollander"]
    assert [e.name for e in matching(everything, "肩 hip")] == ["Pell Ardmoor"]
    assert {e.throws for e in matching(everything, "", throws="L")} == {"L"}
    assert len(matching(everything, "", tag="cold day")) == 2 and matching(everything, "nobody") == []
    set_tags(library, [1], "cold day", on=False)
    assert [e.name for e in matching(listed(library), "", tag="cold day")] == ["Juno Wexcombe"]


changes = st.lists(
    st.one_of(
        st.tuples(st.just("tag"), st.integers(1, 4), st.sampled_from(["a", "b"]), st.booleans()),
        st.tuples(st.just("event"), st.integers(1, 4), st.sampled_from(["release", "set"]), st.floats(0.1, 2.5)),
        st.tuples(st.just("note"), st.integers(1, 4), st.text(max_size=20)),
        st.tuples(st.just("remove"), st.integers(1, 4)),
        st.tuples(st.just("athlete"), st.integers(1, 4), st.sampled_from(["Sam Netherby", "Wren Tollander"])),
    ),
    max_size=8,
)


def picture_of(library):
    """Everything that a library says, to compare before and after."""
    with library.reading() as session:
        return [(e, sidecar_of(delivery_row(session, e.id)).model_dump()) for e in entries(session)]


@settings(deadline=None, max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(changes)
def test_every_change_is_undone_and_done_again_exactly(library, steps):
    library.forget_changes()
    states = [picture_of(library)]
    for kind, key, *rest in steps:
        try:
            match kind:
                case "tag":
                    set_tags(library, [key], rest[0], on=rest[1])
                case "event":
                    set_events(library, {key: StopsByHand({rest[0]: rest[1]})}, "Move a stop")
                case "note":
                    set_fields(library, key, "Note", notes=rest[0])
                case "remove":
                    remove(library, [key])
                case "athlete":
                    keep_athlete(library, preparation_of(library, key), Athlete(name=rest[0], throws="R"))
        except LibraryError:
            continue  # removed before
        now = picture_of(library)
        if now != states[-1]:
            states.append(now)
    for state in states[-2::-1]:
        assert library.undo() is not None
        assert picture_of(library) == state
    assert library.undo() is None
    for state in states[1:]:
        library.redo()
        assert picture_of(library) == state
    while library.undo():
        pass


def test_undo_outlives_the_window(library):
    set_fields(library, 1, "Write a note", notes="kept")
    with closing(reopened(library)) as again:
        assert again.next_undo().label == "Write a note"
        again.undo()
        assert fetch(again, 1).sidecar.notes != "kept" and again.next_redo().label == "Write a note"


def test_a_change_that_fails_leaves_nothing_behind(library):
    before = picture_of(library)
    with pytest.raises(RuntimeError), library.change("Half a change") as session:
        from waxtwin.library.records import Athlete as Row

        session.get_one(Row, 1).name = "Half"
        session.flush()
        raise RuntimeError
    assert picture_of(library) == before


# opening ----------------------------------------------------------------------------------------------------------
@pytest.mark.folder
def test_one_window_at_a_time(library):
    with pytest.raises(LibraryError, match="open in another window"):
        Library(library.folder)


@pytest.mark.parametrize("content", [b"not a database", bytes(range(256)) * 64, b"SQLite format 3\x00" + b"\x7f" * 900])
def test_a_file_that_is_no_library_is_one_sentence(tmp_path, content):
    (tmp_path / DATABASE).write_bytes(content)
    with pytest.raises(LibraryError, match=r"library\.sqlite: this is not a Wax Twin library"):
        Library(tmp_path)
    assert (tmp_path / DATABASE).read_bytes() == content


def test_somebody_elses_database_is_left_alone(tmp_path):
    with closing(sqlite3.connect(tmp_path / DATABASE)) as other:
        other.execute("create table recipes (name text)")
        other.commit()
    with pytest.raises(LibraryError, match="not a Wax Twin library"):
        Library(tmp_path)


@pytest.mark.folder
def test_a_library_from_a_newer_version_is_told_and_left_alone(library):
    library.close()
    path = library.folder / DATABASE
    with closing(sqlite3.connect(path)) as other:
        other.execute("update alembic_version set version_num = '9999'")
        other.commit()
    with pytest.raises(LibraryError, match="newer Wax Twin"):
        Library(library.folder)
    with closing(sqlite3.connect(path)) as other:
        assert other.execute("select count(*) from delivery").fetchone()[0] == 4


def test_the_schema_is_what_the_program_thinks(library):
    """The migrations and the tables in code must not drift apart."""
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    from waxtwin.library.records import Base

    with library.database.engine.connect() as connection:
        ours = {
            "include_name": lambda name, kind, _: kind != "table" or name in Base.metadata.tables
        }  # not the queue's
        assert compare_metadata(MigrationContext.configure(connection, opts=ours), Base.metadata) == []


def test_a_folder_that_cannot_be_used(tmp_path):
    (tmp_path / "file").write_text("x")
    with pytest.raises(LibraryError, match="cannot be used"):
        Library(tmp_path / "file")


# backups ----------------------------------------------------------------------------------------------------------
@pytest.mark.folder
def test_backup_and_restore_bring_everything_back(library):
    made = library.back_up()
    before = picture_of(library)
    remove(library, [1, 2, 3])
    library.restore(made)
    assert picture_of(library) == before
    assert len(library.backups()) >= 2  # what was there before restoring is kept too


@pytest.mark.folder
def test_a_broken_backup_leaves_the_library_as_it_was(library):
    bad = library.folder / "backups" / "library-2000.sqlite"
    bad.write_bytes(b"SQLite format 3\x00 nonsense" * 50)
    before = picture_of(library)
    with pytest.raises(LibraryError, match="or it is damaged"):
        library.restore(bad)
    assert picture_of(library) == before


@pytest.mark.folder
def test_opening_makes_a_backup_now_and_then_and_keeps_few(library):
    library.close()
    for path in library.backups():
        path.unlink()
    with closing(Library(library.folder)) as again:
        assert len(again.backups()) == 1
        for _ in range(14):
            again.back_up()
        assert len(again.backups()) == 10


# bringing in ------------------------------------------------------------------------------------------------------
def test_a_folder_is_taken_in_with_its_faults_told(tmp_path):
    for name in ("a", "b", "c"):
        write_track(delivery_of("wren").track, tmp_path / "in" / f"{name}.csv")
        with (tmp_path / "in" / f"{name}.csv").open("a") as file:
            file.write("" if name == "a" else f"{9 + ord(name)}.0" + "," * 80 + "\n")
    (tmp_path / "in" / "b.delivery.json").write_text("{")
    (tmp_path / "in" / "deep").mkdir()
    film(tmp_path / "in" / "deep" / "IMG_1.mp4", count=30)
    (tmp_path / "in" / "deep" / "broken.mov").write_bytes(b"nothing")
    (tmp_path / "in" / "notes.txt").write_text("x")
    (tmp_path / "in" / "other.json").write_text("{}")
    with closing(Library(tmp_path / "lib")) as library:
        shares: list[float] = []
        found = {b.file.name: b for b in finish(bring(library, tmp_path / "in"), shares.append)}
        assert shares == sorted(shares) and set(found) == {"a.csv", "b.csv", "c.csv", "IMG_1.mp4", "broken.mov"}
        assert "b.delivery.json" in found["b.csv"].fault and "broken.mov" in found["broken.mov"].fault
        assert found["a.csv"].key and found["IMG_1.mp4"].key
        unready = [e for e in listed(library) if not e.ready]
        assert [e.title for e in unready] == ["IMG_1"] and (unready[0].name, unready[0].named) == ("IMG_1", False)
        assert fetch(library, unready[0].id).delivery.track.is_bare  # a clip can be looked at before it has landmarks
        library.folder.joinpath(next((library.folder / "clips").iterdir())).unlink()
        with pytest.raises(LibraryError, match="no track, and no clip of it"):
            fetch(library, unready[0].id)


def test_a_full_disk_on_import_keeps_nothing_by_halves(library, tmp_path, monkeypatch):
    clip = film(tmp_path / "new.mp4", count=30)
    before, files = picture_of(library), set((library.folder / "clips").iterdir())

    def full(source, target):
        Path(target).write_bytes(b"half")
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("waxtwin.library.importing.shutil.copyfile", full)
    with pytest.raises(FormatError, match=r"new\.mp4: it could not be copied into the library \(No space left"):
        bring_one(library, clip)
    assert picture_of(library) == before and set((library.folder / "clips").iterdir()) == files


def test_another_clip_of_a_throw(library, tmp_path):
    add_view(library, 1, film(tmp_path / "rear.mp4", count=30))
    assert [v.name for v in preparation_of(library, 1).views][-1] == "rear.mp4"
    with pytest.raises(FormatError, match="part of the throw already"):
        add_view(library, 1, tmp_path / "rear.mp4")
    library.undo()
    assert len(preparation_of(library, 1).views) == 2


def test_a_long_clip_is_cut_into_throws(tmp_path):
    clip = film(tmp_path / "bullpen.mp4", count=300)
    with closing(Library(tmp_path / "lib")) as library:
        key = bring_one(library, clip).key
        view = preparation_of(library, key).views[0]
        keep_steadying(library, preparation_of(library, key), view, np.tile(np.eye(2, 3), (300, 1, 1)))
        cut_into(library, key, view.id, [(0.2, 1.0), (2.0, 3.0), (4.0, 4.8)])
        throws = [preparation_of(library, e.id) for e in listed(library)]
        assert sorted(t.views[0].trim for t in throws) == [(0.2, 1.0), (2.0, 3.0), (4.0, 4.8)]
        assert len({t.views[0].path for t in throws}) == 1
        assert all(t.views[0].steadying is not None for t in throws)
        library.undo()
        assert len(listed(library)) == 1 and preparation_of(library, key).views[0].trim[0] == 0


def test_a_sidecar_beside_a_clip_alone_is_heeded(tmp_path):
    clip = film(tmp_path / "x.mp4", count=30)
    said = {"athlete": {"name": "Sam Netherby", "throws": "L"}, "capture_fps": 240, "from": "windup", "mood": "good",
            "views": [{"file": "x.mp4", "camera": "rear"}]}  # fmt: skip
    write_sidecar(Sidecar.model_validate(said), tmp_path / "x.delivery.json")
    with closing(Library(tmp_path / "lib")) as library:
        work = preparation_of(library, bring_one(library, clip).key)
        assert work.athlete.throws == "L" and work.views[0].view == "rear" and work.named
        assert work.views[0].clock.slow == pytest.approx(4.0)  # plays at 60, was taken at 240
        assert work.sidecar.started_from == "windup" and work.sidecar.model_extra["mood"] == "good"


def test_naming_somebody_joins_throws_and_leaves_no_ghost(tmp_path):
    with closing(Library(tmp_path / "lib")) as library:
        keys = [bring_one(library, film(tmp_path / f"{n}.mp4", count=30 + n)).key for n in range(2)]
        assert len({e.athlete_id for e in listed(library)}) == 2
        for key in keys:
            keep_athlete(library, preparation_of(library, key), Athlete(name="Sam Netherby", throws="R", height_m=1.7))
        found = listed(library)
        assert {e.name for e in found} == {"Sam Netherby"} and len({e.athlete_id for e in found}) == 1
        from waxtwin.library.records import Athlete as Row

        with library.reading() as session:
            assert session.query(Row).count() == 1


# people's data ----------------------------------------------------------------------------------------------------
def test_consent_and_keeping(library):
    wren = next(e for e in listed(library) if e.name == "Wren Tollander").athlete_id
    set_athlete_facts(library, wren, {"name": "Wren Tollander", "guardian": "R. Tollander", "born": "2009-05-02",
                                      "consent_on": "2026-11-01", "keep_until": "2026-11-20"})  # fmt: skip
    assert athlete_facts(library, wren)["guardian"] == "R. Tollander"
    assert overdue(library, date(2026, 11, 23)) == [(wren, "Wren Tollander", "2026-11-20")]
    assert overdue(library, date(2026, 11, 20) - timedelta(days=1)) == []
    assert is_minor("2009-05-02", date(2026, 11, 23)) and not is_minor("2008-11-23", date(2026, 11, 23))
    assert is_minor(None, date(2026, 11, 23)) is None and is_minor("long ago", date(2026, 11, 23)) is None


def test_everything_about_an_athlete_can_be_handed_out(library, tmp_path):
    wren = next(e for e in listed(library) if e.name == "Wren Tollander")
    set_events(library, {wren.id: StopsByHand({"release": 2.16})}, "Move")
    folder = finish(export_athlete(library, wren.athlete_id, tmp_path))
    again = load(next(folder.glob("*.csv")))
    assert again.title == "Wren Tollander" and again.delivery.by_hand.times == {"release": 2.16}
    assert len(again.clips) == 2 and (folder / "athlete.json").is_file()
    assert analyse(again.delivery).measures["stride_length"].available
    with pytest.raises(FormatError, match="already something"):
        finish(export_athlete(library, wren.athlete_id, tmp_path))


@pytest.mark.folder
def test_what_is_erased_is_gone_from_every_file(library):
    entry = next(e for e in listed(library) if e.name == "Wren Tollander")
    others = {
        p
        for key in (e.id for e in listed(library) if e.id != entry.id)
        for p in (c.path for c in fetch(library, key).clips)
    }
    mine = {c.path for c in fetch(library, entry.id).clips}
    set_fields(library, entry.id, "Note", notes="private-marker-0815")
    library.back_up()
    erase(library, entry.athlete_id)
    assert [e.name for e in listed(library)].count("Wren Tollander") == 0 and len(listed(library)) == 3
    assert not any(p.exists() for p in mine) and all(p.exists() for p in others)
    assert library.undo() is None
    library.close()
    for file in library.folder.rglob("*"):
        if file.is_file() and file.suffix != ".mp4":
            data = file.read_bytes()
            assert b"private-marker-0815" not in data and b"Tollander" not in data, file.name


def test_sources_of_a_folder_skip_what_belongs_to_a_throw():
    assert {p.suffix for p in sources(DEMO)} == {".csv"}
    with pytest.raises(FormatError):
        list(bring_one(None, DEMO / "gone.csv"))


def test_a_large_library_is_listed_and_changed_off_the_interface_thread(desk_window, qtbot, tmp_path):
    """Ten thousand throws: what takes more than a moment is work with progress, and nothing stands still meanwhile."""
    import threading

    from sqlalchemy import insert

    from waxtwin.library.records import Athlete as AthleteRow
    from waxtwin.library.records import DeliveryRow

    folder = tmp_path / "many"
    with closing(Library(folder)) as library, library.reading() as session, session.begin():
        session.execute(
            insert(AthleteRow),
            [{"id": 1, "name": "Many Throws", "throws": "R", "guardian": "", "notes": "", "extra": {}}],
        )
        session.execute(insert(DeliveryRow), [
            {"id": n + 1, "athlete_id": 1, "title": f"throw {n}", "recorded": "2026-11-01", "screening": {}, "notes": "",
             "extra": {}, "origin": f"{n}.csv", "track_from": "", "added": ""} for n in range(2000)
        ])  # fmt: skip
    app = desk_window(demo=False)
    app.library.open(folder)
    qtbot.waitUntil(lambda: len(app.library.entries) == 2000, timeout=20000)
    here, elsewhere = threading.get_ident(), []
    read = app.library.store.reading

    def watched():
        elsewhere.append(threading.get_ident() != here)
        return read()

    app.library.store.reading = watched
    app.library.refresh()
    assert app.jobs.busy  # the window goes on
    idle(qtbot, app)
    assert elsewhere[0]  # the list; what a plan or a kept pair reads of it is a few rows
    keys = [entry.id for entry in app.library.entries[:40]]
    from waxtwin.library.throws import set_tags

    app.library.change_throws(keys, lambda library: set_tags(library, keys, "cold day", on=True), 0)
    assert app.jobs.busy
    idle(qtbot, app)
    assert sum("cold day" in entry.tags for entry in app.library.entries) == 40
    app.library.undo()
    idle(qtbot, app)
    assert not any(entry.tags for entry in app.library.entries)
