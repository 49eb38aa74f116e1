"""The sound of rows: coded whole, once for all that have the same, while their pictures are made."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import av
import numpy as np

from ezvar.core.compose import master_sound
from ezvar.core.encoding import SoundFile, sound_suffix, write_sound
from ezvar.core.errors import EzvarError
from ezvar.core.lock import Silence, silences
from ezvar.core.media import loudness_of
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.threads import begin

from .orders import Order
from .refused import told
from .segments import file_stamp

HEARD_BY = 1
"""Raised when the same document comes to other sound."""
_HEARD = 0.5  # LU by which sound may miss what was asked for without a word


def sound_name(order: Order) -> str:
    """A name for the sound of a row: where all that is heard in it, and how it is coded, is the same, so is the name.
    Empty where it has none."""
    doc, row = order.doc, order.row
    silent = row.preset.sound.codec == "none" or row.preset.picture.container == "images"
    if silent or not doc.lock.has_sound:
        return ""
    media = {m.id: (m.content, m.origin, m.rate) for m in doc.lock.media}
    clips = [(replace(c, carried=""), media[c.media]) for c in doc.lock.sounds]
    shots = [
        (s.start, s.end, f.sound, f.panes[f.sound].shot if f.sound >= 0 else "")
        for s in doc.shots if (f := doc.framing(s.id, row.master)) is not None and f.sound >= 0
    ]  # fmt: skip
    said = (HEARD_BY, row.range, doc.lock.rate, row.preset.sound, clips, shots)
    return hashlib.sha256(repr(said).encode(errors="surrogatepass")).hexdigest()[:32]


@dataclass
class Sound:
    """The sound of rows of one name: the ``file`` that holds it coded, and what is ``said`` of it in sentences."""

    order: Order
    name: str
    folder: Path
    file: SoundFile | None = None
    said: tuple[str, ...] = ()
    error: EzvarError | None = None
    notes: tuple[str, ...] = ()

    @property
    def channels(self) -> int:
        return 1 if self.order.row.preset.sound.channels == "mono" else 2

    @property
    def path(self) -> Path:
        return self.folder / f"sound-{self.name}{sound_suffix(self.order.row.preset.sound.codec)}"

    @property
    def bits(self) -> int:
        """What it takes in a file."""
        if self.file is None:
            return 0
        with av.open(str(self.file.path)) as coded:
            return sum(packet.size * 8 for packet in coded.demux(coded.streams.audio[0]))

    def take_over(self) -> None:
        """Find what is coded already: of an unfinished making, or in the finished movie."""
        before, coding = self.order.before, self.order.row.preset.sound
        if self.path.exists():
            self.file = SoundFile(self.path, coding, self.channels)
        elif before is not None and before.sound == self.name and before.stamp == file_stamp(before.file):
            self.file = SoundFile(Path(before.file), coding, self.channels)
        doc, span = self.order.doc, self.order.row.range
        self.said = tuple(dict.fromkeys(s.said(doc.lock) for s in silences(doc, span.start, span.end)))

    def make(self, cancel: CancelToken) -> None:
        """Code it. What goes wrong is kept."""
        doc, row = self.order.doc, self.order.row
        unheard: list[Silence] = []
        part = self.path.with_name(f"unfinished-{self.path.name}")
        try:
            master = doc.master(row.master)
            gain = self._gain(cancel)
            blocks = (
                _unless(cancel, block) * gain
                for block in master_sound(doc, master, row.start, row.end, self.channels, unheard.append)
            )
            write_sound(part, row.preset.sound, self.channels, blocks)
            part.rename(self.path)
        except Cancelled:
            part.unlink(missing_ok=True)
            return
        except (EzvarError, OSError, av.error.FFmpegError) as error:
            part.unlink(missing_ok=True)
            self.error = error if isinstance(error, EzvarError) else told(error, self.order.target)
            return
        self.said = tuple(dict.fromkeys((*self.said, *self.notes, *(silence.said(doc.lock) for silence in unheard))))
        self.file = SoundFile(self.path, row.preset.sound, self.channels)

    def _gain(self, cancel: CancelToken) -> np.float32:
        """By what all of it is multiplied to be as loud as is wanted, and no louder than its peaks allow."""
        doc, row, wanted = self.order.doc, self.order.row, self.order.row.preset.sound
        if wanted.loudness is None:
            return np.float32(1)
        blocks = master_sound(doc, doc.master(row.master), row.start, row.end, self.channels)
        found = loudness_of((_unless(cancel, block) for block in blocks), self.channels)
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
        self._cancel = CancelToken()
        for order, folder in wanted:
            if name := sound_name(order):
                self._by_name.setdefault(name, Sound(order, name, folder))
        for sound in self._by_name.values():
            sound.take_over()
        self._thread = begin("sound of masters", self._make)

    def _make(self) -> None:
        for sound in self._by_name.values():
            if sound.file is None:
                sound.make(self._cancel)

    def of(self, order: Order) -> Sound | None:
        """The sound of a row; ``None`` where it has none. Waits for it."""
        self._thread.join()
        return self._by_name.get(sound_name(order))

    def close(self) -> None:
        """Leave off, and wait for the thread."""
        self._cancel.cancel()
        self._thread.join()
