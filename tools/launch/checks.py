"""./run test: every check of both sides, then the tests."""

import os
import subprocess
import time

from . import database, install
from .say import ROOT, VAR, say


def _steps():
    python = str(install.python())
    frontend = ROOT / "frontend"
    return [
        ("ruff", [python, "-m", "ruff", "check", "src", "tests", "demo", "bench", "tools"], ROOT),
        ("mypy", [python, "-m", "mypy"], ROOT),
        ("import-linter", [str(install.VENV / "bin" / "lint-imports"), "--no-cache"], ROOT),
        ("API types are current", [python, "-m", "tools.api_types", "--check"], ROOT),
        ("tsc", ["npm", "run", "--silent", "types"], frontend),
        ("eslint", ["npm", "run", "--silent", "lint"], frontend),
        ("vitest", ["npm", "run", "--silent", "test"], frontend),
    ]


def run_all(arguments):
    """All of it, or with arguments: only pytest, with these arguments."""
    install.ensure_postgres()
    install.ensure_chromium()
    install.ensure_python("dev")
    install.ensure_compiled()
    install.ensure_node_modules()
    failed = [] if arguments else _checks()
    install.ensure_frontend()
    port = database.start()
    env = {
        **os.environ,
        "TRUE_BACKDROP_TEST_SERVER": database.url(port, "postgres"),
        "OMP_NUM_THREADS": "2",
        "OPENBLAS_NUM_THREADS": "2",
    }
    try:
        tests = subprocess.run([str(install.python()), "-m", "pytest", *(arguments or ["-q"])], cwd=ROOT, env=env, check=False)
    finally:
        database.stop()
    if failed:
        say(f"\nthese checks failed: {', '.join(failed)}")
    return 1 if failed or tests.returncode else 0


def _checks():
    VAR.mkdir(exist_ok=True)
    failed = []
    for name, command, folder in _steps():
        began = time.monotonic()
        done = subprocess.run(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False)
        say(f"{'ok    ' if done.returncode == 0 else 'FAILED'} {name} ({time.monotonic() - began:.0f} s)")
        if done.returncode:
            failed.append(name)
            say(done.stdout)
    return failed
