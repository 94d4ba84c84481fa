"""The house rules that a machine can hold: imports, rings, and what is said of errors.

Nothing is imported inside a function but what start-up was measured to need there. Milliseconds of
processor time on top of the module that asks for it, one core of 2.5 GHz; less than 8 is not worth
it. What is no longer imported late is not listed any more either.
"""

import ast
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

import networkx

import molvik

LIBRARIES_MS = {
    "PIL": 47,
    "PySide6": 138,
    "babel": 38,
    "can": 145,
    "ezdxf": 1215,
    "isotp": 127,
    "networkx": 699,
    "numpy": 144,
    "openpyxl": 538,
    "pint": 460,
    "pyvisa": 267,
    "rapidfuzz": 49,
    "reportlab": 277,
    "scipy": 1526,
    "xlsxwriter": 220,
}
"""Each takes the window's start-up, or a command that does without, past what it may take."""

MODULES_MS = {
    "molvik.analysis": 145,
    "molvik.blocks.arrangements": 230,
    "molvik.circuits.cranking": 62,
    "molvik.circuits.excitation": 70,
    "molvik.circuits.rundown": 62,
    "molvik.circuits.diagram.frame": 75,
    "molvik.circuits.diagram.netlist": 62,
    "molvik.circuits.diagram.tracks": 75,
    "molvik.circuits.drain": 61,
    "molvik.circuits.drawing": 63,
    "molvik.circuits.gauges.inputs": 19,
    "molvik.circuits.gauges.lamps": 70,
    "molvik.circuits.gauges.matching": 8,
    "molvik.circuits.route": 63,
    "molvik.circuits.scenario": 62,
    "molvik.circuits.balance": 44,
    "molvik.circuits.bus.eye": 209,
    "molvik.circuits.bus.meter": 149,
    "molvik.circuits.bus.power": 160,
    "molvik.circuits.bus.taps": 159,
    "molvik.circuits.strip": 62,
    "molvik.circuits.why": 65,
    "molvik.circuits.wire_table": 66,
    "molvik.crossover.repinplan": 78,
    "molvik.parsing.functions.reading": 19,
    "molvik.demo": 53,
    "molvik.drawing.labelplacing": 175,
    "molvik.desktop.dialogs.find": 10,
    "molvik.desktop.dialogs.housing": 22,
    "molvik.desktop.dialogs.keys": 32,
    "molvik.desktop.threads.lanes": 107,
    "molvik.desktop.beside.logbook": 17,
    "molvik.desktop.beside.photos": 44,
    "molvik.desktop.threads.reading": 31,
    "molvik.desktop.stages.circuits.busview": 330,
    "molvik.desktop.stages.circuits.chargeview": 35,
    "molvik.desktop.stages.circuits.diagramview": 20,
    "molvik.desktop.stages.circuits.gaugeview": 14,
    "molvik.desktop.stages.circuits.laying": 35,
    "molvik.desktop.stages.circuits.stripping": 35,
    "molvik.desktop.stages.pinouts.importing": 59,
    "molvik.desktop.stages.routing.boarddialog": 60,
    "molvik.desktop.beside.stock": 38,
    "molvik.desktop.dialogs.sums": 8,
    "molvik.desktop.theme": 140,
    "molvik.desktop.jobfile.versions": 14,
    "molvik.desktop.window": 543,
    "molvik.devices.states": 52,
    "molvik.electrics": 86,
    "molvik.files.board": 108,
    "molvik.files.diagram": 36,
    "molvik.routing.board.sheet": 17,
    "molvik.files.jobfile": 66,
    "molvik.files.pdf": 36,
    "molvik.files.photobox": 10,
    "molvik.files.saving": 70,
    "molvik.files.sheets": 12,
    "molvik.files.shelf": 15,
    "molvik.files.svg": 43,
    "molvik.files.tables": 13,
    "molvik.findings": 170,
    "molvik.findings.kinds": 157,
    "molvik.instruments.ecu": 101,
    "molvik.instruments.ecubus": 84,
    "molvik.instruments.standin": 75,
    "molvik.instruments.standsupply": 104,
    "molvik.instruments.supply": 11,
    "molvik.logbook.quote": 141,
    "molvik.logbook.rework": 150,
    "molvik.netlist.faults": 54,
    "molvik.netlist.network": 58,
    "molvik.pinouts.columns": 14,
    "molvik.pinouts.table": 10,
    "molvik.proving.continuity": 21,
    "molvik.proving.diagnose": 98,
    "molvik.proving.isolation": 20,
    "molvik.proving.items": 22,
    "molvik.proving.jointtests": 66,
    "molvik.proving.parttests": 63,
    "molvik.proving.readings": 99,
    "molvik.proving.touching": 60,
    "molvik.routing.covers": 21,
    "molvik.routing.packing": 155,
    "molvik.sheetset": 166,
    "molvik.sizes.hot": 63,
    "molvik.sizes.quick": 16,
    "molvik.sizes.short": 74,
    "molvik.sizes.sizing_case": 63,
    "molvik.sizes.substitute": 65,
    "molvik.sizes.sumline": 10,
    "molvik.sizes.voltage": 63,
    "molvik.sizes.wire": 61,
    "molvik.spoken": 10,
    "molvik.survey.decide": 13,
    "molvik.survey.rules": 16,
    "molvik.survey.spread": 12,
}

SOURCE = Path(molvik.__file__).parent


def modules() -> dict[str, ast.Module]:
    found = {}
    for path in SOURCE.rglob("*.py"):
        parts = path.relative_to(SOURCE.parent).with_suffix("").parts
        name = ".".join(parts).removesuffix(".__init__")
        found[name] = ast.parse(path.read_text("utf-8"))
    return found


EVERY = modules()


def named(node: ast.AST) -> Iterator[str]:
    """Yield the modules that an import names."""
    if isinstance(node, ast.Import):
        yield from (one.name for one in node.names)
    elif isinstance(node, ast.ImportFrom) and node.module:
        for one in node.names:
            inner = f"{node.module}.{one.name}"
            yield inner if inner in EVERY else node.module


def late() -> dict[str, set[str]]:
    """Return what is imported inside functions, and by whom."""
    found: dict[str, set[str]] = defaultdict(set)
    for module, tree in EVERY.items():
        for function in ast.walk(tree):
            if isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
                for node in ast.walk(function):
                    for name in named(node):
                        found[name].add(module)
    return found


def test_only_what_was_measured_to_be_slow_is_imported_late() -> None:
    found = late()
    ours = {name for name in found if name.startswith("molvik")}
    assert ours == set(MODULES_MS)
    assert {name.split(".")[0] for name in set(found) - ours} == set(LIBRARIES_MS)
    assert min(MODULES_MS.values()) >= 8


def test_no_modules_import_one_another_in_a_ring() -> None:
    graph: networkx.DiGraph[str] = networkx.DiGraph()
    for module, tree in EVERY.items():
        typing_only = {
            inner
            for node in ast.walk(tree)
            if isinstance(node, ast.If) and getattr(node.test, "id", "") == "TYPE_CHECKING"
            for inner in ast.walk(node)
        }
        for node in ast.walk(tree):
            if node not in typing_only:
                graph.add_edges_from((module, name) for name in named(node) if name in EVERY)
    rings = [ring for ring in networkx.strongly_connected_components(graph) if len(ring) > 1]
    assert rings == []
    assert len(graph) > 500


READ_BY_FIELDS = "molvik.typed.field"
"""Says once, of all of its readers, that a ValueError says why a text is refused."""


def raised(function: ast.FunctionDef) -> set[str]:
    """Return what a function raises by name, and does not catch itself."""
    found, caught = set(), set()
    for node in ast.walk(function):
        if isinstance(node, ast.Raise) and node.exc is not None:
            error = node.exc.func if isinstance(node.exc, ast.Call) else node.exc
            found.add(getattr(error, "id", getattr(error, "attr", "")))
        if isinstance(node, ast.ExceptHandler) and node.type is not None:
            caught.add(getattr(node.type, "id", ""))
    inside = {"NotImplementedError", "StopIteration", "KeyError", "AssertionError"}
    return {name for name in found - caught - inside if name[:1].isupper()}


def test_a_public_function_says_what_it_raises() -> None:
    silent = [
        f"{module}.{function.name}: {name}"
        for module, tree in EVERY.items()
        if module != READ_BY_FIELDS
        for body in (tree.body, *(one.body for one in tree.body if isinstance(one, ast.ClassDef)))
        for function in body
        if isinstance(function, ast.FunctionDef) and not function.name.startswith("_")
        for name in raised(function)
        if name not in (ast.get_docstring(function) or "")
    ]
    assert silent == []
