"""Checks what the layers' contracts cannot say: no circles between modules, and a core of NumPy and SciPy alone."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Mapping
from graphlib import CycleError, TopologicalSorter

import grimp

CORE, ALLOWED = "waxtwin.core", ("numpy", "scipy", "waxtwin.core")


def circle_in(imports: Mapping[str, Iterable[str]]) -> list[str]:
    """Modules that import one another in a circle, or nothing; {module: what it imports}."""
    try:
        TopologicalSorter(imports).prepare()
    except CycleError as fault:
        return list(fault.args[1])
    return []


def strangers_in(imports: Mapping[str, Iterable[str]], standard: Iterable[str]) -> list[tuple[str, str]]:
    """What the core imports beside the standard library, NumPy and SciPy: (module, import)."""
    allowed = (*ALLOWED, *standard)
    return [
        (module, one)
        for module, found in sorted(imports.items()) if module.startswith(CORE)
        for one in found if not any(one == name or one.startswith(f"{name}.") for name in allowed)
    ]  # fmt: skip


def main() -> int:
    graph = grimp.build_graph("waxtwin", include_external_packages=True, exclude_type_checking_imports=True)
    imports = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    circle, strangers = circle_in(imports), strangers_in(imports, sys.stdlib_module_names)
    if circle:
        print(f"modules import one another in a circle: {' -> '.join(circle)}")
    for module, one in strangers:
        print(f"{module} imports {one}: the core knows NumPy and SciPy alone")
    return int(bool(circle or strangers))


if __name__ == "__main__":
    sys.exit(main())
