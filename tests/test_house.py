"""The drawing of the house: no two files need each other, no class does the work of several, and no name means two things."""

from __future__ import annotations

import ast
from collections import Counter
from pathlib import Path

import grimp
from tools.draw_contracts import PAGE, drawn, layers

SOURCE = Path(__file__).parent.parent / "src" / "after_check"
MOST_PUBLIC_METHODS, LONGEST_CLASS_LINES = 25, 400


def reaches_itself(graph, module):
    """Return the modules through which a module imports itself, or nothing."""
    for imported in graph.find_modules_directly_imported_by(module):
        chain = graph.find_shortest_chain(imported, module)
        if chain:
            return chain
    return ()


def test_no_file_imports_itself_by_way_of_others():
    graph = grimp.build_graph("after_check")
    assert len(graph.modules) > 200
    assert not [chain for module in sorted(graph.modules) if (chain := reaches_itself(graph, module))]


def classes():
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ClassDef):
                yield f"{path.relative_to(SOURCE)}: {node.name}", node


def test_no_class_does_the_work_of_several():
    found = {}
    for name, node in classes():
        public = [part for part in node.body if isinstance(part, ast.FunctionDef | ast.AsyncFunctionDef) and not part.name.startswith("_")]
        if len(public) > MOST_PUBLIC_METHODS or node.end_lineno - node.lineno > LONGEST_CLASS_LINES:
            found[name] = (len(public), node.end_lineno - node.lineno)
    assert not found


def test_all_exceptions_are_one_documented_tree():
    parents = {node.name: [base.id for base in node.bases if isinstance(base, ast.Name)] for _, node in classes()}
    ours = {name for name in parents if name.endswith("Error") and not name.startswith("_")} - {"AfterCheckError"}

    def reaches_the_base(name):
        return "AfterCheckError" in parents[name] or any(base in parents and reaches_the_base(base) for base in parents[name])

    assert len(ours) > 20
    assert not [name for name in ours if not reaches_the_base(name)]
    tree = ast.get_docstring(ast.parse((SOURCE / "domain" / "errors.py").read_text(encoding="utf-8")))
    assert not [name for name in ours if f"── {name} " not in tree]


def test_two_classes_never_share_a_name():
    files = [ast.parse(path.read_text(encoding="utf-8")) for path in SOURCE.rglob("*.py")]
    classes = Counter(node.name for file in files for node in file.body if isinstance(node, ast.ClassDef))
    assert not [name for name, count in classes.items() if count > 1 and not name.startswith("_")]


def test_no_text_on_screen_is_markup():
    """A name such as `T2 [/]` is data; the toolkit takes it for markup wherever it is not told."""
    found = []
    for path in (SOURCE / "tui").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("Static", "Label"):
                said = [part.value for part in node.keywords if part.arg == "markup"]
                if not (said and isinstance(said[0], ast.Constant) and said[0].value is False):
                    found.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
    assert not found


def test_the_picture_of_the_parts_is_the_contracts_own():
    # Written by hand it fell behind: a part of the house was missing, and nothing noticed.
    page = PAGE.read_text()
    assert drawn(page) == page, "python tools/draw_contracts.py draws it again"
    parts = {
        path.parent.name for path in SOURCE.glob("*/__init__.py") if len(list(path.parent.glob("*.py"))) > 1
    }  # collectors/ holds scripts
    assert {name for names in layers() for name in names} == parts, "a part is in no contract"
