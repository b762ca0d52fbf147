"""Starts the window. Run as `grey-current-desk` or `python -m grey_current.desk.app`."""

from __future__ import annotations

import argparse
import contextlib
import datetime
import os
import re
import socket
import sys
from functools import partial
from pathlib import Path

from PyQt6.QtCore import (
    QEvent,
    QLocale,
    QMessageLogContext,
    QSize,
    QTimer,
    QtMsgType,
    qInstallMessageHandler,
)
from PyQt6.QtWidgets import QApplication

from grey_current.air import compiled
from grey_current.design.flow.assess import assess
from grey_current.desk import glyphs
from grey_current.desk.shell.begin import FIRST_SHOP, begun, put_back
from grey_current.desk.shell.exception_hook import Guard
from grey_current.desk.shell.idle_garbage_collector import IdleGarbageCollector
from grey_current.desk.shell.recovery import offer
from grey_current.desk.shell.window import MainWindow
from grey_current.desk.theme import font, load_fonts
from grey_current.errors import FileError, GreyCurrentError, RefusedEdit
from grey_current.numerals import VARIABLE, Marks, use_marks
from grey_current.shop.demo_shops import DEMOS
from grey_current.shop.model import Project
from grey_current.workspace import asking
from grey_current.workspace.autosave import Autosave, Left
from grey_current.workspace.jobs import carried_out
from grey_current.workspace.keeping import Keeper
from grey_current.workspace.settings import SETTINGS, UserSettings
from grey_current.workspace.stages import STAGES

SIZE = (1280, 800)
NO_SCREEN = (
    "there is no screen to open a window on; start it in a desktop session, or make a "
    "picture with --picture FILE.png."
)
# When everything is loaded, what is there for good is no longer looked at by the garbage collector,
# which would hold the window for a tenth of a second now and then.
FREEZE_AFTER_MS = 3000
# s for which a search beside the window may keep the interpreter when the window wants it.
SWITCH = 0.0005
# How often it is looked whether edits could be kept on the disk.
LOOKED_AFTER_MS = 1000
# When the window has been up for so long, the compiled solver is loaded beside it.
KERNEL_AFTER_MS = 400
# When helpers are begun, which load for most of a second.
HELPERS_AFTER_MS = 1500


def main(arguments: list[str] | None = None) -> int:
    """Open the window on a file or a demo shop. Exit status 2 for bad input."""
    options = _parser().parse_args(arguments)
    # Without a screen Qt would end the program with a message of its own; pictures and papers need
    # none.
    if not has_screen():
        if not (options.picture or options.papers or options.cards or options.steps):
            sys.stderr.write(f"grey-current-desk: {NO_SCREEN}\n")
            return 2
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    own = Path(options.settings) if options.settings else None
    settings = UserSettings(own)
    use_marks(_marks(settings.get("numbers")))
    # What is printed and painted is that of a file or of the sample, whatever was open last.
    once = options.picture or options.papers or options.cards or options.steps
    try:
        shop = options.shop or (FIRST_SHOP if once else None)
        workspace, said = begun(options.file, shop, settings, own)
        workspace.switch_on(tuple(options.on))
    except GreyCurrentError as problem:
        sys.stderr.write(f"grey-current-desk: {problem}\n")
        return 2
    percent = int(options.text_size or settings.get("text-size"))
    _scale_everything(percent)
    qInstallMessageHandler(_pass_on)
    # A search in another thread gives the interpreter back sooner, so that painting does not wait.
    sys.setswitchinterval(SWITCH)
    application = QApplication(sys.argv[:1])
    _dress(application)
    if options.papers or options.cards or options.steps:
        return _printed(workspace.project, options)
    if options.theme:
        settings.use("theme", options.theme)
    window = MainWindow(workspace, settings, own)
    keeper, autosave = Keeper(workspace, own), Autosave(workspace, own)
    guard = Guard(window, keeper, lambda: autosave.keeps)
    rounds = IdleGarbageCollector(workspace)
    workspace.go(options.stage or workspace.stage)
    workspace.select(options.select)
    if options.compare:
        window.floor.attempt(lambda: workspace.compare(options.compare))
    if options.picture or not put_back(window, settings.session):
        window.resize(_first_size(application, percent, bool(options.picture)))
    window.show()
    # What was left behind, or cannot be kept, is said once the window is there.
    if said:
        window.say(said)
    _tell_of_files(window, keeper, autosave)
    watch(window, autosave)
    _begin_rest(application, window, autosave, rounds, options.picture)
    status = application.exec()
    guard.release()
    # Killed by a signal, what was not saved stays in the journal.
    autosave.close(keep=workspace.dirty and guard.ended_by_signal)
    _put_away(application, window)
    return status


def _begin_rest(
    application: QApplication,
    window: MainWindow,
    autosave: Autosave,
    rounds: IdleGarbageCollector,
    picture: Path | None,
) -> None:
    """What waits until the window is up, for each takes a tenth of a second or more; or the picture
    that was asked for.
    """
    if picture is not None:
        window.floor.set_moving(False)
        QTimer.singleShot(0, lambda: _picture(application, window, picture))
        return
    QTimer.singleShot(KERNEL_AFTER_MS, compiled.load_beside)
    QTimer.singleShot(HELPERS_AFTER_MS, window.background.call_helpers)
    QTimer.singleShot(FREEZE_AFTER_MS, rounds.begin)
    QTimer.singleShot(0, lambda: _offer_left(window, autosave))


def has_screen() -> bool:
    """Whether there is a screen to open a window on, or one that only Qt can find."""
    if os.environ.get("QT_QPA_PLATFORM"):
        return True
    wayland = os.environ.get("WAYLAND_DISPLAY")
    if wayland and Path(os.environ.get("XDG_RUNTIME_DIR", "/nowhere"), wayland).exists():
        return True
    display = os.environ.get("DISPLAY", "")
    here = re.fullmatch(r":(\d+)(\.\d+)?", display)
    if here is None:
        return bool(display)
    # X servers of this machine listen on a socket with a file, or on one without.
    with socket.socket(socket.AF_UNIX) as line:
        for place in (f"/tmp/.X11-unix/X{here[1]}", f"\0/tmp/.X11-unix/X{here[1]}"):
            with contextlib.suppress(OSError):
                line.connect(place)
                return True
    return False


def _marks(wish: str) -> Marks:
    """The marks of figures: those of the environment, those wished for, or the computer's own."""
    if wish == "system":
        wish = os.environ.get(VARIABLE) or QLocale.system().decimalPoint()
    return "comma" if wish in ("comma", ",") else "point"


def _scale_everything(percent: int) -> None:
    """Have Qt draw all larger or smaller: text, marks and what is clicked alike.

    Qt reads the factor once, when the application begins; a size for text alone would leave what
    is painted behind.
    """
    if percent != 100:
        desktop = float(os.environ.get("QT_SCALE_FACTOR") or 1)
        os.environ["QT_SCALE_FACTOR"] = f"{desktop * percent / 100:g}"


def _first_size(application: QApplication, percent: int, picture: bool) -> QSize:
    """As large as the screen allows; a picture has as many pixels at every text size."""
    screen = application.primaryScreen()
    if picture or screen is None:
        return QSize(*SIZE) * (100 / percent)
    return QSize(*SIZE).boundedTo(screen.availableSize())


def _dress(application: QApplication) -> None:
    """The program's name, its entry on the desktop that its windows are known by, its look."""
    application.setApplicationName("Grey Current")
    application.setDesktopFileName("grey-current")
    application.setStyle("Fusion")
    load_fonts()
    application.setFont(font())


def _printed(project: Project, options: argparse.Namespace) -> int:
    """Make the papers of a shop, its machines' cards or its steps, without a window."""
    from grey_current.build.papers import papers  # noqa: PLC0415 - not needed for a window
    from grey_current.build.phases import phase_facts  # noqa: PLC0415
    from grey_current.desk.papers.card_pages import card_pages  # noqa: PLC0415
    from grey_current.desk.papers.layout import pages  # noqa: PLC0415
    from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415
    from grey_current.desk.papers.step_pages import steps_on_paper  # noqa: PLC0415
    from grey_current.work.cards import cards  # noqa: PLC0415

    size, said = "Letter" if options.letter else "A4", list[str]()
    try:
        if options.cards:
            made = card_pages(cards(assess(project)), project.name, datetime.date.today(), size)
            if not made:
                raise RefusedEdit(
                    "the cards", "printing them without machines", "put a machine in first"
                )
            said.append(save_pdf(made, options.cards, f"Cards of {project.name}", size))
        if options.steps:
            said.append(save_pdf(steps_on_paper(project, size), options.steps, project.name, size))
        if options.papers:
            phases = phase_facts(project) if project.build.phases else ()
            said.append(
                save_pdf(
                    pages(papers(assess(project), phases), size), options.papers, project.name, size
                )
            )
    except GreyCurrentError as problem:
        sys.stderr.write(f"{problem}\n")
        return 2
    sys.stdout.write("\n".join([*said, ""]))
    return 0


def _tell_of_files(window: MainWindow, keeper: Keeper, autosave: Autosave) -> None:
    """What is to be known about files at the start: another window on this one, copies that were
    kept.
    """
    if autosave.busy:
        window.say(
            "This shop is open in another window of this program; save one of them under "
            "another name."
        )
    elif found := next(keeper.copies(), None):
        window.say(
            f"Work that was not saved is kept: open {found} with File, Open; delete it when "
            "you no longer need it."
        )


def watch(window: MainWindow, autosave: Autosave) -> None:
    """Look after the journal with every change, and a moment after: it is written beside the
    window.
    """
    window.workspace.listen(lambda _: _on_notice(window, autosave))
    after = QTimer(window)
    after.timeout.connect(lambda: _on_notice(window, autosave))
    after.start(LOOKED_AFTER_MS)


def _on_notice(window: MainWindow, autosave: Autosave) -> None:
    """Say once that edits can no longer be kept as they are made; offer what was left beside a file
    just opened.
    """
    if autosave.found:
        autosave.found = False
        QTimer.singleShot(0, lambda: _offer_left(window, autosave))
    if autosave.problem:
        why, autosave.problem = autosave.problem.lower(), ""
        window.say(
            f"Edits cannot be kept on the disk as you make them ({why}); save under another name."
        )


def _offer_left(window: MainWindow, autosave: Autosave) -> None:
    """Offer what was left behind, one after the other, until something is brought back."""
    for left in autosave.left():
        answers: list[str] = []
        window.attempt(partial(_ask_about, window, autosave, left, answers))
        if answers != ["forget"]:
            break


def _ask_about(window: MainWindow, autosave: Autosave, left: Left, answers: list[str]) -> None:
    answers.append(offer(window, autosave, left))


def _put_away(application: QApplication, window: MainWindow) -> None:
    """Let go of everything that Qt draws with while there still is an application; later would be
    too late.
    """
    window.background.dismiss()
    window.hide()
    window.deleteLater()
    application.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    glyphs.icon.cache_clear()


def _pass_on(kind: QtMsgType, context: QMessageLogContext, text: str | None) -> None:
    """Qt's own messages, less the one that the off-screen platform repeats for every window."""
    del kind, context
    if text and "propagateSizeHints" not in text:
        sys.stderr.write(f"{text}\n")


def _picture(application: QApplication, window: MainWindow, path: Path) -> None:
    """Save what the window shows when all its answers are in, and end."""
    workspace = window.workspace
    window.background.stop()
    window.search.find_all()
    job = asking.job_due(workspace)
    if job is not None:
        window.on_job_done(workspace.revision, job, carried_out(workspace.assessment.counted, job))
    application.processEvents()
    from grey_current.desk.papers.painting import save_picture  # noqa: PLC0415 - not needed for a window

    try:
        save_picture(window.grab(), path)
        application.exit(0)
    except FileError as problem:
        sys.stderr.write(f"grey-current-desk: {problem}\n")
        application.exit(2)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="grey-current-desk", description="Grey Current's window.")
    parser.add_argument("file", type=Path, nargs="?", help="a project file")
    parser.add_argument(
        "--shop", choices=list(DEMOS), help="start with a demo shop (usual: the shop of last time)"
    )
    parser.add_argument(
        "--on", "--run", action="append", default=[], metavar="MACHINE", help="switch a machine on"
    )
    parser.add_argument(
        "--stage", choices=[entry.name for entry in STAGES], help="start at a stage of the work"
    )
    parser.add_argument("--select", metavar="ID", help="select something")
    parser.add_argument("--compare", metavar="DESIGN", help="compare with a kept design")
    parser.add_argument(
        "--theme", choices=SETTINGS[0].choices, help="light or dark, for this time only"
    )
    parser.add_argument(
        "--text-size",
        choices=SETTINGS[1].choices,
        metavar="PERCENT",
        help="90 to 160, for this time only",
    )
    parser.add_argument("--settings", metavar="FOLDER", help="keep the settings in this folder")
    parser.add_argument(
        "--papers", type=Path, metavar="FILE.pdf", help="make the papers of the file, and end"
    )
    parser.add_argument(
        "--cards", type=Path, metavar="FILE.pdf", help="make the machines' cards, and end"
    )
    parser.add_argument(
        "--steps", type=Path, metavar="FILE.pdf", help="make the pages of putting up, and end"
    )
    parser.add_argument("--letter", action="store_true", help="papers on Letter instead of A4")
    parser.add_argument(
        "--picture",
        type=Path,
        metavar="FILE.png",
        help="start, paint, save a picture of the window, and end",
    )
    return parser


if __name__ == "__main__":
    sys.exit(main())
