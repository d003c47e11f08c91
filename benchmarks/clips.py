"""Budgets of clips, landmarks and the library: jumps, playing, memory, landmark rate, a library of 10,000 throws.

`python -m benchmarks.clips` prints a table; above 1.00 a budget is missed. Jumps and landmarks are ratios to a bare
counterpart in the same run.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.capture.frames import FrameStore
from waxtwin.capture.pose import find_landmarks

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
_BARE_MODEL = """
import sys, time, av, numpy as np, mediapipe as mp
from mediapipe.tasks.python import BaseOptions, vision
from waxtwin.capture.pose import Task
options = vision.PoseLandmarkerOptions(base_options=BaseOptions(model_asset_path=str(Task("", []).model_path)),
                                       running_mode=vision.RunningMode.VIDEO)
frames = [f.to_ndarray(format="rgb24") for f in av.open(sys.argv[1]).decode(video=0)][:150]
with vision.PoseLandmarker.create_from_options(options) as model:
    start = time.perf_counter()
    for i, frame in enumerate(frames):
        model.detect_for_video(mp.Image(image_format=mp.ImageFormat.SRGB, data=frame), (i + 1) * 1000)
    print(len(frames) / (time.perf_counter() - start))
"""


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        clips = [full_hd(Path(folder) / f"{n}.mp4") for n in range(2)]
        rows = [
            ("a jump in a 1080p clip, against a bare seek and decode (1.3x)", *_jump(clips[0])),
            ("playing two 1080p clips at 60 frames/s, dropped (1 %)", *_play(clips)),
            ("memory with two 1080p clips of 500 frames open (1.5 GB)", *_memory(clips)),
            ("landmarks, against the bare model (0.85x)", *_landmarks()),
            *_library(Path(folder)),
        ]
    for name, measured, ratio in rows:
        print(f"{name:66s} {measured:>22s}   {ratio:5.2f} of budget")


def full_hd(path: Path, size: tuple[int, int] = (1920, 1080), shift: int = 0) -> Path:
    """500 frames of 1080p, or another size, at 60 frames a second with something moving in them."""
    rng = np.random.default_rng(1 + shift)
    ground = np.kron(rng.integers(40, 200, (size[1] // 20, size[0] // 20, 3), np.uint8), np.ones((20, 20, 1), np.uint8))
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=Fraction(60))
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.options = {"g": "60", "preset": "veryfast", "crf": "23"}
        for k in range(500):
            picture = np.roll(ground, 3 * k, axis=1)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="bgr24")))
        out.mux(stream.encode())
    return path


def _timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _jump(clip: Path) -> tuple[str, float]:
    order = np.random.default_rng(3).permutation(500)[:40]
    bare = av.open(str(clip))
    stream = bare.streams.video[0]
    stream.thread_type = "AUTO"

    def plain(index: int) -> None:
        wanted = int(index / 60 / stream.time_base)
        bare.seek(wanted, stream=stream)
        for frame in bare.decode(stream):
            if frame.pts >= wanted:
                frame.to_ndarray(format="bgra")
                return

    with ClipReader(clip) as reader:
        pairs = [(_timed(lambda i=int(i): plain(i)), _timed(lambda i=int(i): reader.read(i))) for i in order]
    ratio = statistics.median(b for _, b in pairs) / statistics.median(a for a, _ in pairs)
    return f"{ratio:.2f} x bare", ratio / 1.3


def _play(clips: list[Path]) -> tuple[str, float]:
    """Ask for the frames of both clips as a clock of 60 frames a second wants them."""
    stores = [FrameStore(clip, lambda index: None) for clip in clips]
    while not all(store.is_open for store in stores):
        time.sleep(0.01)
    for store in stores:
        store.frame(0)
    time.sleep(1.0)
    start, dropped, asked = time.perf_counter(), 0, 0
    for tick in range(360):
        wait = start + tick / 60 - time.perf_counter()
        if wait > 0:
            time.sleep(wait)
        index = int((time.perf_counter() - start) * 60)
        for store in stores:
            asked += 1
            dropped += store.frame(min(index, 499)) is None
    for store in stores:
        store.close()
    share = dropped / asked
    return f"{share:.1%} dropped", share / 0.01


def _memory(clips: list[Path]) -> tuple[str, float]:
    code = (
        "import sys, time, resource\nfrom pathlib import Path\n"
        "from waxtwin.ui.shared.application import application\nfrom waxtwin.ui.shell.start import open_app\n"
        "from waxtwin.ui.model.settings import Settings\nfrom waxtwin.capture.frames import FrameStore\n"
        "qt = application(); app = open_app(Settings())\n"
        "stores = [FrameStore(Path(p), lambda i: None) for p in sys.argv[1:]]\n"
        "time.sleep(1.5)\n"
        "for k in range(0, 500, 5):\n    [s.frame(k) for s in stores]; time.sleep(0.03)\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2)\n"
        "[s.close() for s in stores]; app.window.close()\n"
    )
    done = subprocess.run([sys.executable, "-c", code, *map(str, clips)], capture_output=True, text=True, check=True)
    gigabytes = float(done.stdout.split()[-1])
    return f"{gigabytes:.2f} GB", gigabytes / 1.5


def _landmarks() -> tuple[str, float]:
    clip = DEMO / "wren-tollander-side.mp4"
    bare = float(subprocess.run(
        [sys.executable, "-c", _BARE_MODEL, str(clip)], capture_output=True, text=True, check=True
    ).stdout.split()[-1])  # fmt: skip
    with ClipReader(clip) as reader:
        times = reader.times
    rate = _steady_rate(find_landmarks(clip, times, "R", frames=(0, 400)), 400)
    return f"{rate:.0f}/s, bare {bare:.0f}/s", 0.85 * bare / rate


def _steady_rate(steps: Iterator[float], frames: int) -> float:
    """Frames a second between the tenth and the last result: starting the workers is not counted."""
    first = last = 0.0
    begun = 0.0
    for step in steps:
        now = time.perf_counter()
        if first == 0.0 and step * frames >= 10:
            first, begun = now, step
        last, share = now, step
    return (share - begun) * frames / (last - first)


def _library(folder: Path) -> list[tuple[str, str, float]]:
    """10,000 throws: listing them as the Bench does, and opening the room on them."""
    from sqlalchemy import insert

    from waxtwin.library.catalogue import entries
    from waxtwin.library.records import Athlete, DeliveryRow, TagRow
    from waxtwin.library.store import Library

    library = Library(folder / "many")
    with library.reading() as session, session.begin():
        session.execute(insert(Athlete), [
            {"id": n + 1, "name": f"Pitcher {n:03d}", "throws": "RL"[n % 2], "guardian": "", "notes": "", "extra": {}}
            for n in range(200)
        ])  # fmt: skip
        session.execute(insert(DeliveryRow), [
            {"id": n + 1, "athlete_id": n % 200 + 1, "title": f"throw {n}", "recorded": f"2026-{n % 12 + 1:02d}-01",
             "screening": {}, "notes": "", "extra": {}, "origin": f"{n}.csv", "track_from": "", "added": ""}
            for n in range(10000)
        ])  # fmt: skip
        session.execute(insert(TagRow), [{"delivery_id": n + 1, "name": "cold day"} for n in range(0, 10000, 7)])

    def listed() -> None:
        with library.reading() as session:
            entries(session)

    listing = min(_timed(listed) for _ in range(5))
    library.close()
    return [
        ("10,000 throws listed (300 ms with the room)", f"{listing * 1000:.0f} ms", listing / 0.3),
        ("10,000 throws: library opened and the Bench filled (300 ms)", *_bench(folder / "many")),
    ]


def _bench(folder: Path) -> tuple[str, float]:
    from PySide6.QtWidgets import QApplication

    from waxtwin.library.store import Library
    from waxtwin.ui.model.settings import Settings
    from waxtwin.ui.shared.application import application
    from waxtwin.ui.shell.start import open_app

    application()
    app = open_app(Settings())
    app.window.resize(1280, 800)
    app.window.show()
    QApplication.processEvents()
    spent = []
    for _ in range(5):
        app.library.close()
        app.library.entries = []
        app.bench.fill()

        def fill() -> None:
            app.library.store = Library(folder)
            app.library.refresh()
            QApplication.processEvents()

        spent.append(_timed(fill))
    app.window.close()
    return f"{min(spent) * 1000:.0f} ms", min(spent) / 0.3


if __name__ == "__main__":
    main()
