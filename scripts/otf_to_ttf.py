"""Turn Debian's B612 (CFF outlines) into TrueType, which both Qt and ReportLab read.

Run once when the fonts are renewed, with fonttools installed:
    python scripts/otf_to_ttf.py /usr/share/fonts/opentype/b612 src/molvik/fonts
"""

import sys
from pathlib import Path

from fontTools.pens.cu2quPen import Cu2QuPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont, newTable

WANTED = ("B612-Regular", "B612-Bold", "B612-Italic", "B612Mono-Regular", "B612Mono-Bold")


def convert(source: Path, target: Path) -> None:
    font = TTFont(source)
    order = font.getGlyphOrder()
    glyphs = font.getGlyphSet()
    quadratic = {}
    for name in order:
        pen = TTGlyphPen(glyphs)
        glyphs[name].draw(Cu2QuPen(pen, max_err=1.0, reverse_direction=True))
        quadratic[name] = pen.glyph()
    font["loca"] = newTable("loca")
    glyf = font["glyf"] = newTable("glyf")
    glyf.glyphOrder = order
    glyf.glyphs = quadratic
    for table in ("CFF ", "VORG"):
        if table in font:
            del font[table]
    maxp = font["maxp"]
    maxp.tableVersion = 0x00010000
    unused = "TwilightPoints Storage FunctionDefs InstructionDefs StackElements SizeOfInstructions"
    for field in unused.split(" "):
        setattr(maxp, f"max{field}", 0)
    maxp.maxZones = 1
    maxp.maxComponentElements = max(
        (len(g.components) for g in quadratic.values() if hasattr(g, "components")), default=0
    )
    font["post"].formatType = 2.0
    font["post"].extraNames = []
    font["post"].mapping = {}
    font.sfntVersion = "\000\001\000\000"
    font.save(target)


if __name__ == "__main__":
    for wanted in WANTED:
        convert(Path(sys.argv[1]) / f"{wanted}.otf", Path(sys.argv[2]) / f"{wanted}.ttf")
