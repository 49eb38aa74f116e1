"""Captions: what an editor does to the present one, to its track, and to how that looks."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from dataclasses import replace
from typing import Any

import numpy as np

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.model import (
    TO_WRITE,
    Caption,
    CaptionLimits,
    CaptionStyle,
    CaptionTrack,
    Differing,
    Document,
    Master,
    Span,
    Title,
    ZoneProfile,
    new_id,
    time_of,
)
from ezvar.core.text import (
    Offer,
    Transcript,
    caption_offers,
    captions_of_words,
    raise_clear,
    spans_of,
    spread_text,
    style_of,
    transcribe,
)

from .text_checks import TextChecks

_TYPED = 2000  # milliseconds that a caption stands that is begun at the playhead


class TextWork:
    """Changes the captions of the open project, each change a step of undo."""

    def __init__(self, session: Session, checks: TextChecks) -> None:
        self._session, self._checks = session, checks
        self.loud: np.ndarray | None = None
        """How loud the sound is along the lock, 0..1, once that is known."""

    # The present caption

    @property
    def present(self) -> tuple[CaptionTrack, Caption] | None:
        return self._session.at.caption

    def choose(self, caption: str, go: bool = True) -> None:
        """Work on a caption from now on, with the playhead in its middle."""
        at, doc = self._session.at, self._session.project.document
        found = next((t.caption(caption) for t in doc.tracks if caption in t), None)
        if found is None:
            return
        frames = found.frames(doc.lock.rate)
        at.set_caption(caption)
        if go and not frames.start <= at.frame < frames.end:
            at.go((frames.start + frames.end) // 2)

    def all(self) -> list[tuple[CaptionTrack, Caption]]:
        """All captions of all tracks, in order of time."""
        doc = self._session.project.doc
        listed = [(t, c) for t in (doc.tracks if doc else ()) for c in t.captions]
        return sorted(listed, key=lambda each: each[1].start) if doc and len(doc.tracks) > 1 else listed

    def next_waiting(self) -> Caption | Title | None:
        """The next caption or title after the present one, round the end, with which something is wrong."""
        session, doc = self._session, self._session.project.doc
        if doc is None:
            return None
        rate = doc.lock.rate
        timed = [(c.frames(rate).start, c.id, c) for _, c in self.all()] + [(t.start, t.id, t) for t in doc.titles]
        listed: list[Caption | Title] = [item for _, _, item in sorted(timed, key=lambda each: each[:2])]
        present = session.at.title or (self.present[1] if self.present else None)
        at = next((k for k, item in enumerate(listed) if present is not None and item.id == present.id), -1)
        return next((item for item in (*listed[at + 1 :], *listed[: at + 1]) if self._checks.waits(item.id)), None)

    def offers(self) -> list[Offer]:
        """What can be done about the present caption in the active master."""
        present, master = self.present, self._session.at.master
        if present is None or master is None:
            return []
        track, caption = present
        session = self._session
        return caption_offers(
            session.project.document,
            track,
            caption,
            master,
            self._checks.wrong_now(),
            self._checks.checks,
            session.media.analysis,
        )

    # Changes

    def _free(self) -> tuple[CaptionTrack, Caption] | None:
        """The present caption, where its track is not locked; says so where it is."""
        present = self.present
        if present is not None and present[0].locked:
            self._session.messages.say(f"The track “{present[0].name}” is locked.")
            return None
        return present

    def edit(self, label: str, change: Callable[[Document], Document], gesture: Hashable = None) -> None:
        """Change the document, one step of undo for all changes of one ``gesture``; says why where it cannot be."""
        session = self._session
        try:
            doc = change(session.project.document)
        except ValueError as error:
            session.messages.say(f"That cannot be: {error}.")
            return
        if doc is not session.project.document:
            session.project.edit(label, doc, gesture)

    def _named(self, verb: str) -> str:
        present = self.present
        return f"{verb}, caption {present[0].place_of(present[1].id) + 1}" if present else verb

    def take_offer(self, number: int) -> None:
        offers = self.offers()
        if number < len(offers) and self._free() is not None:
            offer = offers[number]
            self.edit(self._named(offer.said), offer.change)

    def let_stand(self) -> None:
        """Say that the present caption is right as it is, in all masters."""
        title, present = self._session.at.title, self.present
        if title is None and present is None:
            return
        caption = title.id if title is not None else present[1].id if present is not None else ""
        by: dict[str, list[str]] = {}
        for problem in self._checks.wrong_now():
            by.setdefault(problem.master, []).append(problem.name)

        def change(doc: Document) -> Document:
            changed = []
            for master, names in by.items():
                old = doc.differs(caption, master)
                changed.append(replace(old, right=tuple(dict.fromkeys((*old.right, *names)))))
            return edits.differ(doc, changed)

        if by:
            self.edit(self._named("Right as it is"), change)

    def type(self, markup: str) -> None:
        """Give the present caption a text, with <i>, <b> and <u> as tags."""
        present = self._free()
        if present is not None and markup.strip():
            track, caption = present
            spans = spans_of(markup, entities=False)
            if spans and spans != caption.spans:
                self.edit(
                    self._named("Text"), lambda d: edits.set_text(d, track.id, caption.id, spans), ("text", caption.id)
                )

    def retime(self, start: int, end: int, gesture: Hashable = None) -> None:
        """Let the present caption stand from and to these milliseconds of the lock."""
        present = self._free()
        if present is not None:
            track, caption = present
            self.edit(
                self._named("Time"), lambda d: edits.retime(d, track.id, caption.id, start, end),
                gesture or ("time", caption.id),
            )  # fmt: skip

    def split(self, letter: int) -> None:
        """Split the present caption before a letter of its text; at the playhead, where this is inside of it."""
        present = self._free()
        if present is None:
            return
        track, caption = present
        now = time_of(self._session.at.frame, self._session.project.document.lock.rate)
        time = now if caption.start + 40 < now < caption.end - 40 else None
        self.edit(self._named("Split"), lambda d: edits.split_caption(d, track.id, caption.id, letter, time))

    def join(self) -> None:
        """Join the present caption with the next one of its track."""
        present = self._free()
        if present is None:
            return
        track, caption = present
        place = track.place_of(caption.id)
        if place + 1 == len(track.captions):
            self._session.messages.say("It is the last one of its track.")
            return
        following = track.captions[place + 1]
        self.edit(
            self._named("Join with the next"), lambda d: edits.join_captions(d, track.id, [caption.id, following.id])
        )

    def remove(self) -> None:
        present = self._free()
        if present is not None:
            track, caption = present
            self.edit(self._named("Remove"), lambda d: edits.remove_captions(d, track.id, [caption.id]))

    def begin_here(self) -> None:
        """A new caption at the playhead, in the present track or a new one, as long as there is room."""
        session = self._session
        doc, rate = session.project.document, session.project.document.lock.rate
        start = time_of(session.at.frame, rate)
        track = self.present[0] if self.present else doc.tracks[0] if doc.tracks else None
        after = min((c.start for c in track.captions if c.start > start), default=None) if track else None
        end = min(start + _TYPED, time_of(doc.lock.frames, rate), *([after] if after else []))
        if end <= start:
            session.messages.say("There is no room for a caption here.")
            return
        caption = Caption(new_id(), start, end, (Span(TO_WRITE),))

        def change(doc: Document) -> Document:
            if track is None:
                return edits.add_track(doc, CaptionTrack(new_id(), "Captions", (caption,)))
            return edits.put_captions(doc, track.id, [caption])

        self.edit("New caption", change)
        self.choose(caption.id)

    def add(self, label: str, name: str, captions: tuple[Caption, ...], language: str = "") -> None:
        """Put captions on a track of their own, and work on the first."""
        track = CaptionTrack(new_id(), name, captions, language)
        self.edit(label, lambda d: edits.add_track(d, track))
        self.choose(captions[0].id)

    def transcribe(self, service: tuple[str, ...]) -> None:
        """Have the lock's speech written down by a service, as a track of its own."""
        session, doc = self._session, self._session.project.document
        limits = CaptionLimits()

        def done(found: Transcript) -> None:
            if session.project.doc is None or session.project.document.lock is not doc.lock:
                return
            captions = captions_of_words(found.words, limits)
            if captions:
                self.add("Transcription", "Transcribed", captions)
            session.messages.say(found.cut_off or f"{len(captions)} captions were written down.")

        session.jobs.start(
            "Writing the speech down", lambda p, c: transcribe(doc, service, progress=p, cancel=c), done,
            session.messages.say_problem,
        )  # fmt: skip

    def spread(self, text: str, start: int, end: int) -> None:
        """Spread a text over a stretch of time, in milliseconds, as a track of its own. Raises `ValueError` where it
        cannot be."""
        doc = self._session.project.document
        length = time_of(doc.lock.frames, doc.lock.rate)
        captions = spread_text(text, start, end, CaptionLimits(), self.loud, length)
        self.add("Pasted text", "Pasted text", captions)

    def differ(self, label: str, change: Callable[[Differing], Differing], gesture: Hashable = None) -> None:
        """Change how the present caption differs in the active master."""
        present, master = self._free(), self._session.at.master
        if present is not None and master is not None:
            caption = present[1].id
            self.edit(self._named(label), lambda d: edits.differ_by(d, [caption], [master.id], change), gesture)

    def differing(self) -> Differing:
        """How the present caption differs in the active master."""
        present, master = self.present, self._session.at.master
        doc = self._session.project.doc
        if present is None or master is None or doc is None:
            return Differing("", "")
        return doc.differs(present[1].id, master.id)

    def higher(self, by: float) -> None:
        """Let the present caption stand higher in the active master, by a part of the frame's height."""
        self.differ(
            "Higher" if by > 0 else "Lower",
            lambda d: replace(d, raised=min(1.0, max(-1.0, round(d.raised + by, 4)))), "higher",
        )  # fmt: skip

    def larger(self, by: float) -> None:
        """Let the present caption be larger in the active master, by a part of its style's size."""
        self.differ("Size", lambda d: replace(d, size=min(2.0, max(0.2, round(d.size + by, 4)))), "size")

    def hide(self) -> None:
        """Show the present caption in the active master no more, or again."""
        self.differ("Show or hide", lambda d: replace(d, hidden=not d.hidden))

    def as_track(self) -> None:
        """Let the present caption be as its track in the active master again."""
        self.differ("As its track", lambda d: Differing(d.caption, d.master))

    def raise_all(self) -> None:
        """All captions of the present track clear of what they collide with in the active master."""
        session, master = self._session, self._session.at.master
        track = self.track
        if track is None or master is None:
            return
        analysis = session.media.analysis
        doc, by_themselves = raise_clear(session.project.document, track.id, master, self._checks.checks, analysis)
        if doc is session.project.document or doc == session.project.document:
            session.messages.say(f"Nothing has to be raised in {master.name}.")
            return
        session.project.edit(f"Raise all captions clear in {master.name}", doc)
        if by_themselves:
            session.messages.say(
                f"{by_themselves} captions stand by themselves, since one height would hide something."
            )

    # How the track looks

    @property
    def track(self) -> CaptionTrack | None:
        """The present caption's track, or the first."""
        doc = self._session.project.doc
        present = self.present
        return present[0] if present else doc.tracks[0] if doc and doc.tracks else None

    def style(self) -> CaptionStyle | None:
        """How the present track looks in the active master."""
        track, master = self.track, self._session.at.master
        return style_of(self._session.project.document, track, master) if track and master else None

    def set_zones(self, zones: ZoneProfile | None) -> None:
        """Give the active master other overlay zones, or none."""
        master = self._session.at.master
        if master is not None:
            self.edit(f"Overlay zones of {master.name}", lambda d: edits.change_master(d, replace(master, zones=zones)))

    def set_style(self, style: CaptionStyle, masters: Iterable[Master] = (), gesture: Hashable = None) -> None:
        """Give the present track a look in the active master, or in those that are named."""
        track, master = self.track, self._session.at.master
        if track is not None and master is not None:
            wanted = [m.id for m in masters] or [master.id]
            self.edit(f"Look of {track.name}", lambda d: edits.set_style(d, track.id, wanted, style), gesture)

    def change_style(self, **values: Any) -> None:
        """Change parts of that look, by the names of `CaptionStyle`."""
        style = self.style()
        if style is not None:
            try:
                changed = replace(style, **values)
            except ValueError as error:
                self._session.messages.say(f"That cannot be: {error}.")
                return
            self.set_style(changed, gesture=("look", *values))
