"""The landmark model in a process of its own: `python -m waxtwin.capture.pose_worker` with one JSON argument.

Records go to standard output as they come, so that a kill loses at most the frame in hand.
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.capture.pose import BODY, RECORD, Crop, Task

_STEP_MS = 1000  # the model smooths over its own clock: a long step keeps it from lagging behind a fast hand


def run(task: Task) -> Iterator[np.ndarray]:
    """A record per frame (and person, when looking around) in which somebody is found, and an empty one otherwise."""
    for unused in ("matplotlib", "matplotlib.pyplot"):  # which the model's package loads, to draw what nobody asks for
        sys.modules.setdefault(unused, ModuleType(unused))
    import mediapipe as mp
    from mediapipe.tasks.python import BaseOptions, vision

    video = task.people == 1
    mode = vision.RunningMode.VIDEO if video else vision.RunningMode.IMAGE
    options = vision.PoseLandmarkerOptions(
        base_options=BaseOptions(model_asset_path=str(task.model_path)), running_mode=mode, num_poses=task.people
    )
    reader = ClipReader(Path(task.clip))
    with vision.PoseLandmarker.create_from_options(options) as model:
        for i in task.frames:
            whole = reader.read(i)
            for crop in task.crops:
                picture, corner = _cropped(whole, crop)
                image = mp.Image(image_format=mp.ImageFormat.SRGB, data=np.ascontiguousarray(picture[..., 2::-1]))
                found = model.detect_for_video(image, (i + 1) * _STEP_MS) if video else model.detect(image)
                yield _records(i, found, picture.shape, corner)
    reader.close()


def _cropped(picture: np.ndarray, crop: Crop | None) -> tuple[np.ndarray, tuple[int, int]]:
    if crop is None:
        return picture, (0, 0)
    x0, y0, x1, y1 = crop
    return picture[y0:y1, x0:x1], (x0, y0)


def _records(frame: int, found: Any, shape: tuple[int, ...], corner: tuple[int, int]) -> np.ndarray:
    height, width = shape[:2]
    records = np.zeros(max(len(found.pose_landmarks), 1), RECORD)
    records["frame"] = frame
    for record, flat, world in zip(records, found.pose_landmarks, found.pose_world_landmarks, strict=False):
        record["seen"] = 1
        record["points"] = [(p.x * width + corner[0], p.y * height + corner[1], p.visibility) for p in flat[:BODY]]
        record["world"] = [(p.x, p.y, p.z) for p in world[:BODY]]
    return records


def main() -> None:
    """Work through the task that is given as JSON."""
    task = Task(**json.loads(sys.argv[1]))
    if task.gentle:
        os.nice(10)
    for records in run(task):
        sys.stdout.buffer.write(records.tobytes())
        sys.stdout.buffer.flush()


if __name__ == "__main__":
    main()
