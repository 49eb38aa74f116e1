"""Timelines out and in: exact, readable by others, and merged with care."""

import hashlib
import json
from dataclasses import replace

import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.errors import OutputError, TimelineError
from ezvar.core.framing import plain
from ezvar.core.lock import take_lock
from ezvar.core.model import Backdrop, Framing, Keyframe, Master, Pane, Reason, lock_identity
from ezvar.core.planning import taken_in
from ezvar.core.review import merge, read_timeline, timeline_of
from ezvar.core.review.decision import digest
from ezvar.core.store import dump_decisions

from ..media import make_movie
from ..strategies import documents
from ..timelines import clip as otio_clip
from ..timelines import handed_timelines, track


@settings(max_examples=25)
@given(documents(3))
def test_decisions_come_back_exactly(tmp_path_factory, doc):
    folder = tmp_path_factory.mktemp("h")
    handed, files = handed_timelines(doc, folder)
    assert len(files) == len(doc.masters)
    for file, master in zip(files, doc.masters, strict=True):
        returned = read_timeline(file)
        assert [f for f, _ in returned.framings] == [f for s in doc.shots if (f := doc.framing(s.id, master.id))]
        assert not returned.problems
        merged, taken = taken_in(handed, file)
        assert replace(merged, exchanged=()) == replace(handed, exchanged=())
        assert (taken.taken, taken.conflicts, taken.same) == ((), (), len(returned.framings))


@settings(max_examples=25)
@given(documents(3))
def test_a_plain_reader_sees_the_right_shots(doc):
    for master in doc.masters:
        text = timeline_of(doc, master).to_json_string()
        timeline = otio.adapters.read_from_string(text, "otio_json")
        picture, *above = timeline.video_tracks()
        shown = [t for t in doc.titles if not doc.stands(t.id, master.id).hidden]
        assert [c.name for each in above for c in each.find_clips()] == [t.called for t in shown]
        media = doc.lock.media[0]
        assert len(picture) == len(doc.shots)
        for clip, shot in zip(picture, doc.shots, strict=True):
            assert clip.media_reference.target_url == "file:///media/lock.mov"
            assert clip.source_range.start_time.value == media.start + shot.start
            assert clip.source_range.duration.value == shot.frames
            assert clip.range_in_parent().start_time.value == shot.start
            whole, used = clip.available_range(), clip.source_range
            assert whole.start_time <= used.start_time
            assert used.end_time_exclusive() <= whole.end_time_exclusive()
        assert picture.duration().rate == pytest.approx(float(doc.lock.rate.fraction))
        assert len(timeline.audio_tracks()) == media.has_sound


def test_files_named_by_a_return_are_listed_and_not_opened_unasked(planned, tmp_path, edit):
    """A secret of the disk must not come into a master by way of a returned backdrop."""
    secret, near = tmp_path / "secret.png", tmp_path / "near"
    near.mkdir()
    own = planned.lock.media[0].path
    (near / "link.png").symlink_to(secret)
    handed, _ = handed_timelines(planned, tmp_path / "out")

    def returned(media, number):
        backed = Backdrop(kind="media", media=str(media))
        framing = planned.framing(planned.shots[number].id, "tall")
        changed = replace(framing, panes=(replace(framing.panes[0], backdrop=backed),))
        return edits.set_framings(handed, [changed])

    for number, media in enumerate((secret, near / "still.png", near / "link.png", "near/../secret.png")):
        _, files = handed_timelines(returned(media, number), tmp_path / f"back{number}")
        merged, taken = taken_in(handed, files[0])
        assert (merged.framings, taken.taken, taken.files) == (planned.framings, (), (str(media),))
        assert any("was not opened" in problem for problem in taken.problems)
        _, allowed = taken_in(merged, files[0], [near])
        assert bool(allowed.taken) == (media == near / "still.png")
    _, files = handed_timelines(returned(own, 0), tmp_path / "own")
    assert taken_in(handed, files[0])[1].taken  # the project draws on that file already


def _changed(framing: Framing, cx: float) -> Framing:
    return replace(framing, panes=(Pane((Keyframe(0, cx),)),), arrangement=None, sound=-1, decided="from review")


@pytest.fixture
def handed(planned, tmp_path):
    """Handed-out decisions, and where the first master's timeline lies."""
    doc, files = handed_timelines(planned, tmp_path / "out")
    return doc, files[0]


def _return(doc, changes, folder):
    """Another side takes a copy of the decisions, changes some, and hands them back."""
    theirs = edits.set_framings(doc, changes)
    _, files = handed_timelines(theirs, folder)
    return files[0]


def test_what_only_they_changed_is_taken(handed, tmp_path):
    doc, _ = handed
    change = _changed(doc.framings[0], 0.1)
    back = _return(doc, [change], tmp_path / "back")
    merged, taken = taken_in(doc, back)
    assert taken.taken == (change,)
    assert taken.same == len(doc.shots) - 1
    assert merged.framing(change.shot, change.master) == change
    again, second = taken_in(merged, back)
    assert again == merged
    assert (second.taken, second.conflicts) == ((), ())


def test_what_only_we_changed_stays(handed):
    doc, file = handed
    ours = _changed(doc.framings[0], 0.9)
    mine = edits.set_framings(doc, [ours])
    merged, taken = taken_in(mine, file)
    assert merged.framing(ours.shot, ours.master) == ours
    assert (taken.taken, taken.conflicts) == ((), ())


def test_what_both_changed_is_a_conflict_and_ours_stays(handed, tmp_path):
    doc, _ = handed
    ours, theirs = _changed(doc.framings[1], 0.9), _changed(doc.framings[1], 0.1)
    back = _return(doc, [theirs], tmp_path / "back")
    merged, taken = taken_in(edits.set_framings(doc, [ours]), back)
    assert taken.conflicts == ((ours, theirs),)
    assert merged.framing(ours.shot, ours.master) == ours
    same, agreed = taken_in(edits.set_framings(doc, [theirs]), back)
    assert (agreed.conflicts, agreed.taken) == ((), ())
    assert same.framing(theirs.shot, theirs.master) == theirs


@settings(max_examples=10)
@given(documents(3), st.data())
def test_three_sides_come_to_the_same_whatever_the_order(tmp_path_factory, doc, data):
    """Two reviewers' returns, taken one after the other: what one changed is taken, what both changed stays ours."""
    folder = tmp_path_factory.mktemp("three")
    base, _ = handed_timelines(replace(doc, exchanged=()), folder / "out")
    sides = []
    for side in ("one", "two"):
        changed = [f for f in base.framings if data.draw(st.booleans())]
        new = [_changed(f, data.draw(st.sampled_from([0.1, 0.3]))) for f in changed]
        sides.append((new, handed_timelines(edits.set_framings(base, new), folder / side)[1]))

    def taken(order):
        now, conflicts = base, set()
        for _, files in order:
            for file in files:
                now, said = taken_in(now, file)
                conflicts |= {(ours.shot, ours.master) for ours, _ in said.conflicts}
        return now, conflicts

    (forth, clashes), (back, also) = taken(sides), taken(sides[::-1])
    assert clashes == also
    one, two = ({(f.shot, f.master): digest(f) for f in new} for new, _ in sides)
    was = {(f.shot, f.master): digest(f) for f in base.framings}
    for key in was:
        decided = {side.get(key, was[key]) for side in (one, two)} - {was[key]}
        assert (key in clashes) == (len(decided) == 2)
        if key not in clashes:
            assert digest(forth.framing(*key)) == digest(back.framing(*key)) == next(iter(decided), was[key])
    assert taken([*sides, *sides])[0].framings == forth.framings  # taking in again changes nothing


def test_solving_again_without_another_window_is_no_change(handed, tmp_path):
    """Another version of the solver words its reasons otherwise, and weighs them otherwise."""
    doc, file = handed
    reworded = [replace(f, why="In other words.", reasons=(Reason("two subjects", 0.9),)) for f in doc.framings]
    other = edits.set_framings(doc, reworded)
    assert [digest(f) for f in other.framings] == [digest(f) for f in doc.framings]
    merged, taken = taken_in(other, file)
    assert (merged.framings, taken.taken, taken.conflicts) == (other.framings, (), ())
    back = _return(other, [], tmp_path / "back")
    assert taken_in(doc, back)[1].taken == ()
    assert digest(doc.framings[0]).startswith("1-")


def test_timelines_handed_out_before_decisions_had_versions_are_taken(handed, tmp_path):
    """Their base is a digest of all that a framing was, with its reasons, under their ids."""
    doc, _ = handed
    change = _changed(doc.framings[0], 0.1)
    text = json.loads(_return(doc, [change], tmp_path / "back").read_text())
    clips = text["tracks"]["children"][0]["children"]
    for clip in clips:
        facts = clip["metadata"]["ezvar"]
        old = doc.framing(facts["shot"], "tall")
        said = json.dumps(dump_decisions(old), sort_keys=True)
        facts["base"] = hashlib.sha256(said.encode()).hexdigest()[:16]
    text["metadata"]["ezvar"]["schema"] = 1
    del text["metadata"]["ezvar"]["lock"]["identity"]
    (tmp_path / "old.otio").write_text(json.dumps(text))
    assert taken_in(doc, tmp_path / "old.otio")[1].taken == (change,)


def test_two_versions_of_one_name_and_length_are_two_locks(tmp_path):
    for name in ("a", "b"):
        make_movie(tmp_path / f"{name}.mp4", 60, size=(160, 90))
    docs = []
    for at, second in ((30, 0), (25, 0), (30, 7)):
        timeline = otio.schema.Timeline("edit")
        timeline.tracks.append(track(otio_clip("a", "a.mp4", 0, at), otio_clip("b", "b.mp4", second, 60 - at)))
        otio.adapters.write_to_file(timeline, str(tmp_path / "edit.otio"))
        doc = edits.add_master(take_lock(tmp_path / "edit.otio").doc, Master("m", "m", 90, 160))
        docs.append(edits.set_framings(doc, [plain(doc, s, doc.masters[0]) for s in doc.shots]))
    assert len({d.lock.content for d in docs}) == 1
    assert len({lock_identity(d) for d in docs}) == 3
    assert lock_identity(edits.add_cut(docs[0], 10)) == lock_identity(docs[0])  # an editor's own cut
    _, (file,) = handed_timelines(docs[0], tmp_path / "out")
    halved, taken = taken_in(edits.add_cut(docs[0], 40), file)
    assert (taken.problems, taken.conflicts, taken.same) == ((), (), 3)
    assert len(halved.shots) == 3
    for other in docs[1:]:  # which show the same in part: that is matched
        _, taken = taken_in(other, file)
        assert taken.conflicts == ()


def test_a_second_round_goes_on_from_the_first(handed, tmp_path):
    """After theirs was taken, a change of ours goes out and comes back unchanged: no conflict."""
    doc, _ = handed
    merged, _ = taken_in(doc, _return(doc, [_changed(doc.framings[0], 0.1)], tmp_path / "one"))
    out, files = handed_timelines(merged, tmp_path / "two")
    ours = _changed(out.framings[0], 0.3)
    _, taken = taken_in(edits.set_framings(out, [ours]), files[0])
    assert taken.conflicts == ()


def test_shots_with_other_ids_are_matched_by_what_they_show(handed, tmp_path):
    doc, _ = handed
    other = {s.id: f"other{k}" for k, s in enumerate(doc.shots)}
    renamed = replace(
        doc,
        shots=tuple(replace(s, id=other[s.id]) for s in doc.shots),
        framings=tuple(replace(f, shot=other[f.shot]) for f in doc.framings),
        exchanged=(),
    )
    change = _changed(doc.framings[0], 0.2)
    merged, taken = taken_in(renamed, _return(doc, [change], tmp_path / "back"))
    assert len(taken.taken) == 1
    assert not taken.conflicts
    assert merged.framing(other[change.shot], change.master).panes == change.panes


def test_other_cuts_and_other_masters_are_said(handed, tmp_path):
    doc, file = handed
    recut = edits.remove_cut(doc, doc.shots[1].id)
    _, taken = taken_in(recut, file)
    assert any("not in this edit" in p for p in taken.problems)
    bare = edits.remove_master(doc, doc.masters[0].id)
    unchanged, none = taken_in(bare, file)
    assert unchanged == bare
    assert "no master 9:16" in none.problems[0]
    with pytest.raises(TimelineError, match="another lock"):
        taken_in(replace(doc, lock=replace(doc.lock, media=(replace(doc.lock.media[0], content="x"),))), file)


def test_one_bad_clip_costs_no_other(handed, tmp_path):
    doc, file = handed
    data = json.loads(file.read_text())
    clips = data["tracks"]["children"][0]["children"]
    told = clips[1]["metadata"]["ezvar"]
    framing = json.loads(told["framing"])
    framing["panes"][0]["keys"][0]["zoom"] = -1.0
    told["framing"] = framing  # written out, as earlier versions did
    clips[2]["metadata"]["ezvar"] = ["nonsense"]
    bad = tmp_path / "bad.otio"
    bad.write_text(json.dumps(data))
    returned = read_timeline(bad)
    assert len(returned.framings) == len(doc.shots) - 2
    assert returned.problems == ("Shot 2: zoom is above 0.",)
    assert merge(doc, returned).same == len(doc.shots) - 2


def _otio(thing) -> str:
    return thing.to_json_string()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "cannot be read|not a timeline"),
        ("{", "not a timeline"),
        ("\udcff", "not a timeline"),
        ('{"a": 1}', "timeline"),
        (_otio(otio.schema.Timeline("empty")), "nothing in it"),
        (_otio(otio.schema.Clip("one")), "holds no timeline"),
        (
            _otio(otio.schema.Timeline("t", tracks=[otio.schema.Track(children=[otio.schema.Clip("c")])])),
            "no reframe decisions",
        ),
    ],
)
def test_files_that_say_nothing_are_refused_in_one_sentence(tmp_path, text, said):
    path = tmp_path / "a.otio"
    path.write_bytes(text.encode("utf-8", "surrogateescape"))
    with pytest.raises(TimelineError, match=said) as caught:
        read_timeline(path)
    assert str(caught.value).startswith("a.otio: ")
    assert "\n" not in str(caught.value)


def test_newer_timelines_and_missing_files(handed, tmp_path):
    _, file = handed
    newer = tmp_path / "newer.otio"
    newer.write_text(file.read_text().replace('"schema": 3', '"schema": 99'))
    with pytest.raises(TimelineError, match="newer Ezvar"):
        read_timeline(newer)
    with pytest.raises(TimelineError, match="not there"):
        read_timeline(tmp_path / "none.otio")


def test_a_handoff_to_an_impossible_place(planned):
    with pytest.raises(OutputError, match="cannot be"):
        handed_timelines(planned, "/proc/none/here")
