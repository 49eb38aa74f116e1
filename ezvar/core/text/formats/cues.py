"""What reading a caption file comes to."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from itertools import groupby

from ezvar.core.model import Caption, Span, Spot, joined_spans, new_id
from ezvar.core.model.written.captions import LONGEST


@dataclass(frozen=True)
class LeftOut:
    """What of a file was not taken as it stands: its line, from 1 (0: none), and why. ``kept``: the cue itself was."""

    line: int
    why: str
    kept: bool = False

    def __str__(self) -> str:
        return f"Line {self.line}: {self.why}." if self.line else f"{self.why[:1].upper()}{self.why[1:]}."


@dataclass
class Cues:
    """Captions in order of time, and what was left out, in the order of the file."""

    captions: list[Caption] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    format: str = ""
    encoding: str = ""
    language: str = ""

    def note(self, line: int, why: str, kept: bool = False) -> None:
        self.left_out.append(LeftOut(line, why, kept))

    def add(self, line: int, start: int, end: int, spans: tuple[Span, ...], spot: Spot | None = None) -> None:
        """A cue as a caption, or the reason why it is none. Times in milliseconds."""
        text = "".join(s.text for s in spans)
        if not text.strip():
            self.note(line, "it holds no text")
        elif end == start:
            self.note(line, "it lasts no time")
        elif end < start:
            self.note(line, "it ends before it begins")
        elif end <= 0:
            self.note(line, "it ends before the lock begins")
        elif len(text) > LONGEST:
            self.note(line, f"it has {len(text):,} letters, more than the {LONGEST:,} that a caption may have")
        else:
            if self.captions and start < self.captions[-1].start:
                self.note(line, "it begins before the one above and was put in order of time", kept=True)
            self.captions.append(Caption(new_id(), max(0, start), end, spans, spot))

    def in_order(self) -> Cues:
        self.captions.sort(key=lambda caption: caption.start)
        return self


def trimmed(spans: tuple[Span, ...]) -> tuple[Span, ...]:
    """Spans without blanks at the ends of their lines, and without empty lines before and after them."""
    kept: list[tuple[str, int]] = []
    for sign, k in ((sign, k) for k, span in enumerate(spans) for sign in span.text):
        if sign == "\n":
            while kept and kept[-1][0] in " \t":
                kept.pop()
            if kept:
                kept.append((sign, k))
        elif sign not in " \t" or (kept and kept[-1][0] != "\n"):
            kept.append((sign, k))
    while kept and kept[-1][0] in " \t\n":
        kept.pop()
    pieces = groupby(kept, lambda letter: letter[1])
    return joined_spans(replace(spans[k], text="".join(sign for sign, _ in letters)) for k, letters in pieces)
