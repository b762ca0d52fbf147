"""The two help pages: keys and mouse, made from the commands, and the cautions."""

from __future__ import annotations

from grey_current.workspace.commands import COMMANDS

MOUSE = (
    ("Click a machine's row", "switch it on alone; its gates open, the rest shut"),
    ("Ctrl+click a row", "switch it on together with the others"),
    ("Click anything on the floor or in the strip", "select it"),
    (
        "Drag a machine, a collector or a corner of a duct",
        "move it; what is connected follows; Esc cancels",
    ),
    ("Drag a wall", "push it; type a length meanwhile and press Enter"),
    ("Shift+click", "select several"),
    ("Arrow keys on the floor", "nudge the selected machine, or scroll the plan"),
    ("Wheel", "zoom in or out"),
    ("Drop a shop's file on the window", "open it"),
)

CAUTIONS = """
<p><b>Estimates for planning, not a certificate.</b> Losses are known to about 15 to 30 per cent;
fan curves are often optimistic. Measure before you rely on a figure.</p>
<p><b>Lungs.</b> Fine wood dust harms them. Wear a respirator for what the hoods miss. Dust of
some woods (walnut) harms animals as bedding.</p>
<p><b>Fire.</b> Dust burns and can explode. No metal grinding through a wood collector; keep dust
off heaters, flues and motors; empty bins in time; watch for glowing bits.</p>
<p><b>Flues.</b> A collector that exhausts outdoors can pull flue gases into the room.</p>
<p><b>Hands.</b> Unplug before reaching into a machine, a collector or a separator.</p>
<p><b>Hearing.</b> Saw and collector together are loud: protect your ears.</p>
<p>Mains wiring, gas appliances and fire safety: local code and licensed people.</p>
"""


# Libraries that do much of the work, by the names that they are installed by.
LIBRARIES = (
    "PyQt6",
    "numpy",
    "scipy",
    "numba",
    "shapely",
    "pydantic",
    "fluids",
    "ezdxf",
    "pyqtgraph",
    "platformdirs",
)


def about_page() -> str:
    """The version, the licences, and the libraries with theirs."""
    # Looking through what is installed takes a while, and is seldom asked for.
    from importlib.metadata import PackageNotFoundError, version  # noqa: PLC0415

    rows = []
    for name in LIBRARIES:
        try:
            rows.append(f"<tr><td>{name}&nbsp;&nbsp;</td><td>{version(name)}</td></tr>")
        except PackageNotFoundError:
            continue
    return (
        f"<p><b>Grey Current {version('grey-current')}</b></p>"
        "<p>The air in a home woodshop's dust collection system: design it, buy it, build it, "
        "measure it, keep it going. Estimates for planning, not a certificate.</p>"
        "<p>Free software under the GNU General Public License, version 3 or later; there is no "
        "warranty. The typeface is Lato, under the SIL Open Font License.</p>"
        f"<p>It stands on these libraries:</p><table>{''.join(rows)}</table>"
    )


def keys_page() -> str:
    """Every shortcut, from the list of commands, and what the mouse does."""
    rows = [
        (command.usual_key, command.title.rstrip("…")) for command in COMMANDS if command.shortcut
    ]
    lines = [f"<tr><td><b>{a}</b>&nbsp;&nbsp;</td><td>{b}</td></tr>" for a, b in (*rows, *MOUSE)]
    return f"<table cellspacing='3'>{''.join(lines)}</table>"
