#!/bin/sh
# Set up what Ezvar needs: a virtual environment with the pinned packages, and
# the system libraries that Qt needs. Does nothing when all is there.
set -eu

cd "$(dirname "$0")/.."
PYTHON="${PYTHON:-python3}"
LIBRARIES="libegl1 libgl1 libglib2.0-0 libdbus-1-3 libfontconfig1 libfreetype6 libxkbcommon0 libxkbcommon-x11-0 \
libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 \
libxcb-xinerama0 libxcb-xkb1 libpulse0"

install_or_say() {
    # $1: why; the rest: packages
    why="$1"
    shift
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing system packages: $*"
        apt-get update -qq
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null
    else
        echo "$why Install it with:" >&2
        echo "    sudo apt-get update && sudo apt-get install -y $*" >&2
        exit 1
    fi
}

if ! command -v "$PYTHON" >/dev/null 2>&1; then
    install_or_say "Python 3.11 or newer is missing." python3 python3-venv
fi
if ! "$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
    echo "Ezvar needs Python 3.11 or newer; name one with: make PYTHON=python3.12" >&2
    exit 1
fi

stamp="$(cat requirements.lock pyproject.toml | cksum)"
if [ ! -x .venv/bin/python ] || [ "$(cat .venv/ezvar-stamp 2>/dev/null)" != "$stamp" ]; then
    if ! "$PYTHON" -c 'import ensurepip, venv' >/dev/null 2>&1; then
        install_or_say "Python's venv module is missing." python3-venv
    fi
    echo "Setting up the virtual environment; this takes a minute or two."
    "$PYTHON" -m venv .venv
    .venv/bin/python -m pip install -q --require-hashes --no-deps -r requirements.lock
    # The project itself is put on the path by a file, which needs no build tools.
    .venv/bin/python - <<'PY'
import pathlib
import stat
import sysconfig

root = pathlib.Path.cwd()
pathlib.Path(sysconfig.get_path("purelib"), "ezvar.pth").write_text(f"{root}\n")
for name, module in (("ezvar", "ezvar.cli"), ("ezvar-reviewer", "ezvar_reviewer.__main__")):
    script = root / ".venv/bin" / name
    script.write_text(f"#!{root}/.venv/bin/python\nimport sys\nfrom {module} import main\nsys.exit(main())\n")
    script.chmod(script.stat().st_mode | stat.S_IXUSR | stat.S_IXGRP | stat.S_IXOTH)
PY
    echo "$stamp" > .venv/ezvar-stamp
fi

qt_is_whole() {
    .venv/bin/python - <<'PY' >/dev/null 2>&1
import pathlib
import subprocess

from PyQt6 import QtMultimedia, QtWidgets  # noqa: F401

plugins = pathlib.Path(QtWidgets.__file__).parent / "Qt6" / "plugins" / "platforms"
for name in ("libqxcb.so", "libqoffscreen.so"):
    said = subprocess.run(["ldd", plugins / name], capture_output=True, text=True, check=True).stdout
    assert "not found" not in said
PY
}

if ! qt_is_whole; then
    # shellcheck disable=SC2086
    install_or_say "Libraries that Qt needs are missing." $LIBRARIES
    if ! qt_is_whole; then
        echo "Qt still cannot be loaded; see: .venv/bin/python -c 'from PyQt6 import QtMultimedia, QtWidgets'" >&2
        exit 1
    fi
fi
