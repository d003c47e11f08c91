"""Tracks and marks as bytes for the store."""

from __future__ import annotations

import io

import numpy as np

from waxtwin.core.estimated import InSpace
from waxtwin.core.marks import Marks
from waxtwin.core.track import Track


def pack_track(track: Track) -> bytes:
    """A track's bytes; positions to a tenth of a micrometre."""
    return _pack(times=track.times, points=track.points.astype(np.float32), confidence=_share(track.confidence))


def unpack_track(data: bytes) -> Track:
    """The track of `pack_track`."""
    found = _unpack(data)
    return Track(found["times"], found["points"].astype(float), found["confidence"] / 255.0)


def pack_marks(marks: Marks) -> bytes:
    """The bytes of marks; positions to a hundredth of a pixel or better, depths to a millimetre."""
    world = {} if marks.world is None else {"world": marks.world.astype(np.float16)}
    fresh = {} if marks.fresh is None else {"fresh": marks.fresh}
    return _pack(
        times=marks.times, points=marks.points.astype(np.float32), confidence=_share(marks.confidence),
        source=marks.source, **world, **fresh,
    )  # fmt: skip


def unpack_marks(data: bytes) -> Marks:
    """The marks of `pack_marks`."""
    found = _unpack(data)
    world = found["world"].astype(float) if "world" in found else None
    points, confidence = found["points"].astype(float), found["confidence"] / 255.0
    return Marks(found["times"], points, confidence, found["source"], world, found.get("fresh"))


def pack_in_space(found: InSpace) -> bytes:
    """The bytes of an estimate in space; points to a tenth of a micrometre, draws to a millimetre."""
    return _pack(
        times=found.times, points=found.points.astype(np.float32), draws=found.draws.astype(np.float16),
        why=np.array(found.why), clicked=np.array(found.clicked),
    )  # fmt: skip


def unpack_in_space(data: bytes) -> InSpace:
    """The estimate of `pack_in_space`."""
    found = _unpack(data)
    return InSpace(
        found["times"], found["points"].astype(float), found["draws"].astype(float), str(found["why"]),
        bool(found["clicked"]),
    )  # fmt: skip


def pack_array(values: np.ndarray) -> bytes:
    """One array."""
    return _pack(values=values)


def unpack_array(data: bytes) -> np.ndarray:
    """The array of `pack_array`."""
    return _unpack(data)["values"]


def _share(values: np.ndarray) -> np.ndarray:
    return np.asarray(np.round(np.clip(values, 0, 1) * 255), np.uint8)


def _pack(**arrays: np.ndarray) -> bytes:
    out = io.BytesIO()
    np.savez_compressed(out, **arrays)  # type: ignore[arg-type]
    return out.getvalue()


def _unpack(data: bytes) -> dict[str, np.ndarray]:
    with np.load(io.BytesIO(data), allow_pickle=False) as found:
        return {name: found[name] for name in found.files}
