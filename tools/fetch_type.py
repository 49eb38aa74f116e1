"""Fetch the families of type that Ezvar ships and write them as font files.

Run by hand when the type is to be renewed; the results are committed:

    python tools/fetch_type.py

*Atkinson Hyperlegible*: the packages hold web fonts cut into subsets; the Latin
and extended Latin subsets of each weight are joined again and written
uncompressed, as Qt reads them. The monospaced face serves timecode.

*Noto Sans* serves captions and titles in other scripts. What has thousands of
characters is cut down to those of the national standards: JIS X 0208, GB 2312,
and the syllables of KS X 1001. Needs `apt-get` for Debian's packages.
"""

from __future__ import annotations

import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

from fontTools import subset
from fontTools.merge import Merger
from fontTools.ttLib import TTFont

TYPE = Path(__file__).resolve().parent.parent / "ezvar" / "type"
FACES = {
    "next": (
        "Atkinson Hyperlegible Next",
        ((400, "normal"), (600, "normal"), (700, "normal"), (400, "italic"), (700, "italic")),
    ),
    "mono": ("Atkinson Hyperlegible Mono", ((400, "normal"), (700, "normal"))),
}
VERSION = "5.3.0"
NOTO = ("Arabic", "Devanagari", "Hebrew", "Thai")
WEIGHTS = ("Regular", "Bold")
EAST_ASIAN = (
    ("JP", 0, "shift_jis", "Regular"), ("JP", 0, "shift_jis", "Bold"),
    ("SC", 2, "gb2312", "Regular"), ("KR", 1, "euc_kr", "Regular"),
)  # fmt: skip
"""Family, its place in the collection, the codec whose characters are kept, weight."""


def join(folder: Path, face: str, weight: int, slant: str, family: str) -> None:
    """Join both subsets of one weight and give the result a plain family name."""
    parts = []
    for subset_ in ("latin", "latin-ext"):
        font = TTFont(folder / f"package/files/atkinson-hyperlegible-{face}-{subset_}-{weight}-{slant}.woff2")
        font.flavor = None
        part = folder / f"{subset_}-{weight}-{slant}.ttf"
        font.save(part)
        parts.append(str(part))
    joined = Merger().merge(parts)
    style = {400: "Regular", 600: "SemiBold", 700: "Bold"}[weight]
    if slant == "italic":
        style = "Italic" if weight == 400 else f"{style} Italic"
    for record in joined["name"].names:
        if record.nameID in (1, 16):
            record.string = family if weight != 600 or record.nameID == 16 else f"{family} SemiBold"
        elif record.nameID in (2, 17):
            record.string = "Regular" if weight == 600 and record.nameID == 2 else style
        elif record.nameID == 4:
            record.string = f"{family} {style}"
    joined["OS/2"].usWeightClass = weight
    joined.save(TYPE / f"AtkinsonHyperlegible{face.title()}-{style.replace(' ', '')}.ttf")


def latin() -> None:
    for face, (family, styles) in FACES.items():
        with tempfile.TemporaryDirectory() as temp:
            package = f"@fontsource/atkinson-hyperlegible-{face}@{VERSION}"
            subprocess.run(["npm", "pack", "--silent", package], cwd=temp, check=True)
            with tarfile.open(next(Path(temp).glob("*.tgz"))) as archive:
                archive.extractall(temp, filter="data")
            for weight, slant in styles:
                join(Path(temp), face, weight, slant, family)
            (TYPE / "OFL.txt").write_bytes((Path(temp) / "package/LICENSE").read_bytes())


def characters(codec: str) -> set[int]:
    """What two bytes of a codec can say, and ASCII; of Korean without the Chinese characters."""
    found = set(range(0x20, 0x7F))
    for first in range(0x21, 0x100):
        for second in range(0x21, 0x100):
            try:
                said = bytes((first, second)).decode(codec)
            except UnicodeDecodeError:
                continue
            if len(said) == 1 and not (codec == "euc_kr" and 0x4E00 <= ord(said) < 0xA000):
                found.add(ord(said))
    return found


def other_scripts() -> None:
    with tempfile.TemporaryDirectory() as temp:
        subprocess.run(["apt-get", "download", "fonts-noto-core", "fonts-noto-cjk"], cwd=temp, check=True)
        for package in Path(temp).glob("*.deb"):
            subprocess.run(["dpkg", "-x", package, temp], check=True)
        fonts = Path(temp) / "usr/share/fonts"
        for script in NOTO:
            for weight in WEIGHTS:
                shutil.copy(fonts / f"truetype/noto/NotoSans{script}-{weight}.ttf", TYPE)
        for name, place, codec, weight in EAST_ASIAN:
            font = TTFont(fonts / f"opentype/noto/NotoSansCJK-{weight}.ttc", fontNumber=place)
            options = subset.Options(hinting=False, notdef_outline=True)
            options.layout_features = ["ccmp", "locl", "kern", "mark", "mkmk", "calt", "liga"]
            options.name_IDs = [0, 1, 2, 3, 4, 5, 6, 13, 14]
            smaller = subset.Subsetter(options)
            smaller.populate(unicodes=characters(codec))
            smaller.subset(font)
            font.save(TYPE / f"NotoSans{name}-{weight}.otf")
        shutil.copy(Path(temp) / "usr/share/doc/fonts-noto-cjk/copyright", TYPE / "NOTO.txt")


def main() -> None:
    TYPE.mkdir(parents=True, exist_ok=True)
    latin()
    other_scripts()


if __name__ == "__main__":
    main()
