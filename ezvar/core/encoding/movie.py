"""Writing a movie in one go: pictures and sound as they come."""

from __future__ import annotations

import os

import av
import numpy as np

from ezvar.core.media import ColourTags, Planes
from ezvar.core.model import Preset
from ezvar.core.timing import Rate

from .codecs import FORMATS
from .presets import REVIEW
from .segments import file_options, let_go
from .streams import PictureForm, PictureStream, SoundStream

_GROUP = 25  # pictures: quick to be gone to any place of


class MovieWriter:
    """A movie being written, with stereo sound. `close` completes it; without it the file is no movie."""

    def __init__(
        self, path: str | os.PathLike[str], width: int, height: int, rate: Rate, tags: ColourTags, sound: bool,
        timecode: str | None = None, preset: Preset = REVIEW,
    ) -> None:  # fmt: skip
        container = preset.picture.container
        self._out = av.open(str(path), "w", format=FORMATS[container], options=file_options(container, rate))
        form = PictureForm(preset.picture, width, height, rate, tags, group=_GROUP)
        self._pictures = PictureStream(self._out, form)
        if timecode:
            self._pictures.stream.metadata["timecode"] = timecode
        self._sound = SoundStream(self._out, preset.sound, 2) if sound else None

    def picture(self, planes: Planes) -> None:
        """Add the next picture."""
        self._pictures.put(planes)

    def sound(self, block: np.ndarray) -> None:
        """Add sound, float32 (2, samples) at 48 kHz."""
        assert self._sound is not None
        self._sound.put(block)

    def close(self) -> None:
        """Flush and complete the movie."""
        self._pictures.flush()
        if self._sound is not None:
            self._sound.flush()
        self._out.close()

    def abandon(self) -> None:
        """Let go of the file without completing it."""
        let_go(self._out)
