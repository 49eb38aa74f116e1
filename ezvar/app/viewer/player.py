"""Playing: a clock, driven by the sound device where there is one and silent where there is none."""

from __future__ import annotations

import importlib
import time
from collections import deque
from collections.abc import Sequence
from fractions import Fraction
from types import ModuleType
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.core.compose import master_sound
from ezvar.core.lock import lock_sound
from ezvar.core.media import SOUND_RATE
from ezvar.core.model import Document, Master
from ezvar.core.threads import begin
from ezvar.core.timing import Rate

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioSink


Span = tuple[int, int]


class Player(QObject):
    """Moves a place along the lock, or along parts of it, in real time. Drops pictures rather than time."""

    moved = pyqtSignal(int)
    playing_changed = pyqtSignal(bool)
    part_began = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._timer = QTimer(self)
        self._timer.setInterval(8)
        self._timer.timeout.connect(self._tick)
        self._rate = Rate(25)
        self._frames = 0
        self._doc: Document | None = None
        self._master: Master | None = None
        self._speed = 0.0
        self._spans: list[Span] = []
        self._at = 0  # which of them
        self._loop = False
        self._from = 0
        self._since = 0.0
        self._sound: _Sound | None = None

    def set_lock(self, doc: Document | None) -> None:
        """Play this document's lock from now on; ``None`` plays nothing."""
        self.stop()
        self._doc, self._master = doc, None
        self._rate, self._frames = (doc.lock.rate, doc.lock.frames) if doc else (Rate(25), 0)
        if doc is not None and doc.lock.has_sound:
            QTimer.singleShot(400, _sound_library)

    def hear(self, doc: Document, master: Master | None) -> None:
        """Play the sound of a master of the same lock from the next start on; ``None`` is the lock's own."""
        if self._doc is not None:
            self._doc, self._master = doc, master

    @property
    def speed(self) -> float:
        """1 forwards, 0.5 half, 2 double, -1 backwards, 0 at rest."""
        return self._speed

    def play(self, frame: int, speed: float = 1) -> None:
        """Play the lock from a frame; from the last one it begins again at the first."""
        start = 0 if speed > 0 and frame >= self._frames - 1 else frame
        self._begin([(0, self._frames)], start, speed, loop=False)

    def play_spans(self, spans: Sequence[Span], loop: bool = False) -> None:
        """Play stretches of lock frames, ``end`` excluded, one after the other; with ``loop`` round and round."""
        if spans:
            self._begin(spans, spans[0][0], 1, loop)

    def _begin(self, spans: Sequence[Span], frame: int, speed: float, loop: bool) -> None:
        self.stop()
        if not self._frames:
            return
        self._spans, self._at, self._loop, self._speed = list(spans), 0, loop, speed
        self._start(frame)
        self._timer.start()
        self.playing_changed.emit(True)

    def _start(self, frame: int) -> None:
        """Let the clock run from a frame of the present part."""
        if self._sound is not None:
            self._sound.end()
            self._sound = None
        self._from, self._since = frame, time.monotonic()
        if self._speed == 1 and self._doc is not None and self._doc.lock.has_sound:
            self._sound = _Sound.begin(self._doc, self._master, frame)
        self.part_began.emit()

    def stop(self) -> None:
        if self._sound is not None:
            self._sound.end()
            self._sound = None
        if self._speed:
            self._speed = 0.0
            self._timer.stop()
            self.playing_changed.emit(False)

    def _tick(self) -> None:
        if self._sound is not None:
            self._sound.feed()
            gone = self._sound.seconds()
        else:
            gone = time.monotonic() - self._since
        way = self._rate.frame_at(Fraction(gone * abs(self._speed)))
        frame = self._from + (way if self._speed > 0 else -way)
        start, end = self._spans[self._at]
        over = self._sound is not None and self._sound.over
        if not over and start <= frame < end:
            self.moved.emit(frame)
            return
        self.moved.emit(max(start, min(frame, end - 1)))
        self._at += 1
        if self._at == len(self._spans) and self._loop:
            self._at = 0
        if self._at < len(self._spans) and self._speed > 0:
            self._start(self._spans[self._at][0])
        else:
            self.stop()


def _sound_library() -> ModuleType | None:
    """Qt's sound library, loaded on the first call, which takes its time; ``None`` where it cannot be."""
    try:
        return importlib.import_module("PyQt6.QtMultimedia")
    except ImportError:
        return None  # its system libraries are missing: play silently


class _Sound:
    """Sound from a place on, decoded ahead on a thread and handed to the device bit by bit."""

    def __init__(self, doc: Document, master: Master | None, start: int, sink: QAudioSink) -> None:
        self._sink = sink
        self._device = sink.start()
        self._blocks: deque[bytes] = deque()
        self._ending = False
        self._rest = b""
        self._thread = begin("sound", lambda: self._decode(doc, master, start))

    @classmethod
    def begin(cls, doc: Document, master: Master | None, start: int) -> _Sound | None:
        """``None`` where the machine has no sound device."""
        library = _sound_library()
        if library is None or (device := library.QMediaDevices.defaultAudioOutput()).isNull():
            return None
        form = library.QAudioFormat()
        form.setSampleRate(SOUND_RATE)
        form.setChannelCount(2)
        form.setSampleFormat(library.QAudioFormat.SampleFormat.Float)
        return cls(doc, master, start, library.QAudioSink(device, form))

    def seconds(self) -> float:
        """How long the device has played."""
        return self._sink.processedUSecs() / 1e6

    @property
    def over(self) -> bool:
        """Whether everything was handed over and played."""
        return not (self._thread.is_alive() or self._blocks or self._rest) and (
            self._sink.state() == self._sink.state().IdleState
        )

    def feed(self) -> None:
        while self._device is not None and (free := self._sink.bytesFree()) > 0:
            if not self._rest:
                if not self._blocks:
                    return
                self._rest = self._blocks.popleft()
            written = self._device.write(self._rest[:free])
            if written <= 0:
                return
            self._rest = self._rest[written:]

    def end(self) -> None:
        self._ending = True
        self._sink.stop()

    def _decode(self, doc: Document, master: Master | None, start: int) -> None:
        for block in lock_sound(doc, start) if master is None else master_sound(doc, master, start):
            while len(self._blocks) > 20 and not self._ending:
                time.sleep(0.02)
            if self._ending:
                return
            self._blocks.append(np.ascontiguousarray(block.T, np.float32).tobytes())
