"""The output list as a value: rows follow masters and ranges, and what became of them is kept in the project."""

import base64
import json
import zlib
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.encoding import DELIVERY, default_preset, preset_named
from ezvar.core.errors import ProjectError
from ezvar.core.model import (
    Caption,
    CaptionTrack,
    Check,
    Document,
    Finished,
    Flaw,
    Keyframe,
    Making,
    Makings,
    NamedRange,
    Ordered,
    Pane,
    Receiving,
    Report,
    Revision,
    SoundCoding,
    Span,
    listing,
)
from ezvar.core.output import (
    RECEIVERS_KEPT,
    Expected,
    Live,
    before_making,
    changed_since,
    colours_of,
    coming_said,
    expected,
    file_stamp,
    known_receivers,
    listed_rows,
    make_rows,
    not_taken,
    parts_of,
    row_look,
    row_of_listed,
    targets,
)
from ezvar.core.output.orders import Order
from ezvar.core.store import (
    Preferences,
    forget_later,
    keep_later,
    later_of,
    load_project,
    packed,
    preferences_file,
    save_preferences,
    save_project,
    unpacked,
)
from ezvar.core.text import CaptionProblem
from ezvar.core.waiting import rows_waiting

from ..strategies import documents


def ids(doc: Document) -> list[str]:
    return [row.id for row in listing(doc)]


def ranged(doc: Document, *ranges: NamedRange) -> Document:
    return edits.change_master(doc, replace(doc.masters[0], ranges=ranges))


def test_rows_follow_masters_and_their_ranges(planned):
    assert ids(planned) == ["tall", "square"]
    doc = ranged(planned, NamedRange("short", 5, 20), NamedRange("long", 0, 60))
    assert ids(doc) == ["tall short", "tall long", "square"]
    doc = edits.move_row(doc, "square", -2)
    doc, whole = edits.add_row(doc, "tall")
    doc, second = edits.add_row(doc, "tall", "short")
    assert ids(doc) == ["square", "tall short", "tall long", whole, second]
    assert (whole, second in ("tall", "tall short")) == ("tall", False)
    assert edits.remove_row(doc, "square").unlisted == ("square",)
    doc = edits.set_row_range(doc, second, 10, 30)  # the range itself, for all that show it
    assert [(r.id, r.start, r.end) for r in listed_rows(doc, DELIVERY) if r.label == "short"] == [
        ("tall short", 10, 30), (second, 10, 30)
    ]  # fmt: skip
    doc = edits.set_row_range(doc, "square", 3, 9)  # of a whole master: frames of its own
    assert doc.masters[1].ranges == ()
    assert (listing(doc)[0].start, listing(doc)[0].end) == (3, 9)
    assert listing(edits.set_row_range(doc, "square", 0, 80))[0].start is None
    with pytest.raises(ValueError, match="outside"):
        edits.set_row_range(doc, "square", 3, 81)
    doc, copy = edits.duplicate_master(doc, "tall")
    assert {f"{copy.id} short", f"{copy.id} long", copy.id} < set(ids(doc))
    assert len(set(ids(doc))) == len(ids(doc))
    assert not any(r.master == "tall" for r in edits.remove_master(doc, "tall").listed)
    assert "tall long" not in ids(ranged(doc, NamedRange("short", 10, 30)))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(["up", "down", "add", "remove", "range"]), st.integers(0, 9)), max_size=12))
def test_whatever_is_done_to_the_list_it_stays_whole(planned, steps):
    doc = ranged(planned, NamedRange("part", 5, 20))
    for what, k in steps:
        known = ids(doc)
        if what == "add":
            doc, id = edits.add_row(doc, ("tall", "square")[k % 2], "part" if k % 4 == 0 else "")
            assert sorted(ids(doc)) == sorted([*known, id])
        elif not known:
            continue
        elif what == "remove":
            doc = edits.remove_row(doc, known[k % len(known)])
            assert ids(doc) == [i for i in known if i != known[k % len(known)]]
        elif what == "range":
            doc = edits.set_row_range(doc, known[k % len(known)], k, k + 30)
            assert ids(doc) == known
        else:
            doc = edits.move_row(doc, known[k % len(known)], -1 if what == "up" else 1)
            assert sorted(ids(doc)) == sorted(known)
    assert all(0 <= r.start < r.end <= 80 for r in listed_rows(doc, DELIVERY))
    again = replace(doc, masters=(*doc.masters, replace(doc.masters[0], id="new", name="new", ranges=())))
    assert ids(again) == [*ids(doc), "new"]  # a new master has a row, whatever was done before


def test_a_row_has_its_own_preset_or_the_default_one(planned, tmp_path, monkeypatch):
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path))
    assert default_preset() == DELIVERY
    save_preferences(Preferences(preset="mezzanine, DNxHR HQ"), preferences_file())
    assert default_preset() == preset_named("") == preset_named("mezzanine, DNxHR HQ")
    own = replace(listing(planned)[0], captions="none", sound=SoundCoding(channels="mono"))
    row = row_of_listed(planned, own, default_preset())
    assert (row.preset.picture.codec, row.preset.captions, row.preset.sound.channels) == ("dnxhr", "none", "mono")
    kept = edits.change_row(planned, replace(own, preset=DELIVERY))
    assert listed_rows(kept, default_preset())[0].preset.picture == DELIVERY.picture
    outside = edits.change_row(planned, replace(own, start=80, end=90))
    assert [r.id for r in listed_rows(outside, DELIVERY)] == ["square"]


def test_a_revision_is_the_document_as_it_was_with_media_where_they_are_now(planned):
    doc = replace(planned, makings=Makings(revisions=(Revision("x", "y"),)))
    kept = packed(doc)
    assert kept == packed(edits.add_row(planned, "tall")[0])  # the list and what became of it are not seen in a movie
    moved = replace(planned.lock.media[0], path="/elsewhere/walk.mp4")
    now = replace(planned, lock=replace(planned.lock, media=(moved,)), masters=(), framings=())
    back = unpacked(kept, now)
    assert (back.masters, back.framings, back.lock.media[0].path) == (planned.masters, planned.framings, moved.path)
    for damaged in (kept.packed[:-20], "no such thing", kept.packed[::-1]):
        with pytest.raises(ProjectError, match="damaged"):
            unpacked(Revision("r", damaged), now)


@given(documents())
def test_what_became_of_rows_keeps_just_the_documents_that_it_names(doc):
    made = doc.makings
    named = {f.revision for f in made.finished} | {o.revision for o in made.ordered}
    assert {r.name for r in made.revisions} == named
    assert len({f.row.id for f in made.finished}) == len(made.finished)
    assert len({o.row.id for o in made.ordered}) == len(made.ordered)
    assert all(o.state != "waits" for o in made.ended().ordered)
    assert made.with_later(Makings()) == made == Makings().with_later(made)
    for row in doc.listed:
        left = made.without_ordered(row.id)
        assert left.ordered_of(row.id) is None
        assert left.finished == made.finished
    rows = listed_rows(doc, DELIVERY)
    assert all(doc.master(r.master) and 0 <= r.start < r.end <= doc.lock.frames for r in rows)
    for row in rows:
        look = row_look(doc, row, made)
        assert min(p.start for p in look.parts) >= row.start or look.state == "failed the check"
        assert max(p.end for p in look.parts) <= row.end
    back = unpacked(packed(doc), doc)
    assert (back.shots, back.masters, back.framings, back.tracks) == (doc.shots, doc.masters, doc.framings, doc.tracks)


def test_ranges_and_rows_stay_at_what_they_show_when_the_lock_changes(planned):
    """Ten new frames at the beginning, and the third shot gone."""
    doc = ranged(planned, NamedRange("second", 20, 40), NamedRange("third", 45, 55))
    doc = edits.set_row_range(doc, "square", 61, 80)
    first, second, _third, last = doc.shots
    lock = replace(doc.lock, frames=70)
    new = replace(first, id="new", start=0, end=10)
    moved = tuple(replace(s, id=f"n{s.id}", start=at, end=at + 20) for s, at in ((first, 10), (second, 30), (last, 50)))
    changed = Document(lock, (new, *moved), project="p")
    same = {f"n{s.id}": edits.Match(s.id, 0) for s in (first, second, last)}
    carried, _ = edits.carry(doc, changed, same)
    ranges = {r.name: (r.start, r.end) for r in carried.masters[0].ranges}
    assert ranges == {"second": (30, 50), "third": (45, 55)}  # what is gone stays at its frames
    assert next((r.start, r.end) for r in carried.listed if r.id == "square") == (51, 70)


def finished(doc: Document, row: str, file: Path, revision: str = "r", flaws: tuple[Flaw, ...] = ()) -> Finished:
    made = next(r for r in listed_rows(doc, DELIVERY) if r.id == row)
    report = Report((Check("size", flaws),))
    return Finished(made, revision, Making(str(file), file_stamp(file), ()), "2026-01-31T12:00:00Z", report)


def test_what_became_of_rows_is_kept_in_the_project(planned, tmp_path):
    tall, square = listed_rows(planned, DELIVERY)
    first, second = Revision("r", "one"), Revision("s", "two")
    makings = Makings().with_ordered([Ordered(tall, "/a", "r"), Ordered(square, "/b", "r")], first)
    doc = edits.set_makings(planned, makings)
    save_project(doc, tmp_path / "p.ezvar")
    assert load_project(tmp_path / "p.ezvar") == doc
    assert {o.state for o in makings.ended().ordered} == {"stopped"}
    made = makings.with_finished(finished(planned, "tall", tmp_path))
    assert (made.ordered_of("tall"), made.finished_of("tall").revision) == (None, "r")
    again = made.with_ordered([Ordered(tall, "/a", "s")], second)
    assert [r.name for r in again.revisions] == ["r", "s"]
    done = again.with_finished(finished(planned, "tall", tmp_path, "s")).without_ordered("square")
    assert done.revisions == (second,)  # a document that nothing names is not kept
    assert rows_waiting(listing(planned), Makings()) is None
    assert [rows_waiting(listing(planned), m) for m in (makings, made, done)] == [2, 1, 1]

    folder = tmp_path / "cache"
    assert later_of(folder, "p") == Makings()
    keep_later(folder, "p", made.without_ordered("square"))
    keep_later(folder, "../q", makings)
    later = makings.with_later(later_of(folder, "p"))  # of a project that was not open when it was made
    assert (later.ordered_of("tall"), later.finished_of("tall")) == (None, made.finished_of("tall"))
    assert later.ordered_of("square") == makings.ordered_of("square")
    forget_later(folder, "p")
    assert (later_of(folder, "p"), later_of(folder, "../q")) == (Makings(), makings)
    assert len(list(folder.rglob("*.json"))) == 1


def framed_at(doc: Document, shot: int, cx: float) -> Document:
    framing = doc.framing(doc.shots[shot].id, "tall")
    return edits.set_framings(doc, [replace(framing, panes=(Pane((Keyframe(0, cx),)),))])


def test_a_row_tells_how_it_stands_and_which_parts_would_be_made_again(planned, tmp_path, monkeypatch):
    monkeypatch.setattr("ezvar.core.output.segments.LEAST", 0.7)
    row = listed_rows(planned, DELIVERY)[0]
    tags = colours_of(planned)

    def look(doc, makings=None, live=None):
        now = parts_of(doc, [row], tags)[row.id]
        return row_look(doc, row, makings or Makings(), live, now)

    new = look(planned)
    assert (new.state, {p.state for p in new.parts}) == ("not made", {"to be made"})
    assert [p.start for p in new.parts] == [0, 20, 40, 60]
    doing = {(0, 20): "made", (20, 40): "under way", (40, 60): "to be made", (60, 80): "to be made"}
    live = look(planned, live=Live(doing))
    assert (live.status, live.said, [p.state for p in live.parts]) == (
        "being made",
        "1 of 4 parts",
        list(doing.values()),
    )
    for state, said in (("waits", "turn"), ("stopped", "goes on"), ("failed", "full")):
        told = look(planned, Makings().with_ordered([Ordered(row, "/a", state=state, said="The disk is full.")]))
        assert told.state == state
        assert said in told.story

    (made,) = make_rows([Order(planned, row, targets(planned, [row], tmp_path)[row.id])])
    file = str(made.path)
    good = Finished(row, "r", Making(file, file_stamp(file), made.parts), "2026-01-31T12:00:00Z", made.report)
    makings = Makings().with_finished(good)
    assert (look(planned, makings).state, {p.state for p in look(planned, makings).parts}) == ("checked", {"made"})
    moved = framed_at(planned, 1, 0.3)
    told = look(moved, makings)
    assert (told.state, told.said) == ("moved on", "1 of 4 parts")
    assert "Shot 2" in told.story
    assert [p.state for p in told.parts] == ["made", "to be made", "made", "made"]
    assert [(s.start, s.end) for s in changed_since(good, row, parts_of(moved, [row], tags)[row.id])] == [(20, 40)]
    other = replace(row, preset=preset_named("web, VP9"))
    assert "preset" in row_look(planned, other, makings).story
    flawed = replace(good, report=Report((Check("pictures", (Flaw("Frame 45 differs.", 45, 46), Flaw("So it is."))),)))
    told = look(planned, Makings().with_finished(flawed))
    assert (told.state, told.said) == ("failed the check", "Frame 45 differs and 1 more")
    assert [(p.start, p.end) for p in told.parts if p.state == "differs"] == [(45, 46)]
    made.path.unlink()
    assert look(planned, makings).state == "gone"


def test_what_waits_before_making_is_told_with_a_place_to_go_to(planned):
    rows = listed_rows(planned, DELIVERY)
    for shot in planned.shots:
        for master in ("tall", "square"):
            planned = edits.set_verdict(planned, shot.id, master, "agreed")
    assert before_making(planned, rows) == []
    doc = edits.set_verdict(planned, planned.shots[2].id, "tall", "change")
    said = {c.said: c for c in before_making(doc, rows)}
    change = said.pop("9:16: shot 3 is answered “change”")
    assert (change.where, change.frame, change.master) == ("review", 50, "tall")
    assert list(said) == ["9:16: shot 3 was not played since it changed"]
    assert not before_making(doc, rows[1:])  # the other master is not concerned
    doc = ranged(planned, NamedRange("short", 5, 70, 2.0))
    (long,) = before_making(doc, listed_rows(doc, DELIVERY))
    assert (long.said, long.frame) == ("9:16 short lasts 2.6 s, longer than 2 s", 5)
    gone = replace(planned, lock=replace(planned.lock, media=(replace(planned.lock.media[0], content="", path=""),)))
    assert any("missing" in c.said and c.where == "lock" for c in before_making(gone, rows))
    crossed = replace(planned, tracks=(CaptionTrack("t", "t", (Caption("c", 400, 800, (Span("Hello"),)),)),))
    wrong = [
        CaptionProblem("t", "c", "tall", "too short", "It is short."),
        CaptionProblem("t", "d", "", "overlaps", ""),
    ]
    (told,) = before_making(crossed, rows, wrong)  # one of them is of a caption that is no more
    assert ("Caption 1 at" in told.said, told.where, told.frame, told.master) == (True, "text", 10, "tall")
    assert before_making(crossed, rows[1:], wrong) == []
    bare = replace(planned, framings=planned.framings[1:])
    assert "no framing" in before_making(bare, rows)[0].said


def test_what_a_receiver_does_not_take_is_told_before_and_after_a_movie_is_made(planned, tmp_path, monkeypatch):
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path))
    tall, square = listed_rows(planned, DELIVERY)
    takes = Receiving(
        "a wall of screens", ("9:16",), 100, 400, 4.0, 0.01, ("h264",), ("mp4",), ("aac",), ("25",), (-60.0, -50.0)
    )
    RECEIVERS_KEPT.keep(takes)
    assert takes in known_receivers()
    assert len(known_receivers()) == 4
    assert not_taken(planned, tall, takes) == []
    said = " ".join(not_taken(planned, replace(square, preset=preset_named("web, VP9")), takes))
    for words in ("9:16, not 200 × 200", "pictures as h264, not vp9", "files as mp4, not webm", "as aac, not opus"):
        assert words in said
    small = replace(takes, smallest=300, largest=100, seconds=1.0, rates=("24", "30000/1001"))
    said = " ".join(not_taken(planned, tall, small))
    for words in ("at least 300 pixels", "at most 100 pixels", "lasts 3.2 s", "24 or 30000/1001 frames"):
        assert words in said
    row = replace(tall, receiver=takes)
    assert [c.said for c in before_making(planned, [replace(square, receiver=takes)]) if c.where == "output"] == [
        "1:1: It takes 9:16, not 200 × 200"
    ]
    (made,) = make_rows([Order(planned, row, targets(planned, [row], tmp_path)[row.id])])
    (check,) = [c for c in made.report.checks if "a wall of screens" in c.what]
    assert ["MB" in check.flaws[0].said, "LUFS" in check.flaws[1].said] == [True, True]


@pytest.mark.parametrize("name", ["delivery, H.264", "mezzanine, ProRes 422", "images, JPEG"])
def test_size_is_told_within_a_fifth_from_short_trials(planned, tmp_path, name):
    row = replace(listed_rows(planned, DELIVERY)[0], preset=preset_named(name))
    told = expected(planned, [row])[row.id]
    (made,) = make_rows([Order(planned, row, targets(planned, [row], tmp_path)[row.id])])
    files = made.path.iterdir() if made.path.is_dir() else [made.path]
    assert told.size == pytest.approx(sum(f.stat().st_size for f in files), rel=0.2)
    assert told.seconds > 0


def test_a_kept_document_that_would_fill_the_memory_is_refused(planned):
    """A few kilobytes that say they are a gigabyte of JSON."""
    squeezer = zlib.compressobj()
    head = b'{"ezvar": 10, "document": "'
    data = squeezer.compress(head) + b"".join(squeezer.compress(b" " * 2**24) for _ in range(40)) + squeezer.flush()
    with pytest.raises(ProjectError, match="damaged"):
        unpacked(Revision("r", base64.b85encode(data).decode()), planned)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d["listed"][0].update(start=9, end=3), "at least one frame"),
        (lambda d: d["listed"][0].update(end=None), "both ends"),
        (lambda d: d["listed"][0].update(master="gone"), "no master"),
        (lambda d: d["listed"].append(dict(d["listed"][0])), "twice"),
        (lambda d: d["listed"][0]["preset"]["sound"].update(loudness=3), "loudness lies"),
        (lambda d: d["listed"][0]["preset"]["picture"].update(megabytes=0), "fewer than a disk"),
        (lambda d: d["listed"][0].update(receiver={"name": ""}), "has a name"),
        (lambda d: d["makings"]["ordered"].append({"row": 3}), "dictionary or an instance"),
        (lambda d: d["makings"]["finished"][0]["row"].update(end=-4), "at least one frame"),
    ],
)
def test_what_a_damaged_project_says_of_its_list_is_refused_in_a_sentence(planned, tmp_path, change, said):
    doc, _ = edits.add_row(planned, "tall")
    doc = edits.change_row(doc, replace(listing(doc)[0], start=1, end=9, preset=DELIVERY))
    doc = edits.set_makings(doc, Makings().with_finished(finished(doc, "tall", tmp_path)))
    path = tmp_path / "p.ezvar"
    save_project(doc, path)
    whole = json.loads(path.read_text())
    change(whole["document"])
    path.write_text(json.dumps(whole))
    with pytest.raises(ProjectError, match=said):
        load_project(path)


def test_what_is_kept_of_a_closed_project_and_cannot_be_read_costs_nothing(planned, tmp_path):
    keep_later(tmp_path, "p", Makings().with_finished(finished(planned, "tall", tmp_path)))
    (file,) = tmp_path.rglob("*.json")
    for text in ("", "[]", '{"finished": 3}', "\x00" * 40):
        file.write_text(text)
        assert later_of(tmp_path, "p") == Makings()
    keep_later(tmp_path, "p", Makings().with_finished(finished(planned, "square", tmp_path)))
    assert [f.row.id for f in later_of(tmp_path, "p").finished] == ["square"]
    with pytest.raises(ProjectError):
        keep_later("/proc/none", "p", Makings())


@pytest.mark.parametrize(
    ("coming", "said"),
    [
        ((Expected(51_200_000, 70.0), Expected(800_000, 8.0)), "about 1 min 20 s · 52 MB"),
        ((Expected(4_260_000, 0.2),), "about 1 s · 4.3 MB"),
        ((Expected(48_000, 119.0),), "about 2 min · 48 kB"),
        ((Expected(2_000_000_000, 7_500.0),), "about 2 h 5 min · 2000 MB"),
        ((Expected(1, 1.0), None), ""),
        ((), ""),
    ],
)
def test_what_is_to_come_is_told_in_words_once_it_is_known_of_all(coming, said):
    assert coming_said(coming) == said


def test_what_is_to_come_is_told_of_rows_that_are_not_made_or_wait(planned):
    row = listed_rows(planned, DELIVERY)[0]
    waits = Makings().with_ordered([Ordered(row, "/a")])
    for makings in (Makings(), waits):
        assert row_look(planned, row, makings, coming=Expected(12_400_000, 71.0)).said == "12 MB, 1 min 10 s"
        assert row_look(planned, row, makings).said == ""
    stopped = row_look(planned, row, waits.ended(), coming=Expected(12_400_000, 71.0))
    assert stopped.said == "goes on where it was"
