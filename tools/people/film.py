"""Films a made-up cast as a phone would: `python -m tools.people.film judge OUT` or `teach OUT`, with how many."""

from __future__ import annotations

import argparse
import json
import os
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from tools.people.body import make, normals
from tools.people.cast import Person, person
from tools.people.outfit import dress
from tools.people.raster import cover, paint
from tools.people.rig import Driven, Skin, drive
from tools.people.scene import Scene, backdrop

from waxtwin.core.camera import look_at, project
from waxtwin.formats.place import SUFFIX
from waxtwin.formats.sidecar import Sidecar, write_sidecar
from waxtwin.formats.tracks import write_track
from waxtwin.library.simulated import Recording, record, view_record
from waxtwin.simulate.clips import ball_path
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.smooth_curves import FINE_RATE
from waxtwin.simulate.truth import true_angles, true_events, true_peaks

SIZE = (1280, 720)
FPS = 240.0
_SHUTTER = 1 / 700  # s
_OVER = 2  # samples across a pixel
_MARGIN = 40  # pixels around the figure
_BLUR_FROM, _BLUR_MUCH = (
    0.8,
    3.0,
)  # pixels that something moves while the shutter is open, before it is painted twice, and thrice


@dataclass(frozen=True)
class Shot:
    """A camera on the field: its name in the sidecar, and how far (deg) it stands off that view."""

    name: str
    view: str
    yaw: float = 0.0


SHOTS = (
    Shot("side", "open side"), Shot("front", "front"), Shot("rear", "rear"), Shot("oblique", "open side", 30.0),
    Shot("closed", "closed side"), Shot("again", "open side"),
)  # fmt: skip


def camera_of(who: Person, shot: Shot) -> np.ndarray:
    """Projection matrix (3, 4) of a person's camera for a shot, placed a little differently each time."""
    rng = np.random.default_rng([who.seed, len(shot.name)])
    open_side = -1.0 if who.params.throws == "R" else 1.0
    tall = who.params.height / 1.83
    jitter = rng.normal(0, [0.12, 0.25, 0.12])
    if shot.view in ("open side", "closed side"):
        open_side = open_side if shot.view == "open side" else -open_side
        turn = np.radians(shot.yaw + rng.normal(0, 1.5))
        away = 8.5 * np.array([np.sin(turn), open_side * np.cos(turn)])
        eye, target, focal = (0.8 + away[0], away[1], 1.2), (0.75, 0.0, 0.86 * tall), 2050.0
    elif shot.view == "front":
        eye, target, focal = (16.5, 0.3 * open_side, 1.5), (0.3, 0.0, 0.86 * tall), 4100.0
    else:
        eye, target, focal = (-7.0, 0.3 * open_side, 1.7), (0.9, 0.0, 0.8 * tall), 1900.0
    return look_at(np.array(eye) + jitter, np.array(target), focal * rng.uniform(0.94, 1.03), SIZE)


def write_person(who: Person, out: Path, shots: tuple[Shot, ...] = SHOTS, fps: float = FPS) -> None:
    """NAME.csv, NAME.delivery.json, NAME.truth.json and a clip per shot."""
    body = make(who.build)
    plain = simulate(who.params)
    driven = drive(body, plain)
    events = true_events(driven.delivery)
    out.mkdir(parents=True, exist_ok=True)
    write_track(record(driven.delivery, Recording(fps)), out / f"{who.name}.csv")
    side = "l" if who.params.throws == "R" else "r"
    figure = dress(body, who.look, side)
    skin = Skin(body, figure, driven)
    ball = ball_path(driven.delivery, driven.delivery.times, driven.delivery.points, events["release"])
    views = []
    for shot in shots:
        matrix = camera_of(who, shot)
        file = f"{who.name}-{shot.name}.mp4"
        _film(skin, figure.faces, figure.colours, driven, ball, matrix, who.scene, out / file, fps, who.seed)
        views.append(view_record(file, shot.view, matrix, SIZE))
    peaks = true_peaks(driven.delivery)
    sidecar = {
        "athlete": {"name": who.name, "height_m": who.params.height, "throws": who.params.throws},
        "ball_speed_mps": round(peaks["throwing_hand"] * who.params.ball_hand_ratio, 2), "capture_fps": fps,
        "views": views,
    }  # fmt: skip
    write_sidecar(Sidecar.model_validate(sidecar), out / f"{who.name}{SUFFIX}")
    truth = {"events": events, "angles": true_angles(driven.delivery, events), "peaks": peaks}
    (out / f"{who.name}.truth.json").write_text(json.dumps(truth, indent=1))


def _film(  # noqa: PLR0913 - all that is in a picture
    skin: Skin, faces: np.ndarray, colours: np.ndarray, driven: Driven, ball: np.ndarray, matrix: np.ndarray,
    scene: Scene, path: Path, fps: float, seed: int,
) -> None:  # fmt: skip
    rng = np.random.default_rng(seed)
    empty = backdrop(matrix, SIZE, scene)
    grains = rng.normal(0, 0.010, (7, SIZE[1], SIZE[0], 3)).astype(np.float32)
    delivery = driven.delivery
    times = np.arange(0.0, delivery.times[-1], 1 / fps)
    shake = _shake(times, rng)
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=Fraction(fps).limit_denominator(1001))
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv420p"
        stream.options = {"crf": "20", "preset": "veryfast", "g": "48"}
        for k, time in enumerate(times):
            picture = _exposed(skin, faces, colours, delivery.points, ball, matrix, scene, empty, float(time))
            moved = cv2.warpAffine(
                picture, np.array([[1, 0, shake[k, 0]], [0, 1, shake[k, 1]]]), SIZE, borderMode=cv2.BORDER_REPLICATE
            )
            noisy = moved + np.roll(grains[k % len(grains)], int(rng.integers(0, SIZE[0])), axis=1)
            bytes_ = (np.clip(noisy, 0, 1) ** (1 / 1.15) * 255).astype(np.uint8)
            for packet in stream.encode(av.VideoFrame.from_ndarray(bytes_, format="rgb24")):
                container.mux(packet)
        for packet in stream.encode():
            container.mux(packet)


def _shake(times: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """How a hand's unrest moves the picture, `(frames, 2)` pixels: slow, one pixel wide."""
    out = np.zeros((times.size, 2))
    for hertz in (0.4, 0.9, 2.3):
        out += 0.5 * np.sin(2 * np.pi * hertz * times[:, None] + rng.uniform(0, 2 * np.pi, 2)) / np.sqrt(hertz)
    return out


def _exposed(  # noqa: PLR0913
    skin: Skin, faces: np.ndarray, colours: np.ndarray, points: np.ndarray, ball: np.ndarray, matrix: np.ndarray,
    scene: Scene, empty: np.ndarray, time: float,
) -> np.ndarray:  # fmt: skip
    """The picture that the shutter gathers around an instant."""
    middle = round(time * FINE_RATE)
    reach = max(round(_SHUTTER * FINE_RATE / 3), 1)
    instants = np.clip([middle - reach, middle, middle + reach], 0, len(points) - 1)
    flat, _ = project(matrix, points[instants[[0, 2]]])
    smear = float(np.nanmax(np.linalg.norm(flat[1] - flat[0], axis=-1)))
    instants = instants[1:2] if smear < _BLUR_FROM else instants[[0, 2]] if smear < _BLUR_MUCH else instants
    lamp = np.array(scene.lamp) / np.linalg.norm(scene.lamp)
    behind = empty.copy()
    _shadow(behind, skin.at(middle), faces, matrix, lamp)
    shots = [
        _instant(skin.at(int(i)), faces, colours, ball[int(i)], matrix, lamp, scene.ambient, behind) for i in instants
    ]
    return np.asarray(np.mean(shots, axis=0), np.float32) if len(shots) > 1 else shots[0]


def _instant(
    body: np.ndarray, faces: np.ndarray, colours: np.ndarray, ball: np.ndarray, matrix: np.ndarray, lamp: np.ndarray,
    ambient: float, behind: np.ndarray,
) -> np.ndarray:  # fmt: skip
    flat, depth = project(matrix, body)
    picture = behind.copy()
    x0, y0 = np.maximum(flat.min(axis=0).astype(int) - _MARGIN, 0)
    x1, y1 = np.minimum(flat.max(axis=0).astype(int) + _MARGIN, SIZE)
    if x1 <= x0 or y1 <= y0:
        return picture
    patch = picture[y0:y1, x0:x1]
    large = cv2.resize(patch, None, fx=_OVER, fy=_OVER, interpolation=cv2.INTER_LINEAR)
    nearest = np.full(large.shape[:2], np.inf, np.float32)
    toward = -matrix[2, :3] / np.linalg.norm(matrix[2, :3])
    under = _own_shadow(body, lamp)
    spot = (flat - [x0, y0]) * _OVER
    paint(spot, depth, faces, normals(body, faces), colours, under, nearest, large, lamp, toward, ambient, 0.05)
    where, deep = project(matrix, ball)
    radius = 0.037 * _OVER * float(np.linalg.norm(matrix[0, :3])) / max(float(deep), 0.1)
    at = tuple(int(v) for v in (where - [x0, y0]) * _OVER)
    if 0 <= at[0] < large.shape[1] and 0 <= at[1] < large.shape[0] and deep - 0.06 < nearest[at[1], at[0]]:
        cv2.circle(large, at, max(int(radius), 1), (0.93, 0.92, 0.90), -1, cv2.LINE_AA)
    patch[:] = cv2.resize(large, (x1 - x0, y1 - y0), interpolation=cv2.INTER_AREA)
    return picture


def _own_shadow(body: np.ndarray, lamp: np.ndarray) -> np.ndarray:
    """A body shades itself a little where it faces down."""
    return np.clip(0.75 + 0.25 * (body[:, 2] - body[:, 2].min()), 0.75, 1.0) * (0.6 + 0.4 * (lamp[2] > 0))


def _shadow(picture: np.ndarray, body: np.ndarray, faces: np.ndarray, matrix: np.ndarray, lamp: np.ndarray) -> None:
    """The figure's shadow on the ground, at a quarter of the size and soft."""
    on_ground = body - lamp * (body[:, 2:] / lamp[2])
    flat, _ = project(matrix, on_ground)
    mask = np.zeros((SIZE[1] // 4, SIZE[0] // 4), np.float32)
    cover(flat / 4, faces, mask)
    soft = cv2.resize(cv2.GaussianBlur(mask, (0, 0), 1.2), SIZE, interpolation=cv2.INTER_LINEAR)
    picture *= 1 - 0.4 * soft[..., None]


def main() -> None:
    parser = argparse.ArgumentParser(description="Film made-up people who throw.")
    parser.add_argument("purpose", choices=("teach", "judge"))
    parser.add_argument("out", type=Path)
    parser.add_argument("--count", type=int, default=4)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--fps", type=float, default=FPS)
    parser.add_argument("--shots", default=",".join(shot.name for shot in SHOTS))
    args = parser.parse_args()
    shots = tuple(shot for shot in SHOTS if shot.name in args.shots.split(","))
    people = [person(args.purpose, args.first + i) for i in range(args.count)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for _ in pool.map(
            write_person, people, [args.out] * len(people), [shots] * len(people), [args.fps] * len(people)
        ):
            pass


if __name__ == "__main__":
    main()
