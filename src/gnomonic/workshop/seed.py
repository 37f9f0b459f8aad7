"""A process with all of the application loaded, that becomes a server whenever it is asked to: a start costs no import.

It is asked over a socket: the environment of the new server with its socket; it answers with the process that serves there.
"""

import json
import os
import signal
import socket
import sys

MOST = 1 << 16


def main(number: int) -> None:
    """Load everything, then fork a server for whoever asks, until nobody does any more."""
    import uvicorn

    from gnomonic.web.app import routed

    for demo in (True, False):
        routed(demo)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    asking = socket.socket(fileno=number)
    while True:
        asked, given, _, _ = socket.recv_fds(asking, MOST, 1)
        if not asked:
            return
        if pid := os.fork():
            os.close(given[0])
            asking.send(str(pid).encode())
            continue
        asking.close()
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        words = json.loads(asked)
        os.environ.update(words["environment"])
        config = uvicorn.Config(
            words["factory"],
            factory=True,
            log_level="warning",
            access_log=False,
            timeout_graceful_shutdown=1,
            timeout_keep_alive=65,
        )
        uvicorn.Server(config).run(sockets=[socket.socket(fileno=given[0])])
        os._exit(0)


if __name__ == "__main__":
    main(int(sys.argv[1]))
