"""A small JSON service on loopback: what every stand-in that speaks HTTP listens by."""

import json
import threading
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

Answer = tuple[int, dict[str, Any]]
ENDS_WITHIN_S = 0.02  # of being told to


class Service:
    """Listening on loopback until stopped.

    ``get`` answers a path, ``post`` a path with its JSON body (an object, empty where it was none); what ``post`` raises as
    ValueError, TypeError or AttributeError is answered as 422 with its words.
    """

    def __init__(
        self,
        name: str,
        get: Callable[[str], Answer],
        post: Callable[[str, dict[str, Any]], Answer],
        most_bytes: int,
        port: int = 0,
    ) -> None:
        class Handler(BaseHTTPRequestHandler):
            def do_POST(self) -> None:
                size = int(self.headers.get("Content-Length") or 0)
                try:
                    if not 0 < size <= most_bytes:
                        raise ValueError("send what is asked for, and no more")
                    body = json.loads(self.rfile.read(size))
                    self._answer(*post(self.path, body if isinstance(body, dict) else {}))
                except (ValueError, TypeError, AttributeError) as error:
                    self._answer(422, {"detail": str(error)})

            def do_GET(self) -> None:
                self._answer(*get(self.path))

            def _answer(self, status: int, body: dict[str, Any]) -> None:
                data = json.dumps(body).encode()
                self.send_response(status)
                self.send_header("Content-Type", "application/json")
                self.send_header("Content-Length", str(len(data)))
                self.end_headers()
                self.wfile.write(data)

            def log_message(self, *_: object) -> None:
                """Say nothing on the console."""

        self.server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        self.address = f"http://127.0.0.1:{self.server.server_address[1]}"
        self.thread = threading.Thread(target=self.server.serve_forever, args=(ENDS_WITHIN_S,), daemon=True, name=name)
        self.thread.start()

    def stop(self) -> None:
        """Close."""
        self.server.shutdown()
        self.server.server_close()

    def until_interrupted(self, called: str) -> int:
        """Say where it listens, and go on until Ctrl+C."""
        print(f"{called} on {self.address}; Ctrl+C ends it", flush=True)
        try:
            self.thread.join()
        except KeyboardInterrupt:
            self.stop()
        return 0
