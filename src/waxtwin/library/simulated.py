"""Writing a simulated delivery as a user would have it: track, sidecar, truth, and clips on request."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.core.track import Track
from waxtwin.formats.files import write_text
from waxtwin.formats.place import SUFFIX
from waxtwin.formats.sidecar import Sidecar, write_sidecar
from waxtwin.formats.tracks import write_track
from waxtwin.simulate.delivery import SimulatedDelivery, simulate
from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.truth import true_angles, true_events, true_peaks


@dataclass(frozen=True, slots=True)
class Recording:
    """How a delivery is recorded: frames a second, noise (m, standard deviation) and how many gaps of 30 ms."""

    fps: float = 240.0
    noise: float = 0.0
    gaps: int = 0
    seed: int = 0


def record(delivery: SimulatedDelivery, recording: Recording) -> Track:
    """The delivery's track in the true field frame, with noise and gaps."""
    rng = np.random.default_rng(recording.seed)
    times = np.arange(0.0, delivery.times[-1], 1.0 / recording.fps)
    points = delivery.sample(times)
    points += rng.normal(0.0, recording.noise, points.shape) if recording.noise else 0.0
    length = max(round(0.03 * recording.fps), 1)
    for _ in range(recording.gaps):
        start = int(rng.integers(0, times.size - length))
        points[start : start + length, int(rng.integers(0, points.shape[1]))] = np.nan
    confidence = (~np.isnan(points).any(axis=2)).astype(float)
    return Track(times, points, confidence)


def write_simulated(  # noqa: PLR0913 - what may be said of a made-up throw
    out: Path,
    name: str,
    params: DeliveryParams,
    athlete: dict[str, Any],
    *,
    recording: Recording | None = None,
    views: Iterable[str] = (),
    kit: str = "amber",
    notes: str = "",
    progress: Callable[[str, float], None] = lambda *_: None,
) -> Path:
    """Write NAME.csv, NAME.delivery.json, NAME.truth.json and a clip per view; returns the track's path.

    Raises FormatError when the folder cannot be written.
    """
    recording = recording or Recording()
    delivery = simulate(params)
    events = true_events(delivery)
    track_path = out / f"{name}.csv"
    write_track(record(delivery, recording), track_path)
    # the ball leaves with a share of the hand's speed, so the radar reading is known too
    hand = true_peaks(delivery)["throwing_hand"]
    sidecar: dict[str, Any] = {
        "athlete": athlete, "ball_speed_mps": round(hand * params.ball_hand_ratio, 2), "pitch": params.pitch,
        "effort": "game", "from": "stretch", "recorded": "2026-11-14", "capture_fps": recording.fps, "notes": notes,
    }  # fmt: skip
    if views:
        from waxtwin.simulate.clips import SIZE, cameras, film

        places = cameras(params.throws)
        sidecar["views"] = []
        for view in views:
            file = f"{name}-{view}.mp4"
            film(
                delivery, places[view], out / file, fps=recording.fps, release=events["release"], kit=kit,
                progress=partial(progress, file),
            )  # fmt: skip
            sidecar["views"].append(view_record(file, places[view].view, places[view].matrix, SIZE))
    write_sidecar(Sidecar.model_validate(sidecar), out / f"{name}{SUFFIX}")
    truth = {
        "events": {k: round(v, 6) for k, v in events.items()},
        "angles": true_angles(delivery, events),
        "peaks": true_peaks(delivery),
        "foot_length_m": float(
            np.linalg.norm(np.subtract(*delivery.points[0, [INDEX["lead_toe"], INDEX["lead_heel"]]]))
        ),
    }
    write_text(out / f"{name}.truth.json", json.dumps(truth, indent=1) + "\n")
    return track_path


def view_record(file: str, camera: str, matrix: np.ndarray, size: tuple[int, int]) -> dict[str, Any]:
    """The sidecar's record of a clip with a solved camera."""
    projection = [[round(float(v), 6) for v in row] for row in matrix]
    return {
        "file": file,
        "camera": camera,
        "calibration": {"projection": projection, "width": size[0], "height": size[1]},
    }
