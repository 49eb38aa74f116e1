"""What can be wrong with text, by name, and what is wrong with captions in time."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from ezvar.core.model import TO_WRITE, Caption, CaptionTrack, Document

ProblemName = Literal[
    "does not fit", "long line", "letters missing", "font missing", "too quick", "too short", "too long", "overlaps",
    "gap", "not sure", "outside the safe area", "over a face", "over writing", "over a title", "over captions",
    "behind controls", "not written",
]  # fmt: skip
SHORT: dict[ProblemName, str] = {
    "does not fit": "does not fit", "long line": "long line", "letters missing": "letters missing",
    "font missing": "font missing", "too quick": "too quick to read", "too short": "too short",
    "too long": "stands too long", "overlaps": "two at once", "gap": "small gap", "not sure": "unsure words",
    "outside the safe area": "outside the safe area", "over a face": "over a face", "over writing": "over writing",
    "over a title": "over a title", "over captions": "over captions", "behind controls": "behind controls",
    "not written": "not written yet",
}  # fmt: skip
"""A few words for each, to stand under a small picture."""

NOT_WRITTEN = "Its words are still to be written."


def in_time(doc: Document, track: CaptionTrack, caption: Caption) -> Iterator[tuple[ProblemName, str]]:
    """What is wrong with a caption in time, each with a sentence."""
    limits, rate = track.limits, doc.lock.rate
    if caption.words == TO_WRITE:
        yield "not written", NOT_WRITTEN
    letters = len("".join(caption.text.split()))
    quick = 1000 * letters / caption.length
    if quick > limits.letters_a_second:
        yield "too quick", f"{quick:.0f} letters a second; {limits.letters_a_second:g} can be read."
    if caption.length < limits.shortest:
        yield (
            "too short",
            f"It stands for {caption.length / 1000:.2f} s; at least {limits.shortest / 1000:.2f} is asked.",
        )
    if caption.length > limits.longest:
        yield "too long", f"It stands for {caption.length / 1000:.1f} s; at most {limits.longest / 1000:g} is asked."
    place = track.place_of(caption.id)
    if place + 1 < len(track.captions):
        after = track.captions[place + 1]
        gap = after.frames(rate).start - caption.frames(rate).end
        if after.start < caption.end and gap < 0:
            yield "overlaps", "The next one begins before it ends."
        elif 0 < gap < limits.gap:
            yield "gap", f"A gap of {gap} frame{'s' if gap > 1 else ''} to the next one: it will flicker."
    if caption.unsure:
        words = caption.text.split()
        listed = ", ".join(f"“{words[k]}”" for k in caption.unsure if k < len(words))
        yield "not sure", f"The transcription was not sure of {listed}."
