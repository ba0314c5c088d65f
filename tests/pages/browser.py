"""A headless Chromium, driven over a pipe by the DevTools protocol."""

from __future__ import annotations

import base64
import fcntl
import json
import os
import shutil
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any, Self

PROGRAM = next(filter(None, map(shutil.which, ("chromium", "chromium-browser", "google-chrome"))),
               None)  # fmt: skip
_QUIET = ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
          "--disable-background-networking", "--disable-component-update", "--disable-sync",
          "--hide-scrollbars", "--remote-debugging-pipe"]  # fmt: skip


class Browser:
    """One page; `requests` are the addresses that it asked for."""

    def __init__(self, downloads: Path, *, dark: bool = False, width: int = 1280) -> None:
        self._profile = tempfile.mkdtemp(prefix="browser-")
        to_read, self._to = os.pipe()
        self._from, to_write = os.pipe()

        def pipes() -> None:
            apart = [fcntl.fcntl(each, fcntl.F_DUPFD, 10) for each in (to_read, to_write)]
            os.dup2(apart[0], 3)
            os.dup2(apart[1], 4)

        self._process = subprocess.Popen(
            [str(PROGRAM), *_QUIET, f"--user-data-dir={self._profile}",
             f"--window-size={width},800"],
            preexec_fn=pipes, close_fds=False, stderr=subprocess.DEVNULL,  # noqa: PLW1509
        )  # fmt: skip
        os.close(to_read)
        os.close(to_write)
        self._held = b""
        self._number = 0
        self._session = ""
        self.requests: list[str] = []
        target = self.ask("Target.createTarget", url="about:blank")["targetId"]
        attached = self.ask("Target.attachToTarget", targetId=target, flatten=True)
        self._session = attached["sessionId"]
        for domain in ("Page", "Network", "Runtime"):
            self.ask(f"{domain}.enable")
        self.ask("Browser.setDownloadBehavior", behavior="allow", downloadPath=str(downloads),
                 eventsEnabled=True)  # fmt: skip
        mode = "dark" if dark else "light"
        self.ask("Emulation.setEmulatedMedia",
                 features=[{"name": "prefers-color-scheme", "value": mode}])  # fmt: skip
        self.ask("Emulation.setDeviceMetricsOverride", width=width, height=800,
                 deviceScaleFactor=1, mobile=False)  # fmt: skip

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        os.close(self._to)
        self._process.kill()
        self._process.wait()
        os.close(self._from)
        shutil.rmtree(self._profile, ignore_errors=True)

    def ask(self, method: str, **params: Any) -> Any:
        """Send a command, and wait for its answer; what happens meanwhile is noted."""
        self._number += 1
        sent: dict[str, Any] = {"id": self._number, "method": method, "params": params}
        if self._session and not method.startswith(("Target.", "Browser.")):
            sent["sessionId"] = self._session
        os.write(self._to, json.dumps(sent).encode() + b"\0")
        while True:
            told = self._next()
            if told.get("id") == self._number:
                assert "error" not in told, told
                return told.get("result", {})

    def _next(self) -> dict[str, Any]:
        while b"\0" not in self._held:
            piece = os.read(self._from, 1 << 16)
            assert piece, "the browser is gone"
            self._held += piece
        one, _, self._held = self._held.partition(b"\0")
        told: dict[str, Any] = json.loads(one)
        if told.get("method") == "Network.requestWillBeSent":
            self.requests.append(told["params"]["request"]["url"])
        return told

    def open(self, path: Path) -> None:
        """Show a page, and wait until it is there."""
        self.ask("Page.navigate", url=path.as_uri())
        while self.run("document.readyState") != "complete" or self.run("location.href") == (
            "about:blank"
        ):
            time.sleep(0.02)

    def run(self, script: str) -> Any:
        """What a script gives, run beside the page's own policy."""
        found = self.ask("Runtime.evaluate", expression=script, returnByValue=True)
        return found["result"].get("value")

    def press(self, key: str, code: int, text: str = "") -> None:
        """Press a key."""
        for kind in ("keyDown", "keyUp"):
            said = text if kind == "keyDown" else ""
            self.ask("Input.dispatchKeyEvent", type=kind, key=key, code=key, text=said,
                     windowsVirtualKeyCode=code)  # fmt: skip

    def picture(self, path: Path, *, whole: bool = False) -> None:
        """Take a picture of what is seen, or of the whole page."""
        found = self.ask("Page.captureScreenshot", format="png", captureBeyondViewport=whole)
        path.write_bytes(base64.b64decode(found["data"]))

    def printed(self, path: Path) -> None:
        """Print the page."""
        found = self.ask("Page.printToPDF", preferCSSPageSize=True, printBackground=False)
        path.write_bytes(base64.b64decode(found["data"]))
