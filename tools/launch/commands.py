"""The commands of ./run."""

import os
import signal
import subprocess
import sys
import time

from . import checks, database, install, processes
from .say import ROOT, VAR, GiveUp, say, step


def main(arguments, help_text):
    commands = {"demo": demo, "serve": serve, "stop": stop, "test": checks.run_all, "bench": bench, "cli": cli}
    if not arguments or arguments[0] in ("-h", "--help", "help"):
        print(help_text.strip())
        return 0
    if arguments[0] not in commands:
        raise GiveUp(f"there is no command {arguments[0]!r}.\n\n{help_text.strip()}")
    return commands[arguments[0]](arguments[1:])


def environment(port):
    """What the program's processes are told."""
    return {
        **os.environ,
        "TRUE_BACKDROP_DATABASE_URL": database.url(port),
        "TRUE_BACKDROP_BLOB_URL": str(VAR / "blobs"),
        "TRUE_BACKDROP_DELIVERIES": str(VAR / "deliveries"),
        "TRUE_BACKDROP_FRONTEND": str(ROOT / "frontend" / "dist"),
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "PYTHONUNBUFFERED": "1",
    }


def demo(_):
    return _serve(with_demo=True)


def serve(_):
    return _serve(with_demo=False)


def stop(_):
    processes.stop_everything()
    return 0


def _number(name, default, low, high):
    text = os.environ.get(name, str(default))
    if not text.isdigit() or not low <= int(text) <= high:
        raise GiveUp(f"{name} is {text!r}; it must be a whole number from {low} to {high}")
    return int(text)


def _serve(with_demo):
    began = time.monotonic()
    web_port = _number("TRUE_BACKDROP_PORT", 8470, 1024, 65535)
    workers = _number("TRUE_BACKDROP_WORKERS", os.cpu_count() or 1, 1, 64)
    pid = processes.running_pid()
    if pid:
        raise GiveUp(f"True Backdrop is running already (process {pid}). Open its address, or end it with: ./run stop")
    processes.require_free("127.0.0.1", web_port)
    studio_port = web_port + 1
    if with_demo:
        processes.require_free("127.0.0.1", studio_port)
    install.ensure_python()
    install.ensure_compiled()
    install.ensure_frontend()
    VAR.mkdir(exist_ok=True)
    processes.PID_FILE.write_text(str(os.getpid()))
    signal.signal(signal.SIGTERM, _interrupt)
    crew = None
    try:
        port = database.start()
        database.ensure_database(port)
        env = {**environment(port), "TRUE_BACKDROP_PORT": str(web_port)}
        step([install.python(), "-m", "true_backdrop.jobs.prepare"], "preparing the database", env=env, cwd=ROOT)
        if with_demo:
            seeded = step([install.python(), "-m", "demo.seed"], "loading the demo shoot", env=env, cwd=ROOT)
            if seeded.strip():
                say(seeded.strip())
        card = str(VAR / "card")  # as with a real camera, what is on it outlives a restart
        studio = ["--layers", str(ROOT / "demo" / "layers"), "--port", str(studio_port), "--card", card] if with_demo else None
        if studio:
            env["TRUE_BACKDROP_STUDIO"] = f"127.0.0.1:{studio_port}"
        crew = processes.Crew(env, workers, studio)
        crew.start_all()
        address = f"http://127.0.0.1:{web_port}"
        processes.wait_until_up(address, crew)
        say(
            f"\nTrue Backdrop is up after {time.monotonic() - began:.0f} s with {workers} workers:  {address}\n"
            "Ctrl-C or ./run stop ends it."
        )
        crew.watch()
    except KeyboardInterrupt:
        say("\nstopping ...")
    finally:
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        if crew:
            crew.stop()
        database.stop()
        processes.PID_FILE.unlink(missing_ok=True)
    return 0


def _interrupt(*_):
    raise KeyboardInterrupt


def bench(arguments):
    install.ensure_python("dev")
    return subprocess.run([str(install.python()), "-m", "bench", *arguments], cwd=ROOT, check=False).returncode


def cli(arguments):
    install.ensure_python()
    os.execv(str(install.python()), [str(install.python()), "-m", "true_backdrop.cli", *arguments])
    return sys.exit(1)
