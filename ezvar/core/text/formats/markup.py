"""Italics, bold and underlining written as tags between letters, as SubRip and WebVTT have them."""

from __future__ import annotations

import html
import re

from ezvar.core.model import Span

from .cues import trimmed

_TAG = re.compile(r"<(/?)([a-zA-Z][a-zA-Z0-9]*)((?:[.\s][^<>]*)?)/?>|<(\d+:)?\d\d:\d\d\.\d{3}>")
_BRACES = re.compile(r"\{\\[^{}]*\}")
_BRACE_STYLE = re.compile(r"\\([ibu])([01])")
_KNOWN = frozenset(
    [
        "i",
        "b",
        "u",
        "em",
        "strong",
        "font",
        "span",
        "c",
        "v",
        "lang",
        "ruby",
        "rt",
        "p",
        "div",
        "br",
        "s",
        "strike",
        "sub",
        "sup",
        "center",
        "small",
        "big",
    ]
)
_STYLES = {"i": "italic", "em": "italic", "b": "bold", "strong": "bold", "u": "underline"}
_SPOT, _CLOSED = re.compile(r"(?s:.*)\\an?(\d{1,4})"), re.compile(r"\{[^{}]*\}")


def spans_of(text: str, entities: bool) -> tuple[Span, ...]:
    """Spans from text with tags. What is no known tag stays as it is written; ``entities``: `&amp;` and the like are
    signs.

    >>> spans_of("so <i>quiet</i> <3", entities=False)[1]
    Span(text='quiet', italic=True, bold=False, underline=False)
    """
    depth = {"italic": 0, "bold": 0, "underline": 0}
    made: list[Span] = []
    silent = 0

    def put(piece: str) -> None:
        if piece and not silent:
            said = html.unescape(piece) if entities else piece
            made.append(Span(said, depth["italic"] > 0, depth["bold"] > 0, depth["underline"] > 0))

    at = 0
    for match in re.finditer(f"{_TAG.pattern}|{_BRACES.pattern}", text):
        name = (match[2] or "").lower()
        if name and name not in _KNOWN:
            continue
        put(text[at : match.start()])
        at = match.end()
        if name == "br":
            put("\n")
        elif name == "rt":  # the reading beside ruby letters would run into them
            silent += -1 if match[1] else 1
        elif name in _STYLES:
            depth[_STYLES[name]] = max(0, depth[_STYLES[name]] + (-1 if match[1] else 1))
        elif match[0].startswith("{"):
            for letter, on in _BRACE_STYLE.findall(match[0]):
                depth[_STYLES[letter]] = int(on)
    put(text[at:])
    return trimmed(tuple(made))


def numpad(text: str) -> int | None:
    """The place that ``{\\an8}`` and the like name, as keys lie on a number pad; ``None`` without one."""
    match = next(filter(None, map(_SPOT.match, _CLOSED.findall(text))), None)
    if match is None:
        return None
    number = int(match[1])
    return number if 1 <= number <= 9 else None


def tagged(spans: tuple[Span, ...], entities: bool) -> str:
    """Text with tags from spans."""
    pieces = []
    for span in spans:
        said = html.escape(span.text, quote=False) if entities else span.text
        for wanted, tag in ((span.underline, "u"), (span.bold, "b"), (span.italic, "i")):
            said = f"<{tag}>{said}</{tag}>" if wanted else said
        pieces.append(said)
    return "".join(pieces)
