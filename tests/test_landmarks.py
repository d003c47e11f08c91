"""Landmarks from clips: the model in its process, people, optical flow, the ball, a moving camera, bursts."""

import json
import signal
from pathlib import Path

import av
import numpy as np
import pytest

from conftest import DEMO, simulated
from films import film
from test_marks import seen_from_side
from waxtwin.capture import pose
from waxtwin.capture.activity import find_bursts
from waxtwin.capture.ball import follow_ball
from waxtwin.capture.clip import ClipError, ClipReader
from waxtwin.capture.optical_flow import follow
from waxtwin.capture.people import Person, find_people, propose
from waxtwin.capture.pose import find_landmarks
from waxtwin.capture.steady import steady
from waxtwin.core.bursts import bursts
from waxtwin.core.camera import project
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import FLOW, MODEL, Marks
from waxtwin.core.steps import finish
from waxtwin.simulate.clips import cameras

CLIP = DEMO / "wren-tollander-side.mp4"
WINDOW = (470, 490)


@pytest.fixture(scope="module")
def times():
    with ClipReader(CLIP) as reader:
        return reader.times


def test_the_model_finds_the_body_where_it_is(times):
    shares: list[float] = []
    marks = finish(find_landmarks(CLIP, times, "R", frames=WINDOW), shares.append)
    assert shares[0] == 0 and shares[-1] == 1 and shares == sorted(shares)
    inside = slice(*WINDOW)
    assert marks.seen[inside][:, :20].all() and not marks.seen[:400].any()
    assert (marks.source[inside][:, :20] == MODEL).all() and (marks.confidence[inside][:, :20] > 0.3).mean() > 0.95
    true = seen_from_side().points
    off = np.linalg.norm(marks.points[inside][:, :20] - true[inside][:, :20], axis=-1)
    assert np.median(off) < 12  # pixels: under 5 cm on the body


def test_what_was_found_is_kept_and_gone_on_with(times, tmp_path, monkeypatch):
    monkeypatch.setattr(pose, "_processes", 2)
    assert pose.shared_out([3, 4, 9]) == [[3, 4], [9]] and pose.shared_out([3]) == [[3]]
    first = find_landmarks(CLIP, times, "R", frames=(470, 500), cache=tmp_path)
    for share in first:
        if share > 0.4:
            break
    first.close()  # cancelled: the worker must go, what it found must stay
    kept = next(tmp_path.glob("*.part"))
    already = kept.stat().st_size // pose.RECORD.itemsize
    assert already >= 12
    with kept.open("ab") as file:
        file.write(b"half a record")  # as a kill in mid-write leaves it
    second = find_landmarks(CLIP, times, "R", frames=(470, 500), cache=tmp_path)
    assert next(second) >= 0.4
    marks = finish(second)
    assert marks.seen[470:500, INDEX["drive_hip"]].all()
    shares: list[float] = []
    again = finish(find_landmarks(CLIP, times, "R", frames=(470, 500), cache=tmp_path), shares.append)
    assert shares == [1.0]  # nothing left to do
    np.testing.assert_array_equal(again.points, marks.points)


def test_a_worker_that_dies_is_told_and_the_rest_is_kept(times, tmp_path, monkeypatch):
    started = []
    real = pose._Worker

    class Watched(real):
        def __init__(self, *args):
            super().__init__(*args)
            started.append(self)

    monkeypatch.setattr(pose, "_Worker", Watched)
    work = find_landmarks(CLIP, times, "R", frames=(470, 520), cache=tmp_path)
    with pytest.raises(ClipError, match="what it had found is kept, and it can be started again"):
        for share in work:
            if share > 0.1:
                started[0].process.send_signal(signal.SIGKILL)
    assert next(tmp_path.glob("*.part")).stat().st_size >= 4 * pose.RECORD.itemsize


def test_left_handers_get_their_own_names(times):
    records = {0: np.zeros(1, pose.RECORD)[0]}
    records[0]["seen"] = 1
    records[0]["points"][16] = (7, 8, 0.9)  # the right wrist of the model
    for throws, name in (("R", "throwing_wrist"), ("L", "glove_wrist")):
        marks = pose.marks_from(records, times, throws)
        assert tuple(marks.points[0, INDEX[name]]) == (7, 8) and marks.confidence[0, INDEX[name]] == pytest.approx(0.9)


def two_people(path):
    """The pitcher, and beside him somebody (the same figure, standing still) who is larger in the picture."""
    with ClipReader(CLIP) as reader, av.open(str(path), "w") as out:
        still = reader.read(5)[100:640, 300:560, :3]
        stream = out.add_stream("libx264", rate=60)
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        stream.options = {"crf": "20", "preset": "ultrafast"}
        for k in range(380, 540, 10):
            picture = reader.read(k)[..., :3].copy()
            picture[100:640, 1000:1260] = still
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="bgr24")))
        out.mux(stream.encode())
    return path


def test_of_two_people_the_one_who_throws_is_proposed(tmp_path):
    told = []
    people = finish(find_people(two_people(tmp_path / "two.mp4"), 16, (1280, 720), looks=8, thorough=True), told.append)
    assert told == sorted(told) and len(set(told)) >= 12  # how far it is is said at every look
    assert len(people) >= 2
    assert people[0].boxes[:, 0].mean() < 800 and people[1].boxes[:, 0].mean() > 900
    reach = people[0].reach((1280, 720))
    assert reach is None or reach[2] < 1280
    assert people[1].box_at(0)[0] > 900


def test_who_moves_most_comes_first():
    still = Person(np.arange(8), np.tile([0, 0, 100, 400.0], (8, 1)), 0.01)
    moving = Person(np.arange(8), np.tile([300, 0, 400, 200.0], (8, 1)), 0.2)
    assert propose([still, moving])[0] is moving
    assert moving.reach((1000, 800)) == (230, 0, 470, 270)


# between frames set by hand ---------------------------------------------------------------------------------------
def test_flow_follows_a_landmark_between_two_frames_set_by_hand(times):
    true = seen_from_side().points
    j = INDEX["drive_ankle"]
    marks = Marks.empty(times)
    for frame in (452, 470):
        marks = marks.put(frame, j, *true[frame, j])
    found = finish(follow(CLIP, marks, j))
    inside = slice(452, 471)
    assert found.seen[inside, j].all() and (found.source[inside, j] == FLOW).all() and not found.seen[:452].any()
    assert np.abs(found.points[inside, j] - true[inside, j]).max() < 9
    merged = marks.merged(found, FLOW)
    assert tuple(merged.points[452, j]) == tuple(true[452, j])
    with pytest.raises(WaxTwinError, match="at least two frames"):
        finish(follow(CLIP, Marks.empty(times), j))


def test_the_ball_is_followed_from_one_click(times):
    release = json.loads((DEMO / "wren-tollander.truth.json").read_text())["events"]["release"]
    delivery, matrix = simulated("wren"), cameras("R")["side"].matrix
    from waxtwin.simulate.clips import ball_path

    ball, _ = project(matrix, ball_path(delivery, times, delivery.sample(times), release))
    frame = int(np.searchsorted(times, release))
    marks = Marks.empty(times).put(frame, INDEX["ball"], *ball[frame])
    found = finish(follow_ball(CLIP, marks))
    seen = np.flatnonzero(found.seen[:, INDEX["ball"]])
    assert {frame - 1, frame + 2, frame + 5} <= set(seen.tolist())  # between the fingers, and on its way
    off = np.linalg.norm(found.points[seen, INDEX["ball"]] - ball[seen], axis=1)
    assert off.max() < 12
    with pytest.raises(WaxTwinError, match="Click the ball"):
        finish(follow_ball(CLIP, Marks.empty(times)))


# the camera, the clip ---------------------------------------------------------------------------------------------
def shaken(path, frames=range(430, 470)):
    """The demo clip seen by a camera that pans and trembles; returns the true shift of every frame."""
    rng = np.random.default_rng(2)
    shift = np.round(np.stack([np.linspace(0, 60, len(frames)), rng.normal(0, 4, len(frames))], axis=1)).astype(int)
    shift[0] = 0
    with ClipReader(CLIP) as reader, av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=60)
        stream.width, stream.height, stream.pix_fmt = 1000, 600, "yuv420p"
        stream.options = {"crf": "16", "preset": "ultrafast"}
        for k, (dx, dy) in zip(frames, shift, strict=True):
            picture = reader.read(k)[60 + dy : 660 + dy, 120 + dx : 1120 + dx, :3]
            out.mux(stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgr24")))
        out.mux(stream.encode())
    return shift


def test_a_panning_camera_is_steadied(tmp_path):
    shift = shaken(tmp_path / "shaken.mp4")
    true = seen_from_side().points[430:470] - [120, 60] - shift[:, None]
    marks = Marks(np.arange(40) / 60, true, np.ones(true.shape[:2]), np.full(true.shape[:2], MODEL, np.uint8))
    found = finish(steady(tmp_path / "shaken.mp4", marks.boxes()))
    assert found.lost == 0 and found.travel > 45
    still = marks.moved(found.motion)
    assert np.nanmax(np.abs(still.points - (true + shift[:, None]))) < 2


def test_steadying_does_not_drift(tmp_path):
    shift = shaken(tmp_path / "long.mp4", range(120, 360))
    found = finish(steady(tmp_path / "long.mp4"))
    middle = np.array([500.0, 300.0])
    back = np.einsum("fij,fj->fi", found.motion[:, :, :2], middle - shift) + found.motion[:, :, 2]
    assert found.lost == 0 and np.abs(back - middle).max() < 1


def test_a_frame_that_cannot_be_decoded_stays_where_the_one_before_is(tmp_path, monkeypatch):
    shaken(tmp_path / "cut.mp4", range(120, 132))
    every = ClipReader.greys
    monkeypatch.setattr(ClipReader, "greys", lambda *which: (one for one in every(*which) if one[0] not in (5, 11)))
    found = finish(steady(tmp_path / "cut.mp4"))
    assert np.flatnonzero(found.held == 0).tolist() == [5, 11]
    assert (found.motion[5] == found.motion[4]).all() and (found.motion[11] == found.motion[10]).all()
    assert found.travel > 0


def test_a_background_without_anything_to_hold_on_to_is_told(tmp_path):
    path = tmp_path / "grey.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt = 320, 240, "yuv420p"
        for _ in range(10):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(np.full((240, 320, 3), 120, np.uint8), format="bgr24")))
        out.mux(stream.encode())
    found = finish(steady(path))
    assert found.lost == pytest.approx(0.9) and found.travel == 0


def test_bursts_are_proposed_one_per_throw():
    rng = np.random.default_rng(0)
    times = np.arange(0, 40, 0.04)
    activity = 1 + 0.1 * rng.standard_normal(times.size)
    for at in (8.0, 20.0, 33.0):
        activity[(times > at) & (times < at + 1.2)] += 5
    found = bursts(times, activity)
    assert len(found) == 3
    for (first, last), at in zip(found, (8.0, 20.0, 33.0), strict=True):
        assert first < at - 1 and at + 1.2 < last < at + 3
    assert bursts(times, np.ones(times.size)) == [] and bursts(times[:3], activity[:3]) == []


def test_bursts_in_a_real_clip(tmp_path):
    path = tmp_path / "long.mp4"
    with ClipReader(CLIP) as reader, av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=24)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        quiet, throw = [10] * 96, list(range(300, 560, 8))
        small = {k: np.ascontiguousarray(reader.read(k)[::4, ::4, :3]) for k in (10, *throw)}
        for k in (*quiet, *throw, *quiet, *throw, *quiet):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(small[k], format="bgr24")))
        out.mux(stream.encode())
    found = finish(find_bursts(path))
    assert len(found) == 2
    for (first, last), begin in zip(found, (96 / 24, (96 * 2 + len(throw)) / 24), strict=True):
        assert first <= begin + 0.3 and last >= begin + len(throw) / 24 - 0.6


# footage that nobody here made -------------------------------------------------------------------------------------
STREET = Path("/usr/share/doc/opencv-doc/examples/data/vtest.avi")


@pytest.mark.skipif(not STREET.is_file(), reason="real footage comes with Debian's opencv-doc, which is not installed")
def test_real_footage_of_people_is_stepped_exactly_and_people_are_found():
    with ClipReader(STREET) as reader:
        assert reader.times.size > 500
        forward = [reader.read(k).tobytes() for k in range(40, 60)]
        for k in (59, 41, 55, 40, 48):
            assert reader.read(k).tobytes() == forward[k - 40]
        assert len(set(forward)) > 15
        size, count = reader.size, reader.times.size
    assert len(finish(find_people(STREET, count, size, looks=4, thorough=True))) >= 2


def test_a_clip_of_nothing_has_no_people(tmp_path):
    assert finish(find_people(film(tmp_path / "n.mp4", count=8), 8, (320, 96), looks=2)) == []
