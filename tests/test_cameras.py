"""Cameras, the drawn figure, and that a clip's solved camera really fits its pictures."""

import numpy as np
import pytest

from conftest import DEMO, simulated
from waxtwin.capture.clip import ClipReader
from waxtwin.core.camera import look_at, project
from waxtwin.core.landmarks import INDEX
from waxtwin.figure.sculpture import MATERIALS
from waxtwin.library.stored import load
from waxtwin.simulate.clips import SIZE, cameras
from waxtwin.simulate.hall import backdrop
from waxtwin.simulate.render import KITS, draw


def test_a_camera_puts_things_where_they_belong():
    matrix = look_at(np.array([0.0, -5.0, 1.0]), np.array([0.0, 0.0, 1.0]), 1000.0, (800, 600))
    at, depth = project(matrix, np.array([[0, 0, 1], [1, 0, 1], [0, 0, 2], [0, 5, 1]], float))
    np.testing.assert_allclose(at, [[400, 300], [600, 300], [400, 100], [400, 300]])
    np.testing.assert_allclose(depth, [5, 5, 5, 10])


def test_open_side_shows_the_plate_to_the_right_for_a_right_hander():
    for throws, sign in (("R", 1), ("L", -1)):
        at, _ = project(cameras(throws)["side"].matrix, np.array([[0.0, 0, 1], [1.0, 0, 1]]))
        assert sign * (at[1, 0] - at[0, 0]) > 100


@pytest.mark.parametrize("name", ["wren-tollander", "pell-ardmoor"])
def test_solved_camera_lays_landmarks_on_the_picture(name):
    """Under the projected landmarks lie the figure's own colours: trousers on the thighs, glove in the glove."""
    stored = load(DEMO / f"{name}.csv")
    kit = KITS["amber"]
    for clip in stored.clips:
        reader = ClipReader(clip.path)
        index = reader.nearest(1.2)
        picture = reader.read(index)[..., :3].astype(float)
        reader.close()
        points = stored.delivery.track.points[round(reader.times[index] * 240)]
        thigh = 0.5 * (points[INDEX["drive_hip"]] + points[INDEX["drive_knee"]])
        (x, y), _ = project(clip.camera.matrix, thigh)
        seen = picture[int(y) - 2 : int(y) + 3, int(x) - 2 : int(x) + 3].mean(axis=(0, 1))
        want = np.array(kit["trousers"], float)
        # shading changes brightness, not hue
        assert seen @ want / np.linalg.norm(seen) / np.linalg.norm(want) > 0.995, clip.view
        assert seen.mean() > 90


def test_drawn_figure_stands_where_the_body_is():
    camera = cameras("R")["side"]
    hall = backdrop(camera.matrix, SIZE)
    d = simulated("wren")
    points = d.sample(np.array([0.2]))[0]
    frame = draw(hall, camera.matrix, points, d.params.height, KITS["amber"])
    changed = np.abs(frame.astype(int) - hall.astype(int)).max(axis=2) > 30
    ys, xs = np.nonzero(changed)
    flat, _ = project(camera.matrix, points[~np.isnan(points[:, 0])])
    assert xs.min() == pytest.approx(flat[:, 0].min(), abs=60) and ys.min() == pytest.approx(flat[:, 1].min(), abs=60)
    tall = flat[:, 1].max() - flat[:, 1].min()
    assert changed.sum() > 0.1 * tall**2 and frame.shape == hall.shape
    assert (draw(hall, camera.matrix, points, d.params.height, KITS["amber"]) == frame).all()


def test_kits_name_every_material():
    for kit in KITS.values():
        assert set(MATERIALS) == set(kit)
