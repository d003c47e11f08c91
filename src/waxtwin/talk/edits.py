"""What can be done to a talk's scenes: each makes another talk of it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.talk import MOST_TITLE, MOST_WORDS, SHOWN, Instant, Moment, Point, Scene, Spoken, Talk
from waxtwin.talk.timeline import moment_at, pointer_at

_SHORTEST = 0.2  # s of a piece that is cut off


class TalkError(WaxTwinError):
    """A talk cannot be changed so; the sentence says why."""


def new_id(talk: Talk) -> str:
    """An id that no scene of a talk has."""
    taken = {scene.id for scene in talk.scenes}
    return next(f"s{n}" for n in range(1, len(taken) + 2) if f"s{n}" not in taken)


def names_shown(talk: Talk, own: Mapping[str, str]) -> dict[str, str]:
    """{side: the name as shown} for the throws' `own` ones, the pair's first: where one of the pair has another name,
    no further twin is called by the own one either.
    """
    wanted = {"athlete": talk.athlete, "twin": talk.twin}
    renamed = any(name not in ("", own.get(side)) for side, name in wanted.items())
    further = {side: f"twin {n}" for n, side in enumerate((one for one in own if one not in wanted), start=2)}
    return {side: wanted.get(side) or (further.get(side, name) if renamed else name) for side, name in own.items()}


def under_names(talk: Talk, own: Mapping[str, str]) -> Talk:
    """With the names as shown where its words have the throws' `own` ones, {side: name}."""
    other: dict[str, str] = {}
    for side, said in names_shown(talk, own).items():
        if own[side] not in ("", said):
            other.setdefault(own[side].casefold(), said)
    if not other:
        return talk
    found = re.compile("|".join(re.escape(one) for one in sorted(other, key=len, reverse=True)), re.IGNORECASE)

    def told(words: str, most: int) -> str:
        return found.sub(lambda match: other.get(match[0].casefold(), ""), words)[:most]

    return talk.but(title=told(talk.title, MOST_TITLE), scenes=tuple(scene.but(
        title=told(scene.title, MOST_TITLE), caption=told(scene.caption, MOST_WORDS),
        lines=tuple(told(line, MOST_WORDS) for line in scene.lines),
    ) for scene in talk.scenes))  # fmt: skip


def changed(talk: Talk, key: str, /, **parts: Any) -> Talk:
    """With some parts of a scene other. Raises KeyError, and ValueError for what a scene cannot be."""
    return _with(talk, key, lambda scene: [scene.but(**parts)])


def removed(talk: Talk, key: str) -> Talk:
    """Without a scene."""
    return _with(talk, key, lambda _: [])


def added(talk: Talk, scene: Scene, after: str = "") -> Talk:
    """With a scene more, after another one or at the end."""
    if not after:
        return talk.but(scenes=(*talk.scenes, scene))
    return _with(talk, after, lambda one: [one, scene])


def moved(talk: Talk, key: str, by: int) -> Talk:
    """With a scene so many places further on, or back."""
    scenes = list(talk.scenes)
    at = scenes.index(talk.scene(key))
    scenes.insert(min(max(at + by, 0), len(scenes) - 1), scenes.pop(at))
    return talk.but(scenes=tuple(scenes))


def spoken(talk: Talk, key: str, take: Spoken) -> Talk:
    """With a new take of a scene, which is heard from now on; the others stay."""
    takes = talk.scene(key).takes
    return changed(talk, key, takes=(*takes, take), take=len(takes))


def trimmed(talk: Talk, key: str, start: float, end: float) -> Talk:
    """With the take that is heard from `start` to `end` (s of its recording). Raises TalkError."""
    scene = talk.scene(key)
    if scene.spoken is None:
        raise TalkError("This scene has no voice to be trimmed.")
    if end - start < _SHORTEST:
        raise TalkError("That would leave nothing of the voice.")
    takes = list(scene.takes)
    takes[scene.take] = Spoken(file=scene.spoken.file, start=max(start, 0.0), end=end)
    return changed(talk, key, takes=tuple(takes))


def cut(talk: Talk, key: str, at: float) -> Talk:
    """With a scene cut in two at `at` (s of it): what is shown and what is said both go on in the second. Raises
    TalkError.
    """
    scene = talk.scene(key)
    if not _SHORTEST <= at <= scene.seconds - _SHORTEST:
        raise TalkError("Cut a scene somewhere within it.")
    first = piece_of(scene, 0.0, at, key, scene.caption)
    second = piece_of(scene, at, scene.seconds, new_id(talk))
    return _with(talk, key, lambda _: [first, second])


def piece_of(scene: Scene, low: float, high: float, key: str, caption: str = "") -> Scene:
    """What a scene shows and says from `low` to `high` (s of it), as a scene of its own with other words."""
    takes: tuple[Spoken, ...] = ()
    take = -1
    said = scene.spoken
    if said is not None and said.start + low < said.end:
        takes = (Spoken(file=said.file, start=said.start + low, end=min(said.start + high, said.end)),)
        take = 0
    moments = () if scene.kind != SHOWN else _moments(scene, low, high)
    length = high - low if scene.length or not takes else 0.0
    return scene.but(
        id=key, caption=caption, moments=moments, pointer=_pointer(scene, low, high), length=length, takes=takes,
        take=take,
    )  # fmt: skip


def _moments(scene: Scene, low: float, high: float) -> tuple[Moment, ...]:
    begins = further(moment_at(scene, low), low)
    later = [one.model_copy(update={"at": one.at - low}) for one in scene.moments if low + 1e-9 < one.at < high - 1e-9]
    return begins, *later


def _pointer(scene: Scene, low: float, high: float) -> tuple[Point, ...]:
    found = [one.model_copy(update={"at": one.at - low}) for one in scene.pointer if low <= one.at < high]
    held = pointer_at(scene, low)
    return tuple(found if held is None else [held.model_copy(update={"at": 0.0}), *found])


def further(moment: Moment, at: float) -> Moment:
    """What a moment shows at `at` (s of the scene), as the beginning of a scene."""
    run = moment.rate * (at - moment.at)
    here = Instant(stop=moment.here.stop, plus=moment.here.plus + run)
    return moment.model_copy(update={"at": 0.0, "here": here})


def _with(talk: Talk, key: str, make: Callable[[Scene], list[Scene]]) -> Talk:
    talk.scene(key)  # raises KeyError
    return talk.but(scenes=tuple(new for one in talk.scenes for new in (make(one) if one.id == key else [one])))
