"""The one drawing of a master's picture, for previews, stills, boards and finished movies alike."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ezvar.core.framing import framed, picture_size
from ezvar.core.lock import mix_at
from ezvar.core.media import Cel, Planes, laid_over
from ezvar.core.model import Document, Master, Shot
from ezvar.core.text import caption_cel, shown_at, title_cel, titles_at

from .covers import covered
from .draw import draw_framing
from .pictures import Pictures
from .wipes import wiped, wiped_cel


@dataclass(frozen=True)
class Shown:
    """What is to be seen of a master's picture. ``mixes``: both shots of a mix; else the one that owns the frame.
    ``layers``: those of the lock and the titles made here, ``captions``: those of the tracks that are shown."""

    mixes: bool = True
    layers: bool = True
    captions: bool = True


ALL = Shown()


def frame(doc: Document, master: Master, at: int, pictures: Pictures, scale: float = 1.0, shown: Shown = ALL) -> Planes:
    """A master's picture at lock frame ``at``, as decided in the document.

    ``scale`` below 1 draws it smaller. During a mix each shot is in its own
    window. In a flat lock both windows are taken from the picture that is
    mixed already and the two results mixed, so that nothing jumps; in a
    timeline a wipe is a wipe, over the master's own frame. The lock's layers
    lie over that, the lowest track first, then titles and captions. The result
    is coded as ``pictures`` say.
    """
    drawn = _edit(doc, master, at, pictures, scale, shown)
    for title in doc.shown_titles if shown.layers else ():
        if title.cover is not None and title.start <= at < title.end:
            shot = doc.shot_at(at)
            if not doc.is_textless(shot.id):
                drawn = covered(doc, shot, master, at, drawn, picture_size(doc, shot), title.cover)
    size = drawn.width, drawn.height
    return laid_over(_cels(doc, master, at, pictures, size, shown), drawn)


def _cels(
    doc: Document, master: Master, at: int, pictures: Pictures, size: tuple[int, int], shown: Shown
) -> Iterator[tuple[Cel, float]]:
    """What lies over the picture, the lowest first: layers of the lock, titles, captions; each with how much of it is
    seen."""
    for layer in doc.lock.layers if shown.layers else ():
        if (seen := layer.seen(at)) > 0 and (cel := pictures.of_layer(layer, at, master, size)) is not None:
            for wipe, share, away in layer.wiped(at):
                cel = wiped_cel(cel, wipe, share, size, away)
            yield cel, seen
    for title in titles_at(doc, master, at) if shown.layers else ():
        made, seen = title_cel(doc, title, master, at, size, pictures.place_of_layer)
        if made is not None and seen > 0:
            yield made, seen
    for track, caption in shown_at(doc, master, at) if shown.captions else ():
        if (cel := caption_cel(doc, track, caption, master, size)) is not None:
            yield cel, 1.0


def _edit(doc: Document, master: Master, at: int, pictures: Pictures, scale: float, shown: Shown) -> Planes:
    """The edit's own picture, with nothing over it."""
    mix = mix_at(doc, at) if shown.mixes else None
    if mix is None:
        return _coded(_of(doc, doc.shot_at(at), master, at, pictures, scale), pictures)
    outgoing, incoming = (
        _coded(_of(doc, shot, master, at, pictures, scale), pictures) for shot in (mix.outgoing, mix.incoming)
    )
    incoming = incoming.coded_as(outgoing)
    if mix.wipe is not None and not doc.lock.flat:
        return wiped(outgoing, incoming, mix.wipe, mix.share)
    return outgoing.mixed(incoming, mix.share)


def _of(doc: Document, shot: Shot, master: Master, at: int, pictures: Pictures, scale: float) -> Planes:
    """How one shot sits in a master at a lock frame."""
    whole = pictures.of_shot(shot, at)
    return draw_framing(framed(doc, shot, master), master, at - shot.start, whole, scale, shot, pictures)


def _coded(drawn: Planes, pictures: Pictures) -> Planes:
    """What was drawn in the master's matrix and range: media of a timeline may be coded otherwise."""
    like = pictures.coding
    if like is None:
        return drawn
    return replace(drawn.coded_as(like), tags=like.stated)
