"""What is sent to other machines, and what a worker does with it; without any other machine."""

import os
from contextlib import contextmanager, nullcontext, suppress
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from ezvar.core import edits
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import InputError, MachineError
from ezvar.core.evidence import look_tasks
from ezvar.core.evidence.keeping import to_arrays
from ezvar.core.machines import Way, connected, path_there, unprotected
from ezvar.core.machines.errand import Errand, Folder, Needed, SentTask, as_sent, errand_text, read_errand, sent
from ezvar.core.machines.needed import Files
from ezvar.core.machines.proof import programs, token_in
from ezvar.core.machines.worker import perform, read_answer
from ezvar.core.model import Backdrop, Master, Row
from ezvar.core.output import row_of
from ezvar.core.store import Cache, pack_arrays, unpack_arrays
from ezvar.core.work import Surroundings, kind_named, kind_of, run_here, task

from ..kinds import SLOW

parts = st.lists(st.sampled_from(["a", "b", "media", "x.mov"]), min_size=1, max_size=4)
beginnings = parts.map(lambda names: "/" + "/".join(names))


@given(beginnings, beginnings, parts)
def test_a_path_comes_back_by_the_way_that_it_went(here, there, rest):
    path = "/".join((here, *rest))
    gone = path_there(path, [Way(here, there)], "any")
    assert gone == "/".join((there, *rest))
    assert path_there(gone, [Way(there, here)], "any") == path
    assert path_there(path + "x", [Way(path, there)], "any") == path + "x"
    assert path_there(path, [Way(here, there, "other-*")], "any") == path
    assert Way.parse(str(Way(here, there, "other-*"))) == Way(here, there, "other-*")


@pytest.mark.parametrize("text", ["", "/a", "a=/b", "/a=b", "m:a=/b", ":/a=/b", "/a=/b\0"])
def test_a_map_that_is_none_is_refused(text):
    with pytest.raises(InputError):
        Way.parse(text)


def test_it_warns_where_others_could_read_along():
    assert "not protected" in unprotected("tcp://8.8.8.8:8786")
    for address in ("tls://8.8.8.8:8786", "tcp://10.1.2.3:8786", "127.0.0.1:8786", "here:2", "localhost:1"):
        assert unprotected(address) == ""


@pytest.mark.parametrize(("processors", "workers"), [(1, 0), (3, 0), (4, 2), (9, 4)])
def test_here_there_are_as_many_workers_as_pay_and_else_threads(tmp_path, monkeypatch, processors, workers):
    started = []

    @contextmanager
    def begin(number):
        started.append(number)
        yield "tcp://nowhere"

    monkeypatch.setattr("os.sched_getaffinity", lambda _: set(range(processors)))
    monkeypatch.setattr("ezvar.core.machines.here.workers_here", begin)
    monkeypatch.setattr("ezvar.core.machines.cluster.Cluster", lambda *words: nullcontext())
    (tmp_path / "cache").mkdir()
    around = Surroundings(None, Cache(tmp_path / "cache"), lambda error: None)
    with connected("here") as found:
        assert started == [workers] * (workers > 0)
        if not workers:
            (one,) = found.machines()
            assert (one.threads, one.doing, found.there()) == (processors, "", True)
            running = found.run([task(SLOW.name, ["numbers"], of=n, steps=1) for n in (2, 3)], around)
            assert (next(running), found.machines()[0].doing, *running) == (4, "Squaring", 9)
            assert found.machines()[0].doing == ""


def test_without_the_extra_it_says_what_to_install_and_does_the_rest(monkeypatch):
    monkeypatch.setattr("importlib.util.find_spec", lambda name: None)
    for address in ("here:2", "tcp://127.0.0.1:9"):
        with pytest.raises(MachineError, match="ezvar\\[cluster\\]"), connected(address):
            pass
    monkeypatch.setattr("os.sched_getaffinity", lambda _: {0})
    with connected("here") as found:
        assert found.there()


def errand_of(doc, tasks, cache, **changed):
    kind, files = kind_of(tasks[0]), Files(doc)
    media = {id for each in tasks for id in kind.travel.media(each, doc)}
    made = Errand(
        programs(), kind.name, kind.version, as_sent(tasks), files.sent.name, files.needed(media),
        (token_in(cache.folder),),
    )  # fmt: skip
    return replace(made, **changed), files.sent.packed


def done(errand, packed):
    first, *results = perform(errand_text(errand), packed, lambda: True, lambda said: None)
    return read_answer(first), results


@pytest.fixture
def in_short_stretches(monkeypatch, edit, planned, tmp_path):
    """Looking through the edit of eighty frames, in tasks of twelve."""
    monkeypatch.setattr("ezvar.core.evidence.tasks.STRETCH", 12)
    monkeypatch.setattr("ezvar.core.evidence.looking.STRETCH", 12)
    cache = Cache(tmp_path / "cache")
    return planned, look_tasks(planned, cache, False), cache


def values(seen):
    return seen.start, seen.gone, {name: (a.dtype, a.tobytes()) for name, a in to_arrays(seen).items()}


def test_what_is_seen_in_any_number_of_parts_is_what_one_pass_sees(in_short_stretches):
    doc, tasks, cache = in_short_stretches
    around = Surroundings(doc, cache, lambda error: None)
    one = [values(seen) for seen in run_here(tasks, around)]
    assert len(one) == 7
    for count in (3, 7):
        found = []
        for those in np.array_split(np.arange(len(tasks)), count):
            own = [tasks[k] for k in those]
            answer, results = done(*errand_of(doc, own, cache))
            assert (answer.done, answer.refused, answer.wrong, answer.mistake) == (len(own), "", None, "")
            found += [kind_of(t).travel.unpack(t, r, around) for t, r in zip(own, results, strict=True)]
        assert [values(seen) for seen in found] == one


def test_files_are_found_where_a_map_of_paths_says(in_short_stretches):
    doc, tasks, cache = in_short_stretches
    around = Surroundings(doc, cache, lambda error: None)
    here = [values(seen) for seen in run_here(tasks[:2], around)]
    folder, name = os.path.split(doc.lock.media[0].path)
    media = replace(doc.lock.media[0], path=f"/nowhere/rushes/{name}")
    there = replace(doc, lock=replace(doc.lock, media=(media,)))
    for ways, done_there in (((Way("/nowhere/rushes", folder),), 2), ((Way("/nowhere", folder),), 0), ((), 0)):
        answer, results = done(*errand_of(there, tasks[:2], cache, ways=ways))
        assert (answer.done, bool(answer.refused)) == (done_there, not done_there)
        found = [kind_of(t).travel.unpack(t, r, around) for t, r in zip(tasks, results, strict=False)]
        assert [values(seen) for seen in found] == here[:done_there]


def test_a_worker_does_nothing_but_what_it_knows_of_what_it_has(in_short_stretches, tmp_path):
    doc, tasks, cache = in_short_stretches
    errand, packed = errand_of(doc, tasks[:1], cache)
    assert read_errand(errand_text(errand)) == errand
    media = doc.lock.media[0]
    other = sent(edits.add_master(doc, Master("wide", "2:1", 200, 100)))
    for said, changed in {
        "it knows no work named os.system": {"kind": "os.system"},
        "it knows no work named movie": {"kind": "movie"},
        "its look is of another version": {"version": 0},
        f"it has Ezvar {programs()['Ezvar']}, where 9.9 is wanted": {"made_by": {**programs(), "Ezvar": "9.9"}},
        "is not the one that is meant": {"folders": (Folder(str(tmp_path / "none"), "token"),)},
        "is another file": {"files": (Needed(media.path, "0" * 32),)},
        "cannot be read: it cannot be read, it is not there": {"files": (Needed("/nowhere/walk.mp4", media.content),)},
        "goes beyond what was named": {"files": ()},
        "what was asked of look makes no sense": {"sent": (SentTask(tasks[0].inputs, (("start", "here"),)),)},
        "what was sent is another document": {"document": other.name},
        "no folder was named": {"folders": ()},
    }.items():
        answer, results = done(replace(errand, **changed), packed)
        assert said in answer.refused
        assert results == []
    for text in (b"", b"{}", b"[" * 1000, errand_text(errand)[:-3]):
        (first,) = perform(text, packed, lambda: True, lambda said: None)
        assert read_answer(first).refused


def test_it_writes_nowhere_but_where_it_may(in_short_stretches, tmp_path):
    doc, _, cache = in_short_stretches
    row = TypeAdapter(Row).dump_python(row_of(doc, doc.masters[0], DELIVERY), mode="json")
    own = task("segment", ["n"], start=0, end=20, deep=False, rows=[row], folders=[str(tmp_path / "elsewhere")])
    errand, packed = errand_of(doc, [task("look", ["s"], start=0, end=1)], cache)
    files = Files(doc).needed({doc.lock.media[0].id})
    there = replace(errand, kind="segment", version=1, sent=as_sent([own]), files=files)
    answer, _ = done(there, packed)
    assert "goes beyond what was named" in answer.refused
    assert not (tmp_path / "elsewhere").exists()


def test_what_a_document_has_besides_media_is_proven_too(planned, tmp_path):
    still = tmp_path / "ground.png"
    still.write_bytes(b"any")
    master = replace(planned.masters[0], backdrop=Backdrop(kind="media", media=str(still)))
    doc = replace(planned, masters=(master, *planned.masters[1:]))
    (needed,) = Files(doc).needed(set())
    assert needed.path == str(still)
    still.write_bytes(b"other")
    assert Files(doc).needed(set()) != (needed,)


@given(st.data())
def test_whatever_comes_back_is_arrays_or_refused(data):
    whole = pack_arrays({"signs": np.arange(40.0), "gone": np.array(True)})
    at = data.draw(st.integers(0, len(whole) - 1))
    hurt = whole[:at] + data.draw(st.binary(max_size=9)) + whole[at + data.draw(st.integers(0, 9)) :]
    for text in (hurt, data.draw(st.binary(max_size=99))):
        with suppress(ValueError):
            assert all(isinstance(each, np.ndarray) for each in unpack_arrays(text).values())
        with suppress(ValueError):
            read_answer(text)
        for kind in ("segment", "check", "review"):
            with suppress(ValueError):
                kind_named(kind).travel.unpack(task(kind, []), text, None)
