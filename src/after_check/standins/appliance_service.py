"""The small HTTP service of a simulated archive appliance, a Cairnbox 2, on 127.0.0.1 only.

It has no screen. `POST /memory-test {"length": "short"}` makes it restart into its own memory test: for some seconds
nobody answers, then `GET /memory-test` tells how far the test is, then its result. `POST /memory-test {"length":
"stop"}` ends it. `GET /` says what it is.
"""

from __future__ import annotations

import json
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

_LARGEST_REQUEST_BYTES = 4096


class ApplianceService:
    """Serves one appliance; `start` returns the port.

    `errors` is what its test will find, `away_seconds` how long a restart takes, `test_seconds` how long the test.
    `dies` makes it not come back from the restart; `never_runs` makes it come back without testing; `says_instead` are
    parts of its answer about the test as it says them, None for a part that it leaves out.
    """

    def __init__(self, errors: int = 0, away_seconds: float = 3.0, test_seconds: float = 10.0, dies: bool = False) -> None:
        self.errors = errors
        self.away_seconds = away_seconds
        self.test_seconds = test_seconds
        self.dies = dies
        self.lies_about_percent = False
        self.says_instead: dict[str, Any] = {}
        self.never_runs = False
        self._server: ThreadingHTTPServer | None = None
        self._port = 0
        self._test_began: float | None = None
        self._stopped_at: float | None = None
        self._closing = False

    def start(self, port: int = 0) -> int:
        """Serve in a thread of its own and return the port."""
        service = self

        class Handler(_Handler):
            pass

        Handler.service = service
        self._server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        self._port = self._server.server_address[1]
        threading.Thread(target=self._server.serve_forever, args=(0.05,), daemon=True).start()
        return self._port

    def stop(self) -> None:
        """Serve no more."""
        self._closing = True
        self._shut()

    def _shut(self) -> None:
        server, self._server = self._server, None
        if server is not None:
            server.shutdown()
            server.server_close()

    def begin_test(self) -> None:
        """Restart into the test: away at first, then there again."""
        self._stopped_at = None
        threading.Thread(target=self._restart, daemon=True).start()

    def _restart(self) -> None:
        time.sleep(0.1)
        self._shut()
        time.sleep(self.away_seconds)
        if self.dies or self._closing:
            return
        if not self.never_runs:
            self._test_began = time.monotonic()
        self.start(self._port)

    def end_test(self) -> None:
        """Stop the test where it is."""
        self._stopped_at = time.monotonic()

    def test(self) -> dict[str, Any]:
        """Return how the test stands."""
        said = self._test()
        said.update(self.says_instead)
        return {name: value for name, value in said.items() if value is not None}

    def _test(self) -> dict[str, Any]:
        if self._test_began is None:
            return {"state": "never run"}
        until = self._stopped_at if self._stopped_at is not None else time.monotonic()
        share = min(1.0, (until - self._test_began) / self.test_seconds)
        state = "stopped" if self._stopped_at is not None and share < 1 else "done" if share >= 1 else "running"
        percent = 640 if self.lies_about_percent else round(share * 100)
        errors = round(self.errors * share)
        return {"state": state, "percent": percent, "errors": errors, "coveredPercent": round(share * 99), "minutes": round(share * 12)}


class _Handler(BaseHTTPRequestHandler):
    service: ApplianceService

    def do_GET(self) -> None:
        if self.path == "/":
            self._answer(200, {"model": "Cairnbox 2", "serial": "CB2-0422", "memoryMiB": 16384, "state": "serving"})
        elif self.path == "/memory-test":
            self._answer(200, self.service.test())
        else:
            self._answer(404, {"error": "nothing here"})

    def do_POST(self) -> None:
        length = int(self.headers.get("Content-Length") or 0)
        try:
            asked = json.loads(self.rfile.read(min(length, _LARGEST_REQUEST_BYTES)) or b"{}").get("length")
        except (ValueError, AttributeError):
            asked = None
        if self.path != "/memory-test" or asked not in ("short", "long", "stop"):
            self._answer(400, {"error": "length is short, long or stop"})
            return
        if asked == "stop":
            self.service.end_test()
            self._answer(200, self.service.test())
            return
        self._answer(202, {"state": "restarting"})
        self.service.begin_test()

    def _answer(self, status: int, document: dict[str, Any]) -> None:
        body = json.dumps(document).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: Any) -> None:
        """Say nothing."""
