"""The handoff: what is written for whom, read back exactly, and usable by those who know nothing of us."""

import csv
import hashlib
import io
import json
import runpy
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import jsonschema
import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.errors import TimelineError
from ezvar.core.framing import crop_windows, plain
from ezvar.core.lock import take_lock
from ezvar.core.model import Caption, CaptionTrack, Keyframe, Master, Note, Pane, Reason, ReviewNote, Span
from ezvar.core.planning import handed_out, taken_in
from ezvar.core.review import (
    PARTS,
    Asked,
    compare,
    decisions_schema,
    edl_texts,
    halfway,
    overlap,
    planned_handoff,
    read_return,
    returned_of,
    seen_from_ours,
    take,
    timeline_of,
)
from ezvar.core.review.decision import digest
from ezvar.core.review.out.decisions import COLUMNS, decisions_csv
from ezvar.core.store import load_project, save_project
from ezvar.demo import DEMO_TIMELINE

from ..strategies import documents

DOCS = Path(__file__).parents[2] / "docs"


def only(*parts):
    return Asked(frozenset(parts))


@settings(max_examples=20)
@given(documents(3))
def test_every_decision_comes_back_exactly_as_json_and_from_the_table(tmp_path_factory, doc):
    folder = tmp_path_factory.mktemp("h")
    handed, files = handed_out(doc, folder, only("json", "csv"))
    if not doc.masters:
        assert files == []
        return
    empty = replace(handed, framings=())
    for file in (f for f in files if f.suffix == ".json"):
        merged, taken = taken_in(empty, file, ["/media"])
        assert {(f.shot, f.master): f for f in merged.framings} == {(f.shot, f.master): f for f in doc.framings}
        assert taken.problems == ()
    for file in (f for f in files if f.suffix in (".json", ".csv")):
        taken = take(handed, file)
        assert (taken.taken, taken.conflicts, taken.same) == ((), (), len(doc.framings))


def test_a_table_that_a_spreadsheet_saved_again_changes_what_was_changed_alone(planned, tmp_path):
    """Rounded, with other separators and commas, columns moved and added, rows in another order."""
    doc = edits.set_framings(planned, [
        replace(f, panes=(replace(f.panes[0], keys=(Keyframe(0, 0.123456789, angle=-1.5), Keyframe(9, 1 / 3))),))
        for f in planned.framings
    ])  # fmt: skip
    doc, _ = handed_out(doc, tmp_path / "out", only("csv"))
    (file,) = (tmp_path / "out").glob("*.csv")
    rows = list(csv.DictReader(io.StringIO(file.read_bytes().decode("utf-8-sig"), newline="")))
    assert tuple(rows[0]) == COLUMNS
    for row in rows:
        for column in ("Centre across", "Zoom", "Angle"):
            row[column] = f"{float(row[column]):.4f}".replace(".", ",")
        row["Remarks"] = "=1+1"
    first = next(r for r in rows if r["Frame of shot"] == "9")
    first["Centre across"] = "0,7"
    for row in rows[-2:]:
        row["Verdict"] = "Change"
    out = io.StringIO()
    table = csv.DictWriter(out, ["Remarks", *reversed(COLUMNS)], delimiter=";")
    table.writeheader()
    table.writerows(reversed(rows))
    (back := tmp_path / "back.csv").write_text(out.getvalue(), "utf-8-sig")
    merged, taken = taken_in(doc, back)
    assert (len(taken.taken), taken.conflicts, taken.same) == (2, (), len(doc.framings) - 2)
    moved, said = (merged.framing(*(r[c].lstrip("'") for c in ("Shot id", "Master id"))) for r in (first, rows[-1]))
    assert moved.panes[0].keys == (Keyframe(0, 0.123456789, angle=-1.5), Keyframe(9, 0.7))
    assert said.verdict == "change"
    first["Zoom"], rows[-1]["Frame of shot"] = "wide", "1e99"
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, extrasaction="ignore")
    table.writeheader()
    table.writerows(rows)
    back.write_text(out.getvalue())
    assert len(take(doc, back).problems) == 2
    text = back.read_text()
    back.write_text(text.replace(rows[-1]["Master id"], "elsewhere"))
    assert "1 other master," in " ".join(take(doc, back).problems)
    back.write_text(text.replace(rows[-1]["Master id"], "elsewhere").replace(first["Master id"], "elsewhere"))
    with pytest.raises(TimelineError, match="no master of this project"):
        take(doc, back)
    back.write_text("Shot,Name\n1,a\n")
    with pytest.raises(TimelineError, match="no column"):
        take(doc, back)


@pytest.mark.parametrize("odd", ["concat:/etc/hostname", [], {"a": 1}, None])
def test_facts_of_another_kind_count_as_not_said(handed, tmp_path, odd):
    doc, files = handed
    told = json.loads(next(f for f in files if f.suffix == ".otio").read_text())
    facts = told["metadata"]["ezvar"]
    facts["lock"]["frames"] = odd
    (back := tmp_path / "back.otio").write_text(json.dumps(told))
    assert take(doc, back).same > 0
    facts["master"]["width"] = odd
    back.write_text(json.dumps(told))
    assert "nothing was taken" in take(doc, back).problems[0]


HOSTILE = (b"NaN", b"1e999", b"-1", b"null", b"\x00", b"=cmd()", b"[]", b"{}", b"\xff\xfe", b"9" * 400, b'"', b",;\t")


@settings(max_examples=60)
@given(data=st.data())
def test_a_damaged_return_is_refused_or_taken_item_by_item(handed, tmp_path_factory, data):
    doc, files = handed
    file = data.draw(st.sampled_from(files))
    damaged = bytearray(file.read_bytes())
    for _ in range(data.draw(st.integers(1, 5))):
        at = data.draw(st.integers(0, max(0, len(damaged) - 1)))
        end = at + data.draw(st.integers(0, 80))
        damaged[at:end] = data.draw(st.sampled_from([*HOSTILE, b"", bytes(damaged[end : end + 200])]))
    back = tmp_path_factory.mktemp("back") / f"back{file.suffix}"
    back.write_bytes(damaged)
    try:
        merged, taken = taken_in(doc, back)
    except TimelineError:  # in a sentence, and nothing was taken
        return
    assert {(f.shot, f.master) for f in merged.framings} == {(f.shot, f.master) for f in doc.framings}
    untouched = {(f.shot, f.master) for f in doc.framings} - {(f.shot, f.master) for f in taken.taken}
    assert all(merged.framing(*key) == doc.framing(*key) for key in untouched)


@pytest.fixture(scope="module")
def handed(planned, tmp_path_factory):
    """Decisions handed out, and the files that may come back."""
    doc, files = handed_out(planned, tmp_path_factory.mktemp("handed"), only("otio", "edl", "json", "csv"))
    return doc, [f for f in files if f.suffix in (".otio", ".edl", ".json", ".csv")]


def test_no_cell_begins_a_formula_and_plain_numbers_stay(planned):
    shot, master = planned.shots[0], planned.masters[0]
    named = replace(planned, masters=(replace(master, name="=cmd|' /C calc'!A0"), *planned.masters[1:]))
    turned = replace(planned.framing(shot.id, master.id), panes=(Pane((Keyframe(0, -0.25, angle=-3.0),)),))
    text = decisions_csv(edits.set_framings(named, [turned]), named.masters)
    rows = list(csv.reader(io.StringIO(text, newline="")))
    cells = [cell for row in rows for cell in row]
    assert "'=cmd|' /C calc'!A0" in cells
    assert not any(cell.startswith(("=", "+", "@")) for cell in cells)
    assert {"-0.25", "-3.0"} <= set(cells)


def test_those_who_know_nothing_of_us_find_windows_doubts_captions_and_titles(planned, tmp_path):
    shot, master = planned.shots[0], planned.masters[0]
    own = replace(
        planned.framing(shot.id, master.id), panes=(Pane((Keyframe(0, 0.3), Keyframe(12, 0.6))),),
        reasons=(Reason("face cut", 0.6),),
    )  # fmt: skip
    doc = edits.set_framings(planned, [own])
    doc = edits.add_track(doc, CaptionTrack("t", "English", (Caption("c", 400, 1200, (Span("Good evening"),)),)))
    doc = replace(doc, lock=replace(doc.lock, notes=(Note("look here", 5, 9),)))
    timeline = otio.adapters.read_from_string(timeline_of(doc, master).to_json_string(), "otio_json")
    clip = timeline.find_clips()[0]
    (effect,), (doubtful,) = (list(each) for each in (clip.effects, clip.markers))
    told = effect.metadata["window"]
    lines = [w for w in crop_windows(doc, master) if w.shot == 1]
    for said in told["windows"]:
        window = lines[said["frame"]].window
        found = [said[name] for name in ("x", "y", "width", "height")]
        assert found == pytest.approx([window.left, window.top, window.width, window.height], abs=1e-3)
    assert [w["frame"] for w in told["windows"]] == [0, 12, shot.frames - 1]
    assert (doubtful.name, doubtful.marked_range) == ("Doubt 60", clip.source_range)
    assert "face" in doubtful.comment
    assert [m.name for m in timeline.tracks.markers] == ["look here", "Good evening"]
    bounds = clip.media_reference.available_image_bounds
    assert bounds.max.x - bounds.min.x == doc.media_of(shot).width


def test_the_published_schema_is_that_of_what_is_written(planned, tmp_path):
    schema = json.loads((DOCS / "interchange.schema.json").read_text())
    assert schema == json.loads(json.dumps(decisions_schema()))
    _, files = handed_out(planned, tmp_path, only("json"))
    jsonschema.validate(told := json.loads(files[0].read_text()), schema)
    told["masters"][0]["decisions"][0]["framing"]["panes"][0]["keys"][0]["zoom"] = "wide"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(told, schema)


def test_a_script_of_twenty_lines_rebuilds_resting_windows(planned, tmp_path, capsys, monkeypatch):
    handed_out(planned, tmp_path, only("otio"))
    script = DOCS / "windows_from_timeline.py"
    assert len([line for line in script.read_text().splitlines() if line.strip()]) <= 20
    monkeypatch.setattr("sys.argv", [str(script), str(tmp_path / "walk 9x16.otio")])
    runpy.run_path(str(script), run_name="__main__")
    said = [line.split("\t") for line in capsys.readouterr().out.splitlines()]
    windows = list(crop_windows(planned, planned.masters[0]))
    resting = [f for f in planned.framings if f.master == planned.masters[0].id and len(f.panes[0].keys) == 1]
    assert resting
    for framing in resting:
        place = planned.place_of(framing.shot) + 1
        window = next(w.window for w in windows if w.shot == place)
        x, y, width, height = (float(v) for v in next(row[2:6] for row in said if row[0] == f"Shot {place}"))
        assert (x, y) == pytest.approx((window.left, window.top), abs=1)
        assert (width, height) == pytest.approx((window.width, window.height), abs=1)


def test_a_plain_reader_that_shifts_a_timeline_keeps_all_decisions(planned, tmp_path):
    doc, (file, *_) = handed_out(planned, tmp_path / "out", only("otio"))
    timeline = otio.adapters.read_from_file(str(file))
    timeline.global_start_time += otio.opentime.RationalTime(3600 * 25, 25)
    timeline.name = "shifted"
    otio.adapters.write_to_file(timeline, str(tmp_path / "back.otio"))
    taken = take(doc, tmp_path / "back.otio")
    assert (taken.taken, taken.same, taken.problems) == ((), len(doc.shots), ())


def test_layers_of_the_lock_are_on_upper_tracks_as_they_were(tmp_path):
    lock = take_lock(DEMO_TIMELINE).doc
    master = Master("m", "9:16", 1080, 1920)
    doc = edits.add_master(lock, master)
    (tmp_path / "t.otio").write_text(timeline_of(doc, master).to_json_string())
    again = take_lock(tmp_path / "t.otio").doc
    assert [(n.name, n.start, n.end, n.comes, n.goes, n.placement, n.opacity) for n in again.lock.layers] == [
        (n.name, n.start, n.end, n.comes, n.goes, n.placement, n.opacity) for n in lock.lock.layers
    ]
    assert [(s.start, s.end, s.source.start, s.placement) for s in again.shots] == [
        (s.start, s.end, s.source.start, s.placement) for s in lock.shots
    ]


def test_what_other_programs_note_in_a_timeline_is_handed_out_as_it_was(tmp_path):
    timeline = otio.adapters.read_from_file(str(DEMO_TIMELINE))
    noted = {"lab": {"reel": "A017", "grade": [0.1, 1.0, "warm"], "at": otio.opentime.RationalTime(3, 25)}}
    timeline.metadata.update({"house": {"job": 7}})
    for clip in timeline.find_clips():
        clip.metadata.update({**noted, "ours to find": clip.name})
        clip.media_reference.metadata.update({"scan": clip.name})
    mixes = [item for item in timeline.video_tracks()[0] if isinstance(item, otio.schema.Transition)]
    for number, item in enumerate((timeline.tracks, *timeline.tracks, *mixes)):
        item.metadata.update({"item": {"number": number}})
    above = timeline.video_tracks()[1]
    fades = [item for item in above if isinstance(item, otio.schema.Transition)]
    for number, item in enumerate(fades):
        item.metadata.update({"fade": number})
    sharper = otio.schema.Effect("crisp", "sharpen", {"lab": {"radius": 0.1}})
    marked = [
        timeline.video_tracks()[0].find_clips()[0],
        above.find_clips()[0],
        timeline.audio_tracks()[0].find_clips()[0],
    ]
    for clip in marked:
        clip.effects.append(sharper.clone())
    marked[0].effects.append(otio.schema.LinearTimeWarp("slow", time_scalar=0.5, metadata={"why": "dreamy"}))
    (tmp_path / "t.otio").write_text(timeline.to_json_string())
    doc = edits.add_master(take_lock(tmp_path / "t.otio", None, [DEMO_TIMELINE.parent]).doc, Master("m", "m", 90, 160))
    save_project(doc, tmp_path / "p.ezvar")
    again = timeline_of(load_project(tmp_path / "p.ezvar"), doc.masters[0])
    assert again.metadata["house"]["job"] == 7
    before = [c for t in timeline.video_tracks() for c in t.find_clips()]
    after = [c for t in again.video_tracks() for c in t.find_clips() if c.media_reference.name != "black"]
    assert [c.metadata["ours to find"] for c in after] == [c.name for c in before]
    assert [c.media_reference.metadata["scan"] for c in after] == [c.name for c in before]
    goes = [item for item in again.video_tracks()[0] if isinstance(item, otio.schema.Transition)]
    told = [i.metadata["item"]["number"] for i in (again.tracks, *again.tracks, *goes) if "item" in i.metadata]
    assert told == list(range(1 + len(timeline.tracks) + len(mixes)))
    heard = [
        [c.metadata["ours to find"] for t in each.audio_tracks() for c in t.find_clips()] for each in (timeline, again)
    ]
    assert heard[0] == heard[1] != []
    above = again.video_tracks()[1]
    faded = [item.metadata["fade"] for item in above if isinstance(item, otio.schema.Transition)]
    assert faded == list(range(len(fades))) != []
    for clip in (
        again.video_tracks()[0].find_clips()[0],
        above.find_clips()[0],
        again.audio_tracks()[0].find_clips()[0],
    ):
        (effect,) = (e for e in clip.effects if e.effect_name == "sharpen")
        assert (effect.name, effect.metadata["lab"]["radius"]) == ("crisp", 0.1)
    assert [e.metadata["why"] for c in again.find_clips() for e in c.effects if "why" in e.metadata] == ["dreamy"]
    (tmp_path / "t.otio").write_text(again.to_json_string())
    twice = timeline_of(take_lock(tmp_path / "t.otio", None, [DEMO_TIMELINE.parent]).doc, doc.masters[0])
    assert [len(c.effects) for c in twice.find_clips()] == [
        sum(e.effect_name != "window" for e in c.effects) for c in again.find_clips()
    ]
    assert all(c.metadata["lab"]["at"] == otio.opentime.RationalTime(3, 25) for c in after)
    assert list(after[0].metadata["lab"]["grade"]) == [0.1, 1.0, "warm"]
    huge = timeline.find_clips()[0]
    huge.metadata["note"] = "x" * 100_000
    (tmp_path / "t.otio").write_text(timeline.to_json_string())
    assert any("too much" in said for said in take_lock(tmp_path / "t.otio").doc.lock.left_out)


def test_lists_say_windows_in_comments_and_are_split_at_999_events(planned):
    master = planned.masters[0]
    (text,) = edl_texts(planned, master)
    first = next(w.window for w in crop_windows(planned, master))
    said = next(line for line in text.splitlines() if line.startswith("* WINDOW"))
    values = dict(zip(said.split()[3::2], map(float, said.split()[4::2]), strict=True))
    assert (values["X"], values["W"]) == pytest.approx((first.left, first.width), abs=0.5)
    assert "* VERDICT OPEN" in text
    shots = tuple(replace(planned.shots[0], id=f"s{k}", start=k, end=k + 1, cut=None) for k in range(1200))
    long = replace(planned, lock=replace(planned.lock, frames=1200), shots=shots, framings=())
    texts = edl_texts(long)
    assert [text.count("* FROM CLIP NAME") for text in texts] == [999, 201]
    assert all(sum(line[:3].isdigit() for line in t.splitlines()) <= 999 for t in texts)
    plan = planned_handoff(long, ".", only("edl"))
    assert "in 2 parts" in plan.told[0]
    assert sum(f.name.endswith(".edl") for f in plan.files) == 2 * len(long.masters)


def test_windows_and_verdicts_come_back_in_a_list(planned, tmp_path):
    master, (resting, moving, said, *_) = planned.masters[0], planned.shots
    path = Pane((Keyframe(0, 0.3), Keyframe(9, 0.5), Keyframe(19, 0.6)))
    still = Pane((Keyframe(0, 0.4, zoom=1.3),))
    doc = edits.set_framings(planned, [
        replace(planned.framing(moving.id, master.id), panes=(path,)),
        replace(planned.framing(resting.id, master.id), panes=(still,)),
    ])  # fmt: skip
    doc, files = handed_out(doc, tmp_path / "out", only("edl"))
    file = next(f for f in files if f.name == "walk 9x16.edl")
    taken = take(doc, file)
    assert (taken.taken, taken.conflicts, taken.same, taken.problems) == ((), (), len(doc.shots), ())
    lines, shot = file.read_text().splitlines(), 0
    wanted = {}
    for k, line in enumerate(lines):
        shot += line.startswith("* SHOT")
        if line.startswith("* WINDOW") and shot in (1, 2):
            words = line.split()
            words[6] = f"{float(words[6]) + 10:.3f}"
            wanted.setdefault(shot, []).append(float(words[6]))
            lines[k] = " ".join(words)
        if line == "* VERDICT OPEN" and shot == 3:
            lines[k] = "* VERDICT CHANGE"
    (back := tmp_path / "back.edl").write_text("\r\n".join(lines))
    merged, taken = taken_in(doc, back)
    assert (len(taken.taken), taken.conflicts) == (3, ())
    assert taken.problems == (f"Shot 2 in {master.name}: between its keyframes the window goes evenly.",)
    assert merged.framing(said.id, master.id).verdict == "change"
    rows = [w for w in crop_windows(merged, master) if w.part == 0]
    assert len(merged.framing(resting.id, master.id).panes[0].keys) == 1
    for number, at in ((1, resting), (2, moving)):
        for frame, left in zip((0, 9, 19), wanted[number], strict=False):
            row = next(w for w in rows if w.frame == at.start + frame)
            assert row.window.left == pytest.approx(left, abs=0.5)
    (tmp_path / "cuts.edl").write_text(edl_texts(doc)[0])
    with pytest.raises(TimelineError, match="no reframe decisions"):
        take(doc, tmp_path / "cuts.edl")


def test_the_cut_goes_out_as_an_aaf_and_what_that_loses_is_said(tmp_path):
    doc = edits.add_master(take_lock(DEMO_TIMELINE).doc, Master("m", "m", 90, 160))
    plan = planned_handoff(doc, tmp_path, only("aaf"))
    assert "dissolve" in plan.told[0]
    _, (file, *_) = handed_out(doc, tmp_path, only("aaf"))
    again = take_lock(file).doc
    assert [(s.start, s.end) for s in again.shots] == [(s.start, s.end) for s in doc.shots]
    for shot, found in zip(doc.shots, again.shots, strict=True):
        media, other = doc.media_of(shot), again.media_of(found)
        assert (media.kind == "black") == (other.kind == "black")
        if media.kind == "movie":
            assert other.name == media.name
            sides = (media.origin + shot.source.start / media.rate.fraction, other.origin + found.source.start / 25)
            assert float(sides[0]) == pytest.approx(float(sides[1]), abs=0.041)
    alone = Asked(frozenset({"aaf"}), (), (doc.shots[2].id,))
    _, (file, *_) = handed_out(doc, tmp_path / "alone", alone)
    again = take_lock(file).doc
    assert [s.start for s in again.shots if again.media_of(s).kind != "black"] == [doc.shots[2].start]


def test_parts_masters_and_shots_are_chosen_and_all_is_named_and_summed(planned, tmp_path):
    doc = edits.add_track(planned, CaptionTrack("t", "English", (Caption("c", 400, 1200, (Span("Good"),)),)))
    asked = Asked(frozenset(PARTS), (doc.masters[0].id,), (doc.shots[1].id,))
    handed, files = handed_out(doc, tmp_path / "out", asked)
    assert {(e.shot, e.master) for e in handed.exchanged} == {(doc.shots[1].id, doc.masters[0].id)}
    names = {str(f.relative_to(tmp_path / "out")) for f in files}
    planned = {file.name for file in planned_handoff(doc, tmp_path / "out", asked).files}
    assert planned | {"checksums.sha256"} == names
    read = (tmp_path / "out" / "README.txt").read_text()
    assert all(name in read for name in names if "/" not in name and name != "README.txt")
    for line in (tmp_path / "out" / "checksums.sha256").read_text().splitlines():
        digest, name = line.split("  ", 1)
        assert hashlib.sha256((tmp_path / "out" / name).read_bytes()).hexdigest() == digest
    told = json.loads((tmp_path / "out" / "walk decisions.json").read_text())
    assert [d["number"] for m in told["masters"] for d in m["decisions"]] == [2]
    picture = otio.adapters.read_from_file(str(tmp_path / "out" / "walk 9x16.otio")).video_tracks()[0]
    assert [c.name for c in picture.find_clips()] == ["Shot 2"]
    assert picture.find_clips()[0].range_in_parent().start_time.value == doc.shots[1].start
    table = (tmp_path / "out" / "walk windows.csv").read_text("utf-8-sig").splitlines()
    assert len(table) == 1 + doc.shots[1].frames


@settings(max_examples=25)
@given(documents(2), st.data())
def test_what_differs_is_told_with_whose_it_is_and_how_far_apart(doc, data):
    changed = [f for f in doc.framings if data.draw(st.booleans())]
    theirs = edits.set_framings(doc, [edits_of(f, 0.21) for f in changed])
    ours = edits.set_framings(doc, [edits_of(f, data.draw(st.sampled_from([0.21, 0.77]))) for f in changed[::2]])
    for master in doc.masters:
        compared, problems = compare(ours, returned_of(theirs, master, doc))
        assert problems == []
        for each in compared:
            was, now = doc.framing(each.theirs.shot, master.id), ours.framing(each.theirs.shot, master.id)
            assert each.ours == now
            sides = (digest(now) != digest(was), digest(each.theirs) != digest(was))
            said = {(True, False): "ours", (False, True): "theirs", (True, True): "both", (False, False): "same"}[sides]
            assert each.state == ("same" if digest(now) == digest(each.theirs) else said)
            assert overlap(ours, now, now) == pytest.approx(1)
            share = overlap(ours, now, each.theirs)
            assert 0 <= share <= 1
            assert share == pytest.approx(overlap(ours, each.theirs, now))


def edits_of(framing, cx):
    return replace(framing, panes=(Pane((Keyframe(0, cx, angle=0.0),)),), arrangement=None, sound=-1)


def test_windows_that_share_half_of_themselves_overlap_by_a_third(planned):
    shot, master = planned.shots[0], planned.masters[0]
    width = next(crop_windows(planned, master)).window.width / planned.lock.width
    one, other = (edits_of(planned.framing(shot.id, master.id), cx) for cx in (0.4, 0.4 + width / 2))
    assert overlap(planned, one, other) == pytest.approx(1 / 3, abs=0.01)


def test_halfway_lies_in_the_middle_of_both_whoever_is_first(planned):
    shot, master = planned.shots[0], planned.masters[0]
    framing = planned.framing(shot.id, master.id)
    one = replace(framing, panes=(Pane((Keyframe(0, 0.3), Keyframe(10, 0.5))),))
    other = replace(framing, panes=(Pane((Keyframe(0, 0.5, zoom=4.0, angle=8.0),)),), verdict="agreed")
    there, back = halfway(one, other), halfway(other, one)
    assert [(k.frame, k.cx, k.zoom, k.angle) for k in there.panes[0].keys] == [(0, 0.4, 2.0, 4.0), (10, 0.5, 2.0, 4.0)]
    assert [replace(k, ease="both") for k in there.panes[0].keys] == [
        replace(k, ease="both") for k in back.panes[0].keys
    ]
    assert (there.decided, back.verdict) == ("from review", "open")
    with pytest.raises(ValueError, match="other panes"):
        halfway(one, replace(other, panes=other.panes * 2))


def test_where_theirs_stands_in_ours_is_told_in_parts_of_our_window(planned):
    shot, master = planned.shots[0], planned.masters[0]
    one, other = (edits_of(planned.framing(shot.id, master.id), cx) for cx in (0.4, 0.5))
    place = seen_from_ours(planned, one, other, 3)
    width = next(crop_windows(planned, master)).window.width / planned.lock.width
    assert (place.x, place.y, place.width, place.height) == pytest.approx((0.1 / width, 0, 1, 1), abs=1e-6)
    assert seen_from_ours(planned, one, replace(other, panes=other.panes * 2), 3) is None


def test_decisions_are_carried_to_other_cuts_and_to_a_shorter_edit_by_what_shots_show(planned, tmp_path):
    """Their shot is cut in two here; and another edit of the same rushes shows a part of it, later."""
    doc = planned
    shot, master = doc.shots[1], doc.masters[0]
    moved = replace(doc.framing(shot.id, master.id), panes=(Pane(keys=(Keyframe(0, 0.2), Keyframe(10, 0.6))),))
    note = ReviewNote("n", shot.id, master.id, 12, 13, "Director", "2026-01-31T12:00:00Z", "Nearer")
    theirs = edits.say_note(edits.set_framings(doc, [moved]), note)
    handed_out(replace(theirs, exchanged=handed_out(doc, tmp_path / "sent")[0].exchanged), tmp_path / "out")
    cut = edits.add_cut(doc, shot.start + 8)
    for file in (tmp_path / "out").glob("*decisions.json"):
        (back,) = [r for r in read_return(cut, file) if r.master_name == master.name]
        found = {c.ours.shot: c for c in compare(cut, back)[0] if c.ours is not None}
        halves = cut.shots[1:3]
        assert [found[h.id].state for h in halves] == ["theirs", "theirs"]
        assert [[k.frame for k in found[h.id].theirs.panes[0].keys] for h in halves] == [[0, 10], [-8, 2]]
        merged, _ = taken_in(cut, file)
        assert [(n.shot, n.start) for n in merged.notes] == [(halves[1].id, 4)]
    source = shot.source.later(5)
    shorter = replace(shot, id="x", start=0, end=10, source=source, cut=None)
    other = replace(doc, lock=replace(doc.lock, frames=10, name="shorter"), shots=(shorter,), framings=(), exchanged=())
    other = edits.set_framings(other, [plain(other, shorter, master)])
    for file in (tmp_path / "out").glob("*"):
        if file.suffix not in (".json", ".otio") or file.name.startswith("ezvar-"):
            continue
        backs = [r for r in read_return(other, file) if r.master_name == master.name]
        if backs:
            (carried,) = [c for c in compare(other, backs[0])[0] if c.ours is not None]
            assert carried.theirs.panes == moved.later(5).panes
    strange = replace(
        other, lock=replace(other.lock, media=tuple(replace(m, content="y", name="y") for m in other.lock.media))
    )
    with pytest.raises(TimelineError, match="another lock"):
        read_return(strange, next((tmp_path / "out").glob("*decisions.json")))


@pytest.mark.skipif(shutil.which("soffice") is None, reason="there is no spreadsheet program here (libreoffice-calc)")
def test_a_table_that_a_real_spreadsheet_saved_again_comes_back(planned, tmp_path):
    """With ids that look like numbers, numbers of many digits, and a note that begins a formula."""
    doc = edits.say_note(
        planned, ReviewNote("n", planned.shots[0].id, "", 0, 1, "=1+1", "2026-01-31T12:00:00Z", "=HYPERLINK(1)")
    )
    odd = {doc.shots[0].id: "00123456", doc.shots[1].id: "12e34567"}
    shots = tuple(replace(s, id=odd.get(s.id, s.id)) for s in doc.shots)
    keys = (Keyframe(0, 0.123456789012345, angle=-1.5), Keyframe(9, 1 / 3, zoom=1.23456789012))
    framings = [replace(f, shot=odd.get(f.shot, f.shot), panes=(Pane(keys=keys),)) for f in doc.framings]
    notes = tuple(replace(n, shot=odd.get(n.shot, n.shot)) for n in doc.notes)
    doc = replace(doc, shots=shots, framings=tuple(framings), notes=notes)
    handed, (table, *_) = handed_out(doc, tmp_path / "out", only("csv"))
    subprocess.run(
        ["soffice", "--headless", f"-env:UserInstallation={(tmp_path / 'profile').as_uri()}", "--convert-to",
         "csv:Text - txt - csv (StarCalc):44,34,76,1", "--outdir", str(tmp_path / "back"), str(table)],
        check=True, capture_output=True, timeout=120,
    )  # fmt: skip
    (back,) = (tmp_path / "back").glob("*.csv")
    text = back.read_text()
    assert "'=1+1" in text
    taken = take(handed, back)
    assert (taken.problems, taken.taken, taken.conflicts, taken.same) == ((), (), (), len(framings))
    back.write_text(text.replace("0.123456789012345", "0.2").replace("00123456", "00123456"))
    taken = take(handed, back)
    assert {f.panes[0].keys[0].cx for f in taken.taken} == {0.2}
    assert len(taken.taken) == len(framings)
