"""What is heard in a row: its sound tracks, each as blocks of samples, or copied as it is coded."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from ezvar.core.compose import master_sound
from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.lock import Silence, silences, sound_tracks
from ezvar.core.media import SOUND_RATE, SOUND_SUFFIXES, MovieFacts, SoundFacts, probe, probe_sound, sound_blocks
from ezvar.core.model import Document, Heard, Row, SoundCodec

from .segments import file_stamp

HEARD_BY = 2
"""Raised when the same document comes to other sound."""
_COPIES: dict[SoundCodec, frozenset[str]] = {  # containers whose sound goes into others of them as it is
    "aac": frozenset({".mp4", ".mov", ".m4v"}),
    "opus": frozenset({".webm", ".mkv"}),
}


@dataclass(frozen=True)
class SoundOfRow:
    """One sound track of a row: the lock's ``tracks`` mixed, those that it is heard with by itself where none is
    named; or a ``file``."""

    doc: Document
    row: Row
    tracks: tuple[int, ...] = ()
    file: str = ""

    @property
    def channels(self) -> int:
        """How many channels it has. Opens the media that are heard in order to count all."""
        match self.row.preset.sound.channels:
            case "mono":
                return 1
            case "stereo":
                return 2
        if self.file:
            return max((each.channels for each in _facts(self.file).audios[:1]), default=1)
        known = sound_tracks(self.doc)
        heard = self.tracks or ((1,) if self.doc.lock.flat else tuple(t.number for t in known))
        return max((t.channels for t in known if t.number in heard), default=1) or 1

    @property
    def called(self) -> str:
        """What it is called in the lock, where it is one of several tracks that the row carries; else nothing."""
        if self.file or not self.row.heard.apart:
            return ""
        return next((track.name for track in sound_tracks(self.doc) if track.number in self.tracks), "")

    @property
    def name(self) -> str:
        """A name for it: where all that is heard, and how it is coded, is the same, so is the name."""
        doc, row = self.doc, self.row
        media = {m.id: (m.content, m.origin, m.rate) for m in doc.lock.media}
        clips = [(replace(c, carried=""), media[c.media]) for c in doc.lock.sounds]
        shots = [
            (s.start, s.end, f.sound, f.panes[f.sound].shot if f.sound >= 0 else "")
            for s in doc.shots if (f := doc.framing(s.id, row.master)) is not None and f.sound >= 0
        ]  # fmt: skip
        of = (self.file, file_stamp(self.file)) if self.file else (self.tracks, clips, shots)
        said = (HEARD_BY, row.range, doc.lock.rate, row.preset.sound, of, self.copied)
        return hashlib.sha256(repr(said).encode(errors="surrogatepass")).hexdigest()[:32]

    @property
    def copied(self) -> int:
        """The track of a flat lock's movie that is copied as it is coded; 0 where it is coded anew.

        Copied is what may be, is coded so already, is the whole of the lock, begins
        and ends with its picture to a frame, and has as many channels as are wanted.
        """
        doc, row, sound = self.doc, self.row, self.row.preset.sound
        framings = (doc.framing(s.id, row.master) for s in doc.shots)
        changed = sound.loudness is not None or any(f is not None and f.sound >= 0 for f in framings)
        whole = (row.start, row.end) == (0, doc.lock.frames)
        if not sound.copied or changed or not whole or not doc.lock.flat or self.file or len(self.tracks) > 1:
            return 0
        suffixes, number = _COPIES.get(sound.codec, frozenset[str]()), (*self.tracks, 1)[0]
        path = Path(doc.lock.media[0].path)
        if path.suffix.lower() not in suffixes or f".{row.preset.picture.container}" not in suffixes:
            return 0
        try:
            facts = probe(path)
        except EzvarError:
            return 0  # which is told where its pictures are read
        if number > len(facts.audios):
            return 0
        audio, frame = facts.audios[number - 1], doc.lock.rate.seconds(1)
        wanted = {"mono": 1, "stereo": 2}.get(sound.channels, audio.channels)
        if (audio.codec, audio.channels) != (sound.codec, wanted) or audio.lasts is None:
            return 0
        begins, ends = (at - facts.zero for at in audio.lasts)
        return number if abs(begins) <= frame and abs(ends - doc.lock.rate.seconds(doc.lock.frames)) <= frame else 0

    def blocks(
        self, start: int | None = None, end: int | None = None, channels: int | None = None,
        on_silence: Callable[[Silence], object] = lambda silence: None,
    ) -> Iterator[np.ndarray]:  # fmt: skip
        """What is heard from lock frame ``start`` to ``end`` within the row, all of it by default: float32 blocks
        (channels, any number) at 48 kHz, as many samples as the frames last."""
        doc, row = self.doc, self.row
        first, last = (row.start if start is None else start), (row.end if end is None else end)
        wanted = self.channels if channels is None else channels
        if not self.file:
            return master_sound(doc, doc.master(row.master), first, last, wanted, on_silence, self.tracks)
        zero, begins, ends = (round(doc.lock.rate.seconds(at) * SOUND_RATE) for at in (row.start, first, last))

        def fault(error: EzvarError) -> None:
            on_silence(Silence(first, last, error))

        since, until = (Fraction(at - zero, SOUND_RATE) for at in (begins, ends))
        return sound_blocks(_facts(self.file), since, until, wanted, fault)

    def said(self) -> list[str]:
        """What cannot be heard of it, in sentences, as far as is known without listening."""
        doc, row = self.doc, self.row
        if not self.file:
            return [s.said(doc.lock) for s in silences(doc, row.start, row.end)]
        try:
            off = _facts(self.file).seconds - doc.lock.rate.seconds(row.end - row.start)
        except EzvarError as error:
            return [str(error)]
        if abs(off) <= doc.lock.rate.seconds(1):
            return []
        longer = "longer than the movie: its end is not heard" if off > 0 else "shorter than the movie"
        return [f"The sound file {Path(self.file).name} is {abs(float(off)):.2f} s {longer}."]


def sounds_of(doc: Document, row: Row) -> tuple[SoundOfRow, ...]:
    """The sound tracks that a row has, in order; none where its preset or the lock has none."""
    coded = row.preset.sound.codec != "none" and row.preset.picture.container != "images"
    heard = row.heard
    if not coded or not (doc.lock.has_sound or heard.file):
        return ()
    if heard.file:
        return (SoundOfRow(doc, row, file=heard.file),)
    if not heard.apart:
        return (SoundOfRow(doc, row, heard.tracks),)
    numbers: Sequence[int] = heard.tracks or [track.number for track in sound_tracks(doc)]
    return tuple(SoundOfRow(doc, row, (number,)) for number in numbers)


def choices_heard(doc: Document) -> list[tuple[Heard, str]]:
    """What may be heard in a row, without sound of its own, each with words for it; the usual first."""
    if doc.lock.flat:
        tracks = {each.number: each.name for each in sound_tracks(doc)}
    else:
        tracks = dict.fromkeys(sorted({clip.track for clip in doc.lock.sounds}), "")
    found = [(Heard(), "the lock's sound")]
    if len(tracks) > 1:
        found.append((Heard(apart=True), f"{len(tracks)} tracks, each by itself"))
        found += [(Heard((k,)), f"track {k} alone{name and f', {name}'}") for k, name in tracks.items()]
        if doc.lock.flat:
            found.append((Heard(tuple(tracks)), f"{len(tracks)} tracks, mixed"))
    return found


def _facts(path: str) -> MovieFacts | SoundFacts:
    """What is known of a sound file, or of a movie's sound. Raises `MediaError` where there is none."""
    if Path(path).suffix.lower() in SOUND_SUFFIXES:
        return probe_sound(path)
    facts = probe(path)
    if not facts.audios:
        raise MediaError("it has no sound", file=path, remedy="Choose another file")
    return facts
