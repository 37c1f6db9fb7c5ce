"""Bring in what is missing: Debian packages, the Python environment, the built interface."""

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from .say import ROOT, VAR, GiveUp, say, step

VENV = ROOT / ".venv"
FRONTEND = ROOT / "frontend"


def python():
    return VENV / "bin" / "python"


def digest(paths):
    """One hash over files (or all files below folders), names included."""
    total = hashlib.sha256()
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        for file in files:
            total.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes())
    return total.hexdigest()


def debian_packages(wanted):
    """Install Debian packages by apt, as root or through sudo."""
    say(f"installing from Debian: {' '.join(wanted)} ...")
    become = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if become and not shutil.which("sudo"):
        raise GiveUp(
            f"these Debian packages are missing: {' '.join(wanted)}. "
            f"Ask an administrator to run: apt-get install {' '.join(wanted)}"
        )
    if not shutil.which("apt-get"):
        raise GiveUp(f"{' '.join(wanted)} must be installed by hand here: this is not a Debian system")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    step([*become, "apt-get", "update", "-q"], "reading Debian's package lists", env=environment)
    step(
        [*become, "apt-get", "install", "-y", "-q", "--no-install-recommends", *wanted],
        f"installing {' '.join(wanted)}",
        env=environment,
    )


def postgres_bin():
    """The folder of the newest PostgreSQL server binaries, or None."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda p: int(p.parts[-3]))
    return found[-1].parent if found else None


def ensure_postgres():
    if postgres_bin() is None:
        # Debian would start a cluster of its own on installation; ours is the only one wanted.
        debian_packages(["postgresql"])
    if postgres_bin() is None:
        raise GiveUp("PostgreSQL was installed but its server is not under /usr/lib/postgresql; look at: dpkg -L postgresql-15")
    return postgres_bin()


def ensure_chromium():
    if not shutil.which("chromium"):
        debian_packages(["chromium"])


def ensure_python(kind="run"):
    """A virtual environment with exactly the locked packages; `kind` is run or dev."""
    lock = ROOT / "requirements" / f"{kind}.txt"
    wanted, stamp = digest([lock, ROOT / "pyproject.toml"]), VENV / f".installed-{kind}"
    others = [VENV / ".installed-dev"] if kind == "run" else []
    dev = digest([ROOT / "requirements" / "dev.txt", ROOT / "pyproject.toml"])
    if (stamp.is_file() and stamp.read_text() == wanted) or any(o.is_file() and o.read_text() == dev for o in others):
        return
    if sys.version_info < (3, 11):  # noqa: UP036  (this runs under the system's own Python)
        raise GiveUp(f"Python 3.11 or newer is needed; this is {sys.version.split()[0]}")
    if not python().exists():
        say("making a Python environment ...")
        made = subprocess.run([sys.executable, "-m", "venv", str(VENV)], capture_output=True, text=True, check=False)
        if made.returncode:
            shutil.rmtree(VENV, ignore_errors=True)
            debian_packages(["python3-venv"])
            step([sys.executable, "-m", "venv", VENV], "making a Python environment")
    say("installing Python packages (a few minutes the first time) ...")
    pip = [python(), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    step([*pip, "--require-hashes", "-r", lock], "installing Python packages")
    packages = next((VENV / "lib").glob("python3*/site-packages"))
    # The package is used from src/ as it is; a path file does what an editable install does, without a build.
    (packages / "true_backdrop.pth").write_text(f"{ROOT / 'src'}\n{ROOT}\n")
    script = VENV / "bin" / "true-backdrop"
    script.write_text(f"#!{python()}\nimport sys\nfrom true_backdrop.cli import main\nsys.exit(main())\n")
    script.chmod(0o755)
    stamp.write_text(wanted)


def ensure_compiled():
    """The loops over pixels as machine code; otherwise the first picture after a change would wait for it."""
    core = sorted((ROOT / "src" / "true_backdrop" / "core").rglob("*.py"))
    stamp, wanted = VENV / ".compiled", digest(core)
    if stamp.is_file() and stamp.read_text() == wanted:
        return
    say("compiling the picture loops ...")
    step([python(), "-m", "true_backdrop.core.warm"], "compiling the picture loops", cwd=ROOT)
    stamp.write_text(wanted)


def ensure_node_modules():
    if not shutil.which("npm"):
        debian_packages(["nodejs", "npm"])
    lock = FRONTEND / "package-lock.json"
    stamp = FRONTEND / "node_modules" / ".installed"
    wanted = digest([lock])
    if stamp.is_file() and stamp.read_text() == wanted:
        return
    say("installing the interface's packages ...")
    step(["npm", "ci", "--no-audit", "--no-fund"], "installing the interface's packages", cwd=FRONTEND)
    stamp.write_text(wanted)


def ensure_frontend():
    """The built interface, made anew when its sources changed."""
    sources = [FRONTEND / "src", FRONTEND / "index.html", FRONTEND / "package-lock.json", FRONTEND / "vite.config.ts"]
    stamp, wanted = VAR / "frontend-built", digest(sources)
    if stamp.is_file() and stamp.read_text() == wanted and (FRONTEND / "dist" / "index.html").is_file():
        return
    ensure_node_modules()
    say("building the interface ...")
    step(["npm", "run", "--silent", "build"], "building the interface", cwd=FRONTEND)
    VAR.mkdir(exist_ok=True)
    stamp.write_text(wanted)
