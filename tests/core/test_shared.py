"""A folder that a team shares: returns of several hands, of a simulated reviewer too, whole and spoilt; and history."""

import json
import os
import random
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.merging import check
from ezvar.core import edits
from ezvar.core.model import Keyframe, Pane, ReviewNote
from ezvar.core.planning import handed_out, taken_in
from ezvar.core.review import Asked, SharedFolder, came_in, digests_of, offered, share
from ezvar.core.review.shared import sender_of
from ezvar.core.store import load_project, save_project
from ezvar_reviewer.__main__ import handoffs
from ezvar_reviewer.__main__ import main as review
from ezvar_reviewer.answer import DAMAGES

from ..strategies import documents, names

SCHEMA = Path(__file__).parents[2] / "docs" / "interchange.schema.json"


@pytest.fixture
def shared(planned, tmp_path):
    """The planned edit, handed out into a shared folder, and that folder."""
    doc, _ = handed_out(planned, tmp_path / "team" / "handoff", Asked(frozenset({"json"})))
    return doc, tmp_path / "team"


def reviewed(folder, *words):
    """What is in the folder after the reviewer has answered."""
    before = set(folder.glob("*.json"))
    assert review([str(folder), "--schema", str(SCHEMA), *words]) == 0
    (new,) = set(folder.glob("*.json")) - before
    return new


def test_a_file_counts_once_it_is_whole_and_is_offered_once(shared, monkeypatch):
    doc, folder = shared
    watched = SharedFolder(folder)
    own = digests_of(folder.glob("*/*"))
    assert (watched.look(own), watched.look(own)) == ([], [])
    target = folder / "walk by Director 2026-01-31 12.00.00.json"
    text = reviewed(folder).read_text()
    watched.look(own)
    watched.look(own)
    for part in (len(text) // 2, len(text)):
        target.write_text(text[:part])
        os.utime(target, ns=(part, part))
        assert watched.look(own) == []  # it grows
    (found,) = watched.look(own)
    assert (found.path, found.sender) == (target, "Director")
    assert watched.look(own) == []
    offer = offered(doc, found)
    assert offer.says_anything
    assert "A return of Director: " in offer.said
    assert SharedFolder(folder).look([]) == []
    target.write_text(text[:-9])  # who knows whether the rest comes
    assert came_in(doc, watched) == came_in(doc, watched) == came_in(doc, watched) == []
    monkeypatch.setattr("ezvar.core.review.shared.PATIENCE", 0.0)
    (offer,) = came_in(doc, watched)
    assert "is not whole" in offer.said


@given(names)
def test_a_file_says_who_has_sent_it(name):
    words = name.replace("/", "-").replace(".", "-").split()
    who = " ".join(word for word in words if any(c.isalpha() for c in word)) or "A"
    assert sender_of(f"a lock by {who} 2026-01-31 12.00.00.json") == who
    assert sender_of("decisions.json") == ""


def test_the_reviewer_agrees_to_most_moves_some_and_notes_and_is_the_same_for_a_seed(shared):
    doc, folder = shared
    files = [reviewed(folder, "--seed", seed, "--name", "Anna") for seed in ("1", "1", "2")]
    told = [json.loads(f.read_text())["masters"] for f in files]
    plain = [[d["framing"] for m in each for d in m["decisions"]] for each in told]
    assert plain[0] == plain[1] != plain[2]
    verdicts, notes, moved = [], 0, 0
    for seed in range(12):
        merged, taken = taken_in(doc, reviewed(folder, "--seed", str(seed)))
        assert (taken.problems, taken.conflicts) == ((), ())
        verdicts += [f.verdict for f in merged.framings]
        notes += len(taken.notes)
        moved += sum(a.panes != b.panes for a, b in zip(merged.framings, doc.framings, strict=True))
    assert verdicts.count("agreed") > len(verdicts) / 2
    assert min(notes, moved) > 0
    assert next(handoffs(folder)).parent.name == "handoff"


@pytest.mark.parametrize("damage", ["truncated", *DAMAGES])
def test_what_is_spoilt_on_its_way_is_refused_or_taken_item_by_item(shared, damage):
    doc, folder = shared
    for seed in range(8):
        file = reviewed(folder, "--seed", str(seed), "--damage", damage)
        watched = SharedFolder(folder)
        watched.look([])
        incoming = next(each for each in watched.look([]) if each.path == file)
        offer = offered(doc, incoming)
        if damage in ("truncated", "another-lock"):
            assert offer.taken is None
            assert "cannot be taken in" in offer.said
            continue
        assert offer.taken is not None
        merged, taken = taken_in(doc, file)
        assert {(f.shot, f.master) for f in merged.framings} == {(f.shot, f.master) for f in doc.framings}
        if damage == "stripped":  # nothing tells what both had: what differs stays ours, and is listed
            assert taken.taken == ()
        assert all(not pane.backdrop or not pane.backdrop.media for f in merged.framings for pane in f.panes)


def test_the_reviewer_is_a_program_of_its_own_and_says_what_it_cannot_answer(shared, tmp_path):
    _, folder = shared

    def run(*words):
        command = [sys.executable, "-m", "ezvar_reviewer", *words]
        return subprocess.run(command, capture_output=True, text=True, check=False, cwd=SCHEMA.parents[1])

    assert run(str(folder), "--slowly", "0.2").returncode == 0
    (tmp_path / "none").mkdir()
    assert run(str(tmp_path / "none")).returncode == 1
    (tmp_path / "none" / "a decisions.json").write_text('{"ezvar decisions": 99, "lock": {}, "masters": []}')
    failed = run(str(tmp_path / "none"), "--schema", str(SCHEMA))
    assert (failed.returncode, failed.stderr.count("\n")) == (2, 1)


def test_several_hands_share_what_they_decide_without_losing_anything(shared):
    """Each changes other framings of a copy and notes on one; all take in what the others shared, in any order."""
    doc, folder = shared
    hands = []
    for k, name in enumerate(("Anna", "Bero", "Cilla")):
        framing = doc.framings[k]
        moved = replace(framing, panes=(Pane(keys=(Keyframe(0, 0.1 + 0.2 * k),)),), verdict="change")
        note = ReviewNote(f"n{k}", doc.shots[0].id, "", 0, 1, name, "2026-01-31T12:00:00Z", f"By {name}")
        own = edits.say_note(edits.set_framings(doc, [moved]), note)
        share(own, folder, name)
        share(own, folder, name)  # nothing is written over
        hands.append(own)
    files = [f for f in folder.glob("*.json") if " by " in f.name]
    assert len(files) == 6
    results = []
    for seed, own in enumerate(hands):
        order = random.Random(seed).sample(files, len(files))
        for file in order:
            own, taken = taken_in(own, file)
            assert taken.conflicts == ()
        results.append(own)
    first, *others = ({(f.shot, f.master): f for f in each.framings} for each in results)
    assert all(each == first for each in others)
    assert {n.text for n in results[0].notes} == {"By Anna", "By Bero", "By Cilla"}
    assert [results[0].framings[k].panes[0].keys[0].cx for k in range(3)] == pytest.approx([0.1, 0.3, 0.5])


@settings(max_examples=25)
@given(documents(3), st.lists(st.tuples(st.integers(0, 9), st.floats(0, 1), st.integers(0, 40)), max_size=30))
def test_what_was_decided_before_can_be_brought_back_and_is_bounded(tmp_path_factory, doc, changes):
    if not doc.framings:
        return
    now, moment = doc, 0
    for which, cx, wait in changes:
        old, moment = now, moment + wait
        framing = now.framings[which % len(now.framings)]
        moved = replace(framing, panes=(Pane(keys=(Keyframe(0, cx),)),), arrangement=None, sound=-1)
        changed = edits.set_framings(now, [moved])
        at = f"2026-01-31T12:{moment // 60 % 60:02d}:{moment % 60:02d}Z"
        now = edits.remember(old, changed, "A", "Shift path", at)
        past = edits.past_of(now, framing.shot, framing.master)
        first = not edits.past_of(old, framing.shot, framing.master)
        if changed.framings != old.framings and (wait > 30 or first):
            assert past[0].framing.panes == framing.panes
            back = edits.bring_back(now, past[0]).framing(framing.shot, framing.master)
            assert (back.panes, back.verdict) == (framing.panes, framing.verdict)
        assert len(past) <= 12
    folder = tmp_path_factory.mktemp("past")
    save_project(now, folder / "p.ezvar")
    assert load_project(folder / "p.ezvar").past == now.past


@given(st.integers(1000, 9999))
@settings(max_examples=40)
def test_merges_lose_nothing_settle_nothing_silently_and_in_any_order(seed):
    check(seed)
