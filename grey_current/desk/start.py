"""Starts the window where Qt can be loaded, and else says what is missing."""

from __future__ import annotations

import sys

# What Qt wants of the system, by the names of Debian and its relatives.
LIBRARIES = (
    "libegl1 libgl1 libfontconfig1 libdbus-1-3 libxkbcommon0 libxcb-icccm4 libxcb-keysyms1 "
    "libxcb-image0 libxcb-render-util0 libxcb-cursor0 libxcb-shape0 libxcb-xinerama0 "
    "libxkbcommon-x11-0"
)


def main(arguments: list[str] | None = None) -> int:
    """Open the window, as `app.main` does. Exit status 2 where Qt cannot be loaded."""
    try:
        from grey_current.desk import app  # noqa: PLC0415 - it takes Qt along
    except ImportError as problem:
        missing = str(problem).partition(":")[0]
        sys.stderr.write(
            f"grey-current-desk: Qt cannot be loaded ({missing}). On Debian and its relatives "
            f"install what it needs with: sudo apt install {LIBRARIES}\n"
        )
        return 2
    return app.main(arguments)


if __name__ == "__main__":
    sys.exit(main())
