"""Heavy readings beside the request: each in a process of its own, with a limit of memory and of time.

One bad file ends its own process and nothing else.  Processes are forked from one that has the readers loaded already.
"""

import contextlib
import gc
import logging
import multiprocessing
import os
import resource
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.limits import MB, READING_BYTES, READING_S

log = logging.getLogger("gnomonic.formats")
Result = TypeVar("Result")
AT_ONCE = 2
PATIENCE_S = 3 * READING_S  # by the clock, of a machine that is busy with other things
_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(
    [
        "gnomonic.formats.bring_in",
        "gnomonic.formats.grid",
        "rasterio",
        "gnomonic.formats.photo",
        "ezdxf.recover",
        "weasyprint",
    ]
)
_turns = threading.BoundedSemaphore(AT_ONCE)


def ready() -> None:
    """Have the process with the readers there before the first file comes."""
    beside(len, b"")


def beside(task: Callable[..., Result], *given: Any, seconds: float = READING_S, size: float = READING_BYTES) -> Result:
    """What ``task`` makes of ``given``, worked out in a process of its own.  Raises BadInput (``file``), Away.

    ``seconds`` of CPU and ``size`` in bytes are what the process may use beyond what it is born with.
    """
    if not _turns.acquire(timeout=PATIENCE_S):
        raise Away("file", "other files are being read just now: try again in a moment; nothing was saved")
    try:
        here, there = _context.Pipe(duplex=False)
        process = _context.Process(target=_read, args=(there, task, given, seconds, size), daemon=True)
        process.start()
        there.close()
        try:
            answer = here.recv() if here.poll(PATIENCE_S * seconds / READING_S) else None
        except EOFError:
            process.join(5)
            answer = None
        finally:
            process.kill()
            process.join()
            here.close()
    finally:
        _turns.release()
    if answer is None:
        raise BadInput(
            "file",
            f"the file took more than {seconds:g} s or {size / MB:g} MB to read, and was left: save only the part with the line",
        )
    kind, value, told = answer
    for text in told:
        log.warning(text)
    if kind == "refused":
        raise BadInput(*value)
    result: Result = value
    return result


def _read(answer: Connection, task: Callable[..., Any], given: tuple[Any, ...], seconds: float, size: float) -> None:
    """In the child: work within the limits, and answer once."""
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    gc.disable()
    taken = _data_bytes() + int(size)
    resource.setrlimit(resource.RLIMIT_DATA, (taken, taken))
    cpu = int(time.process_time() + seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (cpu, cpu + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    told: list[str] = []
    keeper = logging.Handler()
    keeper.emit = lambda record: told.append(keeper.format(record))  # type: ignore[method-assign]
    log.addHandler(keeper)
    try:
        done: tuple[str, Any, list[str]] = ("read", task(*given), told)
    except BadInput as error:
        done = ("refused", (error.field, error.sentence), told)
    except MemoryError:
        return
    with contextlib.suppress(BrokenPipeError):
        answer.send(done)


def _data_bytes() -> int:
    """What this process holds already (VmData)."""
    with open("/proc/self/status") as status:
        return next(int(line.split()[1]) * 1024 for line in status if line.startswith("VmData"))
