"""TTML, as the IMSC text profile uses it (W3C "TTML Profiles for Internet Media Subtitles and Captions").

Read are times (nested ones, in par and seq), text with its line breaks,
italics, bold and underlining by reference, inheritance or inline, and the
places of regions. Not read: colours and sizes, which the track's style gives;
animation; ruby. Written is IMSC 1.1 text.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from math import floor

from lxml import etree

from ezvar.core.errors import InputError
from ezvar.core.model import Across, Caption, Down, Span, Spot

from .cues import Cues, trimmed
from .ttml_times import Clock, clock_of

TT, TTS, TTP = (f"http://www.w3.org/ns/ttml{part}" for part in ("", "#styling", "#parameter"))
XML = "http://www.w3.org/XML/1998/namespace"
_SPACE = f"{{{XML}}}space"
PROFILE = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
_OLD = re.compile(r"http://www\.w3\.org/2006/(?:04|10)/ttaf1")
_ACROSS: dict[str, Across] = {"left": "left", "start": "left", "center": "centre", "right": "right", "end": "right"}
_DOWN: dict[str, Down] = {"before": "top", "center": "middle", "after": "foot"}
_STYLED = ("fontStyle", "fontWeight", "textDecoration", "textAlign")
_AT = {"left": 0.0, "centre": 0.5, "right": 1.0, "top": 0.0, "middle": 0.5, "foot": 1.0}
_FOOT = 0.75  # what stands in the middle below this is where a style puts captions

Values = dict[str, str]


def read_ttml(data: bytes, file: str = "") -> Cues:
    """Cues from the bytes of a document, which states its encoding. Raises `InputError` for what is no TTML."""
    data = _OLD.sub("http://www.w3.org/ns/ttml", data.decode("latin-1")).encode("latin-1") if b"ttaf1" in data else data
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, recover=False)
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        line = getattr(error, "lineno", None) if isinstance(error, etree.XMLSyntaxError) else None
        raise InputError(
            "it is not whole, or no TTML", file=file or None, place=f"line {line}" if line else None,
            remedy="Export it anew",
        ) from error  # fmt: skip
    if root.tag != f"{{{TT}}}tt":
        raise InputError("it is XML, but no TTML", file=file or None, remedy="Choose another file")
    if root.getroottree().docinfo.internalDTD is not None:
        raise InputError("it declares entities of its own, which are not read", file=file or None)
    return _Reader(root).cues.in_order()


@dataclass(frozen=True)
class _Around:
    """What an element has from those around it: when it begins and ends (seconds), its styles, its region."""

    begin: Fraction = Fraction(0)
    end: Fraction | None = None
    style: Values = field(default_factory=dict)
    region: str = ""


class _Reader:
    def __init__(self, root: etree._Element) -> None:
        self.cues = Cues(format="TTML", language=root.get(f"{{{XML}}}lang", ""))
        self._clock: Clock = clock_of(*(
            root.get(f"{{{TTP}}}{name}", "")
            for name in ("frameRate", "frameRateMultiplier", "tickRate", "subFrameRate")
        ))  # fmt: skip
        self._cells = _pair(root.get(f"{{{TTP}}}cellResolution", ""), "") or (32.0, 15.0)
        self._extent = _pair(root.get(f"{{{TTS}}}extent", ""), "px")
        self._styles = {s.get(f"{{{XML}}}id", ""): s for s in root.iter(f"{{{TT}}}style")}
        self._regions = {r.get(f"{{{XML}}}id", ""): self._of_region(r) for r in root.iter(f"{{{TT}}}region")}
        body = root.find(f"{{{TT}}}body")
        if body is not None:
            self._walk(body, _Around())

    def _of_region(self, region: etree._Element) -> Values:
        values = self._styled(region)
        for child in region.iterchildren(f"{{{TT}}}style"):
            values |= self._styled(child)
        return values

    def _styled(self, element: etree._Element, deep: int = 0) -> Values:
        """What an element's referred and own styles say."""
        values: Values = {}
        for name in element.get("style", "").split() if deep < 8 else ():
            if (style := self._styles.get(name)) is not None:
                values |= self._styled(style, deep + 1)
        own = {key.removeprefix(f"{{{TTS}}}"): v for key, v in element.attrib.items() if key.startswith(f"{{{TTS}}}")}
        return values | own

    def _walk(self, element: etree._Element, around: _Around) -> None:
        line = int(element.sourceline or 0)
        try:
            inside = self._inside(element, around)
        except ValueError as error:
            self.cues.note(line, f"its time cannot be read: {error}")
            return
        if element.tag == f"{{{TT}}}p":
            self._paragraph(element, inside, line)
            return
        follows = inside.begin
        for child in element.iterchildren(f"{{{TT}}}div", f"{{{TT}}}p"):
            if element.get("timeContainer") == "seq":
                inside = replace(inside, begin=follows)
                follows = self._end_of(child, inside)
            self._walk(child, inside)

    def _end_of(self, child: etree._Element, around: _Around) -> Fraction:
        try:
            end = self._inside(child, around).end
        except ValueError:
            return around.begin  # the child itself is noted where it is read
        return around.begin if end is None else end

    def _inside(self, element: etree._Element, around: _Around) -> _Around:
        """What an element gives to what lies in it. Raises `ValueError` for times that are none."""
        begin = around.begin + self._time(element, "begin", Fraction(0))
        ends = [around.end] if around.end is not None else []
        if element.get("end") is not None:
            ends.append(around.begin + self._time(element, "end", Fraction(0)))
        if element.get("dur") is not None:
            ends.append(begin + self._time(element, "dur", Fraction(0)))
        region = element.get("region", around.region)
        style = around.style
        if region != around.region:
            style = style | {k: v for k, v in self._regions.get(region, {}).items() if k in _STYLED}
        style = style | {k: v for k, v in self._styled(element).items() if k in _STYLED}
        return _Around(begin, min(ends) if ends else None, style, region)

    def _time(self, element: etree._Element, name: str, otherwise: Fraction) -> Fraction:
        text = element.get(name)
        return otherwise if text is None else self._clock.seconds(text)

    def _paragraph(self, element: etree._Element, around: _Around, line: int) -> None:
        timed = [s for s in element.iter(f"{{{TT}}}span") if s.get("begin") is not None]
        if timed:  # each comes by itself
            for span in timed:
                try:
                    inside = self._inside(span, around)
                except ValueError as error:
                    self.cues.note(int(span.sourceline or line), f"its time cannot be read: {error}")
                    continue
                self._add(span, inside, int(span.sourceline or line))
        else:
            self._add(element, around, line)

    def _add(self, element: etree._Element, inside: _Around, line: int) -> None:
        if inside.end is None:
            self.cues.note(line, "it says no end")
            return
        around = (element, *element.iterancestors())
        keeps = next((e.get(_SPACE) for e in around if e.get(_SPACE)), "default") == "preserve"
        spans = tuple(self._spans(element, inside.style, keeps))
        spans = trimmed(spans if keeps else _collapsed(spans))
        start, end = (floor(t * 1000 + Fraction(1, 2)) for t in (inside.begin, inside.end))
        self.cues.add(line, start, end, spans, self._spot(inside))

    def _spans(self, element: etree._Element, style: Values, keeps: bool) -> Iterator[Span]:
        yield _span(element.text, style, keeps)
        for child in element:
            if not isinstance(child.tag, str):  # a comment
                pass
            elif child.tag == f"{{{TT}}}br":
                yield _span("\n", style, True)
            elif child.tag == f"{{{TT}}}span":
                own = {k: v for k, v in self._styled(child).items() if k in _STYLED}
                yield from self._spans(child, style | own, keeps)
            yield _span(child.tail, style, keeps)

    def _spot(self, inside: _Around) -> Spot | None:
        region = self._regions.get(inside.region)
        if region is None:
            return None
        origin, extent = self._lengths(region.get("origin", "")), self._lengths(region.get("extent", ""))
        if origin is None or extent is None:
            return None
        across = _ACROSS.get(inside.style.get("textAlign", ""), "left")
        down = _DOWN.get(region.get("displayAlign", ""), "top")
        x, y = origin[0] + extent[0] * _AT[across], origin[1] + extent[1] * _AT[down]
        if across == "centre" and abs(x - 0.5) < 0.02 and down == "foot" and y >= _FOOT:
            return None
        return Spot(round(min(max(x, 0.0), 1.0), 6), round(min(max(y, 0.0), 1.0), 6), across, down)

    def _lengths(self, text: str) -> tuple[float, float] | None:
        """Two lengths as fractions of the frame."""
        if (parts := _pair(text, "%")) is not None:
            return parts[0] / 100, parts[1] / 100
        if (pixels := _pair(text, "px")) is not None and self._extent is not None and min(self._extent) > 0:
            return pixels[0] / self._extent[0], pixels[1] / self._extent[1]
        if (cells := _pair(text, "c")) is not None and min(self._cells) > 0:
            return cells[0] / self._cells[0], cells[1] / self._cells[1]
        return None


def _pair(text: str, unit: str) -> tuple[float, float] | None:
    parts = text.split()
    if len(parts) != 2 or not all(re.fullmatch(rf"\d+(\.\d+)?{unit}", part) for part in parts):
        return None
    first, second = (float(part.removesuffix(unit)) for part in parts)
    return first, second


def _collapsed(spans: tuple[Span, ...]) -> tuple[Span, ...]:
    """Spans without a blank that follows another."""
    made, last = [], ""
    for span in spans:
        text = span.text[1:] if span.text.startswith(" ") and last == " " else span.text
        made.append(replace(span, text=text))
        last = text[-1:] or last
    return tuple(made)


def _span(text: str | None, style: Values, keeps: bool) -> Span:
    said = text or ""
    if not keeps:
        said = re.sub(r"[ \t\r\n]+", " ", said)
    return Span(
        said, style.get("fontStyle") in ("italic", "oblique"), style.get("fontWeight") == "bold",
        "underline" in style.get("textDecoration", "").split(),
    )  # fmt: skip


def ttml_text(captions: Iterable[Caption], language: str = "", title: str = "") -> bytes:
    """Captions as an IMSC 1.1 text document, with their places as regions."""
    listed = list(captions)
    root = etree.Element(f"{{{TT}}}tt", nsmap={None: TT, "tts": TTS, "ttp": TTP})
    root.set(f"{{{XML}}}lang", language)
    root.set(f"{{{TTP}}}contentProfiles", PROFILE)
    root.set(f"{{{TTP}}}timeBase", "media")
    head = etree.SubElement(root, f"{{{TT}}}head")
    if title:
        metadata = etree.SubElement(head, f"{{{TT}}}metadata", nsmap={"ttm": f"{TT}#metadata"})
        etree.SubElement(metadata, f"{{{TT}#metadata}}title").text = _clean(title)
    layout = etree.SubElement(head, f"{{{TT}}}layout")
    names: dict[Spot, str] = {}
    for spot in (Spot(), *(c.spot for c in listed if c.spot is not None)):
        if spot not in names:
            names[spot] = f"r{len(names)}"
            _region(layout, names[spot], spot)
    body = etree.SubElement(root, f"{{{TT}}}body")
    division = etree.SubElement(body, f"{{{TT}}}div")
    for caption in listed:
        paragraph = etree.SubElement(division, f"{{{TT}}}p")
        paragraph.set("begin", _clock(caption.start))
        paragraph.set("end", _clock(caption.end))
        paragraph.set("region", names[caption.spot or Spot()])
        if "  " in caption.text:
            paragraph.set(_SPACE, "preserve")
        _write_spans(paragraph, caption.spans)
    made: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=False)
    return made.replace(b"<p ", b"\n<p ")


def _region(layout: etree._Element, name: str, spot: Spot) -> None:
    left, width = _stretch(spot.x, _AT[spot.across])
    top, height = _stretch(spot.y, _AT[spot.down])
    region = etree.SubElement(layout, f"{{{TT}}}region")
    region.set(f"{{{XML}}}id", name)
    region.set(f"{{{TTS}}}origin", f"{_percent(left)} {_percent(top)}")
    region.set(f"{{{TTS}}}extent", f"{_percent(width)} {_percent(height)}")
    region.set(f"{{{TTS}}}displayAlign", {"top": "before", "middle": "center", "foot": "after"}[spot.down])
    region.set(f"{{{TTS}}}textAlign", {"left": "left", "centre": "center", "right": "right"}[spot.across])
    region.set(f"{{{TTS}}}overflow", "visible")


def _stretch(at: float, side: float) -> tuple[float, float]:
    """The longest stretch inside the frame whose beginning (0), middle or end (1) lies at a place."""
    if side == 0.5:
        half = min(at, 1 - at)
        return at - half, 2 * half
    return (at, 1 - at) if side == 0 else (0.0, at)


def _percent(part: float) -> str:
    return f"{100 * part:.4f}".rstrip("0").rstrip(".") + "%"


def _write_spans(paragraph: etree._Element, spans: tuple[Span, ...]) -> None:
    for span in spans:
        inside = paragraph
        if not span.plain:
            inside = etree.SubElement(paragraph, f"{{{TT}}}span")
            if span.italic:
                inside.set(f"{{{TTS}}}fontStyle", "italic")
            if span.bold:
                inside.set(f"{{{TTS}}}fontWeight", "bold")
            if span.underline:
                inside.set(f"{{{TTS}}}textDecoration", "underline")
        for k, line in enumerate(_clean(span.text).split("\n")):
            if k:
                etree.SubElement(inside, f"{{{TT}}}br")
            if len(inside):
                inside[-1].tail = (inside[-1].tail or "") + line
            else:
                inside.text = (inside.text or "") + line


def _clean(text: str) -> str:
    """Text without what XML cannot hold."""
    return re.sub("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]", "", text)


def _clock(milliseconds: int) -> str:
    seconds, rest = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{rest:03d}"
