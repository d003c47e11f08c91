"""Talks as data: reading and writing, cutting what was spoken in one go, editing, captions, and even voices."""

from __future__ import annotations

import json

import numpy as np
import pytest

from waxtwin.capture.voice import MADE_UP, Recorder, VoiceError, microphones
from waxtwin.core.steps import finish
from waxtwin.formats.files import FormatError
from waxtwin.formats.talk import (
    CARD,
    SOUND_RATE,
    Instant,
    Moment,
    Point,
    Scene,
    Spoken,
    Talk,
    read_talk,
    write_talk,
)
from waxtwin.simulate.voice import made_up_voice
from waxtwin.talk import edits
from waxtwin.talk.captions import captions_of, pieces, web_captions
from waxtwin.talk.cutting import Recording, scenes_of
from waxtwin.talk.sound import TakeWriter, lost_takes, loudness, samples, silences, take_in, under, without_lost
from waxtwin.talk.timeline import clock_at, missing_stops, moment_at, placed, pointer_at

EVENTS = {"foot_contact": 2.0, "release": 2.15}


def held(stop: str, at: float = 0.0) -> Moment:
    return Moment(at=at, here=Instant(stop=stop))


def scene(key: str = "a", **parts) -> Scene:
    return Scene(**({"id": key, "moments": (held("release"),)} | parts))


def voice(path, seconds: float, level: float = 1.0):
    writer = TakeWriter(path)
    writer.add(level * made_up_voice(seconds, SOUND_RATE))
    writer.close()
    return path


# the document -----------------------------------------------------------------------------------------------------
def test_a_talk_is_read_as_it_was_written(tmp_path):
    talk = Talk(title="Ünnamed ✓", scenes=(
        scene(takes=(Spoken(file="a.wav", start=1, end=3),), take=0, pointer=(Point(at=0.1, x=0.2, y=-0.4, body=True),)),
        Scene(id="b", kind=CARD, lines=("<b>as typed</b>",), hidden=True),
    ))  # fmt: skip
    path = tmp_path / "one.talk.json"
    write_talk(talk, path)
    assert read_talk(path) == talk
    with pytest.raises(FormatError, match=r"one\.json: a talk is written as NAME\.talk\.json"):
        write_talk(talk, tmp_path / "one.json")


@pytest.mark.parametrize(("change", "said"), [
    ({"version": 2}, "made by a newer Wax Twin"),
    ({"scenes": [{"id": "a", "moments": []}]}, "says what is shown"),
    ({"scenes": [{"id": "a", "kind": "card"}, {"id": "a", "kind": "card"}]}, "share an id"),
    ({"scenes": [{"id": "a", "kind": "card", "takes": [{"file": "../x.wav", "end": 1}]}]}, "without folders"),
    ({"scenes": [{"id": "a", "kind": "card", "takes": [{"file": "x.wav", "start": 2, "end": 1}]}]}, "ends before it begins"),
    ({"scenes": [{"id": "a", "moments": [{"here": {"stop": "lunch"}}]}]}, "no stop named lunch"),
    ({"scenes": [{"id": "a", "kind": "card", "caption": "x" * 10_001}]}, "10000"),
])  # fmt: skip
def test_a_damaged_talk_is_one_sentence(tmp_path, change, said):
    path = tmp_path / "bad.talk.json"
    path.write_text(json.dumps(change))
    with pytest.raises(FormatError, match=r"^bad\.talk\.json: .*" + said):
        read_talk(path)


def test_a_scene_stands_as_long_as_its_voice_or_as_its_words_take_to_read():
    assert scene(caption="x" * 150).seconds == pytest.approx(10.0)
    assert scene(caption="short").seconds == 2.5
    assert scene(caption="x" * 150, takes=(Spoken(file="a.wav", end=4),), take=0).seconds == 4.0
    assert scene(length=6.0, takes=(Spoken(file="a.wav", end=4),), take=0).seconds == 6.0


def test_what_a_scene_shows_follows_a_stop_that_was_moved():
    slow = Moment(at=1.0, here=Instant(stop="release", plus=-0.1), until=Instant(stop="release", plus=0.1), rate=0.125)
    assert clock_at(slow, 1.8, EVENTS) == pytest.approx(2.15)
    assert clock_at(slow, 9.0, EVENTS) == pytest.approx(2.25)
    assert clock_at(slow, 1.8, EVENTS | {"release": 2.2}) == pytest.approx(2.2)
    assert clock_at(slow, 1.8, {}) is None
    assert missing_stops(scene(moments=(slow,)), {"foot_contact": 2.0}, EVENTS) == ("release",)


# recorded in one go -------------------------------------------------------------------------------------------------
def test_what_was_spoken_is_cut_where_a_stop_is_held_and_where_nothing_is_said():
    shown = (held("foot_contact"), held("release", 4.0), Moment(at=6.0, here=Instant(stop="release"), rate=0.25))
    points = (Point(at=4.5, x=0.1, y=0.1), Point(at=4.6, x=0.2, y=0.1), Point(at=4.7, x=0.2, y=0.1, on=False))
    found = scenes_of(Recording(shown, points, 12.0, "v.wav"), [(3.6, 4.5), (8.0, 9.0)])
    assert [round(one.seconds, 6) for one in found] == [4.0, 4.5, 3.5]  # the silence beside the held stop gives way
    assert [one.title for one in found] == ["Front foot touches", "Release", "In motion"]
    assert [(one.spoken.start, one.spoken.end) for one in found] == [(0.0, 4.0), (4.0, 8.5), (8.5, 12.0)]
    assert found[1].pointer[0].at == pytest.approx(0.5) and not found[0].pointer
    last = found[2].moments[0]  # goes on where the cut was, not where the playing began
    assert clock_at(last, 0.0, EVENTS) == pytest.approx(2.15 + 0.25 * 2.5)


def test_silences_are_found_whatever_the_level(tmp_path):
    for level in (0.05, 1.0):
        spoken = samples(voice(tmp_path / "v.wav", 9.0, level))
        [first, *_] = silences(spoken)
        assert first == pytest.approx((3.65, 4.75), abs=0.2)  # between two of its phrases
        assert not silences(spoken[: SOUND_RATE * 2])
    assert silences(np.zeros(0, np.float32)) == []


# editing ------------------------------------------------------------------------------------------------------------
def test_scenes_are_moved_cut_hidden_and_spoken_anew():
    talk = Talk(scenes=tuple(scene(key, title=key) for key in "abc"))
    assert [one.id for one in edits.moved(talk, "a", 1).scenes] == ["b", "a", "c"]
    assert [one.id for one in edits.moved(talk, "c", 9).scenes] == ["a", "b", "c"]
    assert [one.id for one in edits.changed(talk, "b", hidden=True).wanted] == ["a", "c"]
    once = edits.spoken(talk, "b", Spoken(file="x.wav", end=5))
    twice = edits.spoken(once, "b", Spoken(file="y.wav", end=3))
    assert twice.scene("b").seconds == 3 and edits.changed(twice, "b", take=0).scene("b").seconds == 5
    assert twice.files == {"x.wav", "y.wav"}
    cut = edits.cut(once, "b", 2.0)
    assert [one.id for one in cut.scenes] == ["a", "b", "s1", "c"] and cut.scene("s1").spoken.start == 2.0
    assert sum(one.seconds for one in cut.scenes) == pytest.approx(sum(one.seconds for one in once.scenes))
    with pytest.raises(edits.TalkError, match="somewhere within"):
        edits.cut(once, "b", 4.95)
    with pytest.raises(edits.TalkError, match="no voice"):
        edits.trimmed(talk, "a", 0, 1)
    assert edits.trimmed(once, "b", 1.0, 4.0).scene("b").seconds == 3.0
    with pytest.raises(ValueError, match="not among its takes"):
        edits.changed(talk, "a", take=3)


def test_under_other_names_no_word_of_a_talk_has_the_own_ones():
    scenes = (
        Scene(
            id="a",
            kind=CARD,
            title="Wren Tollander beside Ines Corvane",
            lines=("wren tollander beside Ines Corvane, Ines",),
        ),
        Scene(id="b", kind=CARD, title="x" * 200, caption="Ines Corvane (.*), Juno Wexcombe"),
    )
    own = {"athlete": "Wren Tollander", "twin": "Ines Corvane", "twin2": "Juno Wexcombe"}
    talk = Talk(title="Wren Tollander now", scenes=scenes)
    assert (
        edits.under_names(talk, own)
        == talk
        == edits.under_names(talk.but(athlete="Wren Tollander"), own).but(athlete="")
    )
    found = edits.under_names(talk.but(athlete="Ines Corvane the younger", twin="The twin"), own)
    assert (
        found.title == "Ines Corvane the younger now"
        and found.scenes[0].title == "Ines Corvane the younger beside The twin"
    )
    assert found.scenes[0].lines == ("Ines Corvane the younger beside The twin, Ines",)
    assert found.scenes[1].caption == "The twin (.*), twin 2" and len(found.scenes[1].title) == 200
    wordy = Talk(athlete="y" * 120, scenes=(Scene(id="a", kind=CARD, title="Wren Tollander, " * 8),))
    assert edits.under_names(wordy, own).scenes[0].title.startswith("y" * 120 + ", yyy")


def test_the_pointer_goes_between_its_places_and_is_gone_when_it_rests():
    one = scene(pointer=tuple(Point(at=n / 30, x=n / 30, y=0) for n in range(4)), length=2.0)
    assert pointer_at(one, 0.05).x == pytest.approx(0.05)
    assert pointer_at(one, 0.5) is None and moment_at(one, 1.0) is one.moments[0]


# captions -------------------------------------------------------------------------------------------------------------
def test_captions_are_words_whatever_they_hold():
    said = "A <b>bold</b> & {\\an8} word\n-->\nשלום לכולם " + "long " * 1980
    film = placed(Talk(scenes=(scene(caption=said),)))
    shown = captions_of(film[0])
    assert all(len(line) <= 64 for one in shown for line in one.text.split("\n")) and len(shown) > 50
    assert shown[0].start == 0 and shown[-1].end == pytest.approx(film[0].end)
    blocks = web_captions(film).strip().split("\n\n")
    assert blocks[0] == "WEBVTT" and len(blocks) == len(shown) + 1
    for block in blocks[1:]:
        _, times, *text = block.split("\n")
        assert times.count("-->") == 1 and not any("<" in line or "-->" in line for line in text)
    assert pieces("") == []


# voices -----------------------------------------------------------------------------------------------------------------
def k_weighted(x: np.ndarray) -> float:
    """LUFS after ITU-R BS.1770-4, of one channel at 48 kHz: another way than the media library's filter."""
    from scipy.signal import lfilter  # over a second to import, in each process that collects

    x = lfilter([1.53512485958697, -2.69169618940638, 1.19839281085285], [1, -1.69065929318241, 0.73248077421585], x)
    x = lfilter([1, -2, 1], [1, -1.99004745483398, 0.99007225036621], x)
    blocks = np.lib.stride_tricks.sliding_window_view(x, 19200)[::4800]
    power = np.mean(np.square(blocks), axis=1)
    level = -0.691 + 10 * np.log10(power + 1e-12)
    heard = power[level > -70]
    gate = -0.691 + 10 * np.log10(heard.mean()) - 10
    return float(-0.691 + 10 * np.log10(power[(level > -70) & (level > gate)].mean()))


def test_voices_of_any_level_come_to_one_loudness_and_never_too_high(tmp_path):
    takes = {"soft.wav": 0.08, "loud.wav": 2.2}
    for name, level in takes.items():
        voice(tmp_path / name, 8.0, level)
    talk = Talk(scenes=tuple(scene(name[0], takes=(Spoken(file=name, end=8),), take=0) for name in takes))
    for block in under(placed(talk), tmp_path):
        assert k_weighted(block) == pytest.approx(-16.0, abs=1.0)
        assert np.abs(np.interp(np.arange(0, len(block), 0.25), np.arange(len(block)), block)).max() < 10 ** (-1.5 / 20)
    assert loudness([np.zeros(SOUND_RATE, np.float32)]) is None
    voice(tmp_path / "short.wav", 0.05)
    [block] = under(placed(Talk(scenes=(scene(takes=(Spoken(file="short.wav", end=0.05),), take=0),))), tmp_path)
    assert len(block) == round(0.05 * SOUND_RATE) and np.isfinite(block).all()  # too short to be measured


def test_a_take_that_is_gone_leaves_its_words(tmp_path):
    talk = Talk(scenes=(scene("a", caption="Words.", takes=(Spoken(file="gone.wav", end=9),), take=0),))
    assert lost_takes(talk, tmp_path) == ["gone.wav"] and without_lost(talk, tmp_path).scenes[0].seconds == 2.5
    with pytest.raises(FormatError, match=r"gone\.wav: this take is not there any more"):
        list(under(placed(talk), tmp_path))


def test_any_sound_file_becomes_a_take(tmp_path):
    import av

    source = tmp_path / "memo.m4a"
    with av.open(str(source), "w") as out:
        stream = out.add_stream("aac", rate=44_100)
        frame = av.AudioFrame.from_ndarray(made_up_voice(2.0, 44_100)[None], format="fltp", layout="mono")
        frame.sample_rate = 44_100
        out.mux([*stream.encode(frame), *stream.encode()])
    assert finish(take_in(source, tmp_path / "take.wav")) == pytest.approx(2.0, abs=0.06)
    assert np.abs(samples(tmp_path / "take.wav")).max() > 0.05
    (tmp_path / "no.mp3").write_bytes(b"nothing of the kind")
    with pytest.raises(FormatError, match=r"no\.mp3: it is not sound that can be read"):
        finish(take_in(tmp_path / "no.mp3", tmp_path / "t.wav"))


def test_a_recording_is_paused_gone_on_with_and_taken_back(tmp_path):
    import time

    recorder = Recorder(MADE_UP, TakeWriter(tmp_path / "v.wav"))
    time.sleep(0.4)
    first = recorder.pause()
    time.sleep(0.2)
    assert recorder.seconds == first and 0.2 < first < 2.0  # a busy machine speaks late
    recorder.go_on()
    time.sleep(0.3)
    assert recorder.discard() == pytest.approx(first)
    recorder.go_on()
    time.sleep(0.1)
    whole = recorder.stop()
    assert whole == len(samples(tmp_path / "v.wav")) / SOUND_RATE and first < whole < first + 2.0


def test_a_microphone_that_goes_away_leaves_what_was_said(tmp_path, monkeypatch):
    import time

    made_up_voice(0.1, SOUND_RATE)  # worked out beforehand
    monkeypatch.setattr("waxtwin.capture.voice._LOST", 1.0)
    take = TakeWriter(tmp_path / "v.wav")
    recorder = Recorder(MADE_UP, take)
    until = time.monotonic() + 30
    while take.seconds < 0.15 and time.monotonic() < until:
        time.sleep(0.02)
    recorder._source.close()
    recorder._thread.join(30)
    assert "went away" in recorder.fault and "is kept" in recorder.fault
    recorder.stop()
    assert 0.1 < len(samples(tmp_path / "v.wav")) / SOUND_RATE < 2.0
    assert microphones()[-1].id == MADE_UP
    with pytest.raises(VoiceError, match=r"microphone|sound system"):
        Recorder("77", TakeWriter(tmp_path / "w.wav"))
