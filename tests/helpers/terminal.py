"""The program in a real terminal."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import uuid


class Terminal:
    """A tmux session of its own server, with one program in it."""

    def __init__(self, folder, *arguments, size=(128, 40)):
        self.socket = f"after-check-{uuid.uuid4().hex[:8]}"
        command = " ".join([sys.executable, "-m", "after_check", *arguments])
        environment = {**os.environ, "TERM": "screen-256color", "LANG": "C.UTF-8", "COLUMNS": "", "LINES": ""}
        self._tmux(
            "-f", "/dev/null", "new-session", "-d", "-x", str(size[0]), "-y", str(size[1]), "-c", str(folder), command, env=environment
        )

    def _tmux(self, *arguments, env=None):
        done = subprocess.run(["tmux", "-u", "-L", self.socket, *arguments], capture_output=True, text=True, env=env, check=False)
        return done.stdout

    def keys(self, *names):
        self._tmux("send-keys", *names)

    def type(self, text):
        self._tmux("send-keys", "-l", text)

    def paste(self, text):
        """Paste a text as a terminal does, in brackets (`CSI 200 ~`)."""
        self._tmux("set-buffer", text)
        self._tmux("paste-buffer", "-p", "-d")

    def text(self):
        return self._tmux("capture-pane", "-p")

    def wait(self, *parts, seconds=90):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            text = self.text()
            if all(part in text for part in parts):
                return text
            time.sleep(0.04)
        raise AssertionError(f"{parts} did not appear in:\n{self.text()}")

    def open_job(self, word, *parts):
        """Search the bench and open the only match; returns what the job sheet shows once these parts are there."""
        self.keys("/")
        self.wait("search: a name")
        self.type(word)
        self.wait(f" {word}")
        self.keys("Enter")
        return self.wait(*parts)

    def wait_gone(self, part, seconds=90):
        deadline = time.monotonic() + seconds
        while part in self.text():
            assert time.monotonic() < deadline, f"{part} is still there:\n{self.text()}"
            time.sleep(0.04)

    def kill_program(self):
        pid = self._tmux("list-panes", "-F", "#{pane_pid}").strip()
        os.kill(int(pid), 9)

    def close(self):
        self._tmux("kill-server")
