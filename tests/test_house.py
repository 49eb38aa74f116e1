"""The rules of the house: layers, examples in docstrings, commands, pictures."""

import ast
import doctest
import importlib
import pkgutil
import re
import tomllib
from pathlib import Path

import pytest
from importlinter.application.use_cases import lint_imports
from importlinter.cli import lint_imports_command  # noqa: F401  (registers the contracts)
from PyQt6.QtGui import QAction

import ezvar
from ezvar.app.kit.commands import Command
from ezvar.app.kit.controls import label
from ezvar.app.stages import STAGES, Page, Stage
from ezvar.app.window.finder import Finder
from ezvar.app.window.main_window import MainWindow
from ezvar.core.encoding import PRESETS

ROOT = Path(__file__).parent.parent


def test_imports_keep_to_the_layers(monkeypatch):
    monkeypatch.chdir(ROOT)
    assert lint_imports(config_filename="pyproject.toml", cache_dir=None) is True


OPENS = {"read_text", "read_bytes", "open", "imread", "ZipFile", "load", "loadtxt", "genfromtxt", "memmap", "fromfile",
         "read_from_file"}  # fmt: skip
OPENERS = {
    "way_in.py": "the way in itself", "store/files.py": "what is written", "store/saving.py": "under a lock, by size",
    "store/cache.py": "our own", "store/reports.py": "written", "viewing/proxy.py": "our own",
    "cuts/network.py": "shipped",
    "text/setting/type.py": "shipped", "review/shown/page.py": "shipped", "encoding/streams.py": "of the machine",
    "apart/serving.py": "of the machine", "media/container.py": "movies, in place", "media/tabled.py": "written",
    "lock/bundle.py": "written", "timelines/files.py": "archives through the way in; AAF apart",
    "timelines/bundled.py": "members of archives, apart",
    "text/writing/transcribing.py": "written",
    **dict.fromkeys(("encoding/movie.py", "encoding/segments.py", "encoding/embedded.py", "output/budget.py",
                     "output/job.py", "output/listed/expecting.py", "output/sounds.py", "review/out/aaf.py",
                     "review/out/folder.py", "review/shown/making.py"), "what was just made here"),
}  # fmt: skip
"""Which modules of the core open files by another way than `way_in`, and what these are."""


def test_what_comes_from_outside_comes_through_the_way_in():
    core, opening = ROOT / "ezvar" / "core", set()
    for file in core.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            called = node.func if isinstance(node, ast.Call) else None
            if isinstance(called, ast.Attribute):
                whose = ast.unparse(called.value)
                if called.attr in OPENS and whose not in ("self", "ZONES", "PRESETS_KEPT", "RECEIVERS_KEPT"):
                    opening.add(file.relative_to(core).as_posix())
            elif isinstance(called, ast.Name) and called.id in ("open", "ZipFile"):
                opening.add(file.relative_to(core).as_posix())
    assert opening == set(OPENERS)


@pytest.mark.parametrize(
    "name", [m.name for m in pkgutil.walk_packages(ezvar.__path__, "ezvar.") if "__main__" not in m.name]
)
def test_examples_in_docstrings_hold(name):
    assert doctest.testmod(importlib.import_module(name)).failed == 0


def test_every_command_is_in_a_menu_and_can_be_run(qtbot):
    window = MainWindow()
    bound = window.menus.catalogue.bound
    assert len({b.command.id for b in bound}) == len(bound) > 150
    assert all(b.stages <= set(window.stages) for b in bound)
    in_menus = {a.text().partition("\t")[0] for a in window.findChildren(QAction)}
    assert {b.command.title for b in bound} <= in_menus


def test_a_stage_is_one_registration_and_goes_with_it(qtbot, monkeypatch):
    """Strip, menus, finder, key sheet, ledger and edit strip take up a stage that they have never heard of."""
    done = []

    class Toy(Page):
        def __init__(self, bench):
            super().__init__(bench)
            self.middle, self.tools = label("Toys"), done

    play = Command(
        "toys.play", "Play with toys", lambda tools: tools.append("played"), "Ctrl+Alt+T", "Toys", everywhere=False
    )
    toys = Stage("toys", "Toys", lambda session: 7, Toy, (play,), rows="cuts", several=True)
    window = MainWindow(stages=(*STAGES, toys))
    qtbot.addWidget(window)
    assert "toys.play" not in window.menus.available()
    window.run("stage.Toys")
    assert window.middles.currentWidget() is window.pages["toys"].middle
    assert "toys.play" in window.menus.available()
    assert (window.ledger.rows.kind, window.edit_strip._rows) == ("cuts", "cuts")
    assert "Toys" in [a.text() for a in window.menuBar().actions()]
    window.session.files.open(ROOT / "ezvar" / "demo" / "lantern-night.ezvar")
    qtbot.waitUntil(lambda: window.strip.stages["toys"].waiting == 7, timeout=20_000)
    qtbot.waitUntil(lambda: window.session.media.analysis is not None, timeout=20_000)
    assert window.session.media.analysis.known is None  # the demo brings what was seen, whole
    window.run("stage.Toys")
    assert "Play with toys" in dict(window.menus.keymap.sheet())["Toys"][0]
    finder = Finder(window, window.menus.catalogue, window.menus.available(), window.menus.keymap)
    finder.field.setText("toys")
    assert "Toys: Play with toys" in finder.list.item(0).text()
    window.run("toys.play")
    assert done == ["played"]
    window.close()
    assert "toys" not in MainWindow().strip.stages


def test_no_two_commands_share_a_key_in_one_stage_and_changed_keys_tell(qtbot):
    keymap = MainWindow().menus.keymap
    assert keymap.conflicts() == {}
    changed = keymap.with_changes({"framing.solve": "R", "framing.middle": ""})
    assert [c.id for c in changed.conflicts()["R"]] == ["framing.solve", "framing.static"]
    assert changed.changed == {"framing.solve": "R", "framing.middle": ""}
    assert changed.with_changes({"framing.solve": "S", "framing.middle": "M"}).changed == {}


def test_every_picture_in_the_docs_is_linked():
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert {"lock.png", "cuts.png", "framing.png", "review.png", "output.png"} <= {p.name for p in pictures}
    assert all(f"docs/screenshots/{p.name}" in readme for p in pictures)


def test_what_is_installed_beside_the_program_is_there_and_the_guide_shows_nothing_else():
    told = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["setuptools"]["data-files"]
    files = {file for those in told.values() for file in those}
    assert [file for file in files if not (ROOT / file).is_file()] == []
    shown = re.findall(r"\]\((screenshots/[^)]+)\)", (ROOT / "docs" / "GUIDE.md").read_text())
    assert {f"docs/{each}" for each in shown} <= files
    entry = (ROOT / "packaging" / "ezvar.desktop").read_text()
    kind = (ROOT / "packaging" / "ezvar.xml").read_text()
    assert re.search(r"^MimeType=(.+);$", entry, re.M)[1] in kind


def test_the_table_of_presets_lists_those_that_come_with_the_program():
    listed = re.findall(r"^\| ([^|]+) \|", (ROOT / "docs" / "PRESETS.md").read_text(), re.M)[2:]
    assert listed == [preset.name for preset in PRESETS]
