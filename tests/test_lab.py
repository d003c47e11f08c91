"""Lab files: C3D and TRC of any marker set, any axes, any unit; and C3D files that another library wrote."""

from dataclasses import replace

import numpy as np
import pytest

from conftest import clean, delivery_of, track_of
from waxtwin.core.analysis import analyse
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, anatomical_names
from waxtwin.core.markers import PRESETS, Axes, Recipe, apply, match, propose_axes, unmapped
from waxtwin.core.track import Track
from waxtwin.formats.files import FormatError
from waxtwin.formats.sidecar import Lab
from waxtwin.formats.tracks import LabSetup, UnmappedError, read_track, write_track
from waxtwin.library.importing import bring_one
from waxtwin.library.store import Library
from waxtwin.library.throws import fetch

c3d = pytest.importorskip("c3d", reason="the second C3D library is not installed")


def skin_markers(name="wren", throws="R"):
    """A lab's markers for a preset: joints as pairs on either side of the joint, the pelvis by its front spines."""
    track = track_of(name)
    ids = {ours: plain for plain, ours in anatomical_names(throws).items()}
    at = {ids.get(n, n): track.points[:, j] for n, j in INDEX.items()}
    marks = {}
    for side, letter in (("right", "R"), ("left", "L")):
        for part, names in (("shoulder", ("SHO",)), ("elbow", ("ELB", "ELBM")), ("wrist", ("WRA", "WRB")), ("hand", ("FIN",)),
                            ("knee", ("KNE", "KNEM")), ("ankle", ("ANK", "ANKM")), ("heel", ("HEE",)), ("toe", ("TOE",))):  # fmt: skip
            for k, marker in enumerate(names):
                marks[letter + marker] = at[f"{side}_{part}"] + [0, 0.03 * (1 - 2 * k) if len(names) == 2 else 0, 0]
    middle = (at["right_hip"] + at["left_hip"]) / 2
    across = at["right_hip"] - at["left_hip"]
    hips = np.linalg.norm(across, axis=1, keepdims=True)
    across = across / hips
    forward = np.cross([0, 0, 1.0], across)
    width = hips / 0.72  # the hips' centres are 0.72 of the spines' distance apart
    # undo the recipe: the spines lie in front of and above the hips' middle
    front = middle + 0.19 * width * forward + 0.30 * width * np.cross(across, forward)
    marks["RASI"], marks["LASI"] = front + across * width / 2, front - across * width / 2
    for head in ("RFHD", "LFHD", "RBHD", "LBHD"):
        marks[head] = at["head"]
    return track.times, marks


def write_c3d(path, times, marks, turn=None, shift=(0, 0, 0), rate=240.0, lost=()):
    """A C3D file by the other library: millimetres, any axes."""
    writer = c3d.Writer(point_rate=rate)
    points = np.stack([(m @ (np.eye(3) if turn is None else turn).T + shift) * 1000 for m in marks.values()], axis=1)
    frames = []
    for k in range(len(times)):
        rows = np.zeros((len(marks), 5), np.float32)
        rows[:, :3] = np.nan_to_num(points[k])
        rows[:, 3] = np.where(np.isnan(points[k]).any(axis=1), -1, 0)
        for name in lost:
            if k % 50 < 5:
                rows[list(marks).index(name), 3] = -1
        frames.append((rows, np.zeros((0, 0))))
    writer.add_frames(frames)
    writer.set_point_labels(list(marks))
    with path.open("wb") as file:
        writer.write(file)
    return path


Y_UP = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])
BACKWARD = np.array([[-1.0, 0, 0], [0, -1, 0], [0, 0, 1]])


@pytest.mark.parametrize(("turn", "axes"), [(np.eye(3), ("+x", "+z")), (Y_UP, ("+x", "+y")), (BACKWARD, ("-x", "+z"))])
@pytest.mark.parametrize(("name", "throws"), [("wren", "R"), ("pell", "L")])
def test_a_file_by_another_library_is_read_in_any_axes(tmp_path, turn, axes, name, throws):
    times, marks = skin_markers(name, throws)
    path = write_c3d(tmp_path / "trial.c3d", times, marks, turn, shift=(2.0, 0.4, 0.1), lost=("RELB",))
    track, notes = read_track(path, throws)
    said = " ".join(notes)
    assert axes[0] in said and axes[1] in said and "landmarks are made from" in said
    found = analyse(thrown_as(name, track))
    for measure in ("landing_separation", "landing_trunk_tilt", "landing_knee_flexion", "stride_length"):
        assert found.measures[measure].value == pytest.approx(clean(name).measures[measure].value, abs=4), measure
    assert found.events["release"].time - times[0] == pytest.approx(clean(name).events["release"].time, abs=0.006) or (
        found.events["release"].time - track.times[0] == pytest.approx(clean(name).events["release"].time, abs=0.006)
    )


def thrown_as(name, track):
    return replace(delivery_of(name), track=track)


def test_our_own_c3d_comes_back_whole(tmp_path):
    for name in ("wren", "pell"):
        track = track_of(name, gaps=3)
        write_track(track, tmp_path / "a.c3d")
        again, notes = read_track(tmp_path / "a.c3d")
        np.testing.assert_allclose(again.points, track.points, atol=2e-6, equal_nan=True)
        np.testing.assert_allclose(again.times, track.times, atol=1e-6)
        assert notes == []


def test_unknown_markers_ask_for_a_mapping_and_take_one(tmp_path):
    times, marks = skin_markers()
    odd = {f"M{k:02d}": path for k, path in enumerate(marks.values())}
    path = write_c3d(tmp_path / "odd.c3d", times, odd)
    with pytest.raises(UnmappedError, match="map them"):
        read_track(path)
    number = {name: f"M{k:02d}" for k, name in enumerate(marks)}
    recipes = {
        landmark: Recipe(tuple(number[m] for m in recipe.markers if m in number), recipe.offset)
        for landmark, recipe in PRESETS["full body, four-letter names"].items()
    }
    setup = LabSetup(recipes, Axes("+x", "+z"))
    track, _ = read_track(path, "R", setup)
    assert Lab.of(setup).setup() == setup  # and it is written and read without loss
    with_library = Library(tmp_path / "lib")
    try:
        key = bring_one(with_library, path, lab=Lab.of(setup)).key
        assert analyse(fetch(with_library, key).delivery).measures["landing_separation"].available
    finally:
        with_library.close()
    assert not track.missing() or set(track.missing()) <= {"ball", "navel", "nose"}


def test_one_throw_of_a_long_trial(tmp_path):
    times, marks = skin_markers()
    twice = {name: np.concatenate([path, path]) for name, path in marks.items()}
    path = write_c3d(tmp_path / "long.c3d", np.arange(2 * times.size) / 240, twice)
    whole, _ = read_track(path)
    length = times.size / 240
    start = float(whole.times[0])
    second, _ = read_track(path, "R", LabSetup(part=(start + length, start + 2 * length)))
    assert second.times.size == pytest.approx(times.size, abs=2) and second.times[0] >= start + length - 1e-6
    assert analyse(thrown_as("wren", second)).measures["landing_separation"].available


def test_prefixes_and_case_do_not_matter_and_half_a_recipe_is_enough():
    names = ["Sam:rsho", "Sam:LSHO", "Sam:RELB", "RASI"]
    found = match(names)
    assert found["right_shoulder"].markers == ("Sam:rsho",) and found["right_elbow"].markers == ("Sam:RELB",)
    assert "right_hip" not in found  # a hip's centre needs both spines
    assert "drive_knee" in unmapped(found, "R")


def test_faults_of_a_mapping():
    with pytest.raises(TrackError, match="same axis"):
        Axes("+z", "-z").matrix()
    with pytest.raises(TrackError, match="no marker named GONE"):
        apply({"head": Recipe(("GONE",))}, {"A": np.zeros((3, 3))}, "R")
    assert propose_axes({"head": np.zeros((3, 3))}) == Axes()


def test_too_long_a_file_is_refused_not_cut(tmp_path):
    import ezc3d

    file = ezc3d.c3d()
    file["parameters"]["POINT"]["RATE"]["value"] = [240.0]
    file["parameters"]["POINT"]["LABELS"]["value"] = ["head"]
    file["data"]["points"] = np.ones((4, 1, 70000))
    file.write(str(tmp_path / "long.c3d"))
    with pytest.raises(FormatError, match="65535 frames"):
        read_track(tmp_path / "long.c3d")
    times = np.arange(70000) / 240
    long = Track(times, np.ones((70000, 22, 3)), np.ones((70000, 22)))
    with pytest.raises(FormatError, match="fewer than 65535"):
        write_track(long, tmp_path / "out.c3d")


@pytest.mark.parametrize("seed", range(24))
def test_damaged_c3d_is_one_sentence_or_a_track(tmp_path, seed):
    """The reading library crashes and hangs on some of these; the program must not."""
    rng = np.random.default_rng(seed)
    write_track(track_of("wren", fps=60), tmp_path / "whole.c3d")
    data = bytearray((tmp_path / "whole.c3d").read_bytes())
    for _ in range(int(rng.choice([1, 4, 40]))):
        data[int(rng.integers(2, 1500))] = int(rng.integers(256))
    if seed % 4 == 0:
        data = data[: int(rng.integers(3, len(data)))]
    (tmp_path / "cut.c3d").write_bytes(bytes(data))
    try:
        read_track(tmp_path / "cut.c3d")
    except FormatError as fault:
        assert str(fault).startswith("cut.c3d: ") and "\n" not in str(fault)
