"""Speech written down by a service: another program, told what to listen to, that answers line by line.

The service is any program that keeps to docs/TRANSCRIPTION.md. It is never
trusted: what it says is checked and bounded, and it is ended where it hangs.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
import wave
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ezvar.core.errors import InputError
from ezvar.core.lock import lock_sound
from ezvar.core.media import SOUND_RATE
from ezvar.core.model import Caption, CaptionLimits, Document, Span, new_id
from ezvar.core.programs import SILENT_FOR, Program, command_named
from ezvar.core.progress import CancelToken, Progress, portion, silent

from ..setting.words import language_of
from .chunks import chunks

SIMULATED: tuple[str, ...] = (sys.executable, "-m", "ezvar.speech")
"""The service that ships: it knows the demo's made-up speech, and nothing else."""
SERVICE = "EZVAR_TRANSCRIBER"
"""The environment variable that names another one: a command, written as for a shell."""
SURE = 0.6
"""Confidence from which a word is taken for right."""
_MOST_WORDS = 200_000
_PAUSE = 900  # milliseconds between words, at which a caption ends


class Word(BaseModel):
    """A word that was heard; times in seconds from where listening began."""

    model_config = ConfigDict(frozen=True, extra="ignore")
    text: str = Field(min_length=1, max_length=200)
    start: float = Field(ge=0, le=1e6)
    end: float = Field(ge=0, le=1e6)
    confidence: float = Field(default=1.0, ge=0, le=1)


class _Said(BaseModel):
    """One line of a service."""

    model_config = ConfigDict(extra="ignore")
    progress: float | None = Field(default=None, ge=0, le=1)
    words: list[Word] = Field(default_factory=list, max_length=10_000)
    error: str = Field(default="", max_length=500)
    done: bool = False


@dataclass(frozen=True)
class Transcript:
    """What was heard, in order of time, and what is to be said of it where it is not whole."""

    words: tuple[Word, ...]
    cut_off: str = ""


def service_named() -> tuple[str, ...]:
    """The command of the service that is to be used. Raises `InputError` for one that cannot be taken apart."""
    return command_named(SERVICE, SIMULATED)


def transcribe(
    doc: Document, service: Sequence[str] = SIMULATED, start: int = 0, end: int | None = None, language: str = "",
    progress: Progress = silent, cancel: CancelToken | None = None,
) -> Transcript:  # fmt: skip
    """What a service hears in lock frames ``start`` to ``end``.

    Where it is cut off, what it said until then is given, with a sentence.
    Raises `InputError` where it cannot be begun, or fails before its first word.
    """
    token = cancel or CancelToken()
    last = doc.lock.frames if end is None else end
    with tempfile.TemporaryDirectory(prefix="ezvar-speech-") as folder:
        sound = Path(folder) / "sound.wav"
        _write_sound(doc, start, last, sound, portion(progress, 0, 0.1), token)
        request: dict[str, str | int | float] = {
            "version": 1, "sound": os.fspath(sound), "name": doc.lock.name, "language": language,
            "from": float(doc.lock.rate.seconds(start)), "to": float(doc.lock.rate.seconds(last)),
        }  # fmt: skip
        return _asked(service, request, portion(progress, 0.1, 1), token)


def _write_sound(doc: Document, start: int, end: int, path: Path, progress: Progress, token: CancelToken) -> None:
    """The lock's sound as one channel of 16-bit PCM."""
    total = max(1, round(doc.lock.rate.seconds(end - start) * SOUND_RATE))
    done = 0
    with wave.open(os.fspath(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(SOUND_RATE)
        for block in lock_sound(doc, start, end, 1):
            token.check()
            file.writeframes((np.clip(block[0], -1, 1) * 32767).astype("<i2").tobytes())
            done += block.shape[1]
            progress(done / total, "Taking the sound")


def _asked(
    service: Sequence[str], request: dict[str, str | int | float], progress: Progress, token: CancelToken
) -> Transcript:
    words: list[Word] = []
    with Program(service, "the transcription service", token) as program:
        program.tell(json.dumps(request).encode() + b"\n")
        program.told_all()
        try:
            while (line := program.line()) is not None:
                try:
                    said = _Said.model_validate_json(line)
                except ValidationError:
                    return _cut_off(words, "it answered what cannot be read")
                words += said.words
                if said.progress is not None:
                    progress(said.progress, "Listening")
                if said.error:
                    return _cut_off(words, said.error)
                if said.done:
                    return Transcript(_in_order(words))
                if len(words) > _MOST_WORDS:
                    return _cut_off(words, "it did not come to an end")
        except TimeoutError:
            return _cut_off(words, f"it was silent for {SILENT_FOR:g} s")
    return _cut_off(words, "it ended before it was done")


def _in_order(words: list[Word]) -> tuple[Word, ...]:
    return tuple(sorted((w for w in words if w.end > w.start and w.text.strip()), key=lambda w: w.start))


def _cut_off(words: list[Word], why: str) -> Transcript:
    kept = _in_order(words)
    if not kept:
        raise _failed(why)
    return Transcript(kept, f"The transcription broke off: {why}. What was heard until then is there.")


def _failed(why: str) -> InputError:
    return InputError(f"the transcription service failed: {why}", remedy="Try again")


def captions_of_words(
    words: Sequence[Word], limits: CaptionLimits, offset: int = 0, language: str = ""
) -> tuple[Caption, ...]:
    """Captions from words that were heard, ``offset`` milliseconds later: parted at pauses, and where sense parts.

    Words that a service was not sure of are marked.
    """
    made: list[Caption] = []
    language = language or language_of([" ".join(w.text for w in words)])
    for group in _groups(words):
        at = 0
        for part in chunks(" ".join(w.text.strip() for w in group), 2 * limits.letters_a_line, language):
            count = len(part.split())
            own = group[at : at + count]
            at += count
            if own:
                made.append(_caption(own, offset))
    return _without_overlaps(made)


def _groups(words: Sequence[Word]) -> list[list[Word]]:
    groups: list[list[Word]] = []
    for word in words:
        if groups and 1000 * (word.start - groups[-1][-1].end) < _PAUSE:
            groups[-1].append(word)
        else:
            groups.append([word])
    return groups


def _caption(words: Sequence[Word], offset: int) -> Caption:
    start = offset + round(1000 * words[0].start)
    unsure = tuple(k for k, word in enumerate(words) if word.confidence < SURE)
    text = " ".join(" ".join(w.text.split()) for w in words)
    return Caption(new_id(), start, max(start + 1, offset + round(1000 * words[-1].end)), (Span(text),), unsure=unsure)


def _without_overlaps(captions: list[Caption]) -> tuple[Caption, ...]:
    made: list[Caption] = []
    for caption in captions:
        if made and caption.start < made[-1].end:
            caption = Caption(
                caption.id, made[-1].end, max(made[-1].end + 1, caption.end), caption.spans, unsure=caption.unsure
            )
        made.append(caption)
    return tuple(made)
