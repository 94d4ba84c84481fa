"""Write a drawing as SVG: the same shapes, each thing with its name for whoever reads aloud."""

from xml.sax.saxutils import escape, quoteattr

from molvik.drawing.lettering import shortened
from molvik.drawing.roles import LIGHT, Roles
from molvik.drawing.scene import Oval, Path, Pen, Rect, Scene, Shape, Text


def svg_bytes(scene: Scene, title: str, roles: Roles = LIGHT) -> bytes:
    """Return a drawing as an SVG file, on a page of its own colour."""
    width, height = f"{scene.width:g}", f"{scene.height:g}"
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" '
        f'viewBox="0 0 {width} {height}" role="img">',
        f"<title>{escape(title)}</title>",
        # A viewer may show a dark page behind it.
        f'<rect width="{width}" height="{height}" fill="{roles.sheet}"/>',
    ]
    lines += [element(text, roles) for text in scene.shapes]
    for area in scene.areas:
        box = area.box
        lines.append(
            f'<rect {_at(box.x, box.y, box.width, box.height)} fill-opacity="0" '
            f"data-ref={quoteattr(area.ref)}><title>{escape(area.words)}</title></rect>"
        )
    lines.append("</svg>\n")
    return "\n".join(lines).encode()


def _at(x: float, y: float, width: float, height: float) -> str:
    return f'x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}"'


def element(shape: Shape, roles: Roles) -> str:
    """Return a shape as an element of SVG."""
    match shape:
        case Path(points, pen, closed, fill):
            kind = "polygon" if closed else "polyline"
            places = " ".join(f"{x:g},{y:g}" for x, y in points)
            return f'<{kind} points="{places}"{_look(pen, fill, roles)}/>'
        case Oval(box, pen, fill):
            middle = box.middle
            return (
                f'<ellipse cx="{middle.x:g}" cy="{middle.y:g}" rx="{box.width / 2:g}" '
                f'ry="{box.height / 2:g}"{_look(pen, fill, roles)}/>'
            )
        case Rect(box, pen, fill, radius):
            return f'<rect {_at(*box)} rx="{radius:g}"{_look(pen, fill, roles)}/>'
        case Text():
            return _text(shape, roles)


def _look(pen: Pen | None, fill: str, roles: Roles) -> str:
    words = f' fill="{roles.paint(fill)}"' if fill else ' fill="none"'
    if pen is not None:
        words += f' stroke="{roles.paint(pen.role)}" stroke-width="{pen.width:g}"'
        if pen.dash:
            words += f' stroke-dasharray="{" ".join(f"{one:g}" for one in pen.dash)}"'
        if pen.round:
            words += ' stroke-linecap="round"'
    return words


def _text(text: Text, roles: Roles) -> str:
    box = text.box
    face = "B612 Mono, monospace" if text.mono else "B612, sans-serif"
    x, anchor = {
        "left": (box.x, "start"),
        "middle": (box.middle.x, "middle"),
        "right": (box.right, "end"),
    }[text.align]
    weight = ' font-weight="bold"' if text.bold else ""
    shown, middle = shortened(text), box.middle
    turned = f' transform="rotate({text.turn:g} {middle.x:g} {middle.y:g})"' if text.turn else ""
    return (
        f'<text x="{x:g}" y="{box.middle.y:g}" dominant-baseline="central" text-anchor="{anchor}" '
        f'font-family="{face}" font-size="{text.pixels:g}"{weight}{turned} '
        f'fill="{roles.paint(text.role)}">{escape(shown)}</text>'
    )
