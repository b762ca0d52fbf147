"""A screen that nobody sees, for programs that want a real one."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
from collections.abc import Iterator


@contextlib.contextmanager
def hidden_screen(size: str) -> Iterator[str]:
    """The display of an X server of one's own, of a size such as "1600x1000"."""
    server = shutil.which("Xvfb")
    assert server, "Xvfb is missing; ./check installs it"
    read, write = os.pipe()
    with subprocess.Popen(
        [server, "-displayfd", str(write), "-screen", "0", f"{size}x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    ) as xvfb:
        os.close(write)
        try:
            with os.fdopen(read) as stream:
                display = stream.readline().strip()
            assert display
            yield f":{display}"
        finally:
            xvfb.terminate()
