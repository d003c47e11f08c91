"""Landmarks from a clip by the shipped model: in worker processes, with progress, cancel and resuming.

The model (MediaPipe Pose, Bazarevsky et al. 2020) sees 33 body points; ours are taken from them by `BODY_POINTS`.
"""

from __future__ import annotations

import hashlib
import json
import os
import queue
import subprocess
import sys
import threading
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from pathlib import Path

import numpy as np

from waxtwin import ASSETS
from waxtwin.capture.clip import ClipError
from waxtwin.core.landmarks import INDEX, LANDMARKS, anatomical_names
from waxtwin.core.marks import MODEL, Marks
from waxtwin.core.steps import Steps

SIZES = ("lite", "full", "heavy")
BODY = 33
RECORD = np.dtype([("frame", "<i4"), ("seen", "<i4"), ("points", "<f4", (BODY, 3)), ("world", "<f4", (BODY, 3))])
_MODELS = ASSETS / "models"
_processes = 2
_VERSION = 1  # of what the records mean; an older run is not resumed

# Where each landmark comes from: the model's points, averaged. The middle knuckle lies between index and little finger.
BODY_POINTS: dict[str, tuple[int, ...]] = {
    "head": (7, 8), "nose": (0,),
    "left_shoulder": (11,), "right_shoulder": (12,), "left_elbow": (13,), "right_elbow": (14,),
    "left_wrist": (15,), "right_wrist": (16,), "left_hand": (17, 19), "right_hand": (18, 20),
    "left_hip": (23,), "right_hip": (24,), "left_knee": (25,), "right_knee": (26,),
    "left_ankle": (27,), "right_ankle": (28,), "left_heel": (29,), "right_heel": (30,),
    "left_toe": (31,), "right_toe": (32,),
}  # fmt: skip

Crop = tuple[int, int, int, int]


@dataclass(frozen=True)
class Task:
    """What a worker does: `frames` of `clip` with the model of a `size`, inside each of `crops` (x0 y0 x1 y1, pixels).

    `people` 1 follows one person; more looks at each frame on its own for so many.
    """

    clip: str
    frames: Sequence[int]
    size: str = "lite"
    crops: Sequence[Crop | None] = (None,)
    people: int = 1
    gentle: bool = False

    @property
    def model_path(self) -> Path:
        return _MODELS / f"pose_{self.size}.task"


class _Worker:
    """One process; its records arrive in a queue, None at its end."""

    def __init__(self, task: Task, into: queue.Queue[np.ndarray | None]) -> None:
        env = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM_PLUGIN_PATH", "QT_QPA_FONTDIR")}
        command = [sys.executable, "-m", "waxtwin.capture.pose_worker", json.dumps(asdict(task))]
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, env=env
        )
        self._into = into
        self._thread = threading.Thread(target=self._read, name="waxtwin-pose", daemon=True)
        self._thread.start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        while len(data := self.process.stdout.read(RECORD.itemsize)) == RECORD.itemsize:
            self._into.put(np.frombuffer(data, RECORD))
        self._into.put(None)

    def stop(self) -> None:
        """End the process, whatever it is doing."""
        self.process.kill()
        self.process.wait()
        self._thread.join()
        if self.process.stdout is not None:
            self.process.stdout.close()


def use_processes(count: int) -> None:
    """Look through a clip in so many processes from now on; whoever runs beside others of its kind takes one."""
    global _processes
    _processes = count


def shared_out(frames: Sequence[int]) -> list[list[int]]:
    """Frames in as many runs as there are processes to look through them, or fewer; none is empty."""
    return [part.tolist() for part in np.array_split(np.array(frames, int), _processes) if part.size]


def missing_model() -> str:
    """What is wrong where the landmark model is not there, in one sentence; nothing where it is."""
    if any(_MODELS.glob("*.task")):
        return ""
    return "the landmark model is not on this machine, so nothing can be found in clips here; install Wax Twin anew"


def stream(tasks: Sequence[Task]) -> Iterator[np.ndarray]:
    """Records of all tasks as they come; raises ClipError when a worker dies before its end."""
    arriving: queue.Queue[np.ndarray | None] = queue.Queue()
    workers = [_Worker(task, arriving) for task in tasks]
    try:
        running = len(workers)
        while running:
            record = arriving.get()
            if record is None:
                running -= 1
            else:
                yield record
        if any(worker.process.wait() != 0 for worker in workers):
            name = Path(tasks[0].clip).name
            raise ClipError(
                f"{name}: the landmark model stopped; what it had found is kept, and it can be started again"
            )
    finally:
        for worker in workers:
            worker.stop()


def find_landmarks(
    clip: Path,
    times: np.ndarray,
    throws: str,
    *,
    size: str = "lite",
    frames: tuple[int, int] | None = None,
    crop: Crop | None = None,
    cache: Path | None = None,
    gentle: bool = False,
) -> Steps[Marks]:
    """The marks of the frames [first, last) of a clip, or of all.

    `times` (frames,) are the clip's own. What is found goes to a file in `cache` at once and is read back when the
    same work is begun again. `gentle` workers give way to whatever else runs. Raises ClipError when the model dies.
    """
    first, last = frames or (0, times.size)
    kept = None if cache is None else cache / f"{_clip_key(clip)}-{_run_key(size, crop)}.part"
    records = _read_back(kept)
    todo = [i for i in range(first, last) if i not in records]
    total = max(last - first, 1)
    yield 1.0 - len(todo) / total
    out = None
    if kept is not None and todo:
        with suppress(OSError):
            kept.parent.mkdir(parents=True, exist_ok=True)
            out = kept.open("ab")
    try:
        tasks = [Task(str(clip), part, size, (crop,), gentle=gentle) for part in shared_out(todo)]
        left = len(todo)
        for record in stream(tasks) if tasks else ():
            records[int(record["frame"][0])] = record[0]
            if out is not None:
                out.write(record.tobytes())
                out.flush()
            left -= 1
            yield 1.0 - left / total
    finally:
        if out is not None:
            out.close()
    return marks_from(records, times, throws)


def marks_from(records: dict[int, np.ndarray], times: np.ndarray, throws: str) -> Marks:
    """The model's records as marks under our ids, with the model's own visibility as confidence."""
    marks = replace(Marks.empty(times), world=np.full((times.size, len(LANDMARKS), 3), np.nan))
    assert marks.world is not None
    names = anatomical_names(throws)
    columns = [(INDEX[names.get(name, name)], list(parts)) for name, parts in BODY_POINTS.items()]
    for frame, record in records.items():
        if not record["seen"] or frame >= times.size:
            continue
        for j, parts in columns:
            x, y, seen = record["points"][parts].mean(axis=0)
            marks.points[frame, j] = (x, y)
            marks.confidence[frame, j] = float(np.clip(seen, 0.0, 1.0))
            marks.source[frame, j] = MODEL
            marks.world[frame, j] = record["world"][parts].mean(axis=0)
    return marks


def forget(clip: Path, cache: Path) -> None:
    """Delete what was found of a clip. Raises OSError."""
    for kept in cache.glob(f"{_clip_key(clip)}-*.part"):
        kept.unlink(missing_ok=True)


def _run_key(size: str, crop: Crop | None) -> str:
    return hashlib.sha256(json.dumps([_VERSION, size, crop]).encode()).hexdigest()[:16]


def _clip_key(clip: Path) -> str:
    digest = hashlib.sha256()
    with clip.open("rb") as file:
        # the ends of a clip tell it from another; hashing gigabytes would only make people wait
        digest.update(file.read(1 << 20))
        digest.update(str(clip.stat().st_size).encode())
        file.seek(max(clip.stat().st_size - (1 << 20), 0))
        digest.update(file.read(1 << 20))
    return digest.hexdigest()[:32]


def _read_back(kept: Path | None) -> dict[int, np.ndarray]:
    if kept is None or not kept.is_file():
        return {}
    with suppress(OSError):
        data = kept.read_bytes()
        whole = len(data) - len(data) % RECORD.itemsize
        if whole != len(data):
            kept.write_bytes(data[:whole])  # a kill in mid-record
        return {int(record["frame"]): record for record in np.frombuffer(data[:whole], RECORD)}
    return {}
