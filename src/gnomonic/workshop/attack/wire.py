"""A wire between the application and its database that can be frozen, or cut around a commit."""

import contextlib
import socket
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any


@dataclass(slots=True)
class Wire:
    """Passes bytes on between loopback and a port.

    ``way``: pass; freeze (nothing comes through); cut_before, cut_after (the next commit is cut off before it reaches the
    server, or after it has and before its answer comes back); down (nobody listens any more).
    """

    target: int
    way: str = "pass"
    cuts: int = 0
    commits: int = 0
    listener: socket.socket = field(default_factory=socket.socket)
    free: threading.Event = field(default_factory=threading.Event)
    links: list[socket.socket] = field(default_factory=list)
    threads: list[threading.Thread] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Listen."""
        self.free.set()
        self.listener.bind(("127.0.0.1", 0))
        self.listener.listen(64)
        self._begin(self._accept)

    def _begin(self, work: Callable[..., None], *given: Any) -> None:
        self.threads.append(threading.Thread(target=work, args=given, daemon=True))
        self.threads[-1].start()

    @property
    def port(self) -> int:
        """Where it listens."""
        return int(self.listener.getsockname()[1])

    def set(self, way: str) -> None:
        """Behave so from now on."""
        self.way = way
        (self.free.clear if way == "freeze" else self.free.set)()
        if way == "down":
            self._cut()

    def close(self) -> None:
        """Stop."""
        self.set("pass")
        with contextlib.suppress(OSError):
            self.listener.shutdown(socket.SHUT_RDWR)
        self._cut()
        for thread in self.threads:
            thread.join(5)
        self.listener.close()

    def _cut(self) -> None:
        for link in self.links:
            with contextlib.suppress(OSError):
                link.shutdown(socket.SHUT_RDWR)
        self.links.clear()

    def _accept(self) -> None:
        while True:
            try:
                near, _ = self.listener.accept()
                if self.way == "down":
                    near.close()
                    continue
                far = socket.create_connection(("127.0.0.1", self.target))
            except OSError:
                return
            self.links += [near, far]
            for a, b, out in ((near, far, True), (far, near, False)):
                self._begin(self._pump, a, b, out)

    def _pump(self, source: socket.socket, sink: socket.socket, out: bool) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(65536):
                self.free.wait()
                if not self._through(data, sink, out):
                    break
        for link in (source, sink):
            with contextlib.suppress(OSError):
                link.shutdown(socket.SHUT_RDWR)
        source.close()

    def _through(self, data: bytes, sink: socket.socket, out: bool) -> bool:
        """Pass a part on, or cut the wire at it."""
        commit = out and b"COMMIT\0" in data  # not a beginning that is READ COMMITTED
        self.commits += commit
        if (commit and self.way == "cut_before") or (not out and self.way == "swallow"):
            self.way, self.cuts = "pass", self.cuts + 1
            self._cut()
            return False
        if commit and self.way == "cut_after":
            self.way = "swallow"
        sink.sendall(data)
        return True
