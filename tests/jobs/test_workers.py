"""Worker processes: ended when they are idle, too slow, or without a server; nothing of them stays behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import psutil
import pytest

from tests.faults import die_once
from tests.patience import wait_for
from vinyl.jobs.workers import WorkerDiedError, WorkerError, Workers

ME = psutil.Process()


@pytest.fixture
def workers() -> Iterator[Workers]:
    made = Workers(2, nice=0, idle_s=0.3)
    yield made
    made.stop()


def at_work() -> list[psutil.Process]:
    """The processes that workers are."""
    return [each for each in ME.children(recursive=True) if "spawn_main" in " ".join(command_of(each))]


def command_of(process: psutil.Process) -> list[str]:
    """How a process was begun; nothing of one that has just ended."""
    try:
        return process.cmdline()
    except psutil.NoSuchProcess:  # a zombie is one too
        return []


def counted() -> tuple[int, int]:
    """Open files and threads of this process."""
    return ME.num_fds(), threading.active_count()


def rested() -> bool:
    return not at_work() and not [each for each in threading.enumerate() if each.name == "workers"]


def test_idle_processes_end_and_nothing_of_them_stays(workers: Workers) -> None:
    """Fifteen minutes of mixed use once left 57 processes, 301 open files and 116 threads."""
    assert workers.run(len, "abc", timeout_s=10) == 3
    wait_for(rested, "the end of idle processes")
    before = counted()
    for _ in range(4):
        assert workers.run(len, "abcd", timeout_s=10) == 4
        assert 1 <= len(at_work()) <= 2
        wait_for(rested, "the end of idle processes")
    wait_for(
        lambda: all(now <= was + 1 for now, was in zip(counted(), before, strict=True)), lambda: f"{before}"
    )


def test_what_takes_too_long_is_ended_by_the_monotonic_clock(
    workers: Workers, monkeypatch: pytest.MonkeyPatch
) -> None:
    later = time.time() + 1e6
    monkeypatch.setattr(time, "time", lambda: later)
    assert workers.run(_wait, 0.5, timeout_s=20) == 0.5
    with pytest.raises(WorkerError, match="too long"):
        workers.run(_wait, 60.0, timeout_s=0.3)
    assert workers.run(len, "ab", timeout_s=10) == 2


def test_what_is_given_up_is_ended_at_once(workers: Workers) -> None:
    began_s = time.monotonic()

    def check() -> None:
        if time.monotonic() - began_s > 0.5:
            raise KeyError

    with pytest.raises(KeyError):
        workers.run(_wait, 60.0, timeout_s=60, check=check)
    wait_for(rested, "the end of what was given up")
    assert time.monotonic() - began_s < 20


def test_a_process_that_dies_is_told_from_one_that_fails(workers: Workers, tmp_path: Path) -> None:
    with pytest.raises(WorkerDiedError):
        workers.run(die_once, tmp_path / "mark", timeout_s=10)
    workers.run(die_once, tmp_path / "mark", timeout_s=10)
    with pytest.raises(ZeroDivisionError):
        workers.run(divmod, 1, 0, timeout_s=10)


def test_workers_do_not_outlive_a_server_that_is_killed() -> None:
    program = (
        "import sys, time\nfrom vinyl.jobs.workers import Workers\n"
        "if __name__ == '__main__':\n"
        "    future = Workers(2, nice=0).submit(time.sleep, 600, timeout_s=600)\n"
        "    while not future._inner.running(): time.sleep(0.05)\n"
        "    print('begun', flush=True)\n    time.sleep(600)\n"
    )
    server = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE)
    assert server.stdout is not None and server.stdout.readline() == b"begun\n"
    left = psutil.Process(server.pid).children(recursive=True)
    assert left
    os.kill(server.pid, signal.SIGKILL)
    server.wait()
    server.stdout.close()
    wait_for(lambda: not any(_lives(each) for each in left), lambda: f"the end of {left}")


def _lives(process: psutil.Process) -> bool:
    return process.is_running() and process.status() != psutil.STATUS_ZOMBIE


def _wait(seconds: float) -> float:
    time.sleep(seconds)
    return seconds


def test_where_no_process_can_be_started_it_is_said_and_the_next_try_goes_well(
    workers: Workers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    gone = tmp_path / "gone"
    gone.mkdir()
    with monkeypatch.context() as there:
        there.chdir(gone)
        gone.rmdir()
        with pytest.raises(WorkerDiedError, match="No process could be started"):
            workers.run(len, "ab", timeout_s=10)
    assert workers.run(len, "ab", timeout_s=20) == 2
