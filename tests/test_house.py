"""The rules of the house: layers, examples in docstrings, commands, pictures."""

import doctest
import importlib
import pkgutil
from pathlib import Path

import pytest
from importlinter.application.use_cases import lint_imports
from importlinter.cli import lint_imports_command  # noqa: F401  (registers the contracts)

import ezvar
from ezvar.app.kit.commands import COMMANDS, STAGES
from ezvar.app.kit.keymap import Keymap
from ezvar.app.window.main_window import MainWindow

ROOT = Path(__file__).parent.parent


def test_imports_keep_to_the_layers(monkeypatch):
    monkeypatch.chdir(ROOT)
    assert lint_imports(config_filename="pyproject.toml", cache_dir=None) in (True, 0)


@pytest.mark.parametrize(
    "name", [m.name for m in pkgutil.walk_packages(ezvar.__path__, "ezvar.") if "__main__" not in m.name]
)
def test_examples_in_docstrings_hold(name):
    assert doctest.testmod(importlib.import_module(name)).failed == 0


def test_every_command_is_in_a_menu_and_can_be_run(qtbot):
    handlers = MainWindow().handlers
    for command in COMMANDS:
        group, _, what = command.id.partition(".")
        assert command.menu
        assert group == "stage" or callable(handlers.of(group, what)), command.id
        assert set(command.stages) <= set(STAGES)


def test_no_two_commands_share_a_key_in_one_stage_and_changed_keys_tell():
    keymap = Keymap()
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
