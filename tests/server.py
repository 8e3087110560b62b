"""Botin as a process of its own, that can be stopped, killed and started again."""

from __future__ import annotations

import re
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path


class Server:
    """Botin as its user starts it; it can be stopped, killed and started again on the same port and data."""

    def __init__(self, home: Path, port: int = 0) -> None:
        self.home, self.port = home, port
        self.process: subprocess.Popen[str] | None = None
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "botin", "serve", "--home", str(self.home), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
        assert self.process.stderr
        for line in self.process.stderr:
            found = re.search(r"http://127\.0\.0\.1:(\d+)", line)
            if found:
                self.port = int(found[1])
                break
        self._wait()

    def _wait(self) -> None:
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{self.url}/static/icon.svg", timeout=2).read()  # noqa: S310  (this very server)
            except OSError:
                time.sleep(0.05)
            else:
                return
        message = "the server did not start"
        raise AssertionError(message)

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        if self.process:
            self.process.send_signal(how)
            self.process.wait(20)
            if self.process.stderr:
                self.process.stderr.close()
            self.process = None
