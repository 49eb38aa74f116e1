#!/bin/sh
# Install Ezvar for the user's own account, or take it off again:
#
#     sh tools/install.sh install | uninstall
#
# PREFIX names another place than ~/.local. What the user has made stays where it is.
set -eu

cd "$(dirname "$0")/.."
PYTHON="${PYTHON:-python3}"
PREFIX="${PREFIX:-$HOME/.local}"
PLACE="$PREFIX/share/ezvar"
ENTRY="$PREFIX/share/applications/ezvar.desktop"
ICON="$PREFIX/share/icons/hicolor/scalable/apps/ezvar.svg"
KIND="$PREFIX/share/mime/packages/ezvar.xml"

tell_the_desktop() {
    # Desktops look again by themselves after a while; where these are there, at once.
    if command -v update-mime-database >/dev/null 2>&1 && [ -d "$PREFIX/share/mime" ]; then
        update-mime-database "$PREFIX/share/mime"
    fi
    if command -v update-desktop-database >/dev/null 2>&1 && [ -d "$PREFIX/share/applications" ]; then
        update-desktop-database "$PREFIX/share/applications"
    fi
}

case "${1:-}" in
install)
    echo "Installing Ezvar into $PLACE; this takes a minute or two."
    mkdir -p "$PLACE" "$PREFIX/bin"
    "$PYTHON" -m venv --clear "$PLACE/venv"
    made="$(mktemp -d)"
    "$PLACE/venv/bin/python" -m pip wheel -q --no-deps -w "$made" .
    "$PLACE/venv/bin/python" -m pip install -q "$made"/ezvar-*.whl
    rm -rf "$made" build ezvar.egg-info
    for program in ezvar ezvar-reviewer; do
        ln -sf "$PLACE/venv/bin/$program" "$PREFIX/bin/$program"
    done
    for file in "$ENTRY" "$ICON" "$KIND"; do
        mkdir -p "$(dirname "$file")"
        cp "packaging/$(basename "$file")" "$file"
    done
    # The desktop may not look for programs in the prefix.
    sed -i "s|^Exec=ezvar|Exec=$PREFIX/bin/ezvar|" "$ENTRY"
    tell_the_desktop
    echo "Done. Start it from the menu, or with $PREFIX/bin/ezvar"
    ;;
uninstall)
    rm -rf "$PLACE/venv"
    for program in ezvar ezvar-reviewer; do
        if [ -L "$PREFIX/bin/$program" ]; then rm "$PREFIX/bin/$program"; fi
    done
    rm -f "$ENTRY" "$ICON" "$KIND"
    rmdir "$PLACE" 2>/dev/null || true
    tell_the_desktop
    echo "Ezvar is taken off. Projects, and what it keeps for you, are where they were."
    ;;
*)
    echo "Say install or uninstall." >&2
    exit 2
    ;;
esac
