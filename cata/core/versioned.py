"""Versions made from code: what was found by other rules is found again, and nobody has to remember a number.

Comments and docstrings count for nothing, nor does how lines are broken. Imports no numpy.
"""

from __future__ import annotations

import ast
from functools import lru_cache
from hashlib import sha256
from importlib.util import find_spec
from pathlib import Path


@lru_cache
def version_of(*names: str) -> str:
    """Sixteen hex digits that stand for the code of modules and of whole packages, by their dotted names.

    Raises:
        ModuleNotFoundError: for a name without a source file.
    """
    whole = sha256()
    for name in names:
        spec = find_spec(name)
        if spec is None or spec.origin is None:
            raise ModuleNotFoundError(name)
        origin = Path(spec.origin)
        files = sorted(origin.parent.rglob("*.py")) if spec.submodule_search_locations else [origin]
        for file in files:
            whole.update(shape_of(file.read_text(encoding="utf-8")).encode())
    return whole.hexdigest()[:16]


def shape_of(source: str) -> str:
    """What a module does, as text: its syntax tree without docstrings.

    Raises:
        SyntaxError: where it is no Python.
    """
    tree = ast.parse(source)
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        if isinstance(body, list):
            node.body = [one for one in body if not _is_text(one)]  # type: ignore[attr-defined]
    return ast.dump(tree)


def _is_text(node: ast.AST) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str)
