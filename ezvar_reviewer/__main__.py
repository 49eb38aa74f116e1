"""ezvar-reviewer FOLDER: answer the newest handoff in a folder, or each that comes while it is watched."""

from __future__ import annotations

import argparse
import json
import os
import random
import sys
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from .answer import DAMAGES, KIND, answered, truncated

_PIECES = 8  # in which a file is written slowly


def main(words: list[str] | None = None) -> int:
    """Answer; 0 where something was answered, 1 where there was nothing to answer, 2 where it could not be."""
    parser = argparse.ArgumentParser("ezvar-reviewer", description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--name", default="Reviewer", help="who says it")
    parser.add_argument("--seed", type=int, default=1, help="what is said is the same for the same seed")
    parser.add_argument("--schema", type=Path, help="the published schema, by which a handoff is looked at first")
    parser.add_argument("--damage", choices=["truncated", *DAMAGES], help="spoil the file, as files are on their way")
    parser.add_argument("--slowly", type=float, default=0.0, metavar="SECONDS", help="take so long to write the file")
    parser.add_argument("--watch", type=float, default=0.0, metavar="SECONDS", help="go on answering for so long")
    options = parser.parse_args(words)
    ends, done = time.monotonic() + options.watch, set[tuple[str, int]]()
    while True:
        for file in handoffs(options.folder):
            known = str(file), file.stat().st_mtime_ns
            if known in done:
                continue
            done.add(known)
            try:
                print(answer(file, options), flush=True)
            except (OSError, ValueError, KeyError, TypeError) as error:
                print(f"ezvar-reviewer: {file.name} cannot be answered: {error}", file=sys.stderr)
                return 2
            if not options.watch:
                return 0
        if time.monotonic() >= ends:
            return 0 if done else 1
        time.sleep(0.2)


def handoffs(folder: Path) -> Iterator[Path]:
    """The decisions that were handed out into a folder, or into folders in it, the newest first; no answers."""
    files = [*folder.glob("*decisions*.json"), *folder.glob("*/*decisions*.json")]
    yield from sorted((f for f in files if not f.name.startswith(".")), key=lambda f: -f.stat().st_mtime)


def answer(file: Path, options: argparse.Namespace) -> Path:
    """Answer a handoff's decisions; the file that was written into the folder."""
    data = json.loads(file.read_text())
    check(data, options.schema)
    chance = random.Random(options.seed)
    made = answered(data, options.name, options.seed)
    if options.damage and options.damage != "truncated":
        DAMAGES[options.damage](made, chance)
    text = json.dumps(made, indent=1, ensure_ascii=False)
    if options.damage == "truncated":
        text = truncated(text, chance)
    moment = datetime.now(UTC).strftime("%Y-%m-%d %H.%M.%S")
    stem = file.stem.removesuffix(" decisions")
    target = Path(options.folder) / f"{stem} by {options.name} {moment}.json"
    number = 1
    while target.exists():
        number += 1
        target = Path(options.folder) / f"{stem} by {options.name} {moment} {number}.json"
    write(target, text, options.slowly)
    return target


def check(data: Any, schema: Path | None) -> None:
    """Raise `ValueError` for what the published schema does not let through, as far as it says what has to be there."""
    if not isinstance(data, dict) or KIND not in data:
        raise ValueError("it holds no reframe decisions")
    if schema is not None:
        whole = json.loads(schema.read_text())
        _check(data, whole, whole.get("$defs", {}), "")


def _check(value: Any, schema: dict[str, Any], definitions: dict[str, Any], place: str) -> None:
    if "$ref" in schema:
        schema = definitions[schema["$ref"].rpartition("/")[2]]
    if "maximum" in schema and isinstance(value, (int, float)) and value > schema["maximum"]:
        raise ValueError(f"{place or 'it'} is beyond what the schema knows")
    if isinstance(value, dict):
        for name in schema.get("required", ()):
            if name not in value:
                raise ValueError(f"{place} lacks “{name}”")
        for name, inner in schema.get("properties", {}).items():
            if name in value:
                _check(value[name], inner, definitions, f"{place}.{name}")
    elif isinstance(value, list) and isinstance(schema.get("items"), dict):
        for inner in value:
            _check(inner, schema["items"], definitions, place)


def write(target: Path, text: str, slowly: float) -> None:
    """Write a file, at once under its name, or piece by piece as over a slow network."""
    if not slowly:
        part = target.with_name(f".{target.name}.part")
        part.write_text(text)
        os.replace(part, target)
        return
    size = -(-len(text) // _PIECES)
    with target.open("w") as file:
        for start in range(0, len(text), size):
            file.write(text[start : start + size])
            file.flush()
            time.sleep(slowly / _PIECES)


if __name__ == "__main__":
    sys.exit(main())
