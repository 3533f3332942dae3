"""A line to a server that stalls, cuts or delays when it is told to: what lies between a bench and its shop on a bad day."""

from __future__ import annotations

import socket
import threading
import time


class BadLine:
    """Passes bytes on to a port of this computer. `stalled`: it takes bytes and passes none; `delay_seconds`: before each piece.

    `at_commit` is what happens at the next COMMIT: "cut before" it reaches the server or "cut after" it did and the answer
    is on its way back, and the same with "stall".
    """

    def __init__(self, port):
        self._port = port
        self.stalled = False
        self.delay_seconds = 0.0
        self.at_commit = ""
        self.commits = 0
        self._ends = []
        self._answered = threading.Event()
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port = self._listener.getsockname()[1]
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self):
        self._listener.close()
        self.cut()

    def cut(self):
        ends, self._ends = self._ends, []
        for end in ends:
            try:
                end.shutdown(socket.SHUT_RDWR)
            except OSError:
                continue
            end.close()

    def _accept(self):
        while True:
            try:
                here, _ = self._listener.accept()
                there = socket.create_connection(("127.0.0.1", self._port))
            except OSError:
                return
            self._ends += [here, there]
            threading.Thread(target=self._pass_on, args=(here, there, True), daemon=True).start()
            threading.Thread(target=self._pass_on, args=(there, here, False), daemon=True).start()

    def _pass_on(self, source, target, to_server):
        try:
            while data := source.recv(1 << 16):
                time.sleep(self.delay_seconds)
                if not to_server:
                    self._answered.set()
                elif b"COMMIT" in data and self.at_commit:
                    self._commit(data, target)
                    continue
                while self.stalled:
                    time.sleep(0.05)
                target.sendall(data)
        except OSError:
            return

    def _commit(self, data, target):
        what, self.at_commit = self.at_commit, ""
        self.commits += 1
        self.stalled = True
        if what.endswith("after"):
            # The server has kept it once it answers; the answer is what does not come through.
            self._answered.clear()
            target.sendall(data)
            self._answered.wait(10)
        if what.startswith("cut"):
            self.cut()
            self.stalled = False
