"""Work as values: names of results, and runners that give the same whoever does the work."""

import threading

import pytest

from ezvar.core.errors import MediaError
from ezvar.core.progress import CancelToken
from ezvar.core.threads import Worker
from ezvar.core.work import Kind, Surroundings, kind_of, register, run_here, run_on_threads, task


@pytest.fixture
def squares(monkeypatch, planned, cache):
    """A kind that squares numbers, in one go for those that follow one another; what is negative cannot be read."""
    monkeypatch.setattr("ezvar.core.work.kinds._KINDS", {})
    kept, goes = {}, []

    def run(tasks, around, progress, cancel):
        goes.append([t.number("of") for t in tasks])
        for k, each in enumerate(tasks, 1):
            cancel.check()
            if each.number("of") < 0:
                raise MediaError("it cannot be read")
            progress(k / len(tasks), "Squaring")
            kept[each] = each.number("of") ** 2
            yield kept[each]

    register(Kind("square", 1, run, lambda each, around: kept.get(each)))
    return kept, goes, Surroundings(planned, cache, lambda error: None)


def asked(*numbers):
    return [task("square", ["numbers"], of=n) for n in numbers]


@pytest.mark.parametrize("runner", [run_here, run_on_threads])
def test_runners_give_results_in_order_and_leave_out_what_is_kept(squares, runner):
    kept, goes, around = squares
    told = []
    kept[asked(3)[0]] = 9
    found = list(runner(asked(1, 2, 3, 4, 5), around, lambda fraction, _: told.append(fraction)))
    assert found == [1, 4, 9, 16, 25]
    assert sorted(n for go in goes for n in go) == [1, 2, 4, 5]
    assert max(told) == pytest.approx(1)
    assert list(runner(asked(5, 1), around)) == [25, 1]
    assert sum(len(go) for go in goes) == 4


@pytest.mark.parametrize("runner", [run_here, run_on_threads])
def test_the_first_error_stops_all(squares, runner):
    _, _, around = squares
    token = CancelToken()
    with pytest.raises(MediaError):
        list(runner(asked(-1, *range(50)), around, cancel=token))
    assert token.cancelled == (runner is run_on_threads)


def test_names_of_results_tell_kinds_inputs_parameters_and_versions(squares):
    one = task("square", ["a"], of=2)
    others = [task("square", ["b"], of=2), task("square", ["a"], of=3), task("cube", ["a"], of=2)]
    assert one == task("square", ("a",), of=2)
    assert len({t.result(1) for t in (one, *others)} | {one.result(2)}) == 5
    with pytest.raises(KeyError):
        kind_of(others[2])
    with pytest.raises(ValueError, match="already"):
        register(kind_of(one))


def test_a_worker_does_a_step_for_many_wakings_and_none_once_closed():
    begun, free, steps, ended = threading.Event(), threading.Event(), [], []

    def step():
        steps.append(1)
        begun.set()
        free.wait(5)

    worker = Worker("steps", step, lambda: ended.append(1))
    worker.wake()
    assert begun.wait(5)
    for _ in range(5):
        worker.wake()
    begun.clear()
    free.set()
    assert begun.wait(5)  # all five at once
    worker.close()
    worker.wake()
    assert (len(steps), ended) == (2, [1])
