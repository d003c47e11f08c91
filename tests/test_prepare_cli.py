"""Clips, lab files and libraries on the command line."""

import json
import shutil

import pytest

from conftest import DEMO
from films import film
from test_lab import skin_markers, write_c3d
from waxtwin.formats.tracks import read_track
from waxtwin.library.stored import load

CLIP = DEMO / "wren-tollander-side.mp4"


@pytest.fixture
def short(tmp_path):
    """The throw alone, out of the demo clip, at half its rate."""
    import av

    from waxtwin.capture.clip import ClipReader

    path = tmp_path / "throw.mp4"
    with ClipReader(CLIP) as reader, av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=120)
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        stream.options = {"crf": "22", "preset": "ultrafast"}
        for k in range(420, 560, 2):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(reader.read(k)[..., :3].copy(), format="bgr24")))
        out.mux(stream.encode())
    return path


def test_a_clip_becomes_a_track_with_its_sidecar(run, short, tmp_path):
    code, out, err = run("track", short, "--size", "lite", "--height", "1.76", "-o", tmp_path / "t.csv")
    assert code == 0 and out.strip().endswith("t.csv") and "open side" in err and "the body's own" in err
    stored = load(tmp_path / "t.csv")
    assert (
        stored.delivery.sight.scaled and stored.delivery.sight.by_body and stored.sidecar.views[0].file == "throw.mp4"
    )
    assert stored.sidecar.views[0].calibration.scale == "body" and stored.delivery.height == 1.76
    code, out, _ = run("measure", tmp_path / "t.csv", "--json")
    found = json.loads(out)
    measures = found["measures"]
    assert 70 < measures["stride_length"]["value"] < 95 and measures["landing_trunk_tilt"]["available"]
    # the model may lose the hand, and says so
    assert measures["release_trunk_tilt"]["available"] != ("release" in found["withheld"])
    # the sidecar's camera, where it knows one, makes lengths
    said = json.loads((DEMO / "wren-tollander.delivery.json").read_text())
    said |= {"views": [{**said["views"][0], "file": "throw.mp4"}], "capture_fps": 120.0}
    (tmp_path / "throw.delivery.json").write_text(json.dumps(said))
    code, _, err = run("track", short, "--size", "lite", "-o", tmp_path / "s.csv", "--view", "open side")
    assert code == 0 and err == ""
    code, out, err = run("contrast", short, short, "--json")  # straight from clips: what was found is not found anew
    both = json.loads(out)
    assert code == 0 and {row["verdict"] for row in both["rows"]} <= {"level", "untold", "unavailable"}
    assert not list(short.parent.glob("*.csv")) or (tmp_path / "t.csv").is_file()  # nothing is left beside the clip
    code, out, _ = run("measure", tmp_path / "s.csv", "--json")
    assert 70 < json.loads(out)["measures"]["stride_length"]["value"] < 95


@pytest.mark.parametrize(
    ("words", "said"),
    [(("track", "gone.mp4"), "gone.mp4: there is no such file"), (("track", "noise.mp4"), "not a clip"),
     (("track", "empty.mp4", "--size", "lite"), "empty.mp4: nobody can be seen"), (("track", "empty.mp4", "--view", "moon"), "no view named moon"),
     (("track", "empty.mp4", "--size", "huge"), "no model named huge"), (("track", "empty.mp4", "--throws", "X"), "no arm"),
     (("library", "."), "no library in this folder"), (("import", "noise.mp4", "--library", "lib"), "nothing could be"),
     (("import", "gone.csv", "--library", "lib"), "nothing could be")],
    ids=lambda v: " ".join(v) if isinstance(v, tuple) else "",
)  # fmt: skip
def test_wrong_use_is_one_sentence(run, tmp_path, monkeypatch, words, said):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "noise.mp4").write_bytes(bytes(range(256)) * 20)
    film(tmp_path / "empty.mp4", count=20)
    code, _, err = run(*words)
    assert code == 2 and said in err and err.count("\n") == 1 and "Traceback" not in err


def test_lab_files_are_converted(run, tmp_path):
    times, marks = skin_markers()
    write_c3d(tmp_path / "trial.c3d", times, marks)
    code, _, err = run("convert", tmp_path / "trial.c3d", tmp_path / "out.csv")
    assert code == 0 and "landmarks are made from" in err
    assert not {"lead_knee", "throwing_hand", "drive_hip"} & set(read_track(tmp_path / "out.csv")[0].missing())
    for suffix in (".c3d", ".trc", ".json", ".csv"):
        assert run("convert", tmp_path / "out.csv", tmp_path / f"round{suffix}")[0] == 0
        a, b = (
            json.loads(run("events", f, "--json")[1])["events"]
            for f in (tmp_path / "out.csv", tmp_path / f"round{suffix}")
        )
        assert a["release"]["time"] == pytest.approx(b["release"]["time"], abs=2e-4)


def test_a_library_is_filled_and_listed(run, tmp_path):
    shutil.copytree(DEMO, tmp_path / "in", ignore=shutil.ignore_patterns("*-[0-9].*", "yarrow*"))
    (tmp_path / "in" / "bad.csv").write_text("nothing")
    code, out, _ = run("import", tmp_path / "in", "--library", tmp_path / "lib", "--json")
    found = json.loads(out)["files"]
    assert (
        code == 0
        and sum(f["id"] is not None for f in found) == 4
        and "bad.csv" in next(f["fault"] for f in found if f["fault"])
    )
    code, out, _ = run("library", tmp_path / "lib", "--json", "--search", "corvane")
    listed = json.loads(out)["deliveries"]
    assert code == 0 and [d["athlete"] for d in listed] == ["Ines Corvane"] and listed[0]["ready"] is True
    assert "Wren Tollander" in run("library", tmp_path / "lib")[1]
    assert all(f["known"] for f in json.loads(run("import", tmp_path / "in", "--library", tmp_path / "lib", "--json")[1])["files"]
               if not f["fault"])  # fmt: skip
