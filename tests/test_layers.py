"""The data goes one way: no package imports from one that comes after it."""

import ast
import unittest
from pathlib import Path

HALVEX = Path(__file__).parents[1] / "halvex"
CORE_ORDER = ("piece", "lettering", "solids", "optics", "scene", "render", "finish", "output", "advice")
# What every package of core may use.
SHARED = ("assets", "cache", "inlining", "kernels", "memory", "references", "room", "stopping")


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return found


class LayerTest(unittest.TestCase):
    def test_core_imports_only_what_comes_before(self) -> None:
        for place, package in enumerate(CORE_ORDER):
            allowed = {f"halvex.core.{name}" for name in (*SHARED, *CORE_ORDER[: place + 1])}
            for path in (HALVEX / "core" / package).rglob("*.py"):
                for name in imports(path):
                    if name.startswith("halvex"):
                        self.assertIn(
                            ".".join(name.split(".")[:3]),
                            allowed,
                            f"{path.relative_to(HALVEX)} imports {name}",
                        )

    def test_rendering_knows_nothing_of_the_document(self) -> None:
        for path in (HALVEX / "core/render").rglob("*.py"):
            for name in imports(path):
                self.assertFalse(
                    name.startswith("halvex.core.piece"), f"{path.relative_to(HALVEX)} imports {name}"
                )

    def test_core_knows_nothing_of_the_application(self) -> None:
        for path in (HALVEX / "core").rglob("*.py"):
            for name in imports(path):
                self.assertNotIn(name.split(".")[0], {"flask", "peewee", "gunicorn", "flask_sock"}, path)
                self.assertFalse(name.startswith(("halvex.studio", "halvex.web", "halvex.cli")), path)

    def test_studio_does_not_import_the_web(self) -> None:
        for path in (HALVEX / "studio").rglob("*.py"):
            for name in imports(path):
                self.assertFalse(name.startswith(("halvex.web", "halvex.cli", "flask")), path)


if __name__ == "__main__":
    unittest.main()
