"""A body driven by a simulated delivery: bones follow its joints, and the rig's own joints become the truth."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import csr_matrix
from scipy.spatial.transform import Rotation
from tools.people.body import Body
from tools.people.outfit import Figure

from waxtwin.core.landmarks import INDEX, anatomical_names
from waxtwin.simulate.delivery import SimulatedDelivery
from waxtwin.simulate.script import UP
from waxtwin.simulate.smooth_curves import middle_joint, unit

SIDES = {"l": "left", "r": "right"}
_TWISTS = 3  # steps in which the upper arm's twist is spread, so that the shoulder does not wring
_FINGERS = ("index", "middle", "ring", "pinky", "thumb")


@dataclass(frozen=True)
class Placed:
    """A bone in the field: `turn` (times, 3, 3) and `shift` (times, 3) that carry the body at rest there."""

    turn: np.ndarray
    shift: np.ndarray

    @classmethod
    def about(cls, turn: np.ndarray, rest: np.ndarray, place: np.ndarray) -> Placed:
        """The bone turned so, with its point `rest` lying at `place` (times, 3)."""
        return cls(turn, place - np.einsum("nij,j->ni", turn, rest))

    def carry(self, rest: np.ndarray) -> np.ndarray:
        """Where a point of the body at rest lies, `(times, 3)`."""
        return np.asarray(np.einsum("nij,j->ni", self.turn, rest) + self.shift)


@dataclass(frozen=True)
class Driven:
    """The bones over time, and the delivery whose landmarks are the rig's own joints."""

    bones: Mapping[str, Placed]
    delivery: SimulatedDelivery


def drive(body: Body, delivery: SimulatedDelivery) -> Driven:
    """Pose the rig at every instant of a delivery's fine grid."""
    names = anatomical_names(delivery.params.throws)
    seen = {name: delivery.points[:, INDEX[ours]] for name, ours in names.items()}
    seen |= {name: delivery.points[:, INDEX[name]] for name in ("head", "nose")}
    bones = _trunk(body, seen)
    joints: dict[str, np.ndarray] = {}
    nose, ears = body.face()
    joints["nose"], joints["head"] = bones["head"].carry(nose), bones["head"].carry(ears)
    for side in SIDES:
        _arm(body, seen, side, bones, joints)
        _leg(body, seen, side, bones, joints)
    points = np.full_like(delivery.points, np.nan)
    for name, path in joints.items():
        points[:, INDEX[names.get(name, name)]] = path
    return Driven(bones, replace(delivery, points=points))


def _axes(along: np.ndarray, up: np.ndarray) -> np.ndarray:
    """Rotations (n, 3, 3) whose columns are `along`, what is left of `up` last, and the one between."""
    x = unit(along)
    y = unit(np.cross(up, x))
    return np.stack([x, y, np.cross(x, y)], axis=-1)


def _between(first: np.ndarray, second: np.ndarray, share: float) -> np.ndarray:
    turn = Rotation.from_matrix(second @ np.swapaxes(first, -1, -2)).as_rotvec()
    return np.asarray(Rotation.from_rotvec(turn * share).as_matrix() @ first)


def _swing(start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """The shortest turns (n, 3, 3) from directions `start` to `end`, (n, 3) units."""
    axis = np.cross(start, end)
    angle = np.arctan2(np.linalg.norm(axis, axis=-1), np.sum(start * end, axis=-1))
    return np.asarray(Rotation.from_rotvec(unit(axis + 1e-12) * angle[:, None]).as_matrix())


def _trunk(body: Body, seen: Mapping[str, np.ndarray]) -> dict[str, Placed]:
    heads = body.heads
    pelvis = (seen["left_hip"] + seen["right_hip"]) / 2
    up = unit((seen["left_shoulder"] + seen["right_shoulder"]) / 2 - pelvis)
    hips = _axes(seen["left_hip"] - seen["right_hip"], 0.45 * up + 0.55 * UP)
    rest_hips = (heads["thigh_l"] + heads["thigh_r"]) / 2
    rest_up = (heads["upperarm_l"] + heads["upperarm_r"]) / 2 - rest_hips
    # at rest the trunk's line is not quite upright
    lean = _axes(np.array([[1.0, 0, 0]]), rest_up[None])[0]
    chest = _axes(seen["left_shoulder"] - seen["right_shoulder"], up) @ lean.T
    bones = {"pelvis": Placed.about(hips, rest_hips, pelvis)}
    bones["Root"] = below = bones["pelvis"]
    for name, share in (("spine_01", 0.30), ("spine_02", 0.65), ("spine_03", 1.0)):
        bones[name] = below = Placed.about(_between(hips, chest, share), heads[name], below.carry(heads[name]))
    look = unit(seen["nose"] - seen["head"])
    crown = unit(0.7 * up + 0.3 * UP)
    back = -unit(look + 0.10 * crown)
    top = unit(crown - np.sum(crown * back, axis=-1, keepdims=True) * back)
    head = np.stack([np.cross(back, top), back, top], axis=-1)
    neck = heads["neck_01"]
    bones["neck_01"] = Placed.about(_between(chest, head, 0.45), neck, bones["spine_03"].carry(neck))
    bones["head"] = Placed.about(head, heads["head"], bones["neck_01"].carry(heads["head"]))
    return bones


def _hinge(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Axes of an upper limb along `first` whose bend toward `second` has its hinge as second column."""
    hinge = unit(np.cross(first, second))
    return np.stack([first, hinge, np.cross(first, hinge)], axis=-1)


def _arm(
    body: Body, seen: Mapping[str, np.ndarray], side: str, bones: dict[str, Placed], joints: dict[str, np.ndarray]
) -> None:
    heads, name = body.heads, SIDES[side]
    chest = bones["spine_03"]
    upper = unit(seen[f"{name}_elbow"] - seen[f"{name}_shoulder"])
    fore = unit(seen[f"{name}_wrist"] - seen[f"{name}_elbow"])
    hand = unit(seen[f"{name}_hand"] - seen[f"{name}_wrist"])
    clavicle, shoulder, elbow, wrist = (
        heads[f"{part}_{side}"] for part in ("clavicle", "upperarm", "lowerarm", "hand")
    )
    bones[f"clavicle_{side}"] = Placed.about(chest.turn, clavicle, chest.carry(clavicle))
    rest_upper, rest_fore = unit(elbow - shoulder), unit(wrist - elbow)
    rest = _hinge(rest_upper, rest_fore)
    bent = _hinge(upper, fore)
    turned = bent @ rest.T
    plain = _swing(np.einsum("nij,j->ni", chest.turn, rest_upper), upper) @ chest.turn
    twist = Rotation.from_matrix(turned @ np.swapaxes(plain, -1, -2)).as_rotvec()
    angle = np.unwrap(np.sum(twist * upper, axis=-1))
    angle -= 2 * np.pi * np.round(np.median(angle) / (2 * np.pi))
    joint = bones[f"clavicle_{side}"].carry(shoulder)
    for step in range(_TWISTS):
        share = step / (_TWISTS - 1)
        turn = Rotation.from_rotvec(upper * (angle * share)[:, None]).as_matrix() @ plain
        bones[f"upperarm_{side}{step}"] = Placed.about(turn, shoulder, joint)
    last = bones[f"upperarm_{side}{_TWISTS - 1}"]
    own = np.stack([rest_fore, rest[:, 1], np.cross(rest_fore, rest[:, 1])], axis=-1)
    lower = np.stack([fore, bent[..., 1], np.cross(fore, bent[..., 1])], axis=-1) @ own.T
    bones[f"lowerarm_{side}"] = forearm = Placed.about(lower, elbow, last.carry(elbow))
    rest_hand = unit(heads[f"middle_01_{side}"] - wrist)
    palm = _swing(np.einsum("nij,j->ni", lower, rest_hand), hand) @ lower
    bones[f"hand_{side}"] = Placed.about(palm, wrist, forearm.carry(wrist))
    _fingers(body, side, bones, rest_hand)
    joints |= {
        f"{name}_shoulder": joint, f"{name}_elbow": last.carry(elbow), f"{name}_wrist": forearm.carry(wrist),
        f"{name}_hand": bones[f"hand_{side}"].carry(heads[f"middle_01_{side}"]),
    }  # fmt: skip


def _fingers(body: Body, side: str, bones: dict[str, Placed], along: np.ndarray) -> None:
    """Fingers curled about the hand's own hinge, as around a ball."""
    heads = body.heads
    hinge = unit(heads[f"index_01_{side}"] - heads[f"pinky_01_{side}"])
    inward = np.array([-1.0 if side == "l" else 1.0, 0, 0])
    way = np.sign(np.cross(hinge, along) @ inward)
    for finger in _FINGERS:
        above = bones[f"hand_{side}"]
        curl = way * np.radians(8 if finger == "thumb" else 28)
        for part in (1, 2, 3):
            name = f"{finger}_0{part}_{side}"
            axis = np.einsum("nij,j->ni", above.turn, hinge)
            turn = Rotation.from_rotvec(axis * curl).as_matrix() @ above.turn
            bones[name] = above = Placed.about(turn, heads[name], above.carry(heads[name]))


def _leg(
    body: Body, seen: Mapping[str, np.ndarray], side: str, bones: dict[str, Placed], joints: dict[str, np.ndarray]
) -> None:
    """To the delivery's ankle with the rig's own lengths; where they do not reach it, as near as they do."""
    heads, name = body.heads, SIDES[side]
    rest_hip, rest_knee, rest_ankle = (heads[f"{part}_{side}"] for part in ("thigh", "calf", "foot"))
    hip = bones["pelvis"].carry(rest_hip)
    thigh, shank = (float(np.linalg.norm(b - a)) for a, b in ((rest_hip, rest_knee), (rest_knee, rest_ankle)))
    away = seen[f"{name}_ankle"] - hip
    far = np.linalg.norm(away, axis=-1, keepdims=True)
    ankle = hip + away * np.minimum(1.0, 0.9995 * (thigh + shank) / far)
    knee = middle_joint(hip, ankle, unit(seen[f"{name}_knee"] - (hip + ankle) / 2), thigh, shank)
    upper, lower = unit(knee - hip), unit(ankle - knee)
    hinge = unit(np.cross(upper, lower) + 1e-9 * np.array([1.0, 0, 0]))

    def across(along: np.ndarray, left: np.ndarray) -> np.ndarray:
        y = unit(np.cross(along, left))
        return np.stack([np.cross(y, along), y, along], axis=-1)

    left = np.array([1.0, 0, 0])
    for bone, way, rest, start, place in (
        ("thigh", upper, rest_knee - rest_hip, rest_hip, hip), ("calf", lower, rest_ankle - rest_knee, rest_knee, knee),
    ):  # fmt: skip
        turn = across(way, hinge) @ across(unit(rest), left).T
        bones[f"{bone}_{side}"] = Placed.about(turn, start, place)
    heel, toe = body.foot(side)
    along = unit(seen[f"{name}_toe"] - seen[f"{name}_heel"])
    # a foot that points straight down has no upright of its own: the shank gives it
    steep = np.clip((np.abs(along[:, 2]) - 0.5) / 0.4, 0, 1)[:, None]
    turn = _axes(along, UP * (1 - steep) - lower * steep) @ _axes(((toe - heel) * [1, 1, 0])[None], UP[None])[0].T
    bones[f"foot_{side}"] = foot = Placed.about(turn, rest_ankle, ankle)
    bones[f"ball_{side}"] = foot
    joints |= {
        f"{name}_hip": hip, f"{name}_knee": knee, f"{name}_ankle": ankle,
        f"{name}_heel": foot.carry(heel), f"{name}_toe": foot.carry(toe),
    }  # fmt: skip


class Skin:
    """The dressed figure in any pose: linear blend skinning, the upper arm's twist spread over its length."""

    def __init__(self, body: Body, figure: Figure, driven: Driven) -> None:
        names = [name for name in body.bones if not name.startswith("upperarm_")]
        columns = [figure.weights[:, body.bones.index(name)] for name in names]
        for side in SIDES:
            weight = figure.weights[:, body.bones.index(f"upperarm_{side}")]
            a, b = body.heads[f"upperarm_{side}"], body.heads[f"lowerarm_{side}"]
            along = np.clip((figure.points - a) @ (b - a) / ((b - a) @ (b - a)), 0, 1)
            for step in range(_TWISTS):
                near = np.clip(1 - np.abs((_TWISTS - 1) * along - step), 0, 1)
                names.append(f"upperarm_{side}{step}")
                columns.append(weight * near)
        weights = np.stack(columns, axis=1)
        self._weights = csr_matrix(weights / np.maximum(weights.sum(axis=1, keepdims=True), 1e-9))
        self._rest = np.concatenate([figure.points, np.ones((len(figure.points), 1))], axis=1)
        self._bones = [driven.bones.get(name, driven.bones["pelvis"]) for name in names]

    def at(self, i: int) -> np.ndarray:
        """Vertices `(vertices, 3)` at the fine grid's instant `i`."""
        rows = np.stack([np.column_stack([bone.turn[i], bone.shift[i]]).ravel() for bone in self._bones])
        blended = (self._weights @ rows).reshape(-1, 3, 4)
        return np.asarray(np.einsum("vij,vj->vi", blended, self._rest))
