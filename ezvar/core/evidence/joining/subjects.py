"""Subjects: what was seen in a shot, joined to people and things, numbered by importance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..finders.things import GROUPS
from ..gather import Evidence
from ..regions import Region
from ..subject import TIMES, Subject
from .alone import moves_alone, without
from .drift import Drift
from .edges import whole_again
from .ends import staying, until_the_end, with_ends
from .glimpsed import glimpsed
from .movers import RESTLESS, calmed, lies_in, merged_movers, size_beside
from .people import untangled, with_figures, with_moving_bodies
from .reaching import held_apart
from .steadying import steadied
from .things import how_far, is_ground, livelier, things_of
from .tracks import Track, looks_for_movement, tracks, tracks_of_movement, tracks_of_things
from .while_all_rests import counting

_SURE, _SURER = 0.4, 0.55  # confidence that the best sight of a face must have, and its only one in a short shot
_ON = 0.7  # share of the sights of an unsure face that lie on something
_STAYS = 0.1  # of the picture, over which a block of text may drift; what goes farther is writing on a thing
_SURE_TEXT = 0.93  # confidence from which one sight of a block of text is enough
_SHORT = 1.2  # seconds of a shot in which one sight is enough
_OF_FACES = 0.25  # of its own size, that a face goes where a whole figure goes once its own
_MOST_OF_BODY = 2.0  # times as wide as a figure, up to which what moves is the figure's own
_PART_OF_GROUND = 0.5  # of the width of what fills the picture, from which what moves is it and not before it
_MOVING_FACE = 0.2  # the most that a face counts because the body below it moves
_SEEN_WITH = 0.4  # share of the looks while it moves, in which a face is seen whose body it is
_SURE_LIMB, _SURE_BEING, _BEST = 0.55, 0.45, 80
"""Confidence at this percentile of its sights from which a being's outline is relied upon: of what hands and what they
hold are taken for, and of others."""
_KNOWN, _LONGER = 0.6, 0.5
"""The same, and seconds for which it is seen longer, from which its outline tells more than its movement does."""
_BRIEF = 1.5  # seconds that something is seen, for less than which it is not gone after
_COME_IN = 2  # the look, from 0, in which something has come in; before it is half outside, and its edges are unsure
_STAYS_BEHIND = 0.25  # of the way of what moves, for less than which something stays where it is
_LIKE_HANDS = ("person", "sport", "thing")  # what hands, and what they hold, are taken for
_LARGER = 1.3  # times as large as a part of it that moves, that a being is
_SAME_SIZE = 0.3  # of what moves, that a being in it covers which may be just that


def subjects_of(evidence: Evidence, start: int, end: int, shape: float = 16 / 9) -> tuple[Subject, ...]:
    """The subjects of lock frames ``start`` to ``end``, the most important first.

    ``shape`` is the picture's width over its height. A face and the figure it
    belongs to are one subject, and what moves there is theirs; so are a hand
    and what it holds, a rider and what carries them. Where nothing is found that
    matters, people whom the finder doubts are there. Faces that are not sure
    and seen once only are left out, as are things that moved in one or two
    looks only.
    """
    rate, every = evidence.rate, evidence.cadence
    drift = Drift(evidence.flows_of(start + every.moving, end), every.moving)
    seen = looks_for_movement(evidence, start, end)
    looks = whole_again(seen)
    moving = tracks_of_movement(looks, rate)
    things = tracks_of_things(evidence, GROUPS, start, end, drift)
    # What is made whole keeps its middle less well from look to look, by which a face keeps its place in it.
    faces = with_moving_bodies(tracks(evidence, "face", start, end), tracks_of_movement(seen, rate), every.people)
    people = untangled([t for t in things if t.kind == "person"], faces)
    things = [*people, *(t for t in things if t.kind != "person")]
    pairs = [
        (f, b) for f, b in with_figures(faces, people, every.people)
        if _counts(f, (end - start) / rate) and (b is not None or not _is_of_a_being(f, things))
    ]  # fmt: skip
    pairs = [(f, b) for f, b in pairs if b is None or not _is_slight(f, b)]
    glances = np.array([n for n, _ in evidence.seen("person", start, end)], int)
    known = [_face(face, figure, drift, start, end, rate) for face, figure in pairs]
    figures = [figure for _, figure in pairs if figure is not None]
    known = _no_less_than(known, things_of(figures, [], glances, drift, start, end, rate, shape))
    rest = [t for t in things if t not in figures and not any(_is_body(t, face) for face in known)]
    rest, held = held_apart(rest, drift, rate, shape)
    known += things_of(rest, held, glances, drift, start, end, rate, shape)
    text = [t for t in tracks(evidence, "text", start, end)
            if len(t.frames) > 1 or t.regions[0].confidence >= _SURE_TEXT]  # fmt: skip
    text = [t for t in text if abs(t.regions[-1].cx - t.regions[0].cx) < _STAYS]
    if alone := [t for t in moves_alone(looks, rate) if not _is_known(t, known, rate)]:
        moving = tracks_of_movement(without(alone, looks), rate)
    known, came_in = _come_in(alone, known, looks, start, end, rate)
    known, movers, bodies = _moved(known, moving, glances, start, end, evidence)
    hands = [b for b in known if b.kind in _LIKE_HANDS]
    known, moving_ones = _told_apart(known, merged_movers(movers, hands, start, end, rate), bodies)
    found = [*known, *(_subject(t, start, end, rate) for t in text), *moving_ones, *came_in]
    found = counting(found, looks, rate)
    found += glimpsed(evidence, found, drift, start, end, shape)
    looked = {"face": np.array([n for n, _ in evidence.seen("face", start, end)], int)}
    found = [until_the_end(s, looked.get(s.kind, glances), end) if s.kind in ("face", *GROUPS) else s for s in found]
    found.sort(key=lambda s: -s.importance)
    return tuple(replace(s, number=k) for k, s in enumerate(found, 1))


def _moved(
    beings: Sequence[Subject], moving: Sequence[Track], glances: np.ndarray, start: int, end: int, evidence: Evidence
) -> tuple[list[Subject], dict[Subject, float], list[Subject]]:
    """Beings that may move; what else moves, with its share, 0..1, of all that does; and what of that may be a being's.

    ``glances`` (looks,) are the frames in which people and things were looked for.
    """
    rate, known = evidence.rate, list(beings)
    movers: dict[Subject, float] = {}
    bodies: list[Subject] = []
    for track in moving:
        mover = calmed(_subject(track, start, end, rate), rate, evidence.cadence.moving)
        whose = next(
            (k for k, one in enumerate(known) if _is_body(track, one) and _goes_with(one, track, glances)), None
        )
        if whose is None or (_is_doubtful(known[whose]) and not _is_part(mover, known[whose])):
            movers[mover] = float(np.mean([r.strength for r in track.regions]))
            bodies += [] if whose is None else [mover]
        else:  # however little is known of what it is, it moves
            one = known[whose]
            whole = one if one.kind == "face" else with_ends(one, mover, rate)
            most = min(mover.importance, _MOVING_FACE) if one.kind == "face" else mover.importance
            known[whose] = replace(whole, importance=max(whole.importance, most), still=False)
    return known, movers, bodies


def _goes_with(one: Subject, moving: Track, glances: np.ndarray) -> bool:
    """Whether a face is seen in so many of the looks while something moves below it that it tells where that is."""
    during = glances[(glances >= moving.frames[0]) & (glances <= moving.frames[-1])]
    return one.kind != "face" or float(np.isin(during, one.frames).sum()) >= _SEEN_WITH * len(during)


def _is_known(alone: Track, known: Sequence[Subject], rate: float) -> bool:
    """Whether what moves alone is a being that is seen for longer, or surely: then its outline tells more than that it
    moves."""
    for one in known:
        longer = one.frames[-1] - one.frames[0] > alone.frames[-1] - alone.frames[0] + _LONGER * rate
        sure = one.kind == "face" or float(np.percentile(one.confidence, _BEST)) >= _KNOWN
        if (longer or sure) and _is_body(alone, one):
            return True
    return False


def _come_in(
    alone: Sequence[Track],
    known: Sequence[Subject],
    looks: Sequence[tuple[int, list[Region]]],
    start: int,
    end: int,
    rate: float,
) -> tuple[list[Subject], list[Subject]]:
    """Beings, and what moves alone for a while, in place of what a few unsure sights took it for.

    What is there for a moment only is kept where it comes in: no window could go after it, and it reaches in from
    there, or goes back.
    """
    beings, found = list(known), []
    for track in alone:
        own = [one for one in beings if _is_body(track, one)]
        beings = [one for one in beings if one not in own]
        mover = _subject(track, start, end, rate)
        if track.frames[-1] - track.frames[0] < _BRIEF * rate:
            held = np.tile(mover.boxes[_COME_IN], (len(mover.boxes), 1))
            mover = replace(mover, boxes=held, way=mover.boxes, look=0.0)
        else:
            mover = staying(mover, looks, start, end)
        found.append(replace(mover, importance=max([mover.importance, *(one.importance for one in own)])))
    return beings, found


def _is_doubtful(being: Subject) -> bool:
    """Whether a being may be something else, or have another outline than it was given."""
    least = _SURE_LIMB if being.kind in _LIKE_HANDS else _SURE_BEING
    return being.kind != "face" and float(np.percentile(being.confidence, _BEST)) < least


def _is_part(mover: Subject, being: Subject) -> bool:
    """Whether what moves is only a part of a being."""
    return lies_in(mover, being) and size_beside(being, mover) >= _LARGER and not is_ground(being)


def _told_apart(
    known: Sequence[Subject], moving: Sequence[Subject], bodies: Sequence[Subject]
) -> tuple[list[Subject], list[Subject]]:
    """Beings, and what moves, each of them once.

    What moves inside a being is its part. What goes a steady way, or on in
    one place, is else known better by its movement than by a being that the
    finder doubts: then that is left out. Where it goes no way of its own, the
    being stays.
    """
    beings, movers = list(known), []
    for mover in moving:
        whole = next((b for b in beings if b.kind != "face" and _is_part(mover, b) and not _passes(mover, b)), None)
        if whole is not None and mover.steady > RESTLESS:
            at = beings.index(whole)
            beings[at] = replace(whole, importance=max(whole.importance, mover.importance), still=False)
            continue
        own = [b for b in beings if _is_doubtful(b) and lies_in(b, mover)]
        if mover.kind != "work":
            own = [b for b in own if size_beside(b, mover) >= _SAME_SIZE]
        if mover.steady <= RESTLESS and mover in bodies:
            continue
        if not own or mover.steady <= RESTLESS:
            movers.append(mover)
        else:
            beings = [b for b in beings if b not in own]
            if mover.kind == "work":
                one = replace(mover, importance=mover.importance + sum(b.importance for b in own))
            else:
                most = max(own, key=lambda b: b.importance)
                one = replace(mover, kind=most.kind, importance=max(mover.importance, most.importance))
            movers.append(one)
    return beings, movers


def _counts(face: Track, seconds: float) -> bool:
    best = max(r.confidence for r in face.regions)
    return best >= _SURE if len(face.frames) > 1 else best >= _SURER and seconds <= _SHORT


def _is_of_a_being(face: Track, things: Sequence[Track]) -> bool:
    """Whether an unsure face lies on something that was found, and says no more than that: an animal's, a drawn one."""
    if float(np.percentile([r.confidence for r in face.regions], 80)) >= _SURER:
        return False
    boxes = face.boxes()
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    for thing in things:
        longer = thing.frames[-1] - thing.frames[0] >= face.frames[-1] - face.frames[0]
        if thing.kind in ("person", "animal") and longer:
            around = np.stack([np.interp(face.frames, thing.frames, side) for side in thing.boxes().T], axis=1)
            if float(((middles >= around[:, :2]) & (middles <= around[:, 2:])).all(axis=1).mean()) >= _ON:
                return True
    return False


def _is_slight(face: Track, figure: Track) -> bool:
    """Whether a face is seen so much less surely than its figure that it tells nothing more: far away, or turned."""
    sure, surely = (float(np.percentile([r.confidence for r in t.regions], _BEST)) for t in (face, figure))
    return sure < _SURER and surely >= _KNOWN


def _no_less_than(faces: Sequence[Subject], figures: Sequence[Subject]) -> list[Subject]:
    """Faces, of which the most important one counts no less than the most important of their figures would without a
    face; beside each other they count as before, since sizes of faces are surer than figures."""
    most, without = (max((s.importance for s in those), default=0.0) for those in (faces, figures))
    return [replace(f, importance=f.importance * max(1.0, without / most)) for f in faces] if most else list(faces)


def _face(face: Track, figure: Track | None, drift: Drift, start: int, end: int, rate: float) -> Subject:
    made = _subject(face, start, end, rate)
    made = replace(made, importance=made.importance * livelier(_OF_FACES * how_far(face, drift)))
    if figure is None:
        return made
    frames, boxes, _ = steadied(figure, drift, made.bridged, rate)
    body = Subject(0, "person", frames, boxes, np.ones(len(frames)), 0.0, reach=made.reach, bridged=made.bridged)
    there, boxes = body.there(made.frames)[:, None], body.at(made.frames)
    around = np.concatenate([np.minimum(boxes[:, :2], made.boxes[:, :2]),
                             np.maximum(boxes[:, 2:], made.boxes[:, 2:])], axis=1)  # fmt: skip
    return replace(made, around=np.where(there, around, made.boxes))


def _subject(track: Track, start: int, end: int, rate: float) -> Subject:
    boxes = track.boxes()
    gap, reach = (round(t * rate) for t in TIMES[track.kind])
    confidence = np.array([r.confidence for r in track.regions])
    made = Subject(0, track.kind, np.array(track.frames), boxes, confidence, 0.0, reach=reach, bridged=gap)
    present = float(made.there(np.arange(start, end)).mean())
    importance = float(np.mean([r.weight for r in track.regions])) * present**0.5
    looks = np.mean([r.look for r in track.regions])
    goes = boxes[-1, [0, 2]].mean() - boxes[0, [0, 2]].mean()
    return replace(made, importance=importance, look=float(np.clip(looks + 2 * goes, -1, 1)))


def _is_body(track: Track, one: Subject) -> bool:
    """Whether a moving thing or a figure is a known one, or the body under a face, for most of its sights."""
    frames = np.array(track.frames)
    there, boxes = one.there(frames), one.at(frames) if one.kind == "face" else one.around_at(frames)
    beside = 1.2 if one.kind == "face" else 0.2
    least = _PART_OF_GROUND if is_ground(one) else 0.0
    hits = 0
    for region, box, seen in zip(track.regions, boxes, there, strict=True):
        across = box[2] - box[0]
        left, right = box[0] - beside * across, box[2] + beside * across
        near = left < region.cx < right and region.y + region.height > box[1] - 0.1
        wide = least * across <= region.width <= _MOST_OF_BODY * across
        hits += bool(seen) and near and (one.kind == "face" or wide)
    return hits > 0.5 * len(frames) and (one.kind == "face" or not _goes_past(track.boxes(), boxes))


def _passes(mover: Subject, being: Subject) -> bool:
    return _goes_past(mover.boxes, being.around_at(mover.frames))


def _goes_past(way: np.ndarray, boxes: np.ndarray) -> bool:
    """Whether what moves, with its boxes (sights, 4), goes farther than a known one is wide, whose boxes (sights, 4)
    stay where they are."""
    (own, end), (first, last) = way[[0, -1]][:, [0, 2]], boxes[[0, -1]][:, [0, 2]]
    gone = float(np.abs(end - own).min())  # at the picture's side a box is cut
    return gone > float(np.ptp(first)) and float(np.abs(last - first).max()) < _STAYS_BEHIND * gone
