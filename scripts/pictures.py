"""Pictures that take a few clicks, for docs/screenshots; `scripts/screenshots` runs it."""

from __future__ import annotations

import re
import sys
from datetime import date, timedelta
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QPushButton, QScrollArea

from grey_current.air import compiled
from grey_current.desk.shell.window import MainWindow
from grey_current.desk.strips.sure_strip import SureStrip
from grey_current.desk.theme import font, load_fonts
from grey_current.files import project_file
from grey_current.files.keep_report import made_reading
from grey_current.files.log_report import made_entry
from grey_current.keep.log import entries_of_day
from grey_current.shop import edits, kept_designs
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.keep_edits import with_entries, with_reading
from grey_current.shop.model import Project
from grey_current.work.day_plan import plan_day
from grey_current.workspace import asking
from grey_current.workspace.jobs import carried_out
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import demo_workspace

# Pixels across of the manual's pictures.
MANUAL_WIDE = 620
# The step of putting up that is pictured: a wye in a drop.
PICTURED_STEP = 39


class Camera:
    """The window with the demo shop, and how to take a picture of it."""

    def __init__(self, application: QApplication, folder: Path) -> None:
        self.application, self.folder = application, folder
        self.window = MainWindow(demo_workspace(), UserSettings(folder), folder)
        self.window.background.stop()
        self.window.floor.set_moving(False)
        self.window.resize(1280, 800)
        self.window.show()
        self.workspace = self.window.workspace

    def shot(self, name: str) -> None:
        """Take a picture of the window."""
        self.application.processEvents()
        self.window.search.find_all()
        # What was shown before goes.
        self.application.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        self.application.processEvents()
        path = f"docs/screenshots/{name}.png"
        self.window.grab().save(path)
        print(path)

    def answer(self) -> None:
        """Work out what the window waits for."""
        job = asking.job_due(self.workspace)
        if job is not None:
            found = carried_out(self.workspace.assessment.counted, job)
            self.window.on_job_done(self.workspace.revision, job, found)
        self.application.processEvents()

    def press(self, key: str) -> None:
        """Press a button of the inspector."""
        button = self.window.inspector.field(key)
        if isinstance(button, QPushButton):
            button.click()

    def scroll(self, share: float) -> None:
        """Show the inspector's page from a share of its length on."""
        self.application.processEvents()
        area = self.window.inspector.findChild(QScrollArea)
        bar = area.verticalScrollBar() if area is not None else None
        if bar is not None:
            bar.setValue(round(bar.maximum() * share))


def guide(camera: Camera) -> None:
    """A new shop with the guide, and two machines in it."""
    camera.workspace.open_template("double-garage")
    camera.workspace.go("machines")
    for name in ("Table saw", "12 in planer"):
        camera.application.processEvents()
        camera.press(f"guide/{name}")
    camera.shot("guide")
    camera.workspace.end_guide()


def reasons(camera: Camera) -> None:
    """The cause of a loft without gates, and the page of reasons behind it."""
    bare = demo_workspace().project.replaced(gates=())
    camera.workspace.show_project(bare, None)
    camera.workspace.go("air")
    camera.answer()
    camera.workspace.read("no-gates")
    camera.shot("reasons")
    camera.workspace.read(None)


def space(camera: Camera) -> None:
    """The shop in space, in the dark, and putting up a drop step by step."""
    workspace, window = camera.workspace, camera.window
    workspace.go("air")
    workspace.switch_on(("planer",))
    workspace.select("planer")
    camera.answer()
    window.show_view("space")
    view = window.views.space
    assert view is not None
    view.wait()
    window.toggle_theme()
    view.draw_finely()
    camera.shot("space-dark")
    window.toggle_theme()
    workspace.switch_on(())
    workspace.go("build")
    workspace.show_face("steps")
    camera.answer()
    workspace.show_step(PICTURED_STEP)
    view.draw_finely()
    camera.shot("build-steps")
    workspace.show_face("parts")
    window.show_view("plan")


def build_and_work(camera: Camera) -> None:
    """What to buy, how to cut it, and the dust of a day."""
    workspace = camera.workspace
    workspace.go("build")
    workspace.select("planer-drop")
    camera.answer()
    camera.shot("build-parts")
    workspace.show_face("cuts")
    camera.shot("build-cuts")
    workspace.select(None)
    workspace.go("work")
    workspace.look_at(3600.0)
    camera.answer()
    camera.shot("work-day")


def readings(camera: Camera) -> None:
    """Three readings, and how sure the figures are with them."""
    workspace = camera.workspace
    workspace.go("keep")
    workspace.switch_on(("saw",))
    for asked, value in (
        (("airflow", "saw", "saw/over-blade"), "130 CFM"),
        (("static pressure", "saw", "inlet-run"), "4.3 inH2O"),
        (("filter drop", "saw", "cyclone"), "4.4 inH2O"),
    ):
        made = made_reading(workspace.project, asked, value, date(2026, 3, 14))
        workspace.edit("Log a reading", partial(with_reading, reading=made))
    camera.answer()
    camera.shot("keep-readings")


def logbook(camera: Camera) -> None:
    """A month of lines, and what the filter will do."""
    workspace = camera.workspace
    workspace.go("keep")
    workspace.switch_on(("planer",))
    today = date.today()
    day = plan_day(workspace.assessment, workspace.project.work.day)

    def a_month_of_lines(project: Project) -> Project:
        for week in range(6):
            when = today - timedelta(days=37 - 7 * week)
            project = with_entries(project, entries_of_day(day, when))
            drop = f"{1.1 + 0.11 * week + 0.03 * (week % 2)} inH2O"
            reading = made_reading(project, ("filter drop", "saw", "cyclone"), drop, when)
            project = with_reading(project, reading)
        when = today - timedelta(days=3)
        return with_entries(
            project, [made_entry(project, "bin emptied", when, "cyclone", litres=85.0)]
        )

    workspace.edit("A month of lines", a_month_of_lines)
    strip = camera.window.strip
    assert isinstance(strip, SureStrip)
    strip.view.setCurrentText("Filter")
    camera.answer()
    camera.scroll(1.0)
    camera.shot("keep-logbook")
    strip.view.setCurrentText("How sure")


def finding(camera: Camera) -> None:
    """The second step of finding a fault: what to measure, how, and what it would mean."""
    camera.workspace.go("keep")
    camera.answer()
    for key in ("finding/start", "finding/weaker everywhere", "finding/no"):
        camera.window.inspector.reveal(key)
        camera.press(key)
        camera.answer()
    camera.scroll(0)
    camera.shot("keep-finding")


def laying(camera: Camera) -> None:
    """Whole layouts on offer, the first pointed at."""
    workspace = camera.workspace
    workspace.switch_on(("planer",))
    workspace.edit("Take the ducts away", lambda p: p.replaced(points=(), runs=(), gates=()))
    workspace.go("air")
    workspace.ask_for("ducts")
    camera.answer()
    workspace.point_at(0)
    camera.shot("laying-offer")
    workspace.take(0)


SCENES = (reasons, guide, space, build_and_work, readings, logbook, finding, laying)


def two_designs(folder: Path) -> None:
    """A file with a design kept and a better one drawn, for the picture of a comparison."""
    loft = project_file.load(demo_path("loft"))
    mended = edits.with_hose_length(kept_designs.kept(loft, "As found")[0], "planer-hose", 1.0)
    mended = edits.changed(mended, "gate-mitre", rule="with its machine")
    project_file.save(mended, folder / "two.greycurrent.json")


def manual() -> None:
    """The pictures of the manual, half as large: of those that its pages show."""
    pages = Path("grey_current/workspace/manual")
    text = "".join(page.read_text(encoding="utf-8") for page in pages.glob("*.md"))
    shown = set(re.findall(r"\(pictures/(.+?)\.png\)", text))
    (pages / "pictures").mkdir(exist_ok=True)
    for name in sorted(shown):
        made = QImage(f"docs/screenshots/{name}.png").scaledToWidth(
            MANUAL_WIDE, Qt.TransformationMode.SmoothTransformation
        )
        made.convertToFormat(QImage.Format.Format_RGB888).save(f"{pages}/pictures/{name}.png")
        print(f"{pages}/pictures/{name}.png")


def main(folder: Path, wanted: str) -> None:
    """Make the file for a comparison, or take the pictures."""
    if wanted == "file":
        two_designs(folder)
        return
    if wanted == "manual":
        manual()
        return
    compiled.load()
    application = QApplication([])
    application.setStyle("Fusion")
    load_fonts()
    application.setFont(font())
    camera = Camera(application, folder)
    for scene in SCENES:
        camera.workspace.show_project(demo_workspace().project, None)
        scene(camera)
    camera.window.background.stop()
    camera.window.hide()


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2])
