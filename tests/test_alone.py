"""Nothing calls home: a whole plan, make and window under a filter that ends whoever asks for a socket to elsewhere."""

import os
import signal
import subprocess
import sys

import pytest

_FILTERED = """
import ctypes, os, platform, struct
# A program of the kernel's packet filter (seccomp(2)): the call for a socket, in a family other than this machine's
# own, ends the process.
call = {"x86_64": 41, "aarch64": 198}[platform.machine()]
code = [
    (0x20, 0, 0, 0), (0x15, 0, 3, call),  # the number of the call; on for others
    (0x20, 0, 0, 16), (0x15, 1, 0, 1),  # its first argument, the family; AF_UNIX is fine
    (0x06, 0, 0, 0x80000000), (0x06, 0, 0, 0x7FFF0000),  # end the process; allow
]
held = ctypes.create_string_buffer(b"".join(struct.pack("HBBI", *line) for line in code))
program = ctypes.create_string_buffer(struct.pack("HxxxxxxP", len(code), ctypes.addressof(held)))
libc = ctypes.CDLL(None, use_errno=True)
for arguments in ((38, 1, 0, 0, 0), (22, 2, program)):  # no new privileges; the filter
    if libc.prctl(*arguments):
        raise OSError(ctypes.get_errno(), "no filter")
"""

_ASK = "import socket; socket.socket(socket.AF_UNIX).close(); socket.socket(socket.AF_INET, socket.SOCK_DGRAM)"

_WORK = """
import sys
from ezvar.cli import main
movie, project, out = sys.argv[1:]
assert main(["plan", movie, "--master", "m=90x160", "-o", project]) == 0
assert main(["make", project, "-o", out]) == 0
from PyQt6.QtCore import QTimer
from ezvar.app.window.main import make_application
from ezvar.app.window.main_window import MainWindow
app = make_application()
window = MainWindow()
window.show()
files, player = window.session.files, window.player
left = [lambda: files.open(movie), lambda: files.open(project), lambda: player.play(0), player.stop,
        lambda: files.save(project), window.close]
def on():
    if not window.jobs.running:
        left.pop(0)()
    QTimer.singleShot(100, on if left else app.quit)
on()
app.exec()
print("done")
"""


def _run(program: str, *arguments: object, **environment: str) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-c", _FILTERED + program, *map(str, arguments)],
        capture_output=True, text=True, timeout=120, env={**os.environ, **environment},
    )  # fmt: skip


@pytest.mark.skipif(os.uname().machine not in ("x86_64", "aarch64"), reason="the filter knows no other machines")
def test_no_socket_to_elsewhere_is_ever_asked_for(edit, tmp_path):
    assert _run(_ASK).returncode == -signal.SIGSYS  # the filter filters
    home = tmp_path / "home"
    places = {"HOME": "", "XDG_CACHE_HOME": "c", "XDG_CONFIG_HOME": "f", "XDG_DATA_HOME": "d", "XDG_STATE_HOME": "s"}
    own = {"EZVAR_CACHE": str(tmp_path / "cache"), "EZVAR_CONFIG": str(tmp_path / "config")}
    done = _run(_WORK, edit, tmp_path / "p.ezvar", tmp_path, **own, **{k: str(home / v) for k, v in places.items()})
    assert done.stdout.endswith("done\n"), done.stderr
    left = [p for p in home.rglob("*") if p.is_file() and "fontconfig" not in p.parts and "mesa" not in str(p)]
    assert left == []  # nor does anything keep a note of the machine or its user
