"""The command line: the same core without a window, a module a group of commands.

Exit status: 0 done, 1 done with problems listed, 2 could not.
"""

from __future__ import annotations

import io
import os
import signal
import sys

from ezvar import __version__
from ezvar.core.apart import warm
from ezvar.core.errors import EzvarError
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.stalls import watch_calls
from ezvar.core.threads import begin

from . import batch, captions, colours, lists, machines, output, planning, review, window
from .parser import Parser

_APART = {
    "timeline": (".otio", ".otioz", ".aaf"),
    "captions": (".ttml", ".xml", ".dfxp", ".itt"),
}  # what reads files apart, by their endings


def main(arguments: list[str] | None = None) -> int:
    """Run a command and return its exit status. No error outside the program shows a traceback.

    Without ``arguments`` it is the program itself, which ends where a library does not come back from a file; the
    window goes on then.
    """
    parser = _parser()
    options = parser.parse_args(arguments)
    if isinstance(sys.stdout, io.TextIOWrapper):
        sys.stdout.reconfigure(errors="surrogateescape")  # paths are printed to the byte
    cancel = CancelToken()
    in_window = options.command in (None, "demo", "open")
    if not in_window:
        signal.signal(signal.SIGINT, lambda *_: cancel.cancel())
        signal.signal(signal.SIGTERM, lambda *_: cancel.cancel())
    named = [str(each).lower() for each in vars(options).values()]
    if kinds := [kind for kind, endings in _APART.items() if any(each.endswith(endings) for each in named)]:
        warm(*kinds)  # it gets ready while this program does
    if arguments is None and not in_window:
        _watch()
    try:
        return int(options.run(options, cancel))
    except EzvarError as error:
        print(f"ezvar: {error}", file=sys.stderr)
    except Cancelled:
        print("ezvar: stopped, nothing was left half done.", file=sys.stderr)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except Exception as error:  # that nobody foresaw: told in a sentence all the same
        from ezvar.core.store import our_mistake, report_of

        print(f"ezvar: {our_mistake(error, report_of(error))}", file=sys.stderr)
    return 2


def _watch() -> None:
    """End the program where a library does not come back from a file: there is no other way out of it."""

    def end(error: EzvarError, _: int) -> None:
        print(f"ezvar: {error}", file=sys.stderr, flush=True)
        os._exit(2)

    begin("watch", lambda: watch_calls(end))


def _parser() -> Parser:
    parser = Parser(prog="ezvar", description="Reframes a locked edit for other shapes. Without a command: the window.")
    parser.add_argument("--version", action="version", version=f"ezvar {__version__}")
    parser.set_defaults(run=window.open_window, file=None, command=None)
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=Parser)
    window.add(commands)
    planning.add(commands)
    lists.add(commands)
    captions.add(commands)
    colours.add(commands)
    review.add(commands)
    output.add(commands)
    machines.add(commands)
    batch.add(commands)
    lists.add_check(commands)
    return parser
