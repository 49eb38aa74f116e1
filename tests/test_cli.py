"""The command line, from a movie to finished masters; and one plain line for whatever cannot be."""

import csv
import io
import json
import shutil
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest

from ezvar.cli import main
from ezvar.core import edits
from ezvar.core.encoding import DELIVERY
from ezvar.core.media import probe
from ezvar.core.model import Keyframe, Makings, Ordered, Pane, listing
from ezvar.core.output import RECEIVER, known_receivers, listed_rows
from ezvar.core.store import load_project, packed, save_project

from .conftest import DEMO
from .media import make_movie, scenes


def run(capsys, *arguments):
    status = main([str(a) for a in arguments])
    said = capsys.readouterr()
    return status, said.out, said.err


def test_from_a_movie_to_finished_masters(capsys, edit, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert run(capsys, "plan", edit, "--master", "tall=90x160", "--master", "square=96x96", "-o", "p.ezvar") == (
        0,
        "",
        "",
    )
    doc = load_project("p.ezvar")
    assert [s.start for s in doc.shots] == [0, 20, 40, 60]

    status, out, _ = run(capsys, "windows", "p.ezvar", "--master", "tall")
    rows = list(csv.DictReader(io.StringIO(out)))
    assert (status, len(rows)) == (0, 80)
    assert list(rows[0]) == ["master", "frame", "shot", "layer", "pane", "x", "y", "width", "height", "angle"]
    assert [int(r["shot"]) for r in rows[::20]] == [1, 2, 3, 4]
    for row in rows:
        x, width = float(row["x"]), float(row["width"])
        assert 0 <= x <= 320 - width + 0.001
        assert width / float(row["height"]) == pytest.approx(90 / 160, rel=1e-3)

    status, out, _ = run(capsys, "handoff", "p.ezvar", "-o", "h")
    assert status == 0
    assert out.split("\n")[:2] == ["h/walk tall.otio", "h/walk square.otio"]
    assert run(capsys, "take", "p.ezvar", "h/walk tall.otio") == (0, "0 taken, 4 the same, 0 in conflict\n", "")
    chosen = ("handoff", "p.ezvar", "-o", "part h", "--json", "--windows", "--master", "tall", "--shots", "2-3,4")
    status, out, _ = run(capsys, *chosen, "--list")
    names = [line.partition(":")[0] for line in out.splitlines()]
    assert names == ["walk decisions.json", "walk windows.csv", "README.txt", "checksums.sha256"]
    assert not Path("part h").exists()
    assert run(capsys, *chosen)[:2] == (0, "".join(f"part h/{name}\n" for name in names))
    assert run(capsys, "take", "p.ezvar", "part h/walk decisions.json")[1] == "0 taken, 3 the same, 0 in conflict\n"
    doc = load_project("p.ezvar")
    changed = edits.set_verdict(doc, doc.shots[0].id, doc.masters[0].id, "change")
    save_project(changed, "theirs.ezvar")
    run(capsys, "handoff", "theirs.ezvar", "-o", "back", "--json")
    differs = "shot 1 in tall: {}, windows overlap by 100 %, open here and change there\n"
    assert run(capsys, "compare", "p.ezvar", "theirs.ezvar") == (1, differs.format("differs"), "")
    assert run(capsys, "compare", "p.ezvar", "p.ezvar") == (0, "", "")
    listed = ("take", "p.ezvar", "back/walk decisions.json", "--list")
    assert run(capsys, *listed) == (1, differs.format("changed by them"), "")
    save_project(edits.set_verdict(doc, doc.shots[0].id, doc.masters[0].id, "agreed"), "p.ezvar")
    assert run(capsys, *listed)[1].startswith("shot 1 in tall: changed by both")
    assert "1 in conflict" in run(capsys, "take", "p.ezvar", "back/walk decisions.json")[1]
    assert "1 taken, 7 the same, 0 in" in run(capsys, "take", "p.ezvar", "back/walk decisions.json", "--theirs")[1]
    assert load_project("p.ezvar").framings[0].verdict == "change"
    save_project(doc, "p.ezvar")
    assert "no shot “9”" in run(capsys, "handoff", "p.ezvar", "-o", "h", "--shots", "9")[2]

    assert run(capsys, "make", "p.ezvar", "-o", "out")[:2] == (0, "out/walk tall.mp4\nout/walk square.mp4\n")
    facts = probe("out/walk tall.mp4")
    assert (facts.width, facts.height, facts.frames, facts.rate) == (90, 160, 80, doc.lock.rate)
    status, out, _ = run(
        capsys, "make", "p.ezvar", "--master", "square", "--preset", "prores HQ", "--json", "-o", "out"
    )
    told = json.loads(out)
    assert (status, told["file"], told["problems"], told["frames"]) == (0, "out/walk square.mov", [], 80)
    assert probe("out/walk square.mov").frames == 80
    for name, said in (("mezzanine", "several presets"), ("film", "no preset")):
        status, out, err = run(capsys, "make", "p.ezvar", "--preset", name, "-o", "out")
        assert (status, out, said in err) == (2, "", True)
    assert run(capsys, "make", "p.ezvar", "--master", "square", "--range", "10-30", "-o", "part")[0] == 0
    assert probe("part/walk square.mp4").frames == 20
    assert run(capsys, "check", "p.ezvar") == (0, "", "")
    assert run(capsys, "make", "p.ezvar", "--rows", "2", "-o", "second")[:2] == (0, "second/walk square.mp4\n")
    assert "no row 3" in run(capsys, "make", "p.ezvar", "--rows", "square,3", "-o", "second")[2]
    assert run(capsys, "make", "p.ezvar", "--rows", "tall", "--master", "square", "-o", "second")[0] == 2

    status, out, _ = run(capsys, "check", "p.ezvar", "--made", "out")
    assert (status, out.count("as it should be")) == (0, 2 * 5)
    shutil.copy("out/walk square.mp4", "second/walk square.mp4")
    moved = load_project("p.ezvar")
    aside = replace(moved.framings[4], panes=(Pane((Keyframe(0, 0.9),)),))
    save_project(edits.set_framings(moved, [aside]), "q.ezvar")
    status, out, _ = run(capsys, "check", "q.ezvar", "--made", "second", "--json")
    tall, square = json.loads(out)["made"]
    assert (status, tall["file"], square["file"]) == (1, None, "second/walk square.mp4")
    (differs,) = [check["flaws"] for check in square["checks"] if check["flaws"]]
    assert all("in shot 1" in flaw["said"] and flaw["end"] <= 20 for flaw in differs)

    assert run(capsys, "still", "p.ezvar", "--master", "tall", "--at", "12", "-o", "a.png")[:2] == (0, "a.png\n")
    assert run(capsys, "still", "p.ezvar", "--master", "tall", "-o", "all.jpg")[:2] == (0, "all.jpg\n")
    assert "has no poster" in run(capsys, "still", "p.ezvar", "--master", "tall", "--at", "poster", "-o", "a.png")[2]
    assert "outside the lock" in run(capsys, "still", "p.ezvar", "--master", "tall", "--at", "80", "-o", "a.png")[2]


def test_unfinished_rows_go_on_as_they_were_ordered_or_are_made_again(capsys, planned, tmp_path):
    """A project whose making was broken off, and that has changed since."""
    row = listed_rows(planned, DELIVERY)[0]
    revision = packed(planned)
    wide = edits.change_master(planned, replace(planned.masters[0], width=320, height=180))
    makings = Makings().with_ordered([Ordered(row, str(tmp_path / "x.mp4"), revision.name, "stopped")], revision)
    save_project(edits.set_makings(wide, makings), tmp_path / "p.ezvar")
    for words, width in (((), 180), (("--again",), 320)):
        assert run(capsys, "make", tmp_path / "p.ezvar", "--rows", "1", *words, "-o", tmp_path)[0] == 0
        assert probe(tmp_path / "walk 9x16.mp4").width == width


def test_a_movie_is_sent_to_its_receiver(capsys, planned, tmp_path, monkeypatch):
    pretends = f"{sys.executable} -m ezvar.receiver --inbox {tmp_path / 'inbox'} --pace 0 --mood"
    monkeypatch.setenv(RECEIVER, f"{pretends} well")
    first = replace(listing(planned)[0], receiver=known_receivers()[0])
    save_project(edits.change_row(planned, first), tmp_path / "p.ezvar")
    assert "nothing to send" in run(capsys, "send", tmp_path / "p.ezvar")[2]
    (tmp_path / "walk 9x16.mp4").write_bytes(b"movie" * 1000)
    sent = run(capsys, "send", tmp_path / "p.ezvar", "--made", tmp_path)
    assert sent[:2] == (0, "9:16: accepted\n")
    monkeypatch.setenv(RECEIVER, f"{pretends} refuses")
    status, out, _ = run(capsys, "send", tmp_path / "p.ezvar", "--made", tmp_path, "--json")
    assert (status, json.loads(out)["said"]) == (1, "its shelf is full")


def test_cuts_as_json_and_as_a_list(capsys, edit):
    status, out, _ = run(capsys, "cuts", edit, "--json")
    said = json.loads(out)
    assert status == 0
    assert (said["media"], said["rate"], said["frames"]) == (str(edit), "25/1", 80)
    assert [(c["frame"], c["kind"], c["start"], c["end"]) for c in said["cuts"]] == [
        (n, "cut", n, n) for n in (20, 40, 60)
    ]
    assert {"strength", "doubt"} <= set(said["cuts"][0])
    assert run(capsys, "cuts", edit)[1].startswith("00:00:00:20  cut")


def test_conflicts_and_problems_are_listed_with_status_1(capsys, planned, tmp_path):
    project = tmp_path / "p.ezvar"
    save_project(planned, project)
    run(capsys, "handoff", project, "-o", tmp_path)
    doc = load_project(project)
    shot, master = doc.shots[2].id, doc.masters[0].id
    changed = edits.set_verdict(doc, shot, master, "change")
    save_project(changed, project)
    run(capsys, "handoff", project, "-o", tmp_path / "theirs")
    save_project(edits.set_verdict(doc, shot, master, "agreed"), project)
    status, out, _ = run(capsys, "take", project, tmp_path / "theirs" / "walk 9x16.otio")
    assert status == 1
    assert "1 in conflict\nshot 3 in 9:16: changed on both sides, ours is kept" in out
    save_project(replace(doc, framings=doc.framings[1:]), project)
    assert run(capsys, "check", project)[:2] == (1, "9:16: no framing is decided for shot 1.\n")


def test_check_lists_every_problem_a_line(capsys, tmp_path):
    movie = make_movie(tmp_path / "a.mp4", 40, picture=scenes)
    project = tmp_path / "p.ezvar"
    run(capsys, "plan", movie, "--master", "1:1", "-o", project)
    make_movie(movie, 40)
    assert run(capsys, "check", project)[:2] == (
        1,
        "a.mp4 is no longer the media that was taken in: its content differs.\n",
    )
    make_movie(movie, 30)
    assert "its length or rate differs" in run(capsys, "check", project)[1]
    movie.unlink()
    doc = load_project(project)
    save_project(edits.remove_master(doc, doc.masters[0].id), project)
    status, out, _ = run(capsys, "check", project)
    assert status == 1
    assert len(out.splitlines()) == 2
    assert "not there" in out.splitlines()[0]


def test_what_cannot_be_done_gets_one_line_and_status_2(capsys, edit, planned, tmp_path):
    project = tmp_path / "p.ezvar"
    save_project(planned, project)
    newer = tmp_path / "newer.ezvar"
    newer.write_text('{"ezvar": 2, "document": {}}')
    text = tmp_path / "letter.mp4"
    text.write_text("Dear editor")
    wrong = [
        ("cuts", text),
        ("cuts", tmp_path / "none.mp4"),
        ("plan", text, "--master", "9:16", "-o", tmp_path / "x.ezvar"),
        ("plan", edit, "--master", "tall", "-o", tmp_path / "x.ezvar"),
        ("plan", edit, "--master", "9:16", "--master", "9:16", "-o", tmp_path / "x.ezvar"),
        ("plan", edit, "--master", "9:16", "--rate", "24", "-o", tmp_path / "x.ezvar"),
        ("plan", edit, "--master", "9:16", "--rate", "quick", "-o", tmp_path / "x.ezvar"),
        ("plan", "cut.edl", "--master", "9:16", "-o", tmp_path / "x.ezvar"),
        ("plan", edit, "--master", "9:16", "-o", "/proc/none/x.ezvar"),
        ("windows", newer, "--master", "9:16"),
        ("windows", project, "--master", "4:5"),
        ("make", project, "--range", "5-500", "-o", tmp_path),
        ("make", project, "-o", "/proc/none"),
        ("take", project, text),
        ("handoff", tmp_path / "none.ezvar", "-o", tmp_path),
        ("doubts", text, "--json"),
        ("check", text),
    ]
    for arguments in wrong:
        status, out, err = run(capsys, *arguments)
        assert (status, out) == (2, ""), arguments
        assert err.startswith("ezvar: ")
        assert err.count("\n") == 1
    assert not (tmp_path / "x.ezvar").exists()


def test_colours_are_chosen_and_told(capsys, planned, tmp_path):
    project, cube = tmp_path / "p.ezvar", tmp_path / "warm.cube"
    save_project(planned, project)
    cube.write_text("LUT_1D_SIZE 2\n0 0 0\n1 0.9 0.8\n")
    assert main(["colours", str(project), "--table", str(cube), "--sdr"]) == 0
    assert capsys.readouterr().out == f"table: {cube}\nHDR: as SDR\n"
    name = Path(planned.lock.media[0].path).name
    assert main(["colours", str(project), "--no-table", "--media", name, "--hdr"]) == 0
    assert f"{name}: none\nHDR: as it is" in capsys.readouterr().out
    cube.write_text("LUT_1D_SIZE 2\n0 0 0\n")
    for wrong, said in (
        (["--table", str(cube)], "1 colours instead of 2"),
        (["--no-table", "--media", "x"], "no one media"),
    ):
        assert main(["colours", str(project), *wrong]) == 2
        assert said in capsys.readouterr().err


def test_doubts_are_listed_by_how_much(capsys):
    status, out, _ = run(capsys, "doubts", DEMO / "lantern-night.ezvar", "--json")
    found = json.loads(out)["doubts"]
    assert status == 0
    assert [d["doubt"] for d in found] == sorted((d["doubt"] for d in found), reverse=True)
    assert found[0]["shot"] == 3  # the lower third, which the tall window cuts
    assert 6 in [d["shot"] for d in found[:5]]  # two people, whom no tall window holds
    assert found[0]["reasons"] == ["Writing that can be read is cut by the window's edge, or left out."]
    assert {d["kind"] for d in found} == {"framing", "cut"}
    lines = run(capsys, "doubts", DEMO / "lantern-night.ezvar")[1].splitlines()
    assert len(lines) == len(found)
    assert any("01:00:19:20  shot 6 in 9:16" in line for line in lines[:5])


@pytest.mark.parametrize("arguments", [["frobnicate"], ["plan", "a.mp4"], ["cuts"], ["make", "p.ezvar"]])
def test_wrong_words_on_the_command_line(capsys, arguments):
    with pytest.raises(SystemExit) as caught:
        main(arguments)
    assert caught.value.code == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert "--help" in said


def test_it_runs_as_a_program_and_is_silent_in_a_pipe(edit):
    done = subprocess.run([sys.executable, "-m", "ezvar", "cuts", edit, "--json"], capture_output=True, text=True)
    assert (done.returncode, done.stderr) == (0, "")
    assert len(json.loads(done.stdout)["cuts"]) == 3
    closed = subprocess.run(f"{sys.executable} -m ezvar --version | true", shell=True, capture_output=True, text=True)
    assert "Traceback" not in closed.stderr
