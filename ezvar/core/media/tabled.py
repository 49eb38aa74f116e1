"""Colour tables applied to pictures."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from tempfile import TemporaryDirectory

import av
from av.filter import Graph
from cachetools import LRUCache

from .colours.cube import ColourTable
from .colours.tags import ColourTags
from .planes import Planes

_GRAPHS = 6  # kept of a thread
_FINE = {8: "gbrp10le", 10: "gbrp12le"}  # samples that tables work in, by the depth of the picture's
_SCALING = "bicubic+accurate_rnd+full_chroma_inp+full_chroma_int"
_MATRICES = {1: "bt709", 4: "fcc", 7: "smpte240m", 9: "bt2020", 10: "bt2020"}


class _Graphs(threading.local):
    """Filters by what they do, of a thread."""

    def __init__(self) -> None:
        self.known: LRUCache[object, tuple[Graph, list[int]]] = LRUCache(_GRAPHS)


_graphs = _Graphs()


def tabled(planes: Planes, tables: Sequence[ColourTable]) -> Planes:
    """A picture after tables, one after another, between whose colours the library's filter interpolates in
    tetrahedra; coded as before, or as the last table with tags says. Without tables, the same."""
    if not tables:
        return planes
    now = replace(planes.tags, matrix=planes.tags.matrix_for(planes.height))
    then = next((table.tags for table in reversed(tables) if table.tags is not None), now)
    key = tuple(table.name for table in tables), planes.form, planes.width, planes.height, now, then
    if key not in _graphs.known:
        _graphs.known[key] = _graph(planes, tables, now, then), [0]
    graph, count = _graphs.known[key]
    frame = replace(planes, tags=ColourTags()).frame()
    frame.pts, frame.time_base = count[0], Fraction(1, 25)
    count[0] += 1
    graph.push(frame)
    made = graph.pull()
    assert isinstance(made, av.VideoFrame)
    return replace(Planes.of_stored(made, planes.form), tags=then)


def _graph(planes: Planes, tables: Sequence[ColourTable], now: ColourTags, then: ColourTags) -> Graph:
    graph = Graph()
    pixels = av.VideoFormat(planes.form.name, planes.width, planes.height)
    last = graph.add_buffer(width=planes.width, height=planes.height, format=pixels, time_base=Fraction(1, 25))
    fine, own = _FINE[planes.form.depth], planes.form.name
    with TemporaryDirectory(prefix="ezvar-table-") as folder:
        steps = [
            ("scale", f"flags={_SCALING}:in_color_matrix={_matrix(now)}:in_range={_range(now)}:out_range=pc"),
            ("format", fine),
        ]
        for k, table in enumerate(tables):
            path = f"{folder}/{k}.cube"
            with open(path, "w") as file:
                file.write(table.text)
            steps.append(("lut1d", f"file={path}") if table.of_curves else ("lut3d", f"file={path}:interp=tetrahedral"))
        back = f"flags={_SCALING}:in_range=pc:out_color_matrix={_matrix(then)}:out_range={_range(then)}"
        for name, said in (*steps, ("scale", back), ("format", own)):
            following = graph.add(name, said)
            last.link_to(following)
            last = following
        end = graph.add("buffersink")
        last.link_to(end)
        graph.configure()
    return graph


def _matrix(tags: ColourTags) -> str:
    return _MATRICES.get(tags.matrix, "bt601")


def _range(tags: ColourTags) -> str:
    return "pc" if tags.range == 2 else "tv"
