"""The page that says, in the morning, what needs a person: one HTML file that needs nothing beside it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape

from ezvar.core.names import readable

from .steps import Step

_STYLE = """
body { margin: 2rem auto; max-width: 60rem; padding: 0 1rem; background: #f1ebdf; color: #20302d;
  font: 16px/1.5 sans-serif; }
section { background: #f8f4ea; border: 1px solid #d8cfbc; margin: 1rem 0; padding: 0.5rem 1rem; }
h1 { font-size: 1.5rem; } h2 { font-size: 1.15rem; margin: 0.4rem 0; } h3 { font-size: 1rem; margin: 0.8rem 0 0; }
ul { margin: 0.2rem 0 0.6rem; padding-left: 1.3rem; } .soft { color: #5d675f; } .failed { color: #9c3a25; }
.problems { color: #6b3f00; }
"""
_TITLES = {"plan": "Planning", "doubts": "Deserves a look", "make": "Making", "check": "Checking"}


def summary_page(title: str, steps: Sequence[Step]) -> bytes:
    """The page for all steps of a batch: the locks that need a person first, and the others in a list."""
    names = list(dict.fromkeys(step.lock for step in steps))
    by_lock = {name: [step for step in steps if step.lock == name] for name in names}
    waits = [name for name in names if any(step.said for step in by_lock[name])]
    rest = [name for name in names if name not in waits]
    of = "of 1 lock" if len(names) == 1 else f"of {len(names)} locks"
    parts = [
        f"<h1>{_text(title)}</h1>",
        f"<p>{len(waits)} {of} {'needs' if len(waits) == 1 else 'need'} a person.</p>",
        *(_lock(name, by_lock[name]) for name in waits),
    ]
    if rest:
        listed = _list(f"{name}: {_counts(by_lock[name])}" for name in rest)
        parts.append(f"<section><h2>Nothing to look at</h2>{listed}</section>")
    head = f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_text(title)}</title>'
    return f"{head}<style>{_STYLE}</style></head><body>{''.join(parts)}</body></html>\n".encode()


def _lock(name: str, steps: Sequence[Step]) -> str:
    found = [f"<h2>{_text(name)}</h2><p class='soft'>{_text(_counts(steps))}</p>"]
    for step in steps:
        if step.said:
            row = f": {step.facts['row']}" if "row" in step.facts else ""
            found.append(f"<h3 class='{step.state}'>{_text(_TITLES[step.step] + row)}</h3>{_list(step.said)}")
    return f"<section>{''.join(found)}</section>"


def _counts(steps: Sequence[Step]) -> str:
    made = [step for step in steps if step.step == "make"]
    there = sum(step.state != "failed" for step in made)
    checked = sum(step.step == "check" and step.state == "done" for step in steps)
    if not made:
        return "nothing was made"
    return f"{there} of {len(made)} movies there, {checked} as they should be"


def _list(lines: Iterable[str]) -> str:
    return f"<ul>{''.join(f'<li>{_text(line)}</li>' for line in lines)}</ul>"


def _text(text: str) -> str:
    return escape(readable(text))
