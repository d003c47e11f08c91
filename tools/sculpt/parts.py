"""The parts of the figure, in units of standing height, in the pose of `waxtwin.figure.skeleton`."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from tools.sculpt.solids import Shape, Solid, ball, bent, cone, ellipsoid, melt, ring

from waxtwin.figure.skeleton import (
    ACROSS_HAND,
    ANKLE,
    ARM,
    BEND,
    FOREARM,
    HIP,
    KNEE_FORWARD,
    LEG,
    PALM,
    SHANK,
    SHOULDER,
    THIGH,
    UPPER_ARM,
    WRIST,
)

_OUTWARD = np.cross(KNEE_FORWARD, LEG) * np.sign(np.cross(KNEE_FORWARD, LEG)[0])
_ARM_AXES = np.stack([ARM, BEND, PALM], axis=1)
_HAND_AXES = np.stack([ARM, PALM, ACROSS_HAND], axis=1)
_LEG_AXES = np.stack([_OUTWARD, KNEE_FORWARD, -LEG], axis=1)
_CUFF_AXES = np.stack([BEND, PALM, ARM], axis=1)
_ELBOW, _KNEE = UPPER_ARM, THIGH  # along the arm and the leg
_SLEEVE = 0.124  # along the arm
_CUFF = THIGH + 0.088  # along the leg
_WAIST = 0.060  # height of the belt


@dataclass(frozen=True)
class Part:
    """A closed piece of the figure: cells of `voxel` height, `triangles` kept, its material, the side it belongs to."""

    name: str
    shape: Shape
    voxel: float
    triangles: int
    material: str
    side: str = ""


def parts(share: float) -> tuple[Part, ...]:
    """All of them, with a share of their triangles."""
    return tuple(replace(part, triangles=round(part.triangles * share)) for part in _parts())


def _parts() -> tuple[Part, ...]:
    return (
        Part("head", _head(), 0.0018, 2200, "skin"),
        Part("hair", _hair(), 0.0024, 420, "hair"),
        Part("eyes", _eyes(), 0.0012, 300, "hair"),
        Part("arm", _throwing_arm(), 0.0022, 1000, "skin", "throwing"),
        Part("arm", _glove_arm().mirrored(), 0.0028, 380, "skin", "glove"),
        Part("shirt", _shirt(), 0.0036, 2300, "shirt"),
        Part("trousers", _trousers(), 0.0040, 1900, "trousers"),
        Part("belt", _belt(), 0.0022, 420, "belt"),
        Part("sock", _sock(), 0.0030, 300, "sock", "drive"),
        Part("sock", _sock().mirrored(), 0.0030, 300, "sock", "lead"),
        Part("shoe", _shoe(), 0.0024, 420, "shoe", "drive"),
        Part("shoe", _shoe().mirrored(), 0.0024, 420, "shoe", "lead"),
        Part("glove", _glove().mirrored(), 0.0026, 700, "glove", "glove"),
        Part("cap", _cap(), 0.0018, 900, "cap"),
        Part("ball", Shape().add(ball(BALL, 0.0205)), 0.0026, 160, "ball", "throwing"),
    )


def _arm(along: float, bend: float = 0.0, palm: float = 0.0) -> np.ndarray:
    return np.asarray(SHOULDER + along * ARM + bend * BEND + palm * PALM)


def _leg(along: float, forward: float = 0.0, outward: float = 0.0) -> np.ndarray:
    return np.asarray(HIP + along * LEG + forward * KNEE_FORWARD + outward * _OUTWARD)


def _hand(along: float, palm: float = 0.0, across: float = 0.0) -> np.ndarray:
    return np.asarray(WRIST + along * ARM + palm * PALM + across * ACROSS_HAND)


BALL = _hand(0.083, 0.0165, -0.001)


def _head() -> Shape:
    s = Shape()
    s.add(ellipsoid((0, 0.002, 0.422), (0.0420, 0.0530, 0.0490)))
    s.add(ellipsoid((0, 0.022, 0.390), (0.0350, 0.0365, 0.0400)), 0.022)
    s.both(ellipsoid((0.0190, 0.024, 0.3695), (0.0115, 0.0260, 0.0120)), 0.022)  # jaw
    s.add(ellipsoid((0, 0.0490, 0.3600), (0.0130, 0.0100, 0.0100)), 0.018)  # chin
    s.both(ellipsoid((0.0215, 0.0430, 0.3955), (0.0130, 0.0105, 0.0100)), 0.018)  # cheekbones
    s.both(ellipsoid((0.0150, 0.0520, 0.4155), (0.0150, 0.0075, 0.0050)), 0.012)  # brows
    s.add(cone((0, 0.0565, 0.4130), (0, 0.0685, 0.3945), 0.0042, 0.0066), 0.008)  # bridge and tip of the nose
    s.both(ball((0.0058, 0.0610, 0.3925), 0.0046), 0.005)
    s.add(ellipsoid((0, 0.0570, 0.3805), (0.0130, 0.0055, 0.0028)), 0.006)  # lips
    s.add(ellipsoid((0, 0.0560, 0.3752), (0.0115, 0.0055, 0.0030)), 0.005)
    s.both(ellipsoid((0.0440, -0.004, 0.3985), (0.0044, 0.0092, 0.0142)), 0.003)  # ears
    s.both(ellipsoid((0.0182, 0.0500, 0.4075), (0.0088, 0.0062, 0.0040)), 0.004)  # upper lids
    s.add(cone((0, -0.018, 0.296), (0, -0.004, 0.385), 0.0330, 0.0285), 0.022)  # neck
    s.both(cone((0.014, 0.018, 0.305), (0.027, -0.006, 0.376), 0.0075, 0.0080), 0.016)
    for side in (1.0, -1.0):
        socket = np.array([side * 0.0185, 0.0640, 0.4060], np.float32)
        s.cut(lambda q, c=socket: 0.0092 - np.linalg.norm((q - c) / [1.25, 1.0, 0.8], axis=-1), 0.008)
    s.cut(lambda q: 0.292 - q[..., 2], 0.004)
    return s


def _eyes() -> Shape:
    """Eyes and brows, drawn dark: what makes a face of it from afar."""
    s = Shape()
    for side in (1.0, -1.0):
        s.add(ellipsoid((side * 0.0182, 0.0528, 0.4045), (0.0062, 0.0046, 0.0026)), 0.0005)
        s.add(cone((side * 0.0100, 0.0580, 0.4172), (side * 0.0265, 0.0500, 0.4170), 0.0024, 0.0016), 0.0005)
    return s


def _hair() -> Shape:
    s = Shape().add(ellipsoid((0, -0.006, 0.4180), (0.0445, 0.0510, 0.0500)))
    s.add(ellipsoid((0, -0.030, 0.3860), (0.0300, 0.0200, 0.0200)), 0.02)
    s.cut(lambda q: q[..., 1] + 0.002 + 0.6 * np.maximum(0.412 - q[..., 2], 0), 0.005)
    s.cut(lambda q: 0.380 + 0.25 * np.maximum(q[..., 1] + 0.03, 0) - q[..., 2], 0.006)
    return s


def _forearm() -> Shape:
    s = Shape()
    s.add(cone(_arm(0.07), _arm(_ELBOW), 0.0275, 0.0230))
    s.add(ellipsoid(_arm(0.085, 0.010), (0.055, 0.018, 0.021), _ARM_AXES), 0.020)
    s.add(ball(_arm(_ELBOW), 0.0228), 0.020)
    s.add(ellipsoid(_arm(_ELBOW - 0.004, -0.012), (0.016, 0.012, 0.014), _ARM_AXES), 0.016)  # point of the elbow
    s.add(ellipsoid(_arm(_ELBOW + 0.045, 0.004), (0.058, 0.0240, 0.0260), _ARM_AXES), 0.025)
    s.add(ellipsoid(_arm(_ELBOW + 0.032, 0.006, 0.012), (0.040, 0.0175, 0.0155), _ARM_AXES), 0.020)
    s.add(cone(_arm(_ELBOW + 0.03), _arm(_ELBOW + FOREARM), 0.0235, 0.0152), 0.020)
    return s.add(ellipsoid(_hand(0.0), (0.014, 0.0130, 0.0155), _HAND_AXES), 0.012)


def _throwing_arm() -> Shape:
    """Two fingers over the ball, thumb under it."""
    s = _forearm()
    s.add(ellipsoid(_hand(0.030, 0.001), (0.036, 0.0115, 0.0225), _HAND_AXES), 0.012)
    s.add(ellipsoid(_hand(0.022, 0.008, 0.014), (0.022, 0.010, 0.010), _HAND_AXES), 0.012)
    for q in (0.0085, -0.0035):
        s.add(cone(_hand(0.052, -0.001, q), _hand(0.083, -0.0085, q * 0.9), 0.0072, 0.0068), 0.005)
        s.add(cone(_hand(0.083, -0.0085, q * 0.9), _hand(0.106, 0.006, q * 0.8), 0.0068, 0.0058), 0.004)
    for q in (-0.0150, -0.0225):
        s.add(cone(_hand(0.048, 0.0, q * 0.9), _hand(0.070, 0.002, q * 1.05), 0.0068, 0.0062), 0.005)
        s.add(cone(_hand(0.070, 0.002, q * 1.05), _hand(0.074, 0.021, q * 0.95), 0.0062, 0.0055), 0.004)
    s.add(cone(_hand(0.028, 0.008, 0.018), _hand(0.058, 0.022, 0.021), 0.0085, 0.0070), 0.008)
    return s.add(cone(_hand(0.058, 0.022, 0.021), _hand(0.078, 0.034, 0.010), 0.0070, 0.0058), 0.005)


def _glove_arm() -> Shape:
    return _forearm().add(ellipsoid(_hand(0.030, 0.001), (0.036, 0.0115, 0.0225), _HAND_AXES), 0.012)


def _glove() -> Shape:
    s = Shape()
    s.add(ellipsoid(_hand(0.058, 0.0, -0.003), (0.052, 0.022, 0.046), _HAND_AXES))
    s.add(ellipsoid(_hand(0.105, 0.008, -0.006), (0.044, 0.0125, 0.045), _HAND_AXES), 0.014)
    for i, (q, reach) in enumerate(((0.026, 0.146), (0.007, 0.157), (-0.013, 0.154), (-0.031, 0.140))):
        tip = _hand(reach - 0.014, 0.014 + 0.004 * abs(i - 1.5), q * 1.30)
        s.add(cone(_hand(0.05, -0.004, q * 0.95), tip, 0.0165, 0.0120), 0.0045)
    s.add(cone(_hand(0.028, 0.008, 0.036), _hand(0.078, 0.024, 0.062), 0.0190, 0.0165), 0.012)  # thumb
    s.add(cone(_hand(0.078, 0.024, 0.062), _hand(0.124, 0.030, 0.058), 0.0165, 0.0120), 0.008)
    s.add(ellipsoid(_hand(0.118, 0.020, 0.044), (0.034, 0.0085, 0.016), _HAND_AXES), 0.006)  # web
    s.add(cone(_hand(0.0), _hand(0.03), 0.0225, 0.0280), 0.012)
    s.add(ellipsoid(_hand(-0.004), (0.006, 0.0250, 0.0258), _HAND_AXES), 0.004)
    pocket = np.asarray(_hand(0.092, 0.050, 0.010), np.float32)
    return s.cut(lambda q: 0.042 - np.linalg.norm(q - pocket, axis=-1), 0.014)


def _shirt() -> Shape:
    """A loose shirt that hangs a little over the belt: a body of anybody's build."""
    s = Shape()
    s.add(ellipsoid((0, 0.004, 0.212), (0.0850, 0.0600, 0.0940)))
    s.both(ellipsoid((0.040, 0.030, 0.236), (0.048, 0.028, 0.046)), 0.045)  # chest
    s.both(ellipsoid((0.048, -0.026, 0.226), (0.046, 0.034, 0.066)), 0.045)  # back
    s.both(cone((0.024, -0.004, 0.279), (0.076, -0.002, 0.271), 0.0370, 0.0305), 0.030)
    s.both(cone((0.068, -0.008, 0.283), (0.012, -0.014, 0.320), 0.0220, 0.0290), 0.036)  # from shoulder to neck
    s.add(ellipsoid((0, 0.005, 0.128), (0.0780, 0.0575, 0.0720)), 0.050)
    s.add(ellipsoid((0, 0.006, 0.082), (0.0815, 0.0620, 0.0250)), 0.030)  # where it is tucked in
    s.both(ellipsoid(_arm(0.006) - np.array([0, 0, 0.005]), (0.0390, 0.0300, 0.0305), _ARM_AXES), 0.034)
    s.both(cone(_arm(0.025), _arm(_SLEEVE - 0.004), 0.0300, 0.0372), 0.024)  # sleeve
    s.both(ring(_arm(_SLEEVE), (0.0365, 0.0365), 0.0030, _CUFF_AXES), 0.004)  # its hem
    s.add(ring((0, -0.012, 0.3270), (0.0370, 0.0360), 0.0048), 0.006)  # collar
    s.cut(lambda q: 0.064 - q[..., 2], 0.006)
    for side in (1.0, -1.0):
        end = np.asarray(_arm(_SLEEVE + 0.003) * [side, 1, 1], np.float32)
        out = np.asarray(ARM * [side, 1, 1], np.float32)
        s.cut(lambda q, e=end, n=out, w=side: np.where(q[..., 0] * w > 0.1, (q - e) @ n, -1.0), 0.003)
    return s


def _trousers() -> Shape:
    s = Shape()
    s.add(ellipsoid((0, 0.002, 0.022), (0.0860, 0.0605, 0.0560)))
    s.both(ellipsoid((0.037, -0.030, -0.018), (0.050, 0.043, 0.052)), 0.040)  # seat
    s.add(ellipsoid((0, -0.030, -0.012), (0.030, 0.036, 0.046)), 0.045)
    s.both(ellipsoid((0.058, -0.004, -0.020), (0.037, 0.049, 0.060)), 0.030)
    s.both(cone(_leg(0.0), _leg(0.13), 0.0480, 0.0480), 0.030)
    s.both(cone(_leg(0.10, 0.002), _leg(_KNEE), 0.0480, 0.0360), 0.030)
    s.both(ellipsoid(_leg(0.115, 0.015, 0.003), (0.038, 0.037, 0.095), _LEG_AXES), 0.035)
    s.both(ellipsoid(_leg(0.125, -0.016), (0.036, 0.033, 0.085), _LEG_AXES), 0.035)
    s.both(ellipsoid(_leg(_KNEE, 0.006), (0.0345, 0.0355, 0.038), _LEG_AXES), 0.022)
    s.both(ellipsoid(_leg(_KNEE - 0.002, 0.024), (0.018, 0.013, 0.022), _LEG_AXES), 0.018)  # kneecap
    s.both(cone(_leg(_KNEE), _leg(_CUFF - 0.010, -0.005), 0.0350, 0.0415), 0.022)  # full below the knee
    s.both(ellipsoid(_leg(_CUFF - 0.006, -0.006), (0.0395, 0.0420, 0.0100), _LEG_AXES), 0.010)
    s.cut(lambda q: q[..., 2] - 0.0660, 0.004)
    for side in (1.0, -1.0):
        end = np.asarray(_leg(_CUFF) * [side, 1, 1], np.float32)
        down = np.asarray(LEG * [side, 1, 1], np.float32)
        s.cut(lambda q, e=end, n=down, w=side: np.where(q[..., 0] * w > 0, (q - e) @ n, -1.0), 0.005)
    return s


def _belt() -> Shape:
    s = Shape()
    for rise in (-0.0045, -0.0015, 0.0015, 0.0045):
        s.add(ring((0, 0.004, _WAIST + rise), (0.0800, 0.0612), 0.0046), 0.006)
    return s.add(ellipsoid((0, 0.0680, _WAIST), (0.0100, 0.0035, 0.0072)), 0.002)


def _sock() -> Shape:
    s = Shape()
    s.add(cone(_leg(_KNEE + 0.03), _leg(_KNEE + SHANK), 0.0285, 0.0210))
    s.add(ellipsoid(_leg(_KNEE + 0.090, -0.012, 0.007), (0.025, 0.026, 0.066), _LEG_AXES), 0.025)  # calf
    s.add(ellipsoid(_leg(_KNEE + 0.099, -0.011, -0.010), (0.022, 0.025, 0.064), _LEG_AXES), 0.025)
    s.add(cone(_leg(_KNEE + 0.06, 0.010), _leg(_KNEE + 0.20, 0.005), 0.0180, 0.0130), 0.020)
    s.add(cone(_leg(_KNEE + SHANK - 0.010, -0.014), _leg(_KNEE + SHANK - 0.060, -0.014), 0.0110, 0.0105), 0.016)
    return s.add(ball(ANKLE, 0.0220), 0.012)


def _shoe() -> Shape:
    def at(x: float, y: float, z: float) -> np.ndarray:
        return np.asarray(ANKLE + np.array([x, y, z]))

    s = Shape()
    s.add(cone(at(0, -0.020, -0.018), at(0, 0.020, -0.018), 0.0225, 0.0235))
    s.add(ellipsoid(at(0.002, 0.060, -0.027), (0.0275, 0.0420, 0.0190)), 0.020)
    s.add(ellipsoid(at(-0.001, 0.086, -0.030), (0.0215, 0.0235, 0.0140)), 0.016)
    s.add(cone(at(0, 0.0, 0.004), at(0, 0.056, -0.020), 0.0240, 0.0165), 0.020)
    s.add(cone(at(0, -0.004, 0.010), at(0, -0.004, -0.010), 0.0250, 0.0250), 0.012)
    s.add(ring(at(0, -0.004, 0.0145), (0.0235, 0.0245), 0.0035), 0.004)
    s.add(ellipsoid(at(0.002, 0.058, -0.038), (0.0300, 0.0490, 0.0065)), 0.004)  # sole
    s.add(ellipsoid(at(0, -0.012, -0.038), (0.0250, 0.0300, 0.0065)), 0.006)
    s.add(cone(at(0, 0, -0.037), at(0, 0.04, -0.037), 0.018, 0.020), 0.012)
    low, top = ANKLE[2] - 0.0425, ANKLE[2] + 0.0185
    s.cut(lambda q: low - q[..., 2], 0.003)
    return s.cut(lambda q: q[..., 2] - top, 0.003)


def _cap() -> Shape:
    crown = Shape()
    crown.add(ellipsoid((0, 0.001, 0.4270), (0.0470, 0.0575, 0.0530)))
    crown.add(ellipsoid((0, 0.022, 0.4500), (0.0300, 0.0310, 0.0270)), 0.020)
    crown.add(ball((0, 0.000, 0.4808), 0.0042), 0.003)
    edge, down = np.array([0, 0.05, 0.4255], np.float32), np.array([0, 0.08, -0.997], np.float32)
    crown.cut(lambda q: (q - edge) @ down, 0.003)

    def droop(q: np.ndarray) -> np.ndarray:
        """A brim rounded over the brows, its front a little lower."""
        rise = 7.0 * q[..., 0] ** 2 + 0.06 * (q[..., 1] - 0.05)
        return np.stack([np.zeros_like(rise), np.zeros_like(rise), rise], axis=-1)

    brim = Shape().add(bent(ellipsoid((0, 0.070, 0.4325), (0.0415, 0.0420, 0.0046)), droop, 0.02, 0.8))
    brim.cut(lambda q: 0.030 - q[..., 1], 0.004)
    return Shape([(_joined(crown, brim, 0.005), 0.01)])


def _joined(a: Shape, b: Shape, blend: float) -> Solid:
    low, high = zip(a.box(0), b.box(0), strict=True)
    return Solid(lambda q: melt(a(q), b(q), blend), np.min(low, axis=0), np.max(high, axis=0))
