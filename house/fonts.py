"""The web's fonts as files that a PDF can carry: `python -m house.fonts FOLDER`.

The packages of the web application bring variable fonts, cut up by script, in the web's own packing. For paper they are set to
a weight each and put together again.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

from house.ground import ROOT
from house.system import DEJAVU

_PACKAGES = ROOT / "web" / "node_modules" / "@fontsource-variable"
_SCRIPTS = ("latin", "latin-ext", "cyrillic", "greek", "vietnamese")
# File → package, slope, weight.
_FACES = {
    "serif": ("literata", "normal", 400),
    "serif-bold": ("literata", "normal", 620),
    "serif-italic": ("literata", "italic", 400),
    "sans": ("source-sans-3", "normal", 400),
}
# Signs that the faces lack come from a font of Debian's.
_OTHERS = {"other-dejavu": DEJAVU}


def make_fonts(folder: Path) -> None:
    """Write serif.ttf, serif-bold.ttf, serif-italic.ttf, sans.ttf and other-*.ttf."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, (package, slope, weight) in _FACES.items():
        with tempfile.TemporaryDirectory() as scratch:
            parts = []
            for script in _SCRIPTS:
                source = _PACKAGES / package / "files" / f"{package}-{script}-wght-{slope}.woff2"
                font = instantiateVariableFont(TTFont(source), {"wght": weight})
                font.flavor = None
                for table in ("GSUB", "GPOS", "GDEF"):  # alternates and kerning of parts do not add up to those of the whole
                    if table in font:
                        del font[table]
                parts.append(Path(scratch) / f"{script}.ttf")
                font.save(parts[-1])
            merged = Merger().merge([str(part) for part in parts])
            merged.save(folder / f"{name}.ttf")
    for name, source in _OTHERS.items():
        shutil.copyfile(source, folder / f"{name}.ttf")


if __name__ == "__main__":
    make_fonts(Path(sys.argv[1]))
