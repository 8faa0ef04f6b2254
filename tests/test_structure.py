"""How the house hangs together: nothing is imported in a circle, in either language."""

import ast
import re
import subprocess
import sys
from collections.abc import Iterator
from graphlib import TopologicalSorter
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE, FRONT = ROOT / "src", ROOT / "frontend" / "src"
MODELS_KNOW = ("choices", "data", "errors", "formats", "lengths", "outline")
Graph = dict[str, set[str]]


def python_imports() -> Graph:
    """Modules of the application by those that import them, within functions too."""
    modules = {
        ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__"): path
        for path in SOURCE.rglob("*.py")
    }
    found: Graph = {}
    for name, path in modules.items():
        own = found.setdefault(name, set())
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module in modules:
                inner = {f"{node.module}.{one.name}" for one in node.names}
                own |= inner & modules.keys() or {node.module}
            elif isinstance(node, ast.Import):
                own |= {one.name for one in node.names} & modules.keys()
    return found


def front_imports() -> Graph:
    """Files of the front end by those that import them; what is imported as a type alone is not."""
    ways = re.compile(r"^(?:import|export)(?! type)[^;]*?from \"(\.[^\"]+)\";", re.M)
    files = {path for path in FRONT.rglob("*.ts*") if ".test." not in path.name}
    found: Graph = {}
    for path in files:
        own = found.setdefault(str(path.relative_to(FRONT)), set())
        for way in ways.findall(path.read_text()):
            there = (path.parent / way).resolve()
            for one in (*(there.parent / f"{there.name}{end}" for end in (".ts", ".tsx")),
                        there / "index.ts", there / "index.tsx"):  # fmt: skip
                if one in files:
                    own.add(str(one.relative_to(FRONT)))
    return found


def rooms(graph: Graph) -> Graph:
    """Folders of the application by those that import from them."""
    found: Graph = {}
    for name, others in graph.items():
        for other in others:
            if (a := _room(name)) != (b := _room(other)):
                found.setdefault(a, set()).add(b)
    return found


def _room(name: str) -> str:
    parts = name.split(".")
    return ".".join(parts[: 3 if parts[1:2] == ["core"] else 2])


def below(graph: Graph, name: str) -> Iterator[str]:
    for other in graph.get(name, ()):
        yield other
        yield from below(graph, other)


def test_no_module_and_no_folder_imports_itself_by_a_detour() -> None:
    graph = python_imports()
    assert len(graph) > 300
    for each in (graph, rooms(graph)):
        tuple(TopologicalSorter(each).static_order())  # raises on a circle


def test_no_file_of_the_front_end_imports_itself_by_a_detour() -> None:
    graph = front_imports()
    assert len(graph) > 200 and sum(map(len, graph.values())) > 600
    tuple(TopologicalSorter(graph).static_order())


def test_models_compute_nothing_and_the_core_knows_no_screen() -> None:
    graph = rooms(python_imports())
    assert graph["nebrel.core.recipe"] <= {f"nebrel.core.{room}" for room in MODELS_KNOW}
    for room in graph:
        if room.startswith("nebrel.core"):
            assert all(other.startswith("nebrel.core") for other in below(graph, room)), room


def test_who_only_asks_loads_nothing_that_computes() -> None:
    code = (
        "import sys, nebrel.web.app; "
        "print({'numba', 'scipy', 'cv2', 'PIL', 'manifold3d'} & sys.modules.keys() or 'none')"
    )
    found = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert found.stdout.strip() == "none"
