"""Long work that nobody waits for: asked for on the Bench, listed, stopped, tried again; here or by a team's worker."""

import threading

import pytest
from benchmarks.team_server import slow_worker

from conftest import DEMO
from films import film
from waxtwin.formats.talk import CARD, Scene, Talk
from waxtwin.library.faults import LibraryError
from waxtwin.library.importing import bring_one
from waxtwin.library.jobs.kinds import KINDS, Kind


@pytest.fixture
def held(monkeypatch):
    """Finding landmarks stands still until it is let go; {throw: how it ends}."""
    go, ends = threading.Event(), {}

    def steps(library, asked):
        yield 0.25
        while not go.wait(0.02):
            yield 0.5
        if ends.get(asked["throw"]):
            raise LibraryError(ends[asked["throw"]])
        ends[asked["throw"]] = ""
        return []

    monkeypatch.setitem(KINDS, "landmarks", Kind("landmarks", "Find landmarks", steps))
    yield go, ends
    go.set()


def rows(dialog):
    """What was asked for; small pictures may be made beside."""
    return [(one.about, one.state) for one in dialog._queue.standings if one.kind == "Find landmarks"]


def test_clips_are_worked_off_one_after_the_other_while_something_else_is_done(desk_window, qtbot, tmp_path, held):
    go, ends = held
    app = desk_window()
    keys = [bring_one(app.library.store, film(tmp_path / f"{n}.mp4", count=20 + n)).key for n in range(3)]
    app.library.refresh()
    app.go_to("Bench")
    bench = app.bench
    assert not bench._more["landmarks"].isEnabled()
    for key in (1, *keys):
        bench.select(key, keep=True)
    bench._more["landmarks"].click()
    assert "3 clips wait for landmarks" in app.notice.text
    app.do("work")
    dialog = app.guide.dialog
    assert [state for _, state in rows(dialog)] == [
        "runs",
        "waits",
        "waits",
    ] and "2 waiting" in dialog.says.text()
    qtbot.waitUntil(
        lambda: (dialog._tick(), any(bar.value() == 50 for bar, _ in dialog._bars.values()))[1], timeout=5000
    )
    waiting = next(one for one in app.work.standings if one.state == "waits")
    dialog.buttons["Stop", waiting.id].click()
    assert [state for _, state in rows(dialog)] == ["runs", "waits"]
    ends[keys[0]] = "0.mp4: nobody can be seen in this clip"
    go.set()
    qtbot.waitUntil(lambda: [state for _, state in rows(dialog)] == ["failed"], timeout=10000)
    failed = next(one for one in app.work.standings if one.state == "failed")
    assert failed.says == "0.mp4: nobody can be seen in this clip" and ends[keys[2]] == ""
    ends[keys[0]] = None
    dialog.buttons["Try again", failed.id].click()
    qtbot.waitUntil(lambda: rows(dialog) == [], timeout=10000)
    assert ends[keys[0]] == ""


def test_a_teams_worker_takes_what_the_window_asks_for(desk_window, qtbot, person, team_server):
    mill, orla = person("mill", "waxtwin_worker"), person("orla")
    key = bring_one(orla, DEMO / "wren-tollander-side.mp4").key
    worker = slow_worker(mill.database.address, "the machine in the cage")
    try:
        app = desk_window(demo=False)
        app.library.join(str(orla.database.address), None)
        qtbot.waitUntil(lambda: len(app.library.entries) == 5, timeout=20000)
        qtbot.waitUntil(lambda: (app.work.refresh(), app.work._has_workers)[1], timeout=20000)
        app.bench.select(key)
        app.bench._more["landmarks"].click()
        app.do("work")
        dialog = app.guide.dialog
        qtbot.waitUntil(
            lambda: (
                [(one.by, one.state) for one in app.work.standings if one.id > 0]
                == [("the machine in the cage", "runs")]
            ),
            timeout=20000,
        )
        dialog.buttons["Stop", next(one.id for one in app.work.standings if one.id > 0)].click()
        qtbot.waitUntil(lambda: rows(dialog) == [], timeout=20000)
        dialog.reject()
        app.pairs.take_pair(3, 1)
        qtbot.waitUntil(lambda: app.talk.flow.pair is not None and not app.jobs.busy, timeout=60000)
        app.talks.begin(Talk(title="A talk", scenes=(Scene(id="a", kind=CARD, title="Look"),)), "A talk")
        app.go_to("Talk")
        app.talk.flow.ask_film()
        asked = app.talk.flow.dialog
        assert asked.hand.isVisible() and asked.hand.isEnabled()
        asked.hand.click()
        assert "A worker makes the film" in app.notice.text and "films" in app.notice.text
        qtbot.waitUntil(lambda: any(one.kind == "Make a film" for one in app.work.standings), timeout=20000)
        about = next(one.about for one in app.work.standings if one.kind == "Make a film")
        assert about == "Pell Ardmoor beside Ines Corvane"
    finally:
        worker.terminate()
        assert worker.wait(20) == 0


def test_what_was_begun_elsewhere_in_the_window_is_listed_and_can_be_stopped(desk_window, qtbot):
    app, ended = desk_window(), []

    def steps():
        while True:
            yield 0.5

    app.jobs.start("film", steps, lambda _: None, ended.append, over=lambda: ended.append("over"))
    app.do("work")
    dialog = app.guide.dialog
    film = next(one for one in app.work.standings if one.kind == "Making the film")
    assert film.by == "this machine" and "under way" in dialog.says.text()
    dialog.buttons["Stop", film.id].click()
    assert ended == ["over"] and not any(one.kind == "Making the film" for one in app.work.standings)
