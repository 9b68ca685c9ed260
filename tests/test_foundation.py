"""What everything else stands on: the binding is sound, start-up is light, the arrows run one way."""

import ast
import subprocess
import sys
import tomllib
from graphlib import TopologicalSorter
from pathlib import Path

SRC = Path(__file__).parent.parent / "src"

HEAVY = ("scipy", "pandas", "skrf", "rasterio", "contourpy", "pyvisa", "jinja2", "numpy.ma")


def test_the_binding_does_not_eat_none(qtbot):
    from PySide6.QtWidgets import QLabel

    part = QLabel()
    qtbot.addWidget(part)
    before = sys.getrefcount(None)
    for _ in range(2000):
        part.setText("x")
    assert sys.getrefcount(None) - before > -1000


def test_nothing_heavy_is_imported_by_the_first_full_paint():
    script = (
        f"HEAVY = {HEAVY!r}"
        + """
import sys
from tallmast.desk.app import make_app
from tallmast.desk.frame.window import Window
app = make_app()
window = Window()
window.show()
window.files.open_demo()
window.session.settle()
window.grab()
assert window.views[window.rung].sentence.text().startswith("Flat Panel")
heavy = sorted(set(sys.modules) & set(HEAVY))
print("heavy:", heavy)
window.close()
"""
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=False)
    assert "heavy: []" in done.stdout, done.stdout + done.stderr


def test_nothing_names_a_machine_or_its_tools():
    root = Path(__file__).parent.parent
    for path in [*root.glob("src/**/*.py"), *root.glob("docs/*.md"), root / "README.md", root / "run"]:
        text = path.read_text()
        assert str(root) not in text, path
        assert str(Path.home()) not in text, path


def _imports(path: Path, modules: set[str]) -> set[str]:
    """The modules of ours that a file names in its imports, those for the type checker alone too."""
    here = path.relative_to(SRC).with_suffix("").parts
    package = here[:-1]
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            above = package[: len(package) - node.level + 1] if node.level else ()
            base = ".".join((*above, *(node.module or "").split("."))).strip(".")
            found |= {name if (name := f"{base}.{a.name}") in modules else base for a in node.names}
    return found & modules - {".".join(here)}


def test_no_files_import_each_other_in_a_circle():
    files = {".".join(p.relative_to(SRC).with_suffix("").parts).removesuffix(".__init__"): p for p in SRC.rglob("*.py")}
    order = TopologicalSorter({name: _imports(path, set(files)) for name, path in files.items()}).static_order()
    assert len(list(order)) == len(files)  # raises CycleError, which names the circle


def test_nobody_but_the_start_imports_the_window():
    users = {p.name for p in SRC.rglob("*.py") if "import Window" in p.read_text()}
    assert users == {"app.py"}


def test_every_package_of_findings_can_be_the_first_that_is_imported():
    script = """
import sys, importlib, pathlib
root = pathlib.Path(sys.argv[1])
# Whatever lies in a package is imported by way of it.
for path in sorted([*root.glob("tallmast/findings/*.py"), *root.glob("tallmast/findings/*/__init__.py")]):
    name = ".".join(path.relative_to(root).with_suffix("").parts).removesuffix(".__init__")
    for known in [m for m in sys.modules if m.startswith("tallmast.findings")]:
        del sys.modules[known]
    try:
        importlib.import_module(name)
    except ImportError as error:
        print(name, error)
print("done")
"""
    done = subprocess.run(
        [sys.executable, "-c", script, str(SRC)], capture_output=True, text=True, timeout=180, check=False
    )
    assert done.stdout.strip() == "done", done.stdout + done.stderr


def test_what_is_installed_beside_the_program_is_there():
    root = Path(__file__).parent.parent
    project = tomllib.loads((root / "pyproject.toml").read_text())
    shipped = [root / name for names in project["tool"]["setuptools"]["data-files"].values() for name in names]
    assert {path.suffix for path in shipped} == {".desktop", ".xml", ".svg"} and all(path.exists() for path in shipped)
    needed = (root / "requirements.txt").read_text()
    assert all(f"\n{name}==" in needed for name in ("pyserial", "pyusb", "PyVISA-py")), "instruments are promised"
    assert "homepage" in next(path for path in shipped if "metainfo" in path.name).read_text()
