"""Readers are total: whatever the bytes, a good object or one plain sentence - over two thousand damaged files."""

import numpy as np
import pytest
from benchmarks.fuzz import KINDS, counted, damaged, shares

from conftest import track_of
from waxtwin.core.track import Track
from waxtwin.formats.files import FormatError
from waxtwin.formats.tracks import read_track, write_track

FILES = shares(2000)
WHATEVER = ("device lines", "cameras", "c3d")  # damage there is left out, or too few are tried


@pytest.mark.parametrize("kind", KINDS)
def test_damaged_files_are_taken_or_refused_in_one_sentence(tmp_path, monkeypatch, kind):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    counts, wrong = counted(kind, range(FILES[kind]), tmp_path)
    assert not wrong
    if kind not in WHATEVER:
        assert counts["taken"] and counts["refused"]  # the damage is real, and not always fatal


@pytest.mark.parametrize("suffix", [".csv", ".trc", ".json"])
def test_what_a_damaged_track_still_says_is_in_order(tmp_path, suffix):
    whole = track_of("wren", fps=60)
    path = tmp_path / f"t{suffix}"
    write_track(Track(whole.times[:20], whole.points[:20], whole.confidence[:20]), path)
    data = path.read_bytes()
    for seed in range(150):
        path.write_bytes(damaged(data, seed))
        try:
            track, _ = read_track(path)
        except FormatError as fault:
            assert str(fault).startswith(f"{path.name}: ")
        else:
            assert np.isfinite(track.times).all() and (np.diff(track.times) > 0).all()
            assert ((track.confidence >= 0) & (track.confidence <= 1)).all() and not np.isinf(track.points).any()
