"""Finished movies are sent to receivers that take them, refuse them, or break off, from where it then goes on."""

import hashlib
import sys
import time
from dataclasses import replace
from threading import Thread

import pytest

from ezvar.core import programs
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import InputError, OutputError
from ezvar.core.model import Finished, Making, Makings
from ezvar.core.output import RECEIVER, file_stamp, known_receivers, row_of, send
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import load_project, save_project

HALL = known_receivers()[0]


@pytest.fixture
def finished(planned, tmp_path):
    """A row that was made, of a file of 700 KB."""
    path = tmp_path / "walk 9x16.mp4"
    path.write_bytes(bytes(range(256)) * 2800)
    row = replace(row_of(planned, planned.masters[0], DELIVERY), receiver=HALL)
    return Finished(row, "r", Making(str(path), file_stamp(path), ()), "2026-11-27T10:00:00+00:00")


@pytest.fixture
def receiver(tmp_path, monkeypatch):
    """Names the receiver that is sent to: the one that pretends, in a mood, or a line of Python."""

    def name(mood="", line="", pace=0.0):
        pretends = f"-m ezvar.receiver --inbox {tmp_path / 'inbox'} --pace {pace} --mood {mood}"
        monkeypatch.setenv(RECEIVER, f"{sys.executable} -c '{line}'" if line else f"{sys.executable} {pretends}")

    return name


def test_a_movie_is_taken_byte_for_byte(planned, finished, receiver, tmp_path):
    receiver("well")
    seen = []
    sent = send(planned, finished, lambda fraction, said: seen.append(fraction))
    assert (sent.state, sent.receiver, sent.said, sent.there) == ("accepted", HALL.name, "", 1.0)
    assert seen == sorted(seen)
    assert seen[-1] == 1.0
    (taken,) = (tmp_path / "inbox").iterdir()
    assert taken.read_bytes() == (tmp_path / "walk 9x16.mp4").read_bytes()
    assert taken.stem == hashlib.sha256(taken.read_bytes()).hexdigest()


def test_sending_goes_on_where_it_broke_off_unless_the_file_is_another(planned, finished, receiver, tmp_path):
    receiver("breaks")
    first = send(planned, finished)
    assert first.state == "broken off"
    (part,) = (tmp_path / "inbox").iterdir()
    had = part.stat().st_size
    assert 0 < had < 716_800
    second = send(planned, finished)
    assert second.there > first.there
    receiver("well")
    seen = []
    assert send(planned, finished, lambda fraction, said: seen.append((said, fraction))).state == "accepted"
    assert next(f for said, f in seen if said == "Sending") > 0.1 + 0.9 * had / 716_800 - 0.01
    receiver("breaks")
    path = tmp_path / "walk 9x16.mp4"
    path.write_bytes(path.read_bytes()[::-1])
    with pytest.raises(OutputError, match="not as it was made"):
        send(planned, finished)
    again = replace(finished, made=replace(finished.made, stamp=file_stamp(path)))
    assert send(planned, again).there < 0.7
    assert len(list((tmp_path / "inbox").glob("*.part"))) == 1


@pytest.mark.parametrize(
    ("line", "state", "said"),
    [
        ("print(42)", "broken off", "cannot be read"),
        ("pass", "broken off", "ended before"),
        ('print("{\\"refused\\": \\"no room\\"}")', "refused", "no room"),
        ('print("{\\"have\\": 0}", flush=True); import time; time.sleep(60)', "broken off", "silent for"),
        ('print("{\\"have\\": 9999999999}", flush=True)', "broken off", "ended before"),
    ],
)
def test_whatever_a_receiver_says_there_is_an_answer(planned, finished, receiver, monkeypatch, line, state, said):
    monkeypatch.setattr(programs, "SILENT_FOR", 0.5)
    receiver(line=line)
    sent = send(planned, finished)
    assert sent.state == state
    assert said in sent.said


def test_what_is_refused_is_told_and_nothing_is_kept(planned, finished, receiver, tmp_path):
    receiver("refuses")
    sent = send(planned, finished)
    assert (sent.state, sent.said) == ("refused", "its shelf is full")
    assert list((tmp_path / "inbox").iterdir()) == []
    other = tmp_path / "walk.txt"
    (tmp_path / "walk 9x16.mp4").rename(other)
    sent = send(planned, replace(finished, made=replace(finished.made, file=str(other))))
    assert sent.said == "it takes movies only"


def test_what_cannot_be_sent_says_why(planned, finished, receiver, tmp_path, monkeypatch):
    receiver("well")
    for made, family, said in (
        (replace(finished, row=replace(finished.row, receiver=None)), InputError, "no receiver"),
        (replace(finished, made=replace(finished.made, file=str(tmp_path))), InputError, "images are not sent"),
        (replace(finished, made=replace(finished.made, file=str(tmp_path / "x.mp4"))), OutputError, "x.mp4"),
    ):
        with pytest.raises(family, match=said):
            send(planned, made)
    monkeypatch.setenv(RECEIVER, "/not/there")
    with pytest.raises(InputError, match="the receiver cannot be begun"):
        send(planned, finished)


def test_a_cancelled_sending_leaves_what_is_there(planned, finished, receiver, tmp_path):
    receiver("well", pace=5)
    token = CancelToken()

    def stop():
        while not list((tmp_path / "inbox").glob("*.part")):
            time.sleep(0.02)
        token.cancel()

    waits = Thread(target=stop)
    waits.start()
    with pytest.raises(Cancelled):
        send(planned, finished, cancel=token)
    waits.join()
    assert len(list((tmp_path / "inbox").glob("*.part"))) == 1


def test_what_came_of_it_is_kept_with_the_file_that_was_sent(planned, finished, receiver, tmp_path):
    receiver("well")
    sent = send(planned, finished)
    makings = Makings((finished,)).with_sent(finished.row.id, sent)
    doc = replace(planned, makings=makings)
    save_project(doc, tmp_path / "p.ezvar")
    assert load_project(tmp_path / "p.ezvar").makings.finished_of(finished.row.id).sent == sent
    again = replace(finished, made=replace(finished.made, stamp="another"))
    assert Makings((again,)).with_sent(finished.row.id, sent).finished_of(finished.row.id).sent is None
