"""The sculpted figure: it is where the body is, stays whole in any pose of a delivery, and is painted where it is."""

import math

import numpy as np
import pytest

from conftest import clean, simulated
from waxtwin.core.camera import look_at
from waxtwin.core.landmarks import INDEX
from waxtwin.figure.depths import add_depth
from waxtwin.figure.filled import bridged, filled
from waxtwin.figure.ground import Ground, mound, shadow
from waxtwin.figure.moving import pose_at
from waxtwin.figure.pose import pose
from waxtwin.figure.raster import View, paint
from waxtwin.figure.sculpture import MATERIALS, sculpture
from waxtwin.figure.shade import wax
from waxtwin.figure.skeleton import BONE
from waxtwin.figure.skin import TURNED, Skin, body_pose, heaviness, placed

SIZE = (300, 320)
WHOLE = (0, 0, *SIZE)
AMBER = wax("#D59A3C")


def bodies(name: str, count: int = 60) -> tuple[np.ndarray, float]:
    d = simulated(name)
    return d.sample(np.linspace(0.1, d.times[-1] - 0.05, count)), d.params.height


def view(height: float, azimuth: float = 0.0, elevation: float = 0.09) -> View:
    away = np.array([math.sin(azimuth), -math.cos(azimuth), math.sin(elevation)])
    target = np.array([0.46 * height, 0.0, 0.46 * height])
    return View.of(look_at(target + 7.5 * away, target, 7.5 * SIZE[0] / (1.42 * height), SIZE))


def led_by(bone: str) -> np.ndarray:
    """Which points of the figure a bone moves nearly alone."""
    return sculpture().weights[:, BONE[bone]] > 0.9


@pytest.mark.parametrize("name", ["wren", "ines", "pell", "juno"])
def test_parts_lie_on_the_segments_that_they_belong_to(name):
    points, height = bodies(name, 12)
    if simulated(name).params.throws == "L":
        points = points * TURNED
    ends = {"throwing_forearm": ("throwing_elbow", "throwing_wrist"), "glove_forearm": ("glove_elbow", "glove_wrist"),
            "lead_shank": ("lead_knee", "lead_ankle"), "drive_thigh1": ("drive_hip", "drive_knee")}  # fmt: skip
    for body in points:
        skin = Skin.posed(body_pose(body, height))
        for bone, (a, b) in ends.items():
            start, end = body[INDEX[a]], body[INDEX[b]]
            along = (end - start) / np.linalg.norm(end - start)
            off = skin.points[led_by(bone)] - start
            across = np.linalg.norm(off - (off @ along)[:, None] * along, axis=1)
            assert across.max() < (0.07 if "thigh" in bone else 0.055) * height, bone
        assert np.linalg.norm(skin.points[led_by("head")].mean(axis=0) - body[INDEX["head"]]) < 0.05 * height


@pytest.mark.parametrize("name", ["wren", "juno"])
def test_no_part_collapses_is_wrung_or_jumps_in_a_whole_delivery(name):
    d = simulated(name)
    times = np.arange(0.1, d.times[-1] - 0.05, 1 / 240)
    points = d.sample(times) * (TURNED if d.params.throws == "L" else 1.0)
    bones = pose(points, d.params.height)
    body = sculpture(fine=False)
    ends, _ = body.edges
    usual = np.linalg.norm(body.points[ends[:, 0]] - body.points[ends[:, 1]], axis=1) * d.params.height
    fast = np.nanmax(np.linalg.norm(np.diff(points, axis=0), axis=-1), axis=1)
    before = None
    for n, row in enumerate(bones):
        skin = Skin.posed(row, fine=False)
        long = (
            np.linalg.norm(skin.points[ends[:, 0]] - skin.points[ends[:, 1]], axis=1)[usual > 1e-4]
            / usual[usual > 1e-4]
        )
        assert np.percentile(long, 0.2) > 0.2 and np.percentile(long, 99.8) < 2.6
        assert np.allclose(np.linalg.norm(skin.normals, axis=1), 1, atol=1e-3)
        if before is not None:  # no point outruns the body's quickest landmark by more than a turning limb's girth
            assert np.linalg.norm(skin.points - before, axis=1).max() < 1.6 * fast[n - 1] + 0.03
        before = skin.points


def test_a_left_hander_is_the_mirror_of_a_right_hander():
    points, height = bodies("wren", 3)
    side = view(height, math.pi / 2, 0.0)
    for body in points:
        right = paint(Skin.posed(body_pose(body, height)), side, AMBER, WHOLE, shaded=False)
        left = paint(Skin.posed(body_pose(body, height), mirrored=True), side, AMBER, WHOLE, shaded=False)
        assert right.pixels.shape == pytest.approx(left.pixels.shape, abs=2)
        assert right.left + right.pixels.shape[1] == pytest.approx(SIZE[0] - left.left, abs=2)


def test_an_unseen_axis_gets_plausible_widths():
    whole = clean("wren").motion
    body = whole.body_at(2.0)
    seen = body.copy()
    seen[:, 1] = 0.0
    found = filled(seen, whole.height)
    for joint, sides in (("shoulder", ("throwing", "glove")), ("hip", ("drive", "lead"))):
        apart = found[INDEX[f"{sides[0]}_{joint}"]] - found[INDEX[f"{sides[1]}_{joint}"]]
        assert np.hypot(apart[0], apart[1]) == pytest.approx(
            (0.21 if joint == "shoulder" else 0.104) * whole.height, rel=0.05
        )
    side = view(whole.height)
    covers = [
        np.count_nonzero(paint(Skin.posed(body_pose(one, whole.height)), side, AMBER, WHOLE).pixels[..., 3])
        for one in (body, seen)
    ]
    assert covers[1] == pytest.approx(covers[0], rel=0.25)


@pytest.mark.parametrize(("axis", "name"), [(1, "wren"), (1, "pell"), (0, "ines"), (0, "juno")])
def test_a_limb_that_is_seen_too_short_reaches_along_the_unseen_axis(axis, name):
    points, height = bodies(name, 60)
    if simulated(name).params.throws == "L":
        points = points * TURNED
    seen = points.copy()
    seen[..., axis] = 0.0
    found = filled(seen, height)
    np.testing.assert_array_equal(np.delete(found, axis, axis=-1), np.delete(points, axis, axis=-1))
    hips = [INDEX["drive_hip"], INDEX["lead_hip"]]

    def off(body: np.ndarray, joint: str) -> float:
        deep = body[..., axis] - body[..., hips, axis].mean(axis=-1, keepdims=True)
        true = points[..., axis] - points[..., hips, axis].mean(axis=-1, keepdims=True)
        return float(np.sqrt(np.mean((deep - true)[:, INDEX[joint]] ** 2)))

    for joint in ("lead_knee", "lead_ankle", "lead_toe", "drive_knee", "glove_wrist"):
        assert off(found, joint) < max(0.8 * off(seen, joint), 0.09), joint
    assert off(found, "lead_knee") < 0.1
    seen[:, INDEX["glove_shoulder"]] = np.nan
    seen[:, INDEX["lead_knee"]] = np.nan
    add_depth(seen, axis, height)
    assert np.isfinite(seen[:, [INDEX["glove_wrist"], INDEX["throwing_shoulder"], INDEX["lead_ankle"]]]).all()


def test_what_is_missing_is_made_up_and_shown_darkly():
    points, height = bodies("wren", 3)
    body = points[1].copy()
    for name in ("nose", "glove_hand", "throwing_hand", "lead_heel", "lead_toe", "head"):
        body[INDEX[name]] = np.nan
    skin = Skin.posed(body_pose(body, height))
    assert np.isfinite(skin.points).all() and skin.seen.min() > 0.99, "ends follow from what they hang on"
    body[INDEX["glove_elbow"]] = np.nan
    skin = Skin.posed(body_pose(body, height))
    assert np.isfinite(skin.points).all()
    assert skin.seen[led_by("glove_forearm")].max() < 0.2 and skin.seen[led_by("throwing_forearm")].min() > 0.9
    bright = [paint(one, view(height), AMBER, WHOLE).pixels[..., 1].astype(int).sum()
              for one in (skin, Skin.posed(body_pose(points[1], height)))]  # fmt: skip
    assert bright[0] < bright[1]
    body[[INDEX["drive_hip"], INDEX["lead_hip"]]] = np.nan
    assert paint(Skin.posed(body_pose(body, height)), view(height), AMBER, WHOLE) is None


def test_a_gap_keeps_to_what_it_hangs_on():
    d = simulated("ines")
    whole = d.sample(np.linspace(0.3, 2.0, 200))
    holed = whole.copy()
    holed[80:100, [INDEX["glove_wrist"], INDEX["lead_knee"]]] = np.nan
    found = bridged(holed)
    assert np.isfinite(found[80:100, INDEX["glove_wrist"]]).all()
    off = np.linalg.norm(found[80:100] - whole[80:100], axis=-1)[:, [INDEX["glove_wrist"], INDEX["lead_knee"]]]
    assert off.max() < 0.2
    untouched = np.isfinite(holed).all(axis=-1)
    np.testing.assert_array_equal(found[untouched], holed[untouched])


def test_a_throw_outside_its_times_and_an_empty_body_paint_nothing():
    motion = clean("wren").motion
    assert np.isnan(pose_at(motion, float(motion.times[-1]) + 1)).all()
    nobody = np.full((len(INDEX), 3), np.nan)
    assert paint(Skin.posed(body_pose(nobody, 1.8)), view(1.8), AMBER, WHOLE) is None


def test_poses_kept_for_a_throw_are_those_of_its_bodies():
    motion = clean("ines").motion
    for time in (float(motion.times[200]), float(motion.times[300]) + 0.002):
        exact = Skin.posed(body_pose(motion.body_at(time), motion.height)).points
        assert np.linalg.norm(Skin.posed(pose_at(motion, time)).points - exact, axis=1).max() < 0.012


def test_the_picture_covers_the_body_from_every_side_and_stays_in_its_bounds():
    points, height = bodies("pell", 5)
    for body in points:
        for azimuth in (0.0, 1.6, 3.1, 4.7):
            seen = view(height, azimuth)
            picture = paint(Skin.posed(body_pose(body, height)), seen, AMBER, WHOLE)
            thigh = (0.5 * (body[INDEX["drive_hip"]] + body[INDEX["drive_knee"]]))[None]
            (x, y), _ = (part[0] for part in seen.project(thigh))
            assert picture.pixels[round(y) - picture.top, round(x) - picture.left, 3] == 255
            assert (picture.pixels[..., :3] <= picture.pixels[..., 3:]).all(), "premultiplied"
    cut = paint(
        Skin.posed(body_pose(points[2], height)), view(height), AMBER, (picture.left, 100, picture.left + 30, 320)
    )
    assert cut.left >= picture.left and cut.left + cut.pixels.shape[1] <= picture.left + 30 and cut.top >= 100


def test_a_camera_without_perspective_sees_the_same_figure():
    points, height = bodies("wren", 3)
    skin = Skin.posed(body_pose(points[1], height))
    target, focal = np.array([0.5, 0.0, 0.8]), 120.0
    far = look_at(target - np.array([0, 300.0, 0]), target, focal * 300, SIZE)
    flat = np.array(
        [[focal, 0, 0, SIZE[0] / 2 - focal * 0.5], [0, 0, -focal, SIZE[1] / 2 + focal * 0.8], [0, 0, 0, 1.0]]
    )
    one, two = (paint(skin, View.of(m), AMBER, WHOLE, shaded=False) for m in (far, flat))
    whole = np.zeros((2, SIZE[1], SIZE[0]))
    for page, picture in zip(whole, (one, two), strict=True):
        rows, columns = picture.pixels.shape[:2]
        page[picture.top : picture.top + rows, picture.left : picture.left + columns] = picture.pixels[..., 3] > 0
    assert np.count_nonzero(whole[0] != whole[1]) < 0.05 * np.count_nonzero(whole[0])


def test_the_ball_is_seen_only_while_it_is_held():
    points, height = bodies("wren", 60)
    skin = Skin.posed(body_pose(points[45], height))
    held, gone = (paint(skin, view(height), AMBER, WHOLE, ball=ball) for ball in (True, False))
    count = [np.count_nonzero(one.pixels[..., 3]) for one in (held, gone)]
    assert count[0] > count[1]
    assert np.count_nonzero(sculpture().material == MATERIALS.index("ball")) > 20


def test_a_heavier_body_is_wider_and_no_taller():
    body = sculpture()
    slim, heavy = body.built(-0.008), body.built(0.015)
    belly = (np.abs(body.points[:, 2] - 0.10) < 0.02) & (np.abs(body.points[:, 0]) < 0.1)
    assert np.ptp(heavy[belly, 0]) > np.ptp(slim[belly, 0]) + 0.02
    assert np.ptp(heavy[:, 2]) == pytest.approx(np.ptp(slim[:, 2]), abs=0.004)


def test_a_mass_makes_a_build_only_where_it_is_known():
    assert heaviness(None, 1.8) == 0.0 and heaviness(64, 1.8) < 0 < heaviness(96, 1.8) < heaviness(120, 1.8)
    assert heaviness(400, 1.8) == heaviness(300, 1.8), "no figure is blown up"


def test_a_body_laid_over_another_is_scaled_and_shifted_whole():
    points, height = bodies("wren", 2)
    bones = body_pose(points[0], height)
    moved = Skin.posed(placed(bones, 1.1, np.array([0.2, 0.0, -0.1]))).points
    np.testing.assert_allclose(moved, 1.1 * Skin.posed(bones).points + [0.2, 0.0, -0.1], atol=1e-4)


def test_the_shadow_lies_on_the_sloping_ground_and_the_mound_fades_out():
    points, height = bodies("wren", 60)
    ground = Ground(0.0, 1.4, -0.12)
    seen = view(height)
    dark, (left, top, _, _) = shadow(Skin.posed(body_pose(points[50], height)), seen, ground.at, WHOLE)
    x = float(points[50][INDEX["lead_ankle"], 0])
    (at,), _ = seen.project(np.array([[x + 0.05, points[50][INDEX["lead_ankle"], 1], ground.at(np.array(x))]]))
    assert dark[round((at[1] - top) / 4), round((at[0] - left) / 4)] > 60
    picture = mound(seen, ground, WHOLE)
    assert picture.pixels[:100, :, 3].max() == 0 and picture.pixels[..., 3].max() > 200
    assert (picture.pixels[..., :3].max(axis=-1) <= picture.pixels[..., 3]).all()
