"""The film of a talk, decoded again: its pictures, its sound, its captions, and what stays of one that fails."""

from __future__ import annotations

import errno
import subprocess
from dataclasses import asdict, replace

import av
import numpy as np
import pytest

from conftest import DEMO
from waxtwin.core.chalk import Chalk, End
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import finish
from waxtwin.formats.files import FormatError
from waxtwin.formats.talk import CARD, SOUND_RATE, Instant, Moment, Point, Scene, Spoken, Talk
from waxtwin.library.chalk import with_chalk
from waxtwin.library.stored import load
from waxtwin.simulate.voice import made_up_voice
from waxtwin.talk.sound import TakeWriter
from waxtwin.talk.timeline import placed
from waxtwin.ui.rooms.talk.film_frame import SHAPES, FilmFrames
from waxtwin.ui.rooms.talk.film_job import film
from waxtwin.ui.rooms.talk.film_making import FilmWish, make_film, pixels
from waxtwin.ui.rooms.talk.film_stages import FilmPair, FilmStages
from waxtwin.ui.rooms.talk.film_worker import FilmJob

TITLES = ("wren-tollander", "ines-corvane")
SLOW = Moment(here=Instant(stop="release", plus=-0.1), until=Instant(stop="release"), rate=0.125, shown={
    "display": {"shown": "figure"}, "selected": "release_trunk_tilt"})  # fmt: skip
STILL = Moment(here=Instant(stop="foot_contact"), shown={"display": {"shown": "clip"}})
RIM = (21, 24, 27)  # of every card


@pytest.fixture(scope="module")
def pair():
    from waxtwin.core.contrast import analyse_alike, contrast

    stored = dict(zip(("athlete", "twin"), (load(DEMO / f"{title}.csv") for title in TITLES), strict=True))
    return FilmPair(stored, contrast(*analyse_alike([one.delivery for one in stored.values()])))


@pytest.fixture(scope="module")
def talk(tmp_path_factory):
    folder = tmp_path_factory.mktemp("takes")
    writer = TakeWriter(folder / "v.wav")
    silence = np.zeros(SOUND_RATE // 2, np.float32)
    writer.add(np.concatenate([silence, made_up_voice(1.0, SOUND_RATE), silence]))
    writer.close()
    heard = Spoken(file="v.wav", end=2.0)
    return folder, Talk(title="Wren Tollander: a talk", athlete="Pitcher 7", scenes=(
        Scene(id="a", moments=(STILL,), caption="First <b>words</b>.", title="Landing"),
        Scene(id="b", kind=CARD, title="Left out", hidden=True),
        Scene(id="c", moments=(SLOW,), takes=(heard,), take=0, caption="שלום",
              pointer=tuple(Point(at=n / 30, x=0.0, y=-0.6, body=True) for n in range(15))),
        Scene(id="d", kind=CARD, title="Gone", hidden=True, takes=(heard,), take=0),
        Scene(id="e", moments=(STILL,), takes=(heard,), take=0),
    ))  # fmt: skip


@pytest.fixture(scope="module")
def made(qapp, pair, talk, tmp_path_factory):
    from waxtwin.ui.shared import theme
    from waxtwin.ui.shared.application import application

    application()
    theme.apply("light")
    path = tmp_path_factory.mktemp("film") / "out.mp4"
    finish(make_film(talk[1], pair, talk[0], path, FilmWish()))
    return path


def painted(pair, talk, shape: str, time: float) -> np.ndarray:
    """What the film shows at an instant, painted anew."""
    stages = FilmStages(pair)
    try:
        frames = FilmFrames(talk, stages, SHAPES[shape], burned=True)
        scene = [one for one in placed(talk) if one.start <= time][-1]
        return pixels(frames.at(scene, time))[..., :3].astype(int)
    finally:
        stages.close()


def test_a_frame_is_the_stages_as_they_are_at_that_instant(made, pair, talk):
    wanted = {0: 0.0, 40: 40 / 30, 90: 3.0, 100: 100 / 30}
    with av.open(str(made)) as found:
        shown = {
            n: frame.to_ndarray(format="bgr24").astype(int)
            for n, frame in enumerate(found.decode(video=0))
            if n in wanted
        }
        assert found.streams.video[0].average_rate == 30 and found.streams.video[0].frames == round(
            placed(talk[1])[-1].end * 30
        )
    images = {n: painted(pair, talk[1], "720", time) for n, time in wanted.items()}
    for n in wanted:
        assert np.abs(shown[n] - images[n]).mean() < 3.0, n
    others = [np.abs(shown[90] - images[n]).mean() for n in (0, 100)]
    assert min(others) > 2 * np.abs(shown[90] - images[90]).mean()  # and of no other instant


def test_sound_begins_where_it_was_spoken_after_scenes_were_left_out(made, talk):
    with av.open(str(made)) as found:
        heard = np.concatenate([frame.to_ndarray()[0] for frame in found.decode(audio=0)])
        assert found.streams.audio[0].start_time == 0
    starts = [one.start + 0.5 for one in placed(talk[1]) if one.scene.spoken]
    for start in starts:
        around = np.abs(heard[round((start - 0.3) * SOUND_RATE) : round((start + 0.3) * SOUND_RATE)])
        assert np.argmax(around > 0.02) / SOUND_RATE - 0.3 == pytest.approx(0.0, abs=0.02)
    assert len(heard) / SOUND_RATE == pytest.approx(placed(talk[1])[-1].end, abs=1 / 30)


def test_captions_chapters_and_the_file_beside(made, talk):
    with av.open(str(made)) as found:
        assert [one["metadata"]["title"] for one in found.chapters()] == ["Landing", "שלום", "Scene 3"]
        said = [bytes(packet).decode()[2:] for packet in found.demux(found.streams.subtitles[0]) if packet.size > 2]
        assert said == ["First <b>words</b>.", "שלום"] and found.metadata["title"] == "Pitcher 7: a talk"
    beside = made.with_suffix(".vtt").read_text()
    assert beside.startswith("WEBVTT\n") and "First &lt;b&gt;words&lt;/b&gt;." in beside
    assert "00:00:00.000 --> 00:00:02.500" in beside and "00:00:02.500 --> 00:00:04.500\nשלום" in beside


def test_an_upright_film_has_nothing_cut(qapp, pair, talk):
    wide, tall = SHAPES["phone"].pixels
    assert (wide, tall) == (1080, 1920)
    stages = FilmStages(pair)
    frames = FilmFrames(talk[1], stages, SHAPES["phone"], burned=True)
    boxes, seam = frames.boxes()
    assert boxes["athlete"].bottom() < boxes["twin"].top() and boxes["twin"].bottom() <= seam.top()
    assert all(box.left() >= 0 and box.right() <= SHAPES["phone"].wide for box in (*boxes.values(), seam))
    stages.close()
    long = Talk(scenes=(Scene(id="a", kind=CARD, title="T " * 60, lines=("words " * 60,) * 8),
                        Scene(id="b", moments=(STILL,), caption="words and more words " * 30)))  # fmt: skip
    card = painted(pair, long, "phone", 1.0)
    rims = (card[:30], card[-30:], card[:, :30], card[:, -30:])
    assert all((rim == RIM[::-1]).all() for rim in rims) and (card != RIM[::-1]).any()
    strip = painted(pair, long, "phone", 13.0)[-round(SHAPES["phone"].words * 1.5) :]
    assert (
        all((rim == RIM[::-1]).all() for rim in (strip[-4:], strip[:, :30], strip[:, -30:]))
        and (strip != RIM[::-1]).any()
    )


def test_under_other_names_a_further_twin_is_nobody_by_name(qapp, pair):
    stages = FilmStages(replace(pair, others={"twin2": load(DEMO / "juno-wexcombe.csv")}))
    sides = ("athlete", "twin", "twin2")
    for talk, names in (
        (Talk(), ["Wren Tollander", "Ines Corvane", "Juno Wexcombe"]),
        (Talk(athlete="Wren Tollander"), ["Wren Tollander", "Ines Corvane", "Juno Wexcombe"]),
        (Talk(athlete="Pitcher 7", twin="The twin"), ["Pitcher 7", "The twin", "twin 2"]),
    ):
        frames = FilmFrames(talk, stages, SHAPES["720"], burned=True)
        assert [frames.name_of(side) for side in sides] == names
    stages.close()


def test_a_stop_that_is_gone_is_told_in_the_film(qapp, pair):
    lost = {side: replace(analysis, events={k: v for k, v in analysis.events.items() if k != "max_layback"})
            for side, analysis in (("athlete", pair.contrast.athlete), ("twin", pair.contrast.twin))}  # fmt: skip
    less = replace(pair, contrast=replace(pair.contrast, **lost))
    gone = Talk(scenes=(Scene(id="a", moments=(Moment(here=Instant(stop="max_layback")),)),))
    shown, whole = painted(less, gone, "720", 0.5), painted(pair, gone, "720", 0.5)
    assert (shown[:20] == RIM[::-1]).all() and (shown != RIM[::-1]).any() and not (whole[:20] == RIM[::-1]).all()


def test_marks_second_views_and_figures_alone_are_as_they_were_on_the_desk(qapp, pair):
    mark = asdict(Chalk("a", "line", (End("pelvis"), End("chest")), 0.0))
    marked = replace(pair, stored={side: with_chalk(one, [mark]) for side, one in pair.stored.items()})

    def shown(of, **parts):
        moment = Moment(here=Instant(stop="foot_contact"), shown=parts)
        return painted(of, Talk(scenes=(Scene(id="a", moments=(moment,)),)), "720", 0.5)

    plain = shown(pair)
    assert (shown(marked, marks=True) != plain).any() and (shown(marked, marks=False) == plain).all()
    assert np.abs(shown(pair, display={"double": True}) - plain).mean() > 10
    bare = shown(replace(pair, figures=True), display={"shown": "clip"})
    assert (bare == shown(pair, display={"shown": "figure"})).all() and (bare != plain).any()
    both = Talk(scenes=(Scene(id="a", moments=(STILL,)),), athlete="Somebody")
    assert (painted(pair, both, "720", 0.5) != painted(pair, both.but(athlete="Nobody"), "720", 0.5)).any()


def test_a_film_whose_process_is_killed_is_told(qapp, pair, talk, tmp_path, monkeypatch):
    begun = []
    real = subprocess.Popen
    monkeypatch.setattr(subprocess, "Popen", lambda *a, **k: begun.append(real(*a, **k)) or begun[-1])
    steps = film(FilmJob(Talk(scenes=talk[1].scenes[:3]), pair, talk[0], tmp_path / "out.mp4", FilmWish(fps=60)))
    next(steps)
    begun[0].kill()
    with pytest.raises(WaxTwinError, match=r"^out\.mp4: the film was not finished, and nothing was written$"):
        finish(steps)
    assert not list(tmp_path.iterdir())


def test_a_film_that_cannot_be_finished_leaves_the_old_file(qapp, pair, talk, tmp_path, monkeypatch):
    short, path = Talk(scenes=talk[1].scenes[:1]), tmp_path / "out.mp4"
    path.write_bytes(b"the film of last month")

    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("waxtwin.report.film._in_blocks", full)
    with pytest.raises(FormatError, match=r"out\.mp4: it cannot be written \(No space left on device\)"):
        finish(make_film(short, pair, talk[0], path, FilmWish()))
    job = film(FilmJob(short, pair, talk[0], path, FilmWish()))
    for _ in range(2):
        next(job)
    job.close()  # cancelled on the way
    assert path.read_bytes() == b"the film of last month" and [one.name for one in tmp_path.iterdir()] == ["out.mp4"]
