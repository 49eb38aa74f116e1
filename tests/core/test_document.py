"""The document, its edits and undo."""

from dataclasses import FrozenInstanceError, replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from ezvar.core import edits
from ezvar.core.errors import InputError
from ezvar.core.framing import crop_windows, key_at
from ezvar.core.model import (
    Cut,
    Document,
    Exchanged,
    History,
    Keyframe,
    Lock,
    Master,
    Media,
    Pane,
    Rect,
    Shot,
    Source,
    hanging,
    make_master,
    master_from_text,
    master_named,
    size_of_shape,
)
from ezvar.core.timing import Rate

from ..strategies import documents


def windows(doc, master):
    """Each lock frame's windows, without the shots' numbers."""
    return [(w.frame, w.pane, w.window) for w in crop_windows(doc, master)]


@given(documents(), st.data())
def test_a_new_cut_moves_no_window(doc, data):
    frame = data.draw(st.integers(0, doc.lock.frames))
    if frame == doc.lock.frames or any(s.start == frame for s in doc.shots):
        with pytest.raises(ValueError, match="cut"):
            edits.add_cut(doc, frame)
        return
    cut = edits.add_cut(doc, frame)
    assert len(cut.shots) == len(doc.shots) + 1
    assert cut.shot_at(frame).start == frame
    assert cut.shot_at(frame).source.start == frame
    for master in doc.masters:
        assert windows(cut, master) == windows(doc, master)


@given(documents(), st.data())
def test_moving_a_cut_keeps_both_windows_in_time(doc, data):
    if len(doc.shots) < 2:
        return
    at = data.draw(st.integers(1, len(doc.shots) - 1))
    before, shot = doc.shots[at - 1], doc.shots[at]
    frame = data.draw(st.integers(before.start, shot.end))
    if not before.start < frame < shot.end:
        with pytest.raises(ValueError, match="no frame left"):
            edits.move_cut(doc, shot.id, frame)
        return
    moved = edits.move_cut(doc, shot.id, frame)
    assert moved.shot(shot.id).start == frame == moved.shot(before.id).end
    for master in doc.masters:
        kept_from, kept_to = min(frame, shot.start), max(frame, shot.start)
        old, new = dict(_by_frame(doc, master)), dict(_by_frame(moved, master))
        assert all(old[f] == new[f] for f in old if not kept_from <= f < kept_to)


def _by_frame(doc, master):
    grouped = {}
    for frame, pane, window in windows(doc, master):
        grouped.setdefault(frame, []).append((pane, window))
    return grouped.items()


@given(documents(), st.data())
def test_removing_a_cut_joins_and_keeps_the_rest(doc, data):
    if len(doc.shots) < 2:
        with pytest.raises(ValueError, match="no cut"):
            edits.remove_cut(doc, doc.shots[0].id)
        return
    at = data.draw(st.integers(1, len(doc.shots) - 1))
    joined = edits.remove_cut(doc, doc.shots[at].id)
    assert len(joined.shots) == len(doc.shots) - 1
    assert (joined.shots[at - 1].start, joined.shots[at - 1].end) == (doc.shots[at - 1].start, doc.shots[at].end)
    longer = doc.shots[at - 1] if doc.shots[at - 1].frames >= doc.shots[at].frames else doc.shots[at]
    for framing in (f for f in doc.framings if f.shot == longer.id):
        kept = joined.framing(doc.shots[at - 1].id, framing.master)
        for frame in (longer.start, longer.end - 1):  # the window stays where it was in time
            for pane, old in zip(kept.panes, framing.panes, strict=True):
                moved, was = key_at(pane, frame - doc.shots[at - 1].start), key_at(old, frame - longer.start)
                assert (moved.cx, moved.cy, moved.zoom) == pytest.approx((was.cx, was.cy, was.zoom))
    assert not any(f.shot == doc.shots[at].id for f in (*joined.framings, *joined.exchanged))


class _Cutting(RuleBasedStateMachine):
    """Random edits of a document, after each of which everything declared to hang on shots and masters is in order."""

    @initialize(doc=documents())
    def begin(self, doc):
        self.doc = doc
        for shot in doc.shots[:2]:  # all that can be played has been
            self.doc = edits.set_played(self.doc, {(shot.id, m.id): "look" for m in doc.masters})

    def _before(self):
        """Each thing by its kind, with the shot it hangs on and where in the lock that begins."""
        return {kind.name: kind.of(self.doc) for kind in hanging.KINDS}

    @rule(data=st.data())
    def cut(self, data):
        free = sorted(set(range(1, self.doc.lock.frames)) - {s.start for s in self.doc.shots})
        if not free:
            return
        frame, before = data.draw(st.sampled_from(free)), self._before()
        old = self.doc.shot_at(frame)
        self.doc = edits.add_cut(self.doc, frame)
        new = self.doc.shot_at(frame)
        for kind in hanging.KINDS:
            on_new = [t for t in kind.of(self.doc) if kind.shot(t) == new.id]
            on_old = [t for t in before[kind.name] if kind.shot(t) == old.id]
            assert len(on_new) == (len(on_old) if kind.split == "a copy" else 0)
            assert [t for t in kind.of(self.doc) if kind.shot(t) == old.id] == on_old
            back = [kind.on_shot(t, old.id, old.start - frame) for t in on_new]
            assert [_nameless(t) for t in back] == [_nameless(t) for t in on_old if kind.split == "a copy"]

    @rule(data=st.data())
    def join(self, data):
        if len(self.doc.shots) < 2:
            return
        at = data.draw(st.integers(1, len(self.doc.shots) - 1))
        first, second, before = self.doc.shots[at - 1], self.doc.shots[at], self._before()
        if not edits.goes_on(first, second):
            return
        self.doc = edits.remove_cut(self.doc, second.id)
        longer = second if second.frames > first.frames else first
        for kind in hanging.KINDS:
            now = [t for t in kind.of(self.doc) if kind.shot(t) == first.id]
            had = {s.id: [t for t in before[kind.name] if kind.shot(t) == s.id] for s in (first, second)}
            if kind.joined == "both":
                later = second.start - first.start
                came = [kind.nameless(kind.on_shot(t, first.id, -later)) for t in had[second.id]]
                mine = [kind.nameless(t) for t in had[first.id]]
                assert [kind.nameless(t) for t in now] == mine + [t for t in came if t not in mine]
            elif kind.joined == "the first":
                assert now == had[first.id]
            else:
                masters = {kind.master(t) for ts in had.values() for t in ts}
                assert {kind.master(t) for t in now} == masters
                by = first.start - second.start if longer is second else 0
                assert all(kind.on_shot(t, first.id, by) in now for t in had[longer.id])

    @rule(data=st.data())
    def move(self, data):
        if len(self.doc.shots) < 2:
            return
        at = data.draw(st.integers(1, len(self.doc.shots) - 1))
        first, second, before = self.doc.shots[at - 1], self.doc.shots[at], self._before()
        frame = data.draw(st.integers(first.start, second.end))
        if not first.start < frame < second.end or not edits.goes_on(first, second):
            return
        self.doc = edits.move_cut(self.doc, second.id, frame)
        for kind in hanging.KINDS:
            assert kind.of(self.doc) == tuple(
                kind.on_shot(t, second.id, frame - second.start) if kind.shot(t) == second.id else t
                for t in before[kind.name]
            )

    @rule(data=st.data())
    def masters(self, data):
        if not self.doc.masters:
            return
        master, before = data.draw(st.sampled_from(self.doc.masters)), self._before()
        what = data.draw(st.sampled_from(["remove", "duplicate", "resize"]))
        if what == "remove":
            self.doc = edits.remove_master(self.doc, master.id)
        elif what == "resize":
            self.doc = edits.change_master(self.doc, replace(master, width=master.height, height=master.width))
            assert self._before() == before
        elif len(self.doc.masters) < 4:
            self.doc, new = edits.duplicate_master(self.doc, master.id)
            for kind in (k for k in hanging.KINDS if k.master):
                old, made = ([t for t in kind.of(self.doc) if kind.master(t) == m] for m in (master.id, new.id))
                assert made == ([kind.on_master(t, new.id) for t in old] if kind.duplicated == "a copy" else [])

    @invariant()
    def nothing_hangs_in_the_air(self):
        if not hasattr(self, "doc"):
            return
        shots, masters = {s.id for s in self.doc.shots}, {m.id for m in self.doc.masters}
        for kind in hanging.KINDS:
            assert all(kind.shot(t) in shots for t in kind.of(self.doc)), kind.name
            assert kind.master is None or all(kind.master(t) in {"", *masters} for t in kind.of(self.doc)), kind.name


def _nameless(thing):
    return replace(thing, id="") if hasattr(thing, "id") else thing


test_what_hangs_on_shots_and_masters_goes_with_them = _Cutting.TestCase


@given(documents())
def test_settling_masters_and_verdicts(doc):
    settled = doc
    for shot in doc.shots:
        settled = edits.settle_cut(settled, shot.id)
    assert all(s.cut.settled for s in settled.shots[1:])
    for master in doc.masters:
        with pytest.raises(ValueError, match="already"):
            edits.add_master(doc, replace(master, id="new"))
        gone = edits.remove_master(doc, master.id)
        assert master not in gone.masters
        assert not any(f.master == master.id for f in (*gone.framings, *gone.exchanged))
    for framing in doc.framings:
        said = edits.set_verdict(doc, framing.shot, framing.master, "change")
        assert said.framing(framing.shot, framing.master).verdict == "change"
        assert len(said.framings) == len(doc.framings)


def test_cuts_become_shots_and_a_mix_is_split_in_its_middle():
    media = Media("m1", "/a.mov", 100, 50, Rate(25), 100)
    lock = Lock("a", Rate(25), 100, 100, 50, media=(media,))
    cuts = [Cut("dissolve", 60, 72), Cut("cut", 20, 20), Cut("cut", 20, 20), Cut("cut", 0, 0), Cut("cut", 100, 100)]
    shots = edits.shots_from_cuts(lock, "m1", cuts)
    assert [(s.start, s.end) for s in shots] == [(0, 20), (20, 66), (66, 100)]
    doc = Document(lock, shots)
    assert [doc.place_of(doc.shot_at(f).id) for f in (-5, 0, 19, 20, 65, 66, 99, 500)] == [0, 0, 0, 1, 1, 2, 2, 2]
    assert doc.media_of(shots[1]) == media
    with pytest.raises(KeyError):
        doc.master("none")
    with pytest.raises(KeyError):
        edits.set_verdict(doc, shots[0].id, "none", "agreed")


def test_keyframes_are_set_in_place_and_in_order():
    pane = Pane((Keyframe(0), Keyframe(10)))
    pane = edits.set_keyframe(pane, Keyframe(5, 0.2))
    pane = edits.set_keyframe(pane, Keyframe(10, 0.9))
    assert [(k.frame, k.cx) for k in pane.keys] == [(0, 0.5), (5, 0.2), (10, 0.9)]


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: Shot("a", 5, 5, Source("m1", 0)),
        lambda: Pane(()),
        lambda: Pane((Keyframe(3), Keyframe(3))),
        lambda: Keyframe(0, float("nan")),
        lambda: Keyframe(0, zoom=0),
        lambda: Rect(0, 0, 0, 1),
        lambda: Master("a", "a", 101, 100),
        lambda: Master("a", "a", 100, 100_000),
    ],
)
def test_values_that_cannot_be_are_refused(wrong):
    with pytest.raises(ValueError, match=r"\w"):
        wrong()


def test_documents_that_contradict_themselves_are_refused(planned):
    for wrong in (
        {"shots": planned.shots[1:]},
        {"shots": planned.shots[:-1]},
        {"masters": planned.masters * 2},
        {"framings": (replace(planned.framings[0], shot="none"),)},
        {"lock": replace(planned.lock, media=())},
    ):
        with pytest.raises(ValueError, match=r"\w"):
            replace(planned, **wrong)
    with pytest.raises(FrozenInstanceError):
        planned.lock.frames = 3


def test_undo_redo_and_one_step_for_a_gesture(planned):
    history = History(planned)
    assert (history.undo_label, history.redo_label, history.saved) == (None, None, True)
    drag = object()
    states = [edits.set_exchanged(planned, [Exchanged("s", "m", str(k))]) for k in range(5)]
    history.push("one", states[0])
    for state in states[1:4]:
        history.push("drag", state, drag)
    history.push("nothing", states[3])  # no change is no step
    assert history.undo_label == "drag"
    assert history.undo() is states[0]
    assert history.redo_label == "drag"
    assert history.redo() is states[3]
    history.undo()
    history.push("other", states[4], drag)  # after an undo the same gesture is a step of its own
    assert history.redo_label is None
    assert history.undo() is states[0]
    assert history.undo() is planned
    assert history.undo() is planned
    history.mark_saved(states[4])
    assert not history.saved
    history.redo()
    assert history.redo() is states[4]
    assert history.saved
    history.mark_unsaved()
    assert not history.saved


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("9:16", (1080, 1920)),
        ("4:5", (1080, 1350)),
        ("1:1", (1080, 1080)),
        ("16:9", (1920, 1080)),
        ("2:1", (2160, 1080)),
        ("2.39:1", (2582, 1080)),
    ],
)
def test_shapes_have_their_usual_sizes(text, size):
    master = master_from_text(text)
    assert size_of_shape(text) == (master.width, master.height) == size
    assert master.name == text


@pytest.mark.parametrize(
    "text", ["tall", "9x16", "0:1", "1:100", "a=1x", "a=1081x1920", "=100x100", "a=9x9", "a=99999x100"]
)
def test_what_is_no_master_is_refused_with_a_remedy(text):
    with pytest.raises(InputError) as caught:
        master_from_text(text)
    assert caught.value.remedy


def test_masters_are_found_by_name(planned):
    assert master_named(planned, "1:1").id == "square"
    with pytest.raises(InputError, match="9:16, 1:1"):
        master_named(planned, "4:5")
    assert make_master(" odd shape ", 300, 900, "whole").start == "whole"
