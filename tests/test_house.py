"""The drawing of the house: no two files need each other, and none is too long to be read at a sitting."""

from __future__ import annotations

import ast
from collections import Counter
from pathlib import Path

import grimp

SOURCE = Path(__file__).parent.parent / "src" / "after_check"
LONGEST_FILE_LINES = 400


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


def test_no_file_is_longer_than_it_should_be():
    lines = {str(path.relative_to(SOURCE)): len(path.read_text(encoding="utf-8").splitlines()) for path in SOURCE.rglob("*.py")}
    assert not {name: count for name, count in lines.items() if count > LONGEST_FILE_LINES}


def test_two_classes_never_share_a_name():
    files = [ast.parse(path.read_text(encoding="utf-8")) for path in SOURCE.rglob("*.py")]
    classes = Counter(node.name for file in files for node in file.body if isinstance(node, ast.ClassDef))
    assert not [name for name, count in classes.items() if count > 1 and not name.startswith("_")]
