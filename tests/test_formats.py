"""Files in and out: round trips, left-handers, and every kind of bad input as one plain sentence."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import DEMO, SINGLES, clean, planar, track_of
from waxtwin.core.analysis import analyse
from waxtwin.formats.files import FormatError
from waxtwin.formats.sidecar import Sidecar, read_sidecar, write_sidecar
from waxtwin.formats.tracks import formats, read_track, write_track
from waxtwin.library.bands import load_bands
from waxtwin.library.folders import sources
from waxtwin.library.stored import load


@pytest.mark.parametrize("suffix", formats())
@pytest.mark.parametrize("kind", ["3d", "gaps", "side"])
def test_round_trip(tmp_path, suffix, kind):
    track = track_of("pell", gaps=8 if kind == "gaps" else 0)
    track = planar(track) if kind == "side" else track
    path = tmp_path / f"throw{suffix}"
    write_track(track, path)
    again, notes = read_track(path, "L")
    assert not notes
    np.testing.assert_allclose(again.times, track.times, atol=1e-6)
    np.testing.assert_allclose(again.points, track.points, atol=1e-5, equal_nan=True)


def test_anatomical_names_depend_on_the_throwing_hand(tmp_path):
    track = track_of("pell")
    write_track(track, tmp_path / "a.csv")
    text = (tmp_path / "a.csv").read_text()
    for id_, plain in (("throwing_", "left_"), ("glove_", "right_"), ("drive_", "left_"), ("lead_", "right_")):
        text = text.replace(id_, plain)
    (tmp_path / "b.csv").write_text(text)
    np.testing.assert_allclose(read_track(tmp_path / "b.csv", "L")[0].points, track.points, atol=1e-5, equal_nan=True)


def test_columns_in_any_order_and_bom(tmp_path):
    write_track(track_of("wren"), tmp_path / "a.csv")
    rows = [line.split(",") for line in (tmp_path / "a.csv").read_text().splitlines()]
    shuffled = "\n".join(",".join(reversed(row)) for row in rows)
    (tmp_path / "b.csv").write_text("\ufeff" + shuffled)
    np.testing.assert_array_equal(read_track(tmp_path / "a.csv")[0].points, read_track(tmp_path / "b.csv")[0].points)


def test_trc_in_millimetres_with_y_up_is_turned(tmp_path):
    track = track_of("wren")
    turned = track.points[..., [0, 2, 1]] * [1, 1, -1] * 1000
    write_track(type(track)(track.times, turned / 1000, track.confidence), tmp_path / "a.trc")
    text = (tmp_path / "a.trc").read_text().split("\n")
    text[2] = text[2].replace("\tm\t", "\tmm\t")
    rows = [line.split("\t") for line in text[5:] if line]
    scaled = ["\t".join([r[0], r[1], *(f"{float(c) * 1000:.4f}" if c else "" for c in r[2:])]) for r in rows]
    (tmp_path / "b.trc").write_text("\n".join(text[:5] + scaled))
    again, notes = read_track(tmp_path / "b.trc")
    assert notes and "+y is up" in notes[0]
    np.testing.assert_allclose(again.points, track.points, atol=1e-4, equal_nan=True)


GOOD = "time," + ",".join(f"{n}_{a}" for n in ("head", "lead_ankle", "drive_ankle") for a in "xyz")


def _rows(count, step=0.01, scale=1.0):
    return "\n".join(
        ",".join([f"{i * step:.4f}", *(f"{scale * v:.3f}" for v in (0.1, 0, 1.7, 0.2, 0, 0.1, 0, 0, 0.1))])
        for i in range(count)
    )


BAD = {
    "empty.csv": (b"", "empty"),
    "blank.csv": (b"  \n\n ", "empty"),
    "notime.csv": (b"head_x,head_y\n1,2\n", "time"),
    "headeronly.csv": (f"{GOOD}\n".encode(), "no row"),
    "truncated.csv": (f"{GOOD}\n{_rows(60)}"[:-20].encode(), "cells"),
    "wrongcolumn.csv": (f"{GOOD}\n{_rows(60)}".replace("head_z", "mood").encode(), "mood"),
    "landmark.csv": (f"{GOOD.replace('head', 'tail')}\n{_rows(60)}".encode(), "tail"),
    "word.csv": (f"{GOOD}\n{_rows(60)}".replace("1.700", "tall").encode(), "tall"),
    "back.csv": (f"{GOOD}\n{_rows(60)}\n{_rows(1)}".encode(), "increase"),
    "three.csv": (f"{GOOD}\n{_rows(3)}".encode(), "3 frames"),
    "short.csv": (f"{GOOD}\n{_rows(60, 0.001)}".encode(), "lasts"),
    "missing.csv": (f"{GOOD}\n{_rows(60)}".replace("1.700", "").replace("0.100", "nan").replace("0.200", "").replace("0.000,0.000", ",").replace(",0.000", ",").encode(), "missing"),
    "huge.csv": (f"{GOOD}\n{_rows(60, scale=1000)}".encode(), "millimetres"),
    "tall.csv": (f"{GOOD}\n{_rows(60, scale=3)}".encode(), "no pitcher"),
    "twice.csv": (f"{GOOD},head_x\n{_rows(60)}".encode(), "twice"),
    "latin.csv": (f"{GOOD}\n{_rows(60)}é".encode("latin-1"), "UTF-8"),
    "utf16.csv": (f"{GOOD}\n{_rows(60)}".encode("utf-16"), "UTF-8"),
    "binary.csv": (bytes(range(256)) * 9, "UTF-8"),
    "cut.json": (b'{"version":1,"landmarks":["head"],"frames":[{"t":0,', "cut short"),
    "list.json": (b"[1,2,3]", "landmarks"),
    "version.json": (b'{"version":9,"landmarks":["head"],"frames":[1]}', "version"),
    "points.json": (b'{"version":1,"landmarks":["head","nose"],"frames":[{"t":0,"points":[[1,2,3]]}]}', "2 landmarks"),
    "deep.json": (b"[" * 100000, "cut short"),
    "other.trc": (b"hello\nworld\n", "TRC"),
    "unit.trc": (b"PathFileType\t4\nDataRate\tUnits\n100\tfurlong\nFrame#\tTime\thead\n\t\tX1\n1\t0\t1\t2\t3\n", "furlong"),
    "notes.txt": (b"hello", "not a track"),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_bad_file_is_one_sentence_naming_it(tmp_path, name):
    content, word = BAD[name]
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(FormatError) as fault:
        read_track(path)
    said = str(fault.value)
    assert said.startswith(name) and word in said and "\n" not in said and len(said) < 260


def test_missing_file_and_folder(tmp_path):
    for path in (tmp_path / "gone.csv", tmp_path / "dir.csv"):
        if path.name == "dir.csv":
            path.mkdir()
        with pytest.raises(FormatError, match=path.name):
            read_track(path)


@settings(max_examples=150, deadline=None)
@given(st.sampled_from(list(formats())), st.binary(max_size=400) | st.text(max_size=300).map(str.encode))
def test_any_bytes_are_a_track_or_a_sentence(tmp_path_factory, suffix, content):
    path = tmp_path_factory.mktemp("any") / f"x{suffix}"
    path.write_bytes(content)
    try:
        read_track(path)
    except FormatError as fault:
        assert str(fault).startswith(path.name)


def test_writing_is_whole_or_not_at_all(tmp_path):
    path = tmp_path / "keep.csv"
    write_track(track_of("wren"), path)
    before = path.read_bytes()
    (tmp_path / ".keep.csv.part").mkdir()  # the new file cannot be begun
    with pytest.raises((FormatError, OSError)):
        write_track(track_of("ines"), path)
    assert path.read_bytes() == before


# the sidecar ------------------------------------------------------------------------------------------------------
def test_sidecar_keeps_what_it_does_not_know(tmp_path):
    document = {
        "athlete": {"name": "<b>Wren</b> =1+1", "throws": "L", "shoe": 44}, "ball_speed_mps": 31.5, "moon": {"phase": 3},
        "views": [{"file": "a.mp4", "camera": "front", "lens": "long"}], "events": {"release": 1.25},
    }  # fmt: skip
    path = tmp_path / "a.delivery.json"
    path.write_text(json.dumps(document))
    write_sidecar(read_sidecar(path), path)
    assert json.loads(path.read_text()) == document


@pytest.mark.parametrize(
    ("text", "word"),
    [("{", "JSON"), ('{"athlete":{"height_m":18}}', "height_m"), ('{"events":{"lunch":1}}', "lunch"),
     ('{"athlete":{"throws":"both"}}', "throws"), ('{"views":[{"file":"a","calibration":{"projection":[[1]],"width":1,"height":1}}]}', "3 rows")],
)  # fmt: skip
def test_broken_sidecar_is_one_sentence(tmp_path, text, word):
    write_track(track_of("wren"), tmp_path / "a.csv")
    (tmp_path / "a.delivery.json").write_text(text)
    with pytest.raises(FormatError, match=r"a\.delivery\.json") as fault:
        load(tmp_path / "a.csv")
    assert word in str(fault.value)


def test_stops_set_by_hand_in_a_sidecar_win(tmp_path):
    write_track(track_of("wren"), tmp_path / "a.csv")
    sidecar = Sidecar.model_validate({"athlete": {"height_m": 1.76}, "events": {"foot_contact": 2.0}})
    write_sidecar(sidecar, tmp_path / "a.delivery.json")
    event = analyse(load(tmp_path / "a.csv").delivery).events["foot_contact"]
    assert event.time == 2.0 and event.source == "set by hand"


def test_height_is_read_from_the_track_when_not_given(tmp_path):
    write_track(track_of("wren"), tmp_path / "a.csv")
    a = analyse(load(tmp_path / "a.csv").delivery)
    assert a.motion.height == pytest.approx(1.76, abs=0.06)
    assert any("read from the track" in w for w in a.warnings)


def test_sidecar_cannot_point_outside_its_folder(tmp_path):
    write_track(track_of("wren"), tmp_path / "a.csv")
    write_sidecar(Sidecar.model_validate({"views": [{"file": "../../etc/passwd"}]}), tmp_path / "a.delivery.json")
    assert load(tmp_path / "a.csv").clips == ()


# the library ------------------------------------------------------------------------------------------------------
def test_demo_is_complete():
    files = sources(DEMO)
    singles = [file.stem for file in files if file.stem[-1].isalpha() and not file.stem.startswith("yarrow")]
    assert singles == sorted(SINGLES)
    for file in files:
        stored = load(file)
        said = analyse(stored.delivery).warnings
        assert not said if file.stem in SINGLES else all("120 frames a second" in one for one in said)
    for file in (file for file in files if file.stem in SINGLES):
        stored = load(file)
        assert {c.view for c in stored.clips} == {"open side", "front"}
        assert all(c.path.stat().st_size < 2_000_000 and c.camera is not None for c in stored.clips)
    assert [load(DEMO / f"{name}.csv").delivery.throws for name in SINGLES].count("L") == 2


def test_demo_tracks_are_the_presets():
    demo = analyse(load(DEMO / "wren-tollander.csv").delivery)
    for name in ("stride_length", "landing_separation", "knee_bracing"):
        assert demo.measures[name].value == pytest.approx(clean("wren").measures[name].value, abs=2.0)


def test_shipped_bands_are_sound_and_marked():
    bands = load_bands()
    assert bands["stride_length"].low == 78 and all("to verify" in b.source for b in bands.values())


def test_bad_bands_file(tmp_path):
    path = tmp_path / "bands.json"
    path.write_text('{"population":"x","source":"y","bands":{"stride_length":{"low":9,"high":1}}}')
    with pytest.raises(FormatError, match="ends before"):
        load_bands(path)
