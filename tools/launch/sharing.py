"""Who uses the database: file locks (flock), which end with the process that holds them, however it ends.

A demo and a test run of the same folder share one server. Without this the one that started it stopped it under the
other, or the other found it running in the moment in which it went down.
"""

import fcntl
from contextlib import contextmanager

_held = {}


def _open(folder, name):
    folder.mkdir(exist_ok=True)
    return (folder / name).open("a")


@contextmanager
def one_at_a_time(folder):
    """Starting and stopping wait for each other, also across processes."""
    with _open(folder, "postgres-turn.lock") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        yield


def join(folder):
    """This process uses the database from now on."""
    if folder not in _held:
        _held[folder] = _open(folder, "postgres-users.lock")
        fcntl.flock(_held[folder], fcntl.LOCK_SH)


def leave(folder):
    """This process does not use it any more; returns whether nobody else does."""
    mine = _held.pop(folder, None)
    if mine:
        mine.close()
    with _open(folder, "postgres-users.lock") as users:
        try:
            fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return False
    return True
