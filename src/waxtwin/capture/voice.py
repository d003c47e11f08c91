"""A voice while somebody speaks: microphones, the made-up one, and a take that grows on disk."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from time import monotonic
from typing import Any, Protocol

import numpy as np

from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.talk import SOUND_RATE
from waxtwin.simulate.voice import made_up_voice

MADE_UP = "made-up"
_BLOCK = 0.02  # s
_LATE = 0.25  # s after which no more is taken for said than has come
_CLIPS = 0.999
_LOST = 2.0  # s without a block: the microphone is gone
_FALL = 0.85  # of the shown level from block to block

Block = tuple[np.ndarray, float]  # samples (n,), and when (monotonic s) the last of them was heard


class VoiceError(WaxTwinError):
    """Nothing can be heard; the sentence says why."""


class Sink(Protocol):
    """Where a take goes."""

    @property
    def seconds(self) -> float: ...
    def add(self, said: np.ndarray, /) -> None: ...
    def cut(self, seconds: float) -> None: ...
    def close(self) -> None: ...


@dataclass(frozen=True)
class Microphone:
    """Something to be recorded from: `id` for `Recorder`, and its name."""

    id: str
    name: str


def microphones() -> list[Microphone]:
    """What can be recorded from, the desktop's own choice first and the made-up voice last."""
    found: list[Microphone] = []
    with suppress(Exception):  # without the sound library, or without sound at all, there is just none
        import sounddevice

        usual = sounddevice.default.device[0]
        for n, one in enumerate(sounddevice.query_devices()):
            if one["max_input_channels"] > 0:
                found.append(Microphone(str(n), str(one["name"])))
        found.sort(key=lambda one: one.id != str(usual))
    return [*found, Microphone(MADE_UP, "Made-up voice, to try it out")]


class Recorder:
    """Records from a microphone into a take until it is stopped; `level` is what is heard now, 0 to 1, `clipped` how
    often it was too loud, `fault` why it ended by itself. Raises VoiceError.
    """

    def __init__(self, microphone: str, sink: Sink) -> None:
        self._sink = sink
        self._blocks: queue.SimpleQueue[Block | None] = queue.SimpleQueue()
        self._lock = threading.Lock()
        self._heard_at = monotonic()
        self._paused = False
        self._stretches = [0.0]
        self.level, self.clipped, self.fault = 0.0, 0, ""
        self._source: _MadeUp | _Real = (_MadeUp if microphone == MADE_UP else _Real)(microphone, self._blocks.put)
        self._thread = threading.Thread(target=self._write, name="waxtwin voice", daemon=True)
        self._thread.start()

    @property
    def seconds(self) -> float:
        """How much was said so far, up to this instant."""
        with self._lock:
            since = 0.0 if self._paused or self.fault else min(max(monotonic() - self._heard_at, 0.0), _LATE)
            return self._sink.seconds + since

    @property
    def paused(self) -> bool:
        """Whether nothing is recorded for now."""
        return self._paused

    def pause(self) -> float:
        """Record nothing until it goes on; how much was said, s."""
        with self._lock:
            self._paused, self.level = True, 0.0
        return self._sink.seconds

    def go_on(self) -> None:
        """Record again."""
        with self._lock:
            self._paused, self._heard_at = False, monotonic()
            self._stretches.append(self._sink.seconds)

    def discard(self) -> float:
        """Take back what was said since it last went on, and pause; how much is left, s."""
        self.pause()
        with self._lock:
            begin = self._stretches.pop() if len(self._stretches) > 1 else 0.0
            self._sink.cut(begin)
        return begin

    def stop(self) -> float:
        """Record no more; how much was said, s."""
        self._source.close()
        self._blocks.put(None)
        self._thread.join()
        self._sink.close()
        return self._sink.seconds

    def _write(self) -> None:
        while not self.fault:
            try:
                block = self._blocks.get(timeout=_LOST)
            except queue.Empty:
                self.fault = "The microphone went away; what was said until then is kept."
                return
            if block is None:
                return
            try:
                self._take(*block)
            except WaxTwinError as fault:
                self.fault = f"{fault}; what was said until then is kept."

    def _take(self, samples: np.ndarray, at: float) -> None:
        with self._lock:
            self._heard_at = at
            if self._paused:
                return
            self._sink.add(samples)
            peak = float(np.max(np.abs(samples), initial=0.0))
            self.clipped += peak >= _CLIPS
            self.level = max(peak, self.level * _FALL)


class _MadeUp:
    """The made-up voice, at the pace of speech."""

    def __init__(self, _: str, hear: Callable[[Block], object]) -> None:
        self._hear = hear
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._speak, name="waxtwin made-up voice", daemon=True)
        self._thread.start()

    def _speak(self) -> None:
        began, said = monotonic(), 0
        while not self._stop.wait(max(began + (said + 1) * _BLOCK - monotonic(), 0.0)):
            said += 1
            self._hear((made_up_voice(_BLOCK, SOUND_RATE, (said - 1) * _BLOCK), began + said * _BLOCK))

    def close(self) -> None:
        """No more."""
        self._stop.set()
        self._thread.join()


class _Real:
    """A microphone through the desktop's sound system."""

    def __init__(self, device: str, hear: Callable[[Block], object]) -> None:
        try:
            import sounddevice

            self._stream = sounddevice.InputStream(
                samplerate=SOUND_RATE, channels=1, dtype="float32", blocksize=round(_BLOCK * SOUND_RATE),
                callback=self._heard, device=int(device) if device.isdigit() else None,
            )  # fmt: skip
            self._hear = hear
            self._stream.start()
        except OSError:
            raise VoiceError("There is no sound system here; the scenes can be written instead of spoken.") from None
        except Exception as fault:  # noqa: BLE001 - the library's own fault is loaded with it
            if not [one for one in microphones() if one.id != MADE_UP]:
                raise VoiceError("There is no microphone; the scenes can be written instead of spoken.") from None
            said = str(fault).partition("[")[0].strip() or "it gives no reason"
            raise VoiceError(f"The microphone cannot be used: {said}.") from None

    def _heard(self, samples: np.ndarray, _: int, times: Any, __: object) -> None:
        late = self._stream.time - times.inputBufferAdcTime - len(samples) / SOUND_RATE
        self._hear((samples[:, 0].copy(), monotonic() - max(late, 0.0)))

    def close(self) -> None:
        """Let go of it."""
        with suppress(Exception):  # it may be gone already
            self._stream.close()


def say_aloud(samples: np.ndarray) -> None:
    """Play a voice `(n,)`, beside whatever else is done. Raises VoiceError where nothing can be heard."""
    try:
        import sounddevice

        sounddevice.play(samples, SOUND_RATE)
    except Exception:  # noqa: BLE001 - the library's own fault is loaded with it
        raise VoiceError("There is no loudspeaker here; the talk runs without a sound.") from None


def hush() -> None:
    """Stop what is being played."""
    with suppress(Exception):  # without a sound system there is nothing to be stopped
        import sounddevice

        sounddevice.stop()
