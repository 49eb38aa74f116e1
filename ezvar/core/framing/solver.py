"""Choosing a window: one static window per shot in this version."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ezvar.core.evidence import Analysis, Face, shot_faces, shot_motion
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane, Shot

from .doubts import reasons_for
from .geometry import Size, Window, clamped, fit_zoom, window
from .moves import placed
from .path import picture_size

_STEPS = 241  # places tried along the way the window can move
_FACE_ROOM = 0.25  # a face is kept with this much of its width around it


def solve(doc: Document, master: Master, analysis: Analysis, shots: Iterable[Shot]) -> list[Framing]:
    """The best static window of each shot, with the reason for it and its doubt."""
    return [_solve_shot(doc, shot, master, analysis) for shot in shots]


def _solve_shot(doc: Document, shot: Shot, master: Master, analysis: Analysis) -> Framing:
    size, aspect = picture_size(doc, shot), master.width / master.height
    faces = shot_faces(analysis, shot.start, shot.end)
    motion = shot_motion(analysis, shot.start, shot.end)
    zoom = 1.0 if master.start == "fill" else fit_zoom(size, aspect)
    if zoom < 1.0:
        best, why = clamped(window(size, aspect, 0.5, 0.5, zoom), size), "The whole picture on a backdrop."
    else:
        best, why = _best_static(size, aspect, faces, motion)
    key = placed(Keyframe(0, best.cx / size.width, best.cy / size.height, zoom), aspect, size)
    reasons = reasons_for(best, size, master, faces, motion, shot.cut)
    return Framing(shot.id, master.id, (Pane((key,)),), why=why, reasons=reasons)


def _best_static(size: Size, aspect: float, faces: list[list[Face]], motion: np.ndarray) -> tuple[Window, str]:
    """The filling window that keeps most: faces first, then what moves, then the middle."""
    along_x = aspect < size.aspect
    places = [k / (_STEPS - 1) for k in range(_STEPS)]
    windows = [clamped(window(size, aspect, p if along_x else 0.5, 0.5 if along_x else p), size) for p in places]
    if not any(faces) and motion.sum() <= 0:
        middle = windows[_STEPS // 2]
        return middle, "A static window in the middle: no face was found and nothing moves by itself."
    share = motion / motion.sum() if motion.sum() > 0 else motion
    profile = share.sum(axis=0 if along_x else 1)
    edges = np.concatenate([[0.0], np.cumsum(profile)])
    cells = np.linspace(0, 1, len(edges))
    span = windows[0].width / size.width if along_x else windows[0].height / size.height

    def value(w: Window) -> float:
        centre = w.cx / size.width if along_x else w.cy / size.height
        low, high = centre - span / 2, centre + span / 2
        moving = float(np.interp(high, cells, edges) - np.interp(low, cells, edges))
        kept = [_kept(w, size, sample) for sample in faces if sample]
        near = sum(_nearness(centre, size, sample, along_x) for sample in faces if sample) / max(1, len(kept))
        faced = sum(kept) / len(kept) if kept else 0.0
        return faced + 0.12 * near + (0.25 if kept else 1.0) * moving - 0.04 * abs(centre - 0.5)

    best = max(windows, key=value)
    if any(faces):
        return best, "A static window that keeps the faces."
    return best, "A static window where most moves; no face was found."


def _kept(w: Window, size: Size, sample: list[Face]) -> float:
    """How much of a sample's faces the window keeps, larger and surer ones counting more, 0..1."""
    total = sum(f.weight for f in sample)
    return sum(f.weight * _whole(w, size, f) for f in sample) / total if total else 0.0


def _whole(w: Window, size: Size, face: Face) -> float:
    """1 for a face wholly inside with room around it; a face that is cut counts far less than its part."""
    part = face.part_inside(
        w.left / size.width, w.top / size.height, w.width / size.width, w.height / size.height, _FACE_ROOM
    )
    return part if part >= 1 else 0.6 * part * part


def _nearness(centre: float, size: Size, sample: list[Face], along_x: bool) -> float:
    """A mild pull of the heaviest face to the middle of the window, 0..1."""
    face = max(sample, key=lambda f: f.weight)
    at = face.x + face.width / 2 if along_x else face.y + face.height / 2
    return 1 - min(1.0, abs(at - centre) * 2)
