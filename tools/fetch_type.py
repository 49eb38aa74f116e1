"""Fetch the family of type that Ezvar ships and write it as TrueType files.

Run by hand when the type is to be renewed; the results are committed:

    python tools/fetch_type.py

The packages hold web fonts cut into subsets; the Latin and extended Latin
subsets of each weight are joined again and written uncompressed, as Qt reads
them. The monospaced face serves timecode.
"""

from __future__ import annotations

import subprocess
import tarfile
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont

TYPE = Path(__file__).resolve().parent.parent / "ezvar" / "app" / "type"
FACES = {"next": ("Atkinson Hyperlegible Next", (400, 600, 700)), "mono": ("Atkinson Hyperlegible Mono", (400, 700))}
VERSION = "5.3.0"


def join(folder: Path, face: str, weight: int, family: str) -> None:
    """Join both subsets of one weight and give the result a plain family name."""
    parts = []
    for subset in ("latin", "latin-ext"):
        font = TTFont(folder / f"package/files/atkinson-hyperlegible-{face}-{subset}-{weight}-normal.woff2")
        font.flavor = None
        part = folder / f"{subset}-{weight}.ttf"
        font.save(part)
        parts.append(str(part))
    joined = Merger().merge(parts)
    style = {400: "Regular", 600: "SemiBold", 700: "Bold"}[weight]
    for record in joined["name"].names:
        if record.nameID in (1, 16):
            record.string = family if weight != 600 or record.nameID == 16 else f"{family} SemiBold"
        elif record.nameID in (2, 17):
            record.string = "Regular" if weight == 600 and record.nameID == 2 else style
        elif record.nameID == 4:
            record.string = f"{family} {style}"
    joined["OS/2"].usWeightClass = weight
    joined.save(TYPE / f"AtkinsonHyperlegible{face.title()}-{style}.ttf")


def main() -> None:
    TYPE.mkdir(parents=True, exist_ok=True)
    for face, (family, weights) in FACES.items():
        with tempfile.TemporaryDirectory() as temp:
            package = f"@fontsource/atkinson-hyperlegible-{face}@{VERSION}"
            subprocess.run(["npm", "pack", "--silent", package], cwd=temp, check=True)
            with tarfile.open(next(Path(temp).glob("*.tgz"))) as archive:
                archive.extractall(temp, filter="data")
            for weight in weights:
                join(Path(temp), face, weight, family)
            (TYPE / "OFL.txt").write_bytes((Path(temp) / "package/LICENSE").read_bytes())


if __name__ == "__main__":
    main()
