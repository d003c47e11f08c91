"""Every frame asked for is the frame got, whatever the codec and container do to times and order."""

import numpy as np
import pytest

from films import begun_later, film, number_of, turned
from waxtwin.capture.clip import ClipReader, clip_facts

CASES = {
    "h264 B-frames": ("a.mp4", {"bf": "3", "g": "24"}),
    "h264 open GOP": ("a.mp4", {"bf": "3", "g": "20", "x264-params": "open-gop=1:keyint=20:min-keyint=20"}),
    "h264 intra refresh": ("a.mp4", {"x264-params": "intra-refresh=1:keyint=20"}),
    "h264 all intra": ("a.mov", {"g": "1"}),
    "h264 one keyframe": ("a.mkv", {"g": "500", "bf": "2"}),
    "h264 in AVI with B-frames": ("a.avi", {"bf": "2", "g": "24"}),
    "h264 in AVI": ("a.avi", {"bf": "0", "g": "24"}),
    "h264 10 bit": ("a.mp4", {"pixels": "yuv420p10le"}),
    "h264 variable rate": ("a.mp4", {"steps": (7, 23, 10), "bf": "2"}),
    "h264 variable rate mkv": ("a.mkv", {"steps": (7, 23, 10)}),
    "h264 late start": ("a.mp4", {"first": 37, "bf": "2"}),
    "hevc open GOP": ("a.mp4", {"codec": "libx265", "x265-params": "open-gop=1:keyint=20:bframes=3:log-level=none"}),
    "MPEG-TS": ("a.ts", {"bf": "2", "g": "20"}),
    "mpeg4 B-frames": ("a.mp4", {"codec": "mpeg4", "bf": "2", "g": "15"}),
    "mpeg4 B-frames AVI": ("a.avi", {"codec": "mpeg4", "bf": "2", "g": "15"}),
    "mjpeg": ("a.avi", {"codec": "mjpeg", "pixels": "yuvj420p"}),
    "vp9": ("a.webm", {"codec": "libvpx-vp9", "g": "20", "deadline": "realtime", "cpu-used": "8"}),
    "vp8": ("a.webm", {"codec": "libvpx", "g": "20", "deadline": "realtime", "cpu-used": "8"}),
    "with sound": ("a.mp4", {"sound": True}),
    "odd size": ("a.mp4", {"pixels": "yuv444p", "size": (321, 97)}),
}


@pytest.mark.parametrize("name", CASES)
def test_every_jump_and_step_is_exact(tmp_path, name):
    file, options = CASES[name]
    with ClipReader(film(tmp_path / file, **options)) as reader:
        assert reader.times.size == 60 and (np.diff(reader.times) > 0).all()
        order = np.random.default_rng(1).permutation(60)
        for k in [*order, *range(59, 40, -1), *range(20), 59, 0]:
            assert number_of(reader.read(int(k))) == k


@pytest.mark.parametrize("cut", [7, 24, 31])
def test_a_clip_trimmed_by_its_edit_list_begins_where_that_says(tmp_path, cut):
    with ClipReader(begun_later(film(tmp_path / "a.mp4", bf="2", g="24"), cut)) as reader:
        assert reader.times.size == 60 - cut and reader.times[0] == pytest.approx(0, abs=1e-3)
        for k in np.random.default_rng(2).permutation(60 - cut):
            assert number_of(reader.read(int(k))) == k + cut


@pytest.mark.parametrize("turns", [1, 2, 3])
def test_a_turned_phone_is_shown_upright(tmp_path, turns):
    with ClipReader(turned(film(tmp_path / "a.mp4", count=12), turns)) as reader:
        assert reader.size == ((96, 320) if turns % 2 else (320, 96))
        picture = reader.read(7)
        # the display matrix turns clockwise: turned back, the number reads again
        assert number_of(np.rot90(picture, turns)) == 7
        assert reader.facts.rotation != 0
        for k, grey in reader.greys(1.0):
            assert number_of(np.rot90(np.dstack([grey] * 3), turns)) == k


def test_times_of_a_variable_rate_are_its_own(tmp_path):
    with ClipReader(film(tmp_path / "a.mp4", steps=(7, 23, 10))) as reader:
        assert reader.times[:4] == pytest.approx([0, 7 / 600, 30 / 600, 40 / 600], abs=1e-4)
        assert not reader.facts.even


def test_facts_tell_play_rate_and_capture_rate(tmp_path):
    facts = clip_facts(film(tmp_path / "a.mp4", rate=30, metadata={"com.android.capture.fps": "240.000000"}))
    assert facts.rate == pytest.approx(30, rel=0.01) and facts.captured == 240 and facts.even and facts.whole
    assert clip_facts(film(tmp_path / "b.mp4", pixels="yuv420p10le")).bits == 10
    assert clip_facts(film(tmp_path / "c.mp4", sound=True)).sound
    assert clip_facts(film(tmp_path / "d.mp4")).captured is None
