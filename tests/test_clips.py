"""Clips: the exact frame by presentation time, a bounded cache, faults, and a person to be seen."""

import threading
from datetime import date
from fractions import Fraction

import av
import numpy as np
import pytest

from conftest import DEMO
from films import film
from waxtwin.capture.clip import ClipError, ClipReader
from waxtwin.capture.clip_tags import filmed, tags_of
from waxtwin.capture.frames import FrameStore
from waxtwin.capture.people import find_people
from waxtwin.core.steps import finish
from waxtwin.library.importing import bring_one
from waxtwin.library.stored import load
from waxtwin.library.throws import fetch

CLIP = DEMO / "wren-tollander-side.mp4"


def numbered(path, count=60, bf=2, gop=24, steps=None):
    """A clip whose frame k is a grey of 3k + 20."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=Fraction(60))
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        stream.options = {"bf": str(bf), "g": str(gop), "crf": "8"}
        stream.time_base = Fraction(1, 600)
        at = 0
        for k in range(count):
            frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 3 * k + 20, np.uint8), format="rgb24")
            frame.pts, frame.time_base = at, Fraction(1, 600)
            at += (steps or [10])[k % len(steps or [10])]
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path


@pytest.mark.parametrize(("tags", "day"), [
    ({"com.apple.quicktime.creationdate": "2026-03-12T23:30:00-0500"}, "2026-03-12"),
    ({"creation_time": "2026-03-12T15:04:11.000000Z", "com.android.version": "14"}, "2026-03-12"),
    ({"creation_time": "2026-03-12T15:04:11.000000Z"}, None),  # by whatever program wrote it last
    ({"com.apple.quicktime.creationdate": "1904-01-01T00:00:00Z"}, None),
    ({"com.apple.quicktime.creationdate": "2031-01-01T00:00:00Z"}, None),
    ({"com.apple.quicktime.creationdate": "soon"}, None),
])  # fmt: skip
def test_a_clip_is_of_the_day_that_its_camera_wrote_into_it(tags, day):
    assert filmed(tags_of(tags), date(2026, 11, 30)) == day


def test_the_cameras_day_is_the_throws_unless_somebody_says_another(tmp_path, library):
    made = {"com.apple.quicktime.creationdate": "2026-03-12T16:04:11+0100"}
    for name in ("phone", "noted"):
        film(tmp_path / f"{name}.mp4", count=20, rate=60 if name == "phone" else 30, metadata=made)
    (tmp_path / "noted.delivery.json").write_text('{"recorded": "2026-03-10"}')
    days = [
        fetch(library, bring_one(library, tmp_path / f"{name}.mp4").key).sidecar.recorded for name in ("phone", "noted")
    ]
    assert days == ["2026-03-12", "2026-03-10"]


def shade(picture):
    return (float(picture[..., :3].mean()) - 20) / 3


@pytest.mark.parametrize("options", [{}, {"bf": 0, "gop": 1}, {"gop": 250}, {"steps": [7, 23, 10]}], ids=str)
@pytest.mark.parametrize("suffix", [".mp4", ".mkv"])
def test_every_jump_shows_the_exact_frame(tmp_path, options, suffix):
    reader = ClipReader(numbered(tmp_path / f"n{suffix}", **options))
    assert reader.times.size == 60 and (np.diff(reader.times) > 0).all()
    order = np.random.default_rng(0).permutation(60)
    for k in [*order, 59, 58, 57, 0, 1, 2]:
        assert shade(reader.read(int(k))) == pytest.approx(k, abs=0.7)
    reader.close()


def test_nearest_frame_is_the_one_on_show(tmp_path):
    reader = ClipReader(numbered(tmp_path / "n.mp4"))
    assert reader.nearest(-1) == 0 and reader.nearest(99) == 59
    assert reader.nearest(10 / 60 + 0.001) == 10 and reader.nearest(11 / 60 - 0.001) == 10
    reader.close()


def test_truncated_clip_keeps_what_is_whole(tmp_path):
    whole = numbered(tmp_path / "n.mkv").read_bytes()
    (tmp_path / "cut.mkv").write_bytes(whole[: len(whole) * 2 // 3])
    reader = ClipReader(tmp_path / "cut.mkv")
    assert 5 < reader.times.size < 60
    assert shade(reader.read(3)) == pytest.approx(3, abs=0.7)
    reader.close()


@pytest.mark.parametrize("content", [b"", b"not a film", bytes(range(256)) * 40])
def test_no_clip_is_one_sentence(tmp_path, content):
    path = tmp_path / "x.mp4"
    path.write_bytes(content)
    with pytest.raises(ClipError, match=r"^x\.mp4: "):
        ClipReader(path)


def test_store_answers_from_cache_and_stays_bounded():
    came = threading.Event()
    store = FrameStore(CLIP, lambda i: came.set() if i >= 0 else None, cache_bytes=30 * 1280 * 720 * 4)
    try:
        for index in (300, 20, 500):
            came.clear()
            if store.frame(index) is None:
                assert came.wait(20)
            picture = store.frame(index)
            assert picture is not None and picture.shape == (720, 1280, 4)
        assert store.held <= 30
    finally:
        store.close()


def test_model_sees_the_pitcher_in_the_demo_clip():
    people = finish(find_people(CLIP, 669, (1280, 720), looks=8))
    assert len(people) == 1 and people[0].frames.size == 8


def test_clip_without_a_person_has_nobody(tmp_path):
    assert finish(find_people(numbered(tmp_path / "empty.mp4", count=12), 12, (64, 48), looks=3)) == []


def test_clip_finds_the_track_that_names_it():
    assert load(CLIP).origin == "wren-tollander.csv"
