"""Where what is kept for the user, and for no project, lies."""

from __future__ import annotations

import os
from pathlib import Path

import platformdirs


def user_file(name: str) -> Path:
    """A file of the user's configuration; the environment variable EZVAR_CONFIG names another folder."""
    return Path(os.environ.get("EZVAR_CONFIG") or platformdirs.user_config_path("ezvar")) / name
