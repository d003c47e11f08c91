"""Importers are total: whatever the bytes, a good object or one plain sentence - over thousands of damaged files."""

import json
import random

import numpy as np
import pytest

from conftest import DEMO, track_of
from films import film
from waxtwin.capture.clip import ClipError, ClipReader
from waxtwin.core.track import Track
from waxtwin.formats import FormatError, read_track, write_track
from waxtwin.formats.sidecar import Lab, Sidecar, read_sidecar
from waxtwin.library.bands import load_bands

CASES = 700


def damaged(data: bytes, seed: int) -> bytes:
    """A valid file with some of its bytes changed, lost, doubled or cut off."""
    rng = random.Random(seed)
    out = bytearray(data)
    for _ in range(rng.choice([1, 2, 5, 20, 80])):
        at = rng.randrange(len(out))
        match rng.randrange(6):
            case 0:
                out[at] = rng.randrange(256)
            case 1:
                del out[at : at + rng.randrange(1, 30)]
            case 2:
                out[at:at] = out[at : at + rng.randrange(1, 60)]
            case 3:
                out[at:at] = rng.choice(
                    [b"nan", b"-", b"1e999", b"\x00", b",,", b"\t", b"}", b'"', b"\n", "٣".encode()]
                )
            case 4:
                out[at] = ord(rng.choice("0123456789.-eE"))
            case 5:
                out = out[: max(at, 1)]
        if not out:
            return b""
    return bytes(out)


def plain(fault, path):
    words = str(fault)
    assert words.startswith(f"{path.name}: ") and "\n" not in words and len(words) < 320 and "Traceback" not in words


@pytest.mark.parametrize("suffix", [".csv", ".trc", ".json"])
def test_damaged_tracks(tmp_path, suffix):
    whole = track_of("wren", fps=60)
    small = Track(whole.times[:40], whole.points[:40], whole.confidence[:40])
    path = tmp_path / f"t{suffix}"
    write_track(small, path)
    data = path.read_bytes()
    taken = 0
    for seed in range(CASES):
        path.write_bytes(damaged(data, seed))
        try:
            track, _ = read_track(path)
        except FormatError as fault:
            plain(fault, path)
        else:
            taken += 1
            assert np.isfinite(track.times).all() and (np.diff(track.times) > 0).all()
            assert ((track.confidence >= 0) & (track.confidence <= 1)).all() and not np.isinf(track.points).any()
    assert 0 < taken < CASES  # the damage is real, and not always fatal


def test_damaged_sidecars_and_bands(tmp_path):
    said = json.loads((DEMO / "wren-tollander.delivery.json").read_text())
    said["lab"] = {
        "landmarks": {"head": {"markers": ["A"], "offset": [0, 0, 1]}},
        "forward": "+x",
        "up": "+z",
        "part": [0, 2],
    }
    data = json.dumps(said, indent=1).encode()
    path = tmp_path / "x.delivery.json"
    for seed in range(CASES):
        path.write_bytes(damaged(data, seed))
        try:
            found = read_sidecar(path)
        except FormatError as fault:
            plain(fault, path)
        else:
            assert isinstance(found, Sidecar) and (found.lab is None or isinstance(found.lab, Lab))
    from waxtwin.library.bands import SHIPPED

    data, path = SHIPPED.read_bytes(), tmp_path / "bands.json"
    for seed in range(CASES):
        path.write_bytes(damaged(data, seed))
        try:
            load_bands(path)
        except FormatError as fault:
            plain(fault, path)


@pytest.mark.parametrize("file", ["a.mp4", "a.mkv", "a.avi", "a.ts"])
def test_damaged_clips(tmp_path, file):
    path = film(tmp_path / file, count=20)
    data = path.read_bytes()
    for seed in range(60):
        path.write_bytes(damaged(data, seed))
        try:
            with ClipReader(path) as reader:
                assert reader.times.size >= 1 and (np.diff(reader.times) > 0).all()
                for k in (0, reader.times.size - 1, reader.times.size // 2):
                    picture = reader.read(k)
                    assert picture.ndim == 3 and picture.shape[2] == 4
        except ClipError as fault:
            plain(fault, path)
