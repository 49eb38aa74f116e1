"""Made-up evidence, and documents without media to frame by it."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from ezvar.core import edits
from ezvar.core.cuts import Signals
from ezvar.core.evidence import Analysis, Evidence, subjects_of
from ezvar.core.evidence.gather import KINDS, LOOK, ROW
from ezvar.core.framing import Place, framed, pane_window, picture_size, sight_of, solve, solve_shot
from ezvar.core.model import Choices, Document, Lock, Master, Media, Shot, Source, Turn
from ezvar.core.timing import Rate

SHOT = 40
"""Frames of a shot of the framing stage\'s tests."""
TALL = Master("t", "9:16", 1080, 1920)
SQUARE = Master("s", "1:1", 1080, 1080)


def faces_seen(sights, frames):
    """Evidence of faces: ``sights`` maps frames to boxes (x, y, width, height, confidence), each frame looked at."""
    rows = [(n, 0, box[:4], box[4], 1, 0) for n, boxes in sorted(sights.items()) for box in boxes]
    looks = [(n, KINDS.index("face")) for n in frames]
    return Evidence(np.array(rows, ROW), np.array(looks, LOOK), ("face", "moving"))


def analysis_with(evidence):
    """An analysis of nothing but evidence."""
    none = Signals(np.zeros((0, 18, 32), np.uint8), np.zeros((0, 2, 5, 8), np.uint8), np.zeros(0))
    return Analysis.of(none, evidence)


def one_shot(frames=250, width=1920, height=1080):
    """A document of one shot and two masters, and the shot."""
    media = Media("m", "", width, height, Rate(25), frames)
    shot = Shot("shot", 0, frames, Source("m", Fraction(0)))
    lock = Lock("made up", Rate(25), frames, width, height, media=(media,))
    return Document(lock, (shot,), (TALL, SQUARE)), shot


def people(*ways, frames=250):
    """The subjects of faces that go from one place to another: (from, to) across, as fractions of the picture."""
    looks = range(0, frames, 5)
    sights = {
        n: [(a + (b - a) * n / frames - 0.04, 0.35, 0.08 - 0.01 * k, 0.14, 0.9) for k, (a, b) in enumerate(ways)]
        for n in looks
    }
    return subjects_of(faces_seen(sights, looks), 0, frames)


def follow(shot, *turns):
    """Choices to follow, each turn given as its frame and the subjects."""
    return Choices(follow=tuple(Turn(n, tuple(sight_of(s, shot, n) for s in group)) for n, *group in turns))


def chosen(doc, shot, master, subjects, choices):
    """The framing solved with choices, from the one that is there already or the plain one."""
    old = framed(doc, shot, master)
    asked = replace(old.panes[0], choices=choices)
    doc = edits.set_framings(doc, [replace(old, panes=(asked, *old.panes[1:]))])
    return solve_shot(Place(doc, shot, master), subjects)


def span(framing, frame, doc, master=TALL):
    """The left edge, the middle and the right edge of the first pane's window, as fractions of the picture."""
    size = picture_size(doc, doc.shots[0])
    w = pane_window(framing.panes[0], master, size, frame)
    return w.left / size.width, w.cx / size.width, (w.left + w.width) / size.width


def several_shots(*ways, frames=100):
    """A document of shots in which people go their ways, one tuple of ways a shot, and its analysis."""
    count = len(ways)
    doc, shot = one_shot(frames * count)
    shots = tuple(
        replace(shot, id=f"s{k}", start=k * frames, end=(k + 1) * frames, source=Source("m", Fraction(k * frames)))
        for k in range(count)
    )
    sights = {}
    for k, group in enumerate(ways):
        for n in range(0, frames, 5):
            sights[k * frames + n] = [
                (a + (b - a) * n / frames - 0.04, 0.35, 0.08 - 0.01 * j, 0.14, 0.9) for j, (a, b) in enumerate(group)
            ]
    analysis = analysis_with(faces_seen(sights, sorted(sights)))
    doc = replace(doc, shots=shots)
    for master in doc.masters:
        doc = edits.set_framings(doc, solve(doc, master, analysis, shots))
    return doc, analysis
