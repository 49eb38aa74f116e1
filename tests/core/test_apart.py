"""What reads files from outside falls down alone: it is told in a sentence, and the next file is read."""

import json
import time

import cv2
import numpy as np
import pytest

from ezvar.core.apart import asking, run_apart, task
from ezvar.core.errors import InputError, MediaError, TimelineError
from ezvar.core.lock import take_lock
from ezvar.core.media import read_still
from ezvar.core.model import Caption, CaptionStyle, Differing, Span
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.text import read_font
from ezvar.core.text.setting.drawing import draw_laid_out
from ezvar.core.text.setting.fonts import families, font_problem
from ezvar.core.text.setting.layout import lay_out, wanted
from ezvar.core.text.setting.type import FOLDER, Face, Writing

CLIP = {"OTIO_SCHEMA": "Clip.2", "name": "a", "media_references": {}, "effects": [], "markers": [], "metadata": {}}
REFERS = {"OTIO_SCHEMA": "SerializableObjectRef.1", "id": "x"}


def timeline(*children, **more):
    track = {"OTIO_SCHEMA": "Track.1", "kind": "Video", "children": [*children], "metadata": {}}
    stack = {"OTIO_SCHEMA": "Stack.1", "children": [track], "metadata": {}}
    return {"OTIO_SCHEMA": "Timeline.1", "name": "t", "tracks": stack, "metadata": {}, **more}


HOSTILE = {
    "refers to itself": timeline(CLIP, OTIO_REF_ID="x", metadata={"a": REFERS}),
    "holds itself": timeline({"OTIO_SCHEMA": "Stack.1", "OTIO_REF_ID": "x", "children": [REFERS]}),
    "a time of a made-up type": timeline({**CLIP, "source_range": {"OTIO_SCHEMA": "Nonsense.1"}}),
    "a start of a made-up type": timeline(CLIP, global_start_time={"OTIO_SCHEMA": "Nonsense.1", "x": []}),
}  # fmt: skip


@pytest.mark.parametrize("what", HOSTILE)
def test_timelines_that_end_their_library_end_nothing_else(tmp_path, what):
    path = tmp_path / "cut.otio"
    path.write_text(json.dumps(HOSTILE[what]))
    with pytest.raises(TimelineError) as caught:
        take_lock(path)
    assert str(caught.value).startswith("cut.otio: ")
    assert "\n" not in str(caught.value)
    cv2.imwrite(str(tmp_path / "a.png"), np.full((4, 6, 3), 90, np.uint8))
    assert read_still(tmp_path / "a.png").width == 6  # whoever is asked next answers


@pytest.fixture
def program(monkeypatch):
    """Has another program asked in place of ours, and puts ours back."""
    asking.end_idle()

    def instead(text):
        monkeypatch.setattr(asking, "PROGRAM", ("-c", text))

    yield instead
    asking.end_idle()


@pytest.mark.parametrize(
    ("text", "said"),
    [("import os; os.kill(os.getpid(), 11)", "fell over it"),
     ("import time; time.sleep(60)", "takes far too long"),
     ("import os; os.read(0, 9); os.write(1, b'\\xff' * 16)", "fell over it"),
     ("import os; os.write(1, (15).to_bytes(8, 'big') + bytes(8) + b'{\"error\": null}'); os.read(0, 999)",
      "could not read it")],
)  # fmt: skip
def test_a_program_that_dies_stalls_or_promises_too_much_is_given_up(tmp_path, program, monkeypatch, text, said):
    monkeypatch.setattr(asking, "ALLOWED", 1.0)
    program(text)
    begun = time.monotonic()
    with pytest.raises(MediaError, match=said) as caught:
        run_apart(task("still", [str(tmp_path / "a.png")]), MediaError)
    assert str(caught.value).startswith("a.png: ")
    assert time.monotonic() - begun < 10


def test_a_task_that_is_cancelled_is_waited_for_no_longer(tmp_path, program):
    token = CancelToken()
    token.cancel()
    program("import time; time.sleep(60)")
    with pytest.raises(Cancelled):
        run_apart(task("still", ["a.png"]), MediaError, token)


def test_what_is_unknown_or_grows_is_refused_and_nothing_is_written(tmp_path):
    with pytest.raises(InputError, match="could not read it"):
        run_apart(task("nothing of the kind", ["a"]), InputError)
    huge = np.zeros((1, 1, 3), np.uint8)
    data = bytearray(cv2.imencode(".png", huge)[1].tobytes())
    data[16:24] = (60_000).to_bytes(4, "big") * 2  # as large as it says
    (tmp_path / "huge.png").write_bytes(data)
    with pytest.raises(MediaError, match=r"huge\.png: "):
        read_still(tmp_path / "huge.png")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["huge.png"]


def test_a_font_that_is_not_shipped_is_measured_and_drawn_apart_to_the_very_sample(tmp_path):
    own = tmp_path / "own.ttf"
    own.write_bytes((FOLDER / "NotoSansHebrew-Bold.ttf").read_bytes())
    caption = Caption("c", 0, 2000, (Span("אבג דהו, 12"),))
    drawn = []
    for named in ({}, {"font": str(own), "font_content": read_font(own).content}):
        style = CaptionStyle(family="Noto Sans Hebrew", bold=True, outline=0.1, shadow=0.5, **named)
        laid = lay_out(wanted(caption, style, Differing("c", "m"), "he"), 540, 960)
        drawn.append((laid.rect, draw_laid_out(laid, style, (540, 960), "he")))
    (rect, shipped), (other, apart_) = drawn
    assert rect == other
    assert (shipped.opacity == apart_.opacity).all()
    assert (shipped.planes.y == apart_.planes.y).all()


def test_a_font_that_fails_later_is_told_and_another_is_drawn(tmp_path, program, monkeypatch):
    own = tmp_path / "own.ttf"
    own.write_bytes((FOLDER / "NotoSansHebrew-Bold.ttf").read_bytes())
    face = Face("Own", str(own), read_font(own).content)
    assert font_problem(face) == ""
    asking.end_idle()
    program("import os; os.kill(os.getpid(), 11)")
    assert families(face).width("אב", Writing()) == families(Face("Own")).width("אב", Writing())
    assert "fell over it" in font_problem(face)
