"""Readings of the picture from which the fit begins: a picture alone does not say what is near and what is far."""

from __future__ import annotations

import numpy as np

from waxtwin.core.depth.scene import Moments, Sighting
from waxtwin.core.depth.skeleton import COUNT, KINDS
from waxtwin.core.depth.terms import Scene
from waxtwin.core.landmarks import INDEX

# Turns (deg) of hips and shoulders that are usual at the start, the lift, landing, release and the finish.
_USUAL_HIPS = (0.0, -28.0, 34.0, 92.0, 98.0)
_USUAL_SHOULDERS = (0.0, -28.0, -12.0, 100.0, 108.0)
_STILL, _AFTER = 0.8, 0.15  # s before the lift; past release
_BEFORE_RELEASE = 0.06  # s: until then the shoulders may be read the other way round
_FOREARM_ON = 0.7  # of its length that the forearm lies along the shoulder line at release
_ARMS = {side: [INDEX[f"{side}_{part}"] for part in ("shoulder", "elbow", "wrist", "hand")] for side in
         ("throwing", "glove")}  # fmt: skip


def starts(scene: Scene, sighting: Sighting, moments: Moments, times: np.ndarray) -> list[np.ndarray]:
    """Points `(frames, joints, 3)` to begin from: as the model believes it to be, as throws usually are, and as
    believed but with the shoulders turned the other way before release.
    """
    offsets = np.nan_to_num(scene.flat - _hips(scene.flat)[:, None]) * scene.per_pixel[:, None, None]
    frames = times.size
    origin = _origin(scene, sighting)
    picture = offsets[..., :1] * sighting.right + offsets[..., 1:] * sighting.down
    believed = np.zeros((frames, COUNT)) if scene.world is None else _depths(scene)
    usual = _as_usual(believed, scene, sighting, moments, times)
    early = (times < moments.release - _BEFORE_RELEASE)[:, None]
    turned = np.where(early, _other_way(believed), believed)
    found = [usual] if scene.world is None else [believed, usual, turned]
    return [origin[:, None] + picture + deep[..., None] * sighting.ahead for deep in found]


def _hips(flat: np.ndarray) -> np.ndarray:
    return np.asarray(flat[:, [INDEX["drive_hip"], INDEX["lead_hip"]]].mean(axis=1))


def _origin(scene: Scene, sighting: Sighting) -> np.ndarray:
    """The middle of the hips `(frames, 3)`: where the picture has it, at the depth of the plane of motion."""
    pixels = np.concatenate([_hips(scene.flat), np.ones((scene.flat.shape[0], 1))], axis=1)
    out = np.zeros((scene.flat.shape[0], 3))
    for i, pixel in enumerate(pixels):
        system = np.stack([
            scene.matrix[0, :3] - pixel[0] * scene.matrix[2, :3],
            scene.matrix[1, :3] - pixel[1] * scene.matrix[2, :3],
            sighting.ahead,
        ])  # fmt: skip
        wanted = pixel[:2] * scene.matrix[2, 3] - scene.matrix[:2, 3]
        out[i] = np.linalg.solve(system, np.append(wanted, scene.middle[i]))
    return out


def _depths(scene: Scene) -> np.ndarray:
    """The model's depths of the joints about the hips `(frames, joints)` m, brought to the body's size."""
    assert scene.world is not None
    deep = scene.world[..., 2] - scene.world[:, [INDEX["drive_hip"], INDEX["lead_hip"]], 2].mean(axis=1)[:, None]
    chest = scene.world[:, [INDEX["throwing_shoulder"], INDEX["glove_shoulder"]]].mean(axis=1)
    pelvis = scene.world[:, [INDEX["drive_hip"], INDEX["lead_hip"]]].mean(axis=1)
    spine = float(np.nanmedian(np.linalg.norm(chest - pelvis, axis=1)))
    return np.asarray(np.nan_to_num(deep * KINDS["spine"].share * scene.height / max(spine, 0.1)))


def _other_way(deep: np.ndarray) -> np.ndarray:
    """The shoulder line mirrored in depth, each arm moved along with its shoulder."""
    out = deep.copy()
    between = deep[:, INDEX["glove_shoulder"]] - deep[:, INDEX["throwing_shoulder"]]
    out[:, _ARMS["throwing"]] += between[:, None]
    out[:, _ARMS["glove"]] -= between[:, None]
    return out


def _as_usual(deep: np.ndarray, scene: Scene, sighting: Sighting, moments: Moments, times: np.ndarray) -> np.ndarray:
    """Hips and shoulders turned as throws usually have it at that moment."""
    when = (moments.lift - _STILL, moments.lift, moments.landing, moments.release, moments.release + _AFTER)
    out = deep.copy()
    for names, turns, kind in (
        (("drive_hip", "lead_hip"), _USUAL_HIPS, "hips"),
        (("throwing_shoulder", "glove_shoulder"), _USUAL_SHOULDERS, "shoulders"),
    ):  # fmt: skip
        turn = np.radians(np.interp(times, when, turns))
        line = np.stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)], axis=1)
        wanted = (line @ sighting.ahead) * KINDS[kind].share * scene.height / 2
        middle = deep[:, [INDEX[name] for name in names]].mean(axis=1)
        for name, sign in zip(names, (-1.0, 1.0), strict=True):
            shift = middle + sign * wanted - deep[:, INDEX[name]]
            moved = _ARMS[name.split("_")[0]] if kind == "shoulders" else [INDEX[name]]
            out[:, moved] += shift[:, None]
        if kind == "shoulders":
            _arm_follows(out, line @ sighting.ahead, scene, moments, times)
    return out


def _arm_follows(deep: np.ndarray, aside: np.ndarray, scene: Scene, moments: Moments, times: np.ndarray) -> None:
    """From landing on the upper arm goes on from the shoulder line, and the forearm more and more, until release."""
    after = times > moments.landing
    to_release = np.clip((times - moments.landing) / (moments.release - moments.landing), 0, 1)
    shoulder, elbow, *beyond = _ARMS["throwing"]
    out = -aside * KINDS["upper arm"].share * scene.height
    further = -aside * KINDS["forearm"].share * scene.height * to_release**2 * _FOREARM_ON
    deep[after, elbow] = (deep[:, shoulder] + out)[after]
    for joint in beyond:
        deep[after, joint] = (deep[:, elbow] + further)[after]
