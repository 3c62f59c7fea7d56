"""The window is shown before anything heavy is read: what its first picture needs is little."""

import subprocess
import sys

HEAVY = ("numpy", "scipy", "sqlalchemy", "alembic", "serial", "humble_courier.protocols", "humble_courier.records")


def test_the_frame_of_the_window_needs_no_heavy_library() -> None:
    told = "import sys, humble_courier.ui.start, humble_courier.ui.window; print('\\n'.join(sys.modules))"
    done = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True)
    assert sorted(set(done.stdout.split()) & set(HEAVY)) == []
