"""Whether anyone can be seen in a clip: the shipped landmark model over a few frames, in a process of its own."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from waxtwin.capture.clip import ClipError, ClipReader

MODEL = Path(__file__).parent.parent / "assets" / "models" / "pose_lite.task"
_LOOKS = 8


def no_person_in(clip: Path) -> bool:
    """True when the model finds nobody in any of a few frames spread over the clip. Raises ClipError."""
    ClipReader(clip).close()  # an unreadable clip is a fault of its own, not an empty one
    return share_with_person(clip, _LOOKS) == 0.0


def share_with_person(clip: Path, looks: int) -> float:
    """Share of `looks` frames, spread over the clip, in which a person is found. Raises ClipError."""
    env = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM_PLUGIN_PATH", "QT_QPA_FONTDIR")}
    command = [sys.executable, "-m", "waxtwin.capture.person", str(clip), str(looks)]
    done = subprocess.run(command, capture_output=True, text=True, env=env, check=False)
    try:
        return float(done.stdout.strip().split()[-1])
    except (ValueError, IndexError):
        raise ClipError(f"{clip.name}: the landmark model stopped while looking at this clip") from None


def _look(clip: Path, looks: int) -> float:
    import mediapipe as mp
    import numpy as np
    from mediapipe.tasks.python import BaseOptions, vision

    options = vision.PoseLandmarkerOptions(
        base_options=BaseOptions(model_asset_path=str(MODEL)), running_mode=vision.RunningMode.VIDEO
    )
    reader = ClipReader(clip)
    found = 0
    frames = np.unique(np.linspace(0, reader.times.size - 1, looks).astype(int))
    with vision.PoseLandmarker.create_from_options(options) as model:
        for i in frames:
            picture = np.ascontiguousarray(reader.read(int(i))[..., 2::-1])
            image = mp.Image(image_format=mp.ImageFormat.SRGB, data=picture)
            found += bool(model.detect_for_video(image, int(i) * 4 + 1).pose_landmarks)
    reader.close()
    return found / len(frames)


if __name__ == "__main__":
    print(_look(Path(sys.argv[1]), int(sys.argv[2])))
