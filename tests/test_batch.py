"""Many locks in one go: what is done, what is left as it is, and what a person is told."""

import json
from dataclasses import replace

import pytest

from ezvar.cli import main
from ezvar.core.batch import read_batch
from ezvar.core.errors import InputError
from ezvar.core.store import load_project, update_project

from .media import make_movie, scenes

LIST = """
masters = ["tall=180x320"]
presets = ["delivery, H.264"]
[[lock]]
lock = "walk.mp4"
[[lock]]
lock = "<b>gone.mp4"
"""


def steps(capsys):
    return [json.loads(line) for line in capsys.readouterr().out.splitlines()]


def test_a_night_goes_on_where_it_ended_and_says_what_needs_a_person(tmp_path, capsys):
    make_movie(tmp_path / "walk.mp4", 80, size=(320, 180), picture=scenes)
    (tmp_path / "night.toml").write_text(LIST)
    words = ["batch", str(tmp_path / "night.toml"), "-o", str(tmp_path / "made"), "--at-once", "2"]
    assert main(words) == 1
    first = steps(capsys)
    assert [(s["step"], s["state"]) for s in first if s["lock"] == "walk"] == [
        ("plan", "done"), ("doubts", "done"), ("make", "done"), ("check", "done"),
    ]  # fmt: skip
    assert [(s["step"], s["state"]) for s in first if s["lock"] != "walk"] == [("plan", "failed")]
    page = (tmp_path / "made" / "summary.html").read_text()
    assert "1 of 2 locks needs a person" in page
    assert "&lt;b&gt;gone.mp4: it cannot be opened" in page
    assert "<b>" not in page
    made = tmp_path / "made" / "walk" / "walk tall.mp4"
    stood = made.stat()
    main(words)
    assert [s["state"] for s in steps(capsys) if s["lock"] == "walk" and s["step"] in ("plan", "make")] == ["kept"] * 2
    assert made.stat() == stood
    (tmp_path / "night.toml").write_text(LIST.replace('"tall=180x320"', '"tall=180x320", "1:1=200x200"'))
    main(words)  # a shape more
    assert [(s["row"], s["state"]) for s in steps(capsys) if s["step"] == "make"] == [("tall", "kept"), ("1:1", "done")]
    project = tmp_path / "made" / "walk.ezvar"
    doc = load_project(project)
    assert [f.row.master for f in doc.makings.finished] == [m.id for m in doc.masters]
    rest = tuple(f for f in doc.framings if f.master != doc.masters[0].id)
    update_project(project, lambda now: (replace(now, framings=rest), None))
    main(words)  # another framing
    made = {s["row"]: s["state"] for s in steps(capsys) if s["step"] == "make"}
    assert made == {"tall": "done", "1:1": "kept"}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("masters = [", "it is no list in TOML"),
        ('masters = ["9:16"]', "it lists no locks"),
        ('[[lock]]\nlock = "a.mp4"', "lock 1: it has no masters"),
        ('[[lock]]\nlock = "a.mp4"\nmasters = ["9:16"]\nspeed = 3', "lock 1: nothing is known of “speed”"),
        ('masters = ["9:16"]\n[[lock]]\nlock = "a.mp4"\n[[lock]]\nlock = "b/a.mov"', "lock 2: two are called a"),
        (
            'masters = ["9:16"]\n[[lock]]\nlock = "a.mp4"\nname = "../up"',
            "lock 1: “../up” cannot be the name of a folder",
        ),
        ('masters = ["9:16"]\n[[lock]]\nlock = "a.mp4"\npresets = ["nonsense"]', "lock 1: “nonsense” is no preset"),
        ('masters = ["9:16", 3]\n[[lock]]\nproject = "a.ezvar"', "lock 1: masters is no text"),
        ("lock = 3", "it lists no locks"),
    ],
)
def test_a_list_that_cannot_be_understood_says_where(tmp_path, text, said):
    (tmp_path / "night.toml").write_text(text)
    with pytest.raises(InputError) as caught:
        read_batch(tmp_path / "night.toml")
    assert said in str(caught.value)
