"""Voices: taken in, measured, evened to one loudness and laid under the scenes. One channel, 48 kHz."""

from __future__ import annotations

import wave
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError
from waxtwin.formats.talk import SOUND_RATE as RATE
from waxtwin.formats.talk import Spoken, Talk
from waxtwin.library.private import make_file
from waxtwin.talk.timeline import Placed, placed

if TYPE_CHECKING:
    from av.audio.frame import AudioFrame

LOUDNESS = -16.0  # LUFS, as EBU R 128 measures it
PEAK = -1.5  # dB of true peak that nothing exceeds
SILENCE = 0.8  # s without a voice after which a new scene begins
_BLOCK = 4800
_UNTOLD = -70.0  # LUFS: what the measure says of silence
_MOST_GAIN = 40.0  # dB: a silent take is not made into noise
_STEP = 0.02  # s over which a voice is looked for
_UNDER = 0.05  # of a loud voice's level: less is silence
_FADE = 240  # samples over which a part of a take comes in and goes out, so that nothing clicks
_ROOM = 0.5  # dB that the limiter stays below: between samples a peak is higher


class TakeWriter:
    """Writes a take as it is spoken; whatever was written is a whole file at any time. Raises FormatError."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._begin()

    def _begin(self) -> None:
        try:
            make_file(self.path)
            self._file = wave.open(str(self.path), "wb")  # noqa: SIM115 - written to as long as somebody speaks
        except OSError as fault:
            raise _unwritten(self.path, fault) from None
        self._file.setnchannels(1)
        self._file.setsampwidth(2)
        self._file.setframerate(RATE)
        self.samples = 0

    def cut(self, seconds: float) -> None:
        """Take back what was said after `seconds`."""
        self.close()
        kept = samples(self.path, 0.0, min(seconds, self.seconds)) if self.samples else np.zeros(0, np.float32)
        self._begin()
        self.add(kept)

    @property
    def seconds(self) -> float:
        """How much was written."""
        return self.samples / RATE

    def add(self, said: np.ndarray) -> None:
        """More of the voice `(n,)`, -1 to 1."""
        try:
            self._file.writeframes((np.clip(said, -1, 1) * 32767).astype("<i2").tobytes())
        except OSError as fault:
            raise _unwritten(self.path, fault) from None
        self.samples += len(said)

    def close(self) -> None:
        """No more."""
        with suppress(OSError):
            self._file.close()


def _unwritten(path: Path, fault: OSError) -> FormatError:
    return FormatError(path, f"it cannot be written ({fault.strerror or 'output error'})")


def take_in(source: Path, target: Path) -> Steps[float]:
    """Write the sound of any file that has some as a take; how long it is, s. Raises FormatError."""
    import av

    try:
        with av.open(str(source)) as container:
            if not container.streams.audio:
                raise FormatError(source, "there is no sound in it")
            stream = container.streams.audio[0]
            whole = float(container.duration or 0) / av.time_base
            resampler = av.AudioResampler("flt", "mono", RATE)
            writer = TakeWriter(target)
            try:
                for frame in container.decode(stream):
                    for part in resampler.resample(frame):
                        writer.add(part.to_ndarray()[0])
                    yield min(writer.seconds / whole, 1.0) if whole else 0.5
                for part in resampler.resample(None):
                    writer.add(part.to_ndarray()[0])
            finally:
                writer.close()
    except FileNotFoundError:
        raise FormatError(source, "there is no such file") from None
    except (av.FFmpegError, OSError) as fault:
        raise FormatError(source, f"it is not sound that can be read ({fault.strerror or 'input error'})") from None
    if not writer.samples:
        target.unlink(missing_ok=True)
        raise FormatError(source, "there is no sound in it")
    return writer.seconds


def samples(path: Path, start: float = 0.0, end: float | None = None) -> np.ndarray:
    """A part of a take `(n,)`, -1 to 1; what lies beyond its end is silent. Raises FormatError."""
    try:
        with wave.open(str(path), "rb") as file:
            if (file.getnchannels(), file.getsampwidth(), file.getframerate()) != (1, 2, RATE):
                raise FormatError(path, "it is not a take of a talk")
            first, count = round(start * RATE), file.getnframes()
            last = count if end is None else round(end * RATE)
            file.setpos(min(first, count))
            data = file.readframes(max(min(last, count) - first, 0))
    except FileNotFoundError:
        raise FormatError(path, "this take is not there any more") from None
    except (OSError, EOFError, wave.Error):
        raise FormatError(path, "it is not a take that can be read") from None
    found = np.zeros(max(last - first, 0), np.float32)
    heard = np.frombuffer(data, "<i2")
    found[: len(heard)] = heard / np.float32(32767)
    return found


def silences(voice: np.ndarray, least: float = SILENCE) -> list[tuple[float, float]]:
    """Where nothing is said for `least` seconds at least: from and to, s."""
    size = round(_STEP * RATE)
    rows = voice[: len(voice) // size * size].reshape(-1, size)
    level = np.sqrt(np.mean(np.square(rows), axis=1))
    if not level.size:
        return []
    quiet = np.concatenate(([False], level < _UNDER * max(np.percentile(level, 95), 1e-4), [False]))
    edges = np.flatnonzero(np.diff(quiet.astype(int))).reshape(-1, 2) * _STEP
    return [(float(low), float(high)) for low, high in edges if high - low >= least]


def loudness(parts: Iterable[np.ndarray]) -> float | None:
    """How loud voices are together, LUFS over all of them; None where there is nothing to be heard."""
    said = _UNTOLD
    for frame in _filtered(parts, (("ebur128", "metadata=1"),)):
        said = float(frame.metadata.get("lavfi.r128.I", said))  # nothing is said of the first moment
    return said if said > _UNTOLD else None


def _louder(voice: np.ndarray, gain: float) -> np.ndarray:
    """A voice `(n,)` louder by `gain` dB, no peak over PEAK."""
    limit = 10 ** ((PEAK - _ROOM) / 20)
    chain = (("volume", f"{gain:.2f}dB"), ("alimiter", f"limit={limit:.4f}:level=0:latency=1:attack=4:release=60"))
    found = np.concatenate([np.zeros(0, np.float32), *(f.to_ndarray()[0] for f in _filtered([voice], chain))])
    out = np.zeros(len(voice), np.float32)
    out[: len(found)] = found[: len(out)]
    ramp = np.linspace(0, 1, min(_FADE, len(out) // 2), dtype=np.float32)
    out[: len(ramp)] *= ramp
    out[len(out) - len(ramp) :] *= ramp[::-1]
    return out


def _filtered(parts: Iterable[np.ndarray], chain: Sequence[tuple[str, str]]) -> Iterator[AudioFrame]:
    """Frames of sound after filters of the media library, one after the other."""
    import av
    from av.filter import Graph

    graph = Graph()
    node = graph.add_abuffer(format="flt", sample_rate=RATE, layout="mono")
    source = node
    for name, words in (*chain, ("aformat", "sample_fmts=flt"), ("abuffersink", "")):
        following = graph.add(name, words) if words else graph.add(name)
        node.link_to(following)
        node = following
    graph.configure()

    def ready() -> Iterator[AudioFrame]:
        while True:
            try:
                found = node.pull()
            except (av.BlockingIOError, av.EOFError):
                return
            yield found  # type: ignore[misc]

    at = 0
    for part in parts:
        for start in range(0, len(part), _BLOCK):
            block = np.ascontiguousarray(part[None, start : start + _BLOCK], np.float32)
            frame = av.AudioFrame.from_ndarray(block, format="flt", layout="mono")
            frame.sample_rate, frame.pts = RATE, at
            at += block.shape[1]
            source.push(frame)
            yield from ready()
    source.push(None)
    yield from ready()


def under(scenes: Sequence[Placed], folder: Path) -> Iterator[np.ndarray]:
    """The sound of a film, a block `(n,)` a scene, each exactly as long as its scene. Raises FormatError.

    Scenes of one recording are brought to one level together, so that a voice does not jump from scene to scene.
    """
    gains = _gains([scene.scene.spoken for scene in scenes if scene.scene.spoken is not None], folder)
    for scene in scenes:
        block = np.zeros(round(scene.end * RATE) - round(scene.start * RATE), np.float32)
        spoken = scene.scene.spoken
        if spoken is not None:
            part = _louder(heard(spoken, folder), gains[spoken.file])[: len(block)]
            block[: len(part)] = part
        yield block


def lost_takes(talk: Talk, folder: Path) -> list[str]:
    """Recordings that scenes of a film are heard by and that are not there any more."""
    files = {scene.spoken.file: None for scene in talk.wanted if scene.spoken is not None}
    return [file for file in files if not (folder / file).is_file()]


def without_lost(talk: Talk, folder: Path) -> Talk:
    """The talk with captions alone where a recording is not there any more."""
    lost = lost_takes(talk, folder)
    return talk.but(scenes=tuple(
        scene.but(take=-1) if scene.spoken is not None and scene.spoken.file in lost else scene for scene in talk.scenes
    ))  # fmt: skip


def heard(spoken: Spoken, folder: Path) -> np.ndarray:
    """A take's samples `(n,)`. Raises FormatError."""
    return samples(folder / spoken.file, spoken.start, spoken.end)


def _gains(spoken: Sequence[Spoken], folder: Path) -> dict[str, float]:
    """{file: dB} that bring what is heard of each recording to LOUDNESS."""
    found = {}
    for file in dict.fromkeys(one.file for one in spoken):
        said = loudness(heard(one, folder) for one in spoken if one.file == file)
        found[file] = 0.0 if said is None else min(LOUDNESS - said, _MOST_GAIN)
    return found


def mixed(scenes: Sequence[Placed], folder: Path) -> Steps[np.ndarray]:
    """The sound of a film in one piece `(n,)`. Raises FormatError."""
    there = without_lost(Talk(scenes=tuple(one.scene for one in scenes)), folder)
    blocks = []
    for n, block in enumerate(under(placed(there), folder), start=1):
        blocks.append(block)
        yield n / len(scenes)
    return np.concatenate(blocks) if blocks else np.zeros(0, np.float32)
