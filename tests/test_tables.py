"""Data out: tables and documents that other programs read, harmless whatever names are in them."""

import csv
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import DEMO, clean
from waxtwin.core.contrast import contrast
from waxtwin.core.curves import CURVES
from waxtwin.core.measures import MEASURES
from waxtwin.core.steps import finish
from waxtwin.formats.files import FormatError
from waxtwin.formats.tables import cell, curves_table, write_table
from waxtwin.formats.tracks import read_track
from waxtwin.report.data import renamed, sides_of, write_data


@pytest.fixture(scope="module")
def pair():
    return contrast(clean("wren"), clean("ines"))


@given(st.text(max_size=30))
def test_no_text_is_run_by_a_spreadsheet(said):
    found = cell(said)
    assert not found.startswith(("=", "+", "-", "@", "\t", "\r")) and found.endswith(said)


def test_figures_stay_figures():
    assert [cell(v) for v in (-1.5, 3, None, float("nan"), np.float64(2))] == ["-1.5", "3", "", "", "2"]


def test_everything_of_a_pair_is_written_and_reads_back(pair, tmp_path):
    written = finish(write_data(tmp_path, sides_of(pair), pair))
    assert {p.suffix for p in written} == {".csv", ".json", ".trc", ".c3d"} and len(written) == len(set(written)) == 18
    rows = {row["id"]: row for row in csv.DictReader((tmp_path / "contrast.csv").open())}
    assert set(rows) == set(MEASURES)
    row = pair.row("stride_length")
    assert float(rows["stride_length"]["athlete"]) == pytest.approx(row.athlete, rel=1e-5)
    curves = json.loads((tmp_path / "Wren-Tollander-curves.json").read_text())
    assert set(curves["curves"]) == set(CURVES) and curves["stops_s"]["release"] == pytest.approx(
        pair.athlete.time("release"), abs=1e-6
    )
    for suffix in (".csv", ".trc", ".c3d"):
        track, _ = read_track(tmp_path / f"Wren-Tollander{suffix}")
        assert np.nanmax(np.abs(track.points - pair.athlete.delivery.track.points)) < 2e-4


def test_a_curve_in_the_table_is_the_curve(pair):
    head, rows = curves_table(pair.athlete)
    column = head.index("trunk_tilt_deg")
    values = np.array([row[column] for row in rows])
    assert np.allclose(values, CURVES["trunk_tilt"].values(pair.athlete), equal_nan=True)


def test_another_name_keeps_the_own_one_out(pair, tmp_path):
    other = renamed(pair, ("Pitcher 7", "Twin"))
    finish(write_data(tmp_path, sides_of(other), other))
    for file in tmp_path.iterdir():
        assert "Wren" not in file.name and b"Tollander" not in file.read_bytes() and b"Corvane" not in file.read_bytes()


def test_one_pitcher_before_and_now_has_files_apart(pair):
    assert list(sides_of(renamed(pair, ("A. B.", "A. B.")))) == ["A-B-now", "A-B-before"]


def test_a_folder_that_cannot_be_written_is_one_sentence(pair, tmp_path):
    (tmp_path / "in-the-way").write_text("x")
    with pytest.raises(FormatError, match=r"contrast\.csv: it cannot be written"):
        finish(write_data(tmp_path / "in-the-way", sides_of(pair), pair))


def test_a_failed_table_leaves_the_old_one(tmp_path, monkeypatch):
    from pathlib import Path

    target = tmp_path / "t.csv"
    write_table(target, (("a",), [(1,)]))
    monkeypatch.setattr(Path, "write_bytes", lambda self, data: (_ for _ in ()).throw(OSError(28, "No space left")))
    with pytest.raises(FormatError, match="No space left"):
        write_table(target, (("a",), [(2,)]))
    assert target.read_text() == "a\n1\n" and [p.name for p in tmp_path.iterdir()] == ["t.csv"]


def test_the_command_line_writes_data(run, tmp_path):
    code, out, _ = run("export", DEMO / "wren-tollander.csv", "-o", tmp_path, "--what", "stops")
    assert code == 0 and out.strip() == str(tmp_path / "wren-tollander-stops.csv")
    code, _, err = run("export", DEMO / "wren-tollander.csv", "-o", tmp_path, "--what", "spin")
    assert code == 2 and "there is no kind named spin" in err
    code, _, err = run("export", DEMO / "wren-tollander.csv", "-o", tmp_path, "--plots")
    assert code == 2 and "name a twin" in err
