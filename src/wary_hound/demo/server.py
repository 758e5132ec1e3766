"""Serves the demo site's releases on loopback, for as long as it is needed."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from importlib import resources
from pathlib import Path
from typing import Any


def site_folder() -> Path:
    """Where the releases lie: r1 to r6, each a folder of static files."""
    return Path(str(resources.files("wary_hound.demo") / "site"))


class _Quiet(SimpleHTTPRequestHandler):
    def log_message(self, format: str, *args: Any) -> None:
        """Nothing: the terminal belongs to the command."""

    def end_headers(self) -> None:
        self.send_header("Cache-Control", "no-store")
        super().end_headers()


@contextmanager
def serve(folder: Path | None = None, port: int = 0) -> Iterator[str]:
    """Serve a folder (the demo site) on 127.0.0.1 and give its address, without a slash at its end."""
    handler = partial(_Quiet, directory=str(folder or site_folder()))
    server = ThreadingHTTPServer(("127.0.0.1", port), handler)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
