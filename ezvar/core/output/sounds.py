"""The sound of rows: coded whole, once for all that have the same, while their pictures are made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np

from ezvar.core.encoding import SoundFile, sound_suffix, write_sound
from ezvar.core.errors import EzvarError
from ezvar.core.lock import Silence
from ezvar.core.media import loudness_of
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.stalls import check, joined
from ezvar.core.threads import begin

from .heard import SoundOfRow, sounds_of
from .orders import Order
from .refused import told
from .segments import file_stamp

_HEARD = 0.5  # LU by which sound may miss what was asked for without a word


@dataclass
class Sound:
    """The sound tracks of rows of one ``name``: the ``file`` that holds it coded, and what is ``said`` of it in
    sentences."""

    order: Order
    of: SoundOfRow
    name: str
    folder: Path
    file: SoundFile | None = None
    said: tuple[str, ...] = ()
    error: EzvarError | None = None
    notes: tuple[str, ...] = ()

    @property
    def path(self) -> Path:
        return self.folder / f"sound-{self.name}{sound_suffix(self.order.row.preset.sound.codec)}"

    @property
    def bits(self) -> int:
        """What it takes in a file."""
        if self.file is None:
            return 0
        with av.open(str(self.file.path)) as coded:
            return sum(packet.size * 8 for packet in coded.demux(coded.streams.audio[self.file.track - 1]))

    def take_over(self) -> None:
        """Find what is coded already: in the lock itself, of an unfinished making, or in the finished movie."""
        before, coding = self.order.before, self.order.row.preset.sound
        try:
            channels = self.of.channels
        except EzvarError as error:
            self.error = error
            return
        called = self.of.called
        names = before.sound.split() if before is not None and before.stamp == file_stamp(before.file) else []
        if number := self.of.copied:
            path = Path(self.order.doc.lock.media[0].path)
            self.file = SoundFile(path, coding, channels, number, True, called)
        elif self.path.exists():
            self.file = SoundFile(self.path, coding, channels, name=called)
        elif before is not None and self.name in names:
            self.file = SoundFile(Path(before.file), coding, channels, names.index(self.name) + 1, name=called)
        self.said = tuple(dict.fromkeys(self.of.said()))

    def make(self, cancel: CancelToken) -> None:
        """Code it. What goes wrong is kept."""
        row = self.order.row
        unheard: list[Silence] = []
        part = self.path.with_name(f"unfinished-{self.path.name}")
        try:
            gain, channels = self._gain(cancel), self.of.channels
            blocks = (_unless(cancel, block) * gain for block in self.of.blocks(on_silence=unheard.append))
            write_sound(part, row.preset.sound, channels, blocks)
            part.rename(self.path)
        except Cancelled:
            part.unlink(missing_ok=True)
            return
        except (EzvarError, OSError, av.error.FFmpegError) as error:
            part.unlink(missing_ok=True)
            self.error = error if isinstance(error, EzvarError) else told(error, self.order.target)
            return
        heard = (silence.said(self.order.doc.lock) for silence in unheard)
        self.said = tuple(dict.fromkeys((*self.said, *self.notes, *heard)))
        self.file = SoundFile(self.path, row.preset.sound, channels, name=self.of.called)

    def _gain(self, cancel: CancelToken) -> np.float32:
        """By what all of it is multiplied to be as loud as is wanted, and no louder than its peaks allow."""
        wanted = self.order.row.preset.sound
        if wanted.loudness is None:
            return np.float32(1)
        found = loudness_of((_unless(cancel, block) for block in self.of.blocks()), self.of.channels)
        if found.integrated is None:
            return np.float32(1)
        louder = wanted.loudness - found.integrated
        allowed = min(louder, wanted.peak - found.peak)
        if allowed < louder - _HEARD:
            reached = found.integrated + allowed
            self.notes = (f"Its peaks allow no more than {reached:.1f} LUFS, where {wanted.loudness:g} was asked for.",)
        return np.float32(10 ** (allowed / 20))


def _unless(cancel: CancelToken, block: np.ndarray) -> np.ndarray:
    cancel.check()
    return block


class Sounds:
    """The sounds of several rows, coded on a thread of their own."""

    def __init__(self, wanted: Sequence[tuple[Order, Path]]) -> None:
        self._by_name: dict[str, Sound] = {}
        self._of: dict[str, list[str]] = {}
        self._cancel = CancelToken()
        for order, folder in wanted:
            for of in sounds_of(order.doc, order.row):
                name = of.name
                self._of.setdefault(order.row.id, []).append(name)
                self._by_name.setdefault(name, Sound(order, of, name, folder))
        for sound in self._by_name.values():
            sound.take_over()
        self._thread = begin("sound of masters", self._make)

    def _make(self) -> None:
        for sound in self._by_name.values():
            if sound.file is None and sound.error is None:
                sound.make(self._cancel)

    def of(self, order: Order) -> list[Sound]:
        """The sound tracks of a row, in order; none where it has none. Waits for them."""
        joined(self._thread)
        check(self._thread)
        return [self._by_name[name] for name in self._of.get(order.row.id, ())]

    def close(self) -> None:
        """Leave off, and wait for the thread."""
        self._cancel.cancel()
        joined(self._thread)
