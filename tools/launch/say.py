"""Talking to the person at the terminal."""

import subprocess
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = ROOT / "var"


class GiveUp(Exception):
    """Something that only the person can cure; the text says what and how."""


def say(text):
    print(text, flush=True)


def step(command, what, **options):
    """Run a command quietly; on failure show the end of what it printed and what it was for."""
    done = subprocess.run(
        [str(c) for c in command], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False, **options
    )
    if done.returncode:
        tail = "\n".join(done.stdout.strip().splitlines()[-25:])
        raise GiveUp(
            f"{tail}\n\n{what} failed (exit {done.returncode}). "
            "The lines above say why; run the same command again when it is cured."
        )
    return done.stdout
