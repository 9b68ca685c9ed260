"""What everything else stands on: the binding is sound, start-up is light, the arrows run one way."""

import subprocess
import sys
from pathlib import Path

HEAVY = ("scipy", "pandas", "skrf", "rasterio", "pyvisa", "gpxpy", "jinja2")


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
heavy = sorted({name.split(".")[0] for name in sys.modules} & set(HEAVY))
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
