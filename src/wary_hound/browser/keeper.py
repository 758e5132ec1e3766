"""Runs a program for an owner, and ends it with all its processes when the owner is gone, however that ended.

usage: keeper.py FOLDER PROGRAM [ARGUMENT ...]

The owner holds the other end of standard input; nothing is ever written to it. It runs as a script of its own, in a process
group of its own; FOLDER is removed with the program.
"""

from __future__ import annotations

import contextlib
import os
import select
import shutil
import signal
import subprocess
import sys

PATIENCE = 3.0
"""Seconds that the program has to end by itself."""


def main(folder: str, command: list[str]) -> int:
    signal.signal(signal.SIGTERM, signal.SIG_IGN)  # it goes to the whole group; the keeper goes last
    heard, told = os.pipe()
    os.set_blocking(told, False)
    signal.set_wakeup_fd(told)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    try:
        program = subprocess.Popen(command, stdin=subprocess.DEVNULL, preexec_fn=_usual_signals)
    except OSError as error:
        print(f"{command[0]} cannot be started ({error.strerror})", flush=True)
        return 127
    while program.poll() is None:
        ready, _, _ = select.select([0, heard], [], [])
        if 0 in ready:
            _end(program, folder)
        os.read(heard, 4096)
    return program.returncode


def _usual_signals() -> None:
    signal.signal(signal.SIGTERM, signal.SIG_DFL)


def _end(program: subprocess.Popen[bytes], folder: str) -> None:
    group = os.getpgrp()
    os.killpg(group, signal.SIGTERM)
    with contextlib.suppress(subprocess.TimeoutExpired):
        program.wait(PATIENCE)
    if os.fork() == 0:  # out of the group, to be left when all that could still write into the folder is gone
        os.setsid()
        os.killpg(group, signal.SIGKILL)
        shutil.rmtree(folder, ignore_errors=True)
        os._exit(0)
    signal.pause()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], sys.argv[2:]))
