"""Kinds of work for tests of machines, known to workers that load this module before they begin."""

import os
import time
from pathlib import Path

from ezvar.core.work import Kind, Travel, kind_named, register


def _numbers(tasks, around, progress, cancel):
    """Squares a number, slowly, and notes in a file beside the cache that it was begun, stopped or done."""
    for each in tasks:
        note = Path(around.cache.folder) / f"notes-{each['of']}"
        with note.open("a") as file:
            file.write("begun\n")
        (Path(around.cache.folder) / f"pid-{os.getpid()}").touch()
        if each["of"] < 0:
            os._exit(1)
        try:
            for _ in range(each.number("steps")):
                time.sleep(0.05)
                cancel.check()
                progress(0.5, "Squaring")
        except BaseException:
            with note.open("a") as file:
                file.write("stopped\n")
            raise
        yield each["of"] ** 2


def _keep(each, result, around):
    (Path(around.cache.folder) / f"kept-{each['of']}").write_text(str(result))


def _pack(result):
    return str(result).encode()


def _unpack(each, data, around):
    return int(data)


SLOW = kind_named("test slow") or register(
    Kind(
        "test slow", 1, _numbers,
        travel=Travel(
            _pack, _unpack, lambda each, doc: {m.id for m in doc.lock.media}, lambda each, doc: f"number {each['of']}",
            keep=_keep,
        ),
    )
)  # fmt: skip
