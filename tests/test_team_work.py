"""A team's work: asked for once, done by whoever is free, taken up again, left with its sentence."""

import signal
import time

import av
import numpy as np
import pytest
from benchmarks.team_server import slow_worker
from procrastinate import RetryStrategy
from sqlalchemy import text

from conftest import DEMO
from films import film
from waxtwin.library.catalogue import entries
from waxtwin.library.erasing import erase
from waxtwin.library.faults import LibraryError
from waxtwin.library.importing import bring_one
from waxtwin.library.jobs.kinds import KINDS, Kind
from waxtwin.library.jobs.standing import FAILED, RUNS, WAITS
from waxtwin.library.preparing import preparation_of
from waxtwin.library.profiles import missing
from waxtwin.library.talks import keep_talk
from waxtwin.library.team.work import TeamQueue, work
from waxtwin.library.throws import fetch, remove


@pytest.fixture
def queue(person):
    made = TeamQueue(person("orla"))
    yield made
    made.close()


def until(reached, seconds=30.0):
    begin = time.monotonic()
    while not reached():
        assert time.monotonic() - begin < seconds
        time.sleep(0.05)


def listed(library):
    with library.reading() as session:
        return entries(session)


def states(queue):
    return [(one.kind, one.state, one.by) for one in queue.standings()]


def test_work_is_asked_for_once_done_and_seen_by_all(person, queue, team_address):
    library = person("orla")
    assert queue.ask("profile", {"throw": 1}) and not queue.ask("profile", {"throw": 1})
    assert queue.ask("figures", {"throw": 2}, urgent=True)
    assert [(one.kind, one.about, one.state) for one in queue.standings()] == [
        ("Work out figures", "Juno Wexcombe, 2026-11-14", WAITS), ("Get ready for finding twins", "Ines Corvane, 2026-11-14", WAITS),
    ]  # fmt: skip
    assert missing(library) == [1, 2, 3, 4]
    work(team_address, None, "mill", wait=False)
    assert missing(library) == [2, 3, 4] and queue.standings() == []
    assert queue.ask("profile", {"throw": 1})  # doing it twice does no harm
    job = queue.standings()[0].id
    queue.cancel(job)
    assert queue.standings() == []


def test_work_that_fails_three_times_is_left_with_its_sentence(queue, team_address, monkeypatch):
    tried = []

    def fails(library, asked):
        tried.append(asked["throw"])
        yield 0.5
        raise LibraryError("clip 7: there is nobody in it")

    monkeypatch.setitem(KINDS, "profile", Kind("profile", "Look", fails))
    monkeypatch.setattr("waxtwin.library.team.work._RETRY", RetryStrategy(max_attempts=2))
    queue.ask("profile", {"throw": 1})
    work(team_address, None, "mill", wait=False)
    assert tried == [1, 1, 1]
    failed = queue.standings()[0]
    assert (failed.state, failed.says) == (FAILED, "clip 7: there is nobody in it")
    queue.again(failed.id)
    assert queue.standings()[0].state == WAITS
    monkeypatch.setitem(KINDS, "profile", Kind("profile", "Look", lambda library, asked: iter(())))
    work(team_address, None, "mill", wait=False)
    assert queue.standings() == []


def test_the_work_of_a_worker_that_was_killed_goes_to_another_and_can_be_stopped(queue, team_address):
    queue.ask("profile", {"throw": 1})
    workers = [slow_worker(team_address, "first")]
    try:
        until(lambda: states(queue) == [("Get ready for finding twins", RUNS, "first")])
        workers[0].kill()
        workers.append(slow_worker(team_address, "second"))
        until(lambda: states(queue) == [("Get ready for finding twins", RUNS, "second")])
        until(lambda: queue.standings()[0].left_s is not None)
        queue.cancel(queue.standings()[0].id)
        until(lambda: queue.standings() == [])
        workers[1].send_signal(signal.SIGTERM)
        assert workers[1].wait(20) == 0
    finally:
        for one in workers:
            one.kill()
            one.wait()


def test_landmarks_are_found_by_a_worker_and_what_vanished_is_said(person, queue, team_address, tmp_path, monkeypatch):
    orla = person("orla")
    key = bring_one(orla, DEMO / "wren-tollander-side.mp4").key
    with orla.quietly() as session:  # a tenth of a second is enough
        session.execute(text("update view set first_s = 1.6, last_s = 1.7 where delivery_id = :key"), {"key": key})
    other = bring_one(orla, film(tmp_path / "phone.mp4", count=30)).key
    orla.catch_up()
    for throw in (key, other):
        queue.ask("landmarks", {"throw": throw, "model": "lite"})
    assert {one.about for one in queue.standings()} == {"wren-tollander-side", "phone"}  # nobody is named yet
    monkeypatch.setattr("waxtwin.library.team.work._RETRY", RetryStrategy(max_attempts=2))
    fetch(orla, other).clips[0].path.unlink()
    work(team_address, None, "mill", wait=False)
    found = preparation_of(orla, key).views[0].marks
    assert found is not None and np.isfinite(found.points).any() and key not in missing(orla)
    assert [one.label for one in orla.catch_up()] == ["Find landmarks"]
    failed = queue.standings()[0]
    assert failed.says == "phone.mp4: this clip is not in its place any more, so nothing can be found in it"
    remove(orla, [other])
    queue.again(failed.id)
    work(team_address, None, "mill", wait=False)
    assert [one.says for one in queue.standings()] == ["this throw is not in the library any more"]


def test_a_worker_without_the_model_and_work_of_a_newer_program_are_one_sentence(
    queue, team_address, tmp_path, monkeypatch
):
    with pytest.raises(LibraryError, match="does not know the work “sculpt”"):
        queue.ask("sculpt", {"throw": 1})
    monkeypatch.setattr("waxtwin.capture.pose._MODELS", tmp_path)
    with pytest.raises(LibraryError, match="the landmark model is not on this machine"):
        work(team_address, None, "mill", wait=False)


def test_a_worker_makes_a_film_in_the_teams_folder_and_it_goes_with_whoever_it_shows(person, queue, team_address):
    from waxtwin.formats.talk import CARD, Scene, Talk
    from waxtwin.ui.rooms.talk import film_kind
    from waxtwin.ui.rooms.talk.film_making import FilmWish

    film_kind.register()
    orla = person("orla")
    wren = next(one for one in listed(orla) if one.name == "Wren Tollander")
    talk = keep_talk(
        orla, (wren.id, 1), Talk(title="A talk", scenes=(Scene(id="a", kind=CARD, title="Look"),)), "A talk"
    )
    asked = film_kind.asked_for(
        (wren.id, 1), talk, ("Pitcher 7", "The twin"), FilmWish("720", 30), figures=True, imperial=False, theme="light"
    )
    assert queue.ask("film", asked) and not queue.ask("film", asked)
    assert [(one.kind, one.about) for one in queue.standings()] == [("Make a film", "Pitcher 7 beside The twin")]
    work(team_address, None, "mill", wait=False)
    assert queue.standings() == []
    place = film_kind.film_place(orla, asked)
    with av.open(str(place)) as film_:
        assert film_.streams.video[0].width == 1280
    assert place.stat().st_mode & 0o777 == 0o660 and place.with_suffix(".vtt").is_file()
    queue.ask("film", asked)
    erase(orla, wren.athlete_id)
    assert list(place.parent.iterdir()) == [] and queue.standings() == []
