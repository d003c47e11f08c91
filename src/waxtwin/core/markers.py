"""Markers of any lab set turned into landmarks: which markers make which landmark, and which way the lab's axes run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, LANDMARKS, OPTIONAL, anatomical_names
from waxtwin.core.track import PIVOT_AHEAD, Track


@dataclass(frozen=True)
class Recipe:
    """A landmark from markers: their mean, moved by `offset` - shares of the pelvis' width along its own axes (toward
    the right, forward, up) - which is how a hip's centre is found from markers on the skin.
    """  # fmt: skip

    markers: tuple[str, ...]
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)


MarkerMap = Mapping[str, Recipe]
# Bell et al. 1990 (J Biomech 23): the hip's centre from the front spines of the pelvis, in shares of their distance.
_HIP_IN, _HIP_BACK, _HIP_DOWN = 0.14, 0.19, 0.30


@dataclass(frozen=True)
class Axes:
    """Which lab axis runs where: `forward` toward the plate, `up`; each one of +x -x +y -y +z -z."""

    forward: str = "+x"
    up: str = "+z"

    def matrix(self) -> np.ndarray:
        """Rotation (3, 3) from lab axes to field axes. Raises TrackError when the two are not square to each other."""
        ahead, above = _unit(self.forward), _unit(self.up)
        if abs(ahead @ above) > 0.5:
            raise TrackError("forward and up cannot be the same axis")
        return np.stack([ahead, np.cross(above, ahead), above])


def _unit(axis: str) -> np.ndarray:
    vector = np.zeros(3)
    vector["xyz".index(axis[1])] = 1.0 if axis[0] == "+" else -1.0
    return vector


def _sides(recipes: Mapping[str, tuple[str, ...]]) -> dict[str, Recipe]:
    """Recipes for both sides: `*` in a name stands for the side."""
    found = {}
    for part, markers in recipes.items():
        for side, letter in (("right", "R"), ("left", "L")):
            found[f"{side}_{part}"] = Recipe(tuple(marker.replace("*", letter) for marker in markers))
    return found


def _hips(right_front: str, left_front: str) -> dict[str, Recipe]:
    both = (right_front, left_front)
    return {
        "right_hip": Recipe(both, (0.5 - _HIP_IN, -_HIP_BACK, -_HIP_DOWN)),
        "left_hip": Recipe(both, (-(0.5 - _HIP_IN), -_HIP_BACK, -_HIP_DOWN)),
    }


PRESETS: Mapping[str, Mapping[str, Recipe]] = {
    "full body, four-letter names": {
        "head": Recipe(("RFHD", "LFHD", "RBHD", "LBHD")),
        **_hips("RASI", "LASI"),
        **_sides({
            "shoulder": ("*SHO",), "elbow": ("*ELB", "*ELBM"), "wrist": ("*WRA", "*WRB"), "hand": ("*FIN",),
            "knee": ("*KNE", "*KNEM"), "ankle": ("*ANK", "*ANKM"), "heel": ("*HEE",), "toe": ("*TOE",),
        }),
    },
    "joint centres, spelled out": {
        "head": Recipe(("Head",)),
        **{
            f"{side}_{part}": Recipe((f"{side.capitalize()}{part.capitalize()}",))
            for side in ("right", "left")
            for part in ("shoulder", "elbow", "wrist", "hand", "hip", "knee", "ankle", "heel", "toe")
        },
    },
}  # fmt: skip


def match(names: Sequence[str], chosen: MarkerMap | None = None) -> dict[str, Recipe]:
    """The best recipes for a file's markers: those that are given, else the names themselves, else the fullest preset.

    A recipe is kept with the markers that are there; one without any is left out. Case and subject prefixes
    (`subject:RSHO`) do not matter.
    """
    plain = {name.rpartition(":")[2].casefold(): name for name in names}

    def present(recipes: MarkerMap) -> dict[str, Recipe]:
        found = {}
        for landmark, recipe in recipes.items():
            there = tuple(plain[m.casefold()] for m in recipe.markers if m.casefold() in plain)
            named = tuple(m for m in recipe.markers if m in names)
            markers = named or there
            if markers and (not any(recipe.offset) or len(markers) == len(recipe.markers)):
                found[landmark] = Recipe(markers, recipe.offset)
        return found

    if chosen is not None:
        return present(chosen)
    own = {name: Recipe((name,)) for name in (*LANDMARKS, *anatomical_names("R"))}
    return max((present(recipes) for recipes in (own, *PRESETS.values())), key=len)


def apply(recipes: MarkerMap, markers: Mapping[str, np.ndarray], throws: str) -> dict[str, np.ndarray]:
    """Paths `(frames, 3)` of landmark ids from marker paths, in the axes that the markers have.

    Raises TrackError for a recipe whose markers are not there.
    """
    names = anatomical_names(throws)
    found = {}
    for landmark, recipe in recipes.items():
        missing = [m for m in recipe.markers if m not in markers]
        if missing:
            raise TrackError(f"there is no marker named {missing[0]}")
        path = np.mean([markers[m] for m in recipe.markers], axis=0)
        if any(recipe.offset):
            path = path + _pelvis_offset(recipe, markers)
        found[names.get(landmark, landmark)] = path
    return found


def _pelvis_offset(recipe: Recipe, markers: Mapping[str, np.ndarray]) -> np.ndarray:
    """The recipe's offset along the pelvis' axes: toward its first marker, and square to it, level."""
    right, left = markers[recipe.markers[0]], markers[recipe.markers[1]]
    across = right - left
    width = np.linalg.norm(across, axis=1, keepdims=True)
    across = across / width
    level = np.median(np.abs(across[~np.isnan(across).any(axis=1)]), axis=0)
    # the axis that the pelvis' line never runs along is taken as upright
    up = np.zeros(3)
    up[int(np.argmin(level))] = 1.0
    forward = np.cross(np.broadcast_to(up, across.shape), across)
    forward /= np.linalg.norm(forward, axis=1, keepdims=True)
    above = np.cross(across, forward)
    x, y, z = recipe.offset
    return np.asarray(width * (x * across + y * forward + z * above))


def propose_axes(points: Mapping[str, np.ndarray]) -> Axes:
    """Which axes run up and toward the plate, from the motion: the head is above the ankles, the pelvis travels."""
    ankles = [path for name, path in points.items() if name.endswith("ankle")]
    hips = [path for name, path in points.items() if name.endswith("hip")]
    if "head" not in points or not ankles or not hips:
        return Axes()
    rise = _middle(points["head"] - np.mean(ankles, axis=0))
    up = int(np.argmax(np.abs(rise)))
    pelvis = np.mean(hips, axis=0)
    part = max(len(pelvis) // 8, 1)
    travel = _middle(pelvis[-part:]) - _middle(pelvis[:part])
    travel[up] = 0.0
    ahead = int(np.argmax(np.abs(travel)))
    if ahead == up:
        return Axes(Axes().forward if up != 0 else "+y", _name(up, rise[up]))
    return Axes(_name(ahead, travel[ahead]), _name(up, rise[up]))


def _middle(path: np.ndarray) -> np.ndarray:
    """Median `(3,)` over the frames in which each axis is seen; 0 for an axis that never is."""
    return np.array([np.median(a[~np.isnan(a)]) if not np.isnan(a).all() else 0.0 for a in path.T])


def _name(axis: int, value: float) -> str:
    return ("+" if value >= 0 else "-") + "xyz"[axis]


def track_from(times: np.ndarray, points: Mapping[str, np.ndarray], axes: Axes, *, place: bool = True) -> Track:
    """A track in the field frame from landmark paths in lab axes (metres).

    With `place` the origin is put under the pivot foot's toe at the start, on the lowest ground that a foot touches
    there: a lab's own origin is seldom the rubber.
    """
    turn = axes.matrix()
    # an axis that no camera saw must not make the others unknown, so no matrix product
    order = np.argmax(np.abs(turn), axis=1)
    signs = turn[np.arange(3), order]
    out = np.full((times.size, len(LANDMARKS), 3), np.nan)
    for name, path in points.items():
        if name in INDEX:
            out[:, INDEX[name]] = path[:, order] * signs
    if place:
        early = slice(0, max(times.size // 8, 1))
        feet = out[early][:, [INDEX[n] for n in ("drive_toe", "drive_heel", "drive_ankle")]]
        if not np.isnan(feet).all():
            ground = float(np.nanmedian(np.nanmin(feet[..., 2], axis=1)))
            ankle = _middle(feet[:, 2] if not np.isnan(feet[:, 2]).all() else feet[:, 0])
            out -= np.array([ankle[0] - PIVOT_AHEAD, ankle[1], ground])
    return Track(times, out, (~np.isnan(out).all(axis=2)).astype(float))


def unmapped(recipes: MarkerMap, throws: str) -> list[str]:
    """Landmarks (ids) that no recipe gives and that a delivery needs."""
    names = anatomical_names(throws)
    given = {names.get(landmark, landmark) for landmark in recipes}
    return [name for name in LANDMARKS if name not in given and name not in OPTIONAL]
