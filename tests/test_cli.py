"""The command line: shapes of the JSON, exit codes, one sentence for a fault."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import DEMO
from waxtwin import __version__
from waxtwin.core.measures import MEASURES

WREN, INES, PELL = (str(DEMO / f"{n}.csv") for n in ("wren-tollander", "ines-corvane", "pell-ardmoor"))


def test_events_shape(run):
    code, out, _ = run("events", PELL, "--json")
    document = json.loads(out)
    assert code == 0 and document["throws"] == "L" and document["warnings"] == []
    contact = document["events"]["foot_contact"]
    assert set(contact) >= {"time", "frame", "source", "confidence", "interval_ms"}
    assert contact["frame"] == pytest.approx(contact["time"] * 240, abs=0.05)


def test_measure_shape(run):
    document = json.loads(run("measure", WREN, "--landing", "plant", "--json")[1])
    assert document["landing"] == "plant"
    assert set(document["measures"]) == {*MEASURES, "sequence_order", "sequence_lags"}
    stride = document["measures"]["stride_length"]
    assert stride["unit"] == "%" and stride["sd"] > 0 and stride["available"] and stride["reason"] is None
    assert len(document["measures"]["sequence_order"]["value"]) == 4


def test_contrast_and_explain_shapes(run):
    document = json.loads(run("contrast", WREN, INES, "--json")[1])
    assert document["footing"]["grade"] == "strong"
    rows = {row["id"]: row for row in document["rows"]}
    assert rows["stride_length"]["verdict"] == "short" and rows["stride_length"]["band"] == [78, 90]
    assert {row["verdict"] for row in rows.values()} <= {"short", "beyond", "level", "untold", "unavailable"}
    assert rows["stride_length"]["depth"] == "measured" and not rows["stride_length"]["small"]
    document = json.loads(run("explain", WREN, INES, "--json")[1])
    total = sum(link["contribution"] for link in document["links"])
    assert total == pytest.approx(document["ball_speed"]["gap"], abs=1e-6)
    assert document["break"] == "shoulder" and document["basis"] == "ball"


def test_tables_for_people(run):
    assert "Front foot touches" in run("events", WREN)[1]
    assert "Stride length" in run("measure", WREN)[1]
    said = run("contrast", WREN, INES)[1]
    assert "less 8.0 %" in said and "cannot be told" in said and "Strong footing" in said
    assert "lost" in run("explain", WREN, INES)[1]


def test_simulate_then_measure_then_convert(run, tmp_path):
    (tmp_path / "p.json").write_text('{"stride": 0.8, "throws": "L"}')
    code, out, _ = run(
        "simulate", "--params", tmp_path / "p.json", "--fps", 120, "--noise", 0.002, "-o", tmp_path, "--name", "x"
    )
    assert code == 0 and Path(out.strip()).name == "x.csv"
    truth = json.loads((tmp_path / "x.truth.json").read_text())
    for suffix in ("trc", "json"):
        assert run("convert", tmp_path / "x.csv", tmp_path / f"y-{suffix}.{suffix}")[0] == 0
        events = json.loads(run("events", tmp_path / f"y-{suffix}.{suffix}", "--json")[1])
        assert events["throws"] == "L"
        assert events["events"]["release"]["time"] == pytest.approx(truth["events"]["release"], abs=0.02)


def test_simulated_clip_is_written(run, tmp_path):
    (tmp_path / "p.json").write_text('{"lead_in": 0.2, "follow_through": 0.4}')
    assert run("simulate", "--params", tmp_path / "p.json", "--fps", 20, "--clips", "rear", "-o", tmp_path)[0] == 0
    sidecar = json.loads((tmp_path / "wren-tollander.delivery.json").read_text())
    assert sidecar["views"][0]["camera"] == "rear" and (tmp_path / sidecar["views"][0]["file"]).stat().st_size > 20_000


@pytest.mark.parametrize(
    "words",
    [("events",), ("events", "gone.csv"), ("frobnicate",), ("measure", WREN, "--landing", "lunch"),
     ("convert", WREN, WREN), ("convert", WREN, "out.xyz"), ("simulate", "-o", "/dev/null/x"),
     ("simulate", "-o", ".", "--preset", "nobody"), ("simulate", "-o", ".", "--clips", "moon"), ("events", str(DEMO))],
    ids=lambda words: " ".join(Path(w).name for w in words),
)  # fmt: skip
def test_wrong_use_is_exit_2_and_one_sentence(run, words, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(*words)
    assert code == 2 and out == "" and err.count("\n") == 1 and "Traceback" not in err


def test_bad_parameters_name_the_file(run, tmp_path):
    (tmp_path / "p.json").write_text('{"stride": 7}')
    code, _, err = run("simulate", "--params", tmp_path / "p.json", "-o", tmp_path)
    assert code == 2 and "p.json" in err and "stride" in err


def test_version_and_help(run):
    assert run("--version")[1].strip().endswith(__version__)
    assert "contrast" in run("--help")[1]


def test_without_display_the_desktop_says_so(run, monkeypatch):
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    code, _, err = run("demo")
    assert code == 2 and "no display" in err


def test_the_frame_is_painted_before_anything_heavy_is_loaded():
    """The window's frame stands in a moment because what it needs loads neither arrays nor the library."""
    code = (
        "import sys, waxtwin.ui.shell.start; "
        "sys.exit(', '.join({'numpy', 'scipy', 'sqlalchemy', 'pydantic', 'av'} & set(sys.modules)) or 0)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_measuring_needs_no_qt():
    block = """
import sys
sys.modules['PySide6'] = None
sys.argv = ['waxtwin', 'explain', sys.argv[1], sys.argv[2]]
from waxtwin.cli import main
from waxtwin.core import analysis
analysis.resolve_all = lambda all_: [analysis.resolve(one, 12) for one in all_]  # who is asked does not hang on it
main()
"""
    done = subprocess.run([sys.executable, "-c", block, WREN, INES], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
