"""Finding the media that a timeline names, and putting them in its shots' hands."""

from __future__ import annotations

import difflib
import os
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from urllib.parse import unquote, urlsplit

from ezvar.core.edits import MediaLink
from ezvar.core.errors import EzvarError, InputError
from ezvar.core.media import (
    MOVIE_SUFFIXES,
    SOUND_SUFFIXES,
    STILL_SUFFIXES,
    fingerprint,
    length_of_sequence,
    media_label,
    probe,
    probe_sound,
    read_still,
)
from ezvar.core.model import Document, Media
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress, silent

_MOST_FILES = 50_000
_MOST_LABELS = 2_000
_ALIKE = 0.6
_GUESSES = 3

_Used = tuple[Fraction, Fraction]
"""The first and the last second of a media, in its own count, that an edit shows or sounds."""


@dataclass(frozen=True)
class Guess:
    """A file that may be a missing media, and why. ``sure`` ones are taken without asking."""

    path: Path
    why: str
    sure: bool = False


@dataclass(frozen=True)
class Search:
    """What a search for missing media came to: guesses for those not taken, by media id, and what went wrong."""

    guesses: dict[str, tuple[Guess, ...]]
    problems: tuple[str, ...]


def missing(doc: Document) -> tuple[Media, ...]:
    """The media of the lock that were never found, or are not where they were."""
    return tuple(m for m in doc.lock.media if m.kind != "black" and (m.missing or not os.path.isfile(m.path)))


def find_media(
    doc: Document, folders: Iterable[str | os.PathLike[str]], progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> tuple[tuple[MediaLink, ...], Search]:  # fmt: skip
    """Look for missing media in folders; those found for sure are links, to be put in place by `edits.link_media`.

    Tried in this order: the stored path, where it lies inside one of the
    folders; a file of that name; the reel with timecodes that hold what is
    used. Stored paths outside the folders are named and not followed,
    addresses on other machines never. What is only alike is offered.
    """
    roots = [Path(os.path.realpath(f)) for f in folders]
    files = _files(roots, cancel)
    wanted = missing(doc)
    guesses: dict[str, tuple[Guess, ...]] = {}
    problems: list[str] = []
    labels: dict[Path, tuple[str, Fraction, Fraction]] | None = None
    used = _used_seconds(doc)
    links: list[MediaLink] = []
    for number, media in enumerate(wanted):
        if cancel is not None:
            cancel.check()
        progress(number / max(1, len(wanted)), f"Looking for {media.name or media.path}")
        found = _by_path(media, roots, problems) or _by_name(media, files)
        if not any(g.sure for g in found) and media.reel:
            labels = _labels(files, cancel) if labels is None else labels
            found = [*_by_reel(media, used.get(media.id), labels), *found]
        for guess in (g for g in found if g.sure):
            try:
                links.append(_link(media, used.get(media.id), guess.path))
                break
            except EzvarError as error:
                problems.append(str(error))
        else:
            guesses[media.id] = tuple((found + _alike(media, files))[:_GUESSES])
    return tuple(links), Search(guesses, tuple(dict.fromkeys(problems)))


def link(doc: Document, media: str, path: str | os.PathLike[str]) -> MediaLink:
    """A media of the lock as the file at ``path``, to be put in place by `edits.link_media`.

    Its shots show the same timecodes as before. Where those lie outside the
    file and would fit counted from its first frame, they are taken so. Raises
    `MediaError` for a file that cannot be read and `InputError` where none
    of what is used lies in it.
    """
    old = next(m for m in doc.lock.media if m.id == media)
    return _link(old, _used_seconds(doc).get(media), path)


def _link(media: Media, used: _Used | None, path: str | os.PathLike[str]) -> MediaLink:
    new = _described(media, path)
    return MediaLink(media, new, _zero_based_shift(used, media, new))


def _described(old: Media, path: str | os.PathLike[str]) -> Media:
    """The note of a media with the facts of a file."""
    where = os.path.realpath(path)
    if Path(path).suffix.lower() in STILL_SUFFIXES:
        still = read_still(path)
        if old.kind == "sequence":
            return replace(
                old, path=where, width=still.width, height=still.height, frames=length_of_sequence(where), turned=0,
                content=fingerprint(path),
            )  # fmt: skip
        return replace(
            old, path=where, width=still.width, height=still.height, frames=1, start=0, kind="still", turned=0,
            content=fingerprint(path),
        )  # fmt: skip
    if Path(path).suffix.lower() in SOUND_SUFFIXES:
        sound = probe_sound(path)
        return replace(
            old, path=where, frames=max(1, round(sound.seconds * old.rate.fraction)), has_sound=True, kind="sound",
            start=round(sound.origin * old.rate.fraction), content=fingerprint(path),
        )  # fmt: skip
    facts = probe(path)
    return replace(
        old, path=where, width=facts.width, height=facts.height, rate=facts.rate, frames=facts.frames,
        start=facts.start, has_sound=facts.audio is not None, turned=facts.rotation, content=fingerprint(path),
        kind="movie",
    )  # fmt: skip


def _zero_based_shift(used: _Used | None, old: Media, new: Media) -> Fraction:
    """Seconds to add so that times counted from the first frame fall into the file; 0 where its timecode holds them."""
    if new.kind == "still" or used is None:
        return Fraction(0)
    first, last = used
    length, frame = new.rate.seconds(new.frames), new.rate.seconds(1)
    if first < new.origin + length and last > new.origin:
        return Fraction(0)
    if first < length and last > 0:
        return new.origin
    # A timecode that the file does not state: what the timeline says of the media's start decides.
    if old.start and old.origin - frame <= first < old.origin + length:
        return new.origin - old.origin
    raise InputError(
        "nothing of what the edit uses lies in it", file=new.path, remedy="Choose another file for this media"
    )


def _used_seconds(doc: Document) -> dict[str, _Used]:
    """What of each media is used, by its id."""
    media = {m.id: m for m in doc.lock.media}
    places: dict[str, list[Fraction]] = defaultdict(list)
    for shot in doc.shots:
        places[shot.source.media] += (shot.source.start, shot.source.at(shot.frames))
    used = {}
    for key, found in places.items():
        rate, origin = media[key].rate.fraction, media[key].origin
        used[key] = min(found) / rate + origin, max(found) / rate + origin
    for clip in doc.lock.sound:
        begins = clip.source + media[clip.media].origin
        ends = begins + doc.lock.rate.seconds(clip.end - clip.start) * clip.speed
        first, last = used.get(clip.media, (begins, ends))
        used[clip.media] = min(first, begins), max(last, ends)
    return used


# Where it may be


def stored_path(media: Media, base: Path) -> Path | None:
    """The local path that a timeline stores for a media, relative ones from ``base``; ``None`` for other machines."""
    text = media.path
    if not text:
        return None
    parts = urlsplit(text)
    if len(parts.scheme) > 1:
        if parts.scheme != "file" or parts.netloc not in ("", "localhost"):
            return None
        text = unquote(parts.path)
    text = text.replace("\\", "/")
    return Path(text) if text.startswith("/") else base / text


def _by_path(media: Media, roots: Sequence[Path], problems: list[str]) -> list[Guess]:
    base = roots[0] if roots else Path()
    path = stored_path(media, base)
    if path is None:
        if media.path:
            problems.append(f"{media.name or media.path} lies at an address that is not opened: {media.path[:100]}")
        return []
    try:
        where = Path(os.path.realpath(path))
        there = where.is_file()
    except (OSError, ValueError):
        return []
    if not there:
        return []
    if not any(where.is_relative_to(root) for root in roots):
        problems.append(
            f"{media.name} lies outside the media folders, at {readable(where)}. Add its folder to follow it."
        )
        return []
    return [Guess(where, "it is where the timeline says", sure=True)]


def _by_name(media: Media, files: Sequence[Path]) -> list[Guess]:
    names = {n.lower() for n in (media.name, media.path.replace("\\", "/").rsplit("/", 1)[-1]) if n}
    same = [f for f in files if f.name.lower() in names]
    if len(same) == 1:
        return [Guess(same[0], "it has the same name", sure=True)]
    if same:
        return [Guess(f, f"it has the same name, as have {len(same) - 1} more") for f in same]
    stems = {Path(n).stem for n in names} | names
    near = [f for f in files if f.stem.lower() in stems]
    if len(near) == 1 and not any("." in n for n in names):
        return [Guess(near[0], "it has the name of the clip", sure=True)]
    return [Guess(f, "it has the same name and is another kind of file") for f in near]


def _by_reel(media: Media, used: _Used | None, labels: dict[Path, tuple[str, Fraction, Fraction]]) -> list[Guess]:
    first, last = used or (Fraction(0), Fraction(0))
    reel, found = media.reel.lower(), []
    for path, (named, begins, ends) in labels.items():
        if reel not in (named.lower(), path.stem.lower()) and not path.stem.lower().startswith(reel):
            continue
        holds = begins <= first and last <= ends
        why = f"its reel is {media.reel}" + (" and its timecode holds what is used" if holds else "")
        found.append((holds, Guess(path, why)))
    holding = [g for holds, g in found if holds]
    if len(holding) == 1:
        return [replace(holding[0], sure=True)]
    return holding or [g for _, g in found]


def _alike(media: Media, files: Sequence[Path]) -> list[Guess]:
    name = (media.name or media.path.rsplit("/", 1)[-1]).lower()
    by_name = {f.name.lower(): f for f in files}
    near = difflib.get_close_matches(name, list(by_name), _GUESSES, _ALIKE)
    return [Guess(by_name[n], "its name is alike") for n in near]


def _files(roots: Sequence[Path], cancel: CancelToken | None) -> list[Path]:
    """All movies and stills in folders and below them; links are not followed."""
    found: dict[Path, None] = {}
    for root in roots:
        for folder, folders, names in os.walk(root):
            if cancel is not None:
                cancel.check()
            folders[:] = sorted(f for f in folders if not f.startswith("."))
            for name in sorted(names):
                path = Path(folder, name)
                if path.suffix.lower() in MOVIE_SUFFIXES | STILL_SUFFIXES | SOUND_SUFFIXES and not path.is_symlink():
                    found[path] = None
            if len(found) > _MOST_FILES:
                return list(found)
    return list(found)


def _labels(files: Sequence[Path], cancel: CancelToken | None) -> dict[Path, tuple[str, Fraction, Fraction]]:
    """Reel, first and last timecode (seconds) of movies, as far as they say."""
    labels = {}
    for path in [f for f in files if f.suffix.lower() in MOVIE_SUFFIXES][:_MOST_LABELS]:
        if cancel is not None:
            cancel.check()
        try:
            labels[path] = media_label(path)
        except EzvarError:
            continue  # a file that cannot be read is no candidate
    return labels
