"""What the Build stage asks about files and printers: price lists, papers, drawings of things to
make.

What prints and draws is imported when it is asked for, so that the window is up sooner.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QWidget

from grey_current.desk.shell.patience import patiently
from grey_current.errors import FileError, GreyCurrentError, RefusedEdit
from grey_current.files import project_file
from grey_current.files.safe_write import check_export, write_export
from grey_current.shop.build_edits import with_prices
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.build.solid.camera import Camera
    from grey_current.desk.papers.layout import PaperPage
    from grey_current.desk.papers.preview import MakePages, PapersDialog
    from grey_current.keep.monthly import Monthly

PROJECTS = "Projects (*.json);;All files (*)"
PAGE = "Pages (*.html)"
CSV = "Price lists (*.csv);;All files (*)"
# How a drawing may be saved, with the ending of its name.
DRAWINGS = {
    "PDF at full size, to saw by (*.pdf)": ".pdf",
    "DXF for a machine, layers CUT, DRILL, SCORE (*.dxf)": ".dxf",
    "SVG to scale (*.svg)": ".svg",
    "STL of the pieces, for a printer (*.stl)": ".stl",
}


# How the shop in space may be saved, with the ending of its name.
IN_SPACE = {
    "glTF, for 3D programs and viewers (*.glb)": ".glb",
    "OBJ (*.obj)": ".obj",
    "STL (*.stl)": ".stl",
    "Picture as lines and areas (*.svg)": ".svg",
    "Picture (*.png)": ".png",
}


class BuildDialogs:
    """Asks the user about files, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(self, window: QWidget, workspace: Workspace, tell: Callable[[str], None]) -> None:
        self.window, self.workspace, self._tell = window, workspace, tell
        workspace.save_drawing = self.save_drawing
        # The eye of the view in space, where that is shown; the window puts its own here.
        self.eye: Callable[[], Camera | None] = lambda: None

    def save_prices(self) -> None:
        """Ask for a file and write the parts with their prices. Raises `FileError`."""
        from grey_current.files.price_csv import price_list  # noqa: PLC0415

        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the price list", self.workspace.file_name("-prices.csv"), CSV
        )
        if chosen:
            self._tell(f"{write_export(price_list(self.workspace.computed.bill), Path(chosen))}.")

    def read_prices(self) -> None:
        """Ask for a price list and take its prices. Raises `FileError`."""
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Read prices", "", CSV)
        if chosen:
            self.take_prices(Path(chosen))

    def read_pieces(self) -> None:
        """Ask for another shop's file and count its pieces as there already. Raises `FileError`
        for no project, `DuctworkError` where its pieces cannot be counted.
        """
        chosen, _ = QFileDialog.getOpenFileName(self.window, "The other shop", "", PROJECTS)
        if chosen:
            self.take_pieces(Path(chosen))

    def take_pieces(self, path: Path) -> None:
        """Count the pieces of the shop in a file as there already, as one step. Raises as
        `read_pieces`.
        """
        from grey_current.build.reuse import with_pieces_of  # noqa: PLC0415

        old = project_file.load(path)
        self.workspace.edit("Take another shop's pieces", lambda p: with_pieces_of(p, old))
        plan = self.workspace.project.build
        pipes = sum(offcut.count for offcut in plan.offcuts)
        self._tell(
            f"{pipes} pieces of pipe and {len(plan.owned)} kinds of parts are there now, with "
            f"those of {old.name}: Build says what is left to buy, and what is left over."
        )

    def take_prices(self, path: Path) -> None:
        """Take the prices of a price list, as one step. Raises `FileError` for a file that is
        none.
        """
        from grey_current.files.price_csv import read_prices  # noqa: PLC0415

        project = self.workspace.project
        found = read_prices(
            path,
            project.build.currency,
            (line.part.key for line in self.workspace.computed.bill.lines),
        )
        if not found.prices:
            raise FileError(
                str(path), "holds no prices", "fill in the column 'price' and read it again"
            )
        self.workspace.edit("Read prices", lambda p: with_prices(p, found.prices))
        if found.unknown:
            more = f", {len(found.unknown)} of them for parts that this shop does not want"
        else:
            more = ""
        self._tell(f"{len(found.prices)} prices read{more}.")

    def preview(self) -> None:
        """Show what can be printed: papers, plan, the shop in space, steps, cards, sticker. Raises
        `DuctworkError` where pipe has no stock length.
        """
        from grey_current.desk.papers.preview import PapersDialog  # noqa: PLC0415

        project = self.workspace.project
        # Said before a window opens: without parts there are no papers.
        _ = self.workspace.computed.bill
        size = "Letter" if project.settings.units == "us" else "A4"
        dialog = PapersDialog(self.window, f"Print {project.name}", self._printed(), size)
        dialog.printing.connect(
            lambda pages: self._attempt(dialog, lambda: self._print(dialog, pages))
        )
        dialog.saving.connect(
            lambda pages, size: self._attempt(dialog, lambda: self._save(dialog, pages, size))
        )
        dialog.exec()
        dialog.deleteLater()

    def _printed(self) -> dict[str, MakePages]:
        """What can be printed, by its name, each made when it is looked at."""
        workspace = self.workspace
        found: dict[str, MakePages] = {
            "The papers": self._papers,
            "The plan": self._plan,
            "The shop in space": self._space,
            "Putting up, step by step": self._steps,
        }
        if workspace.project.machines:
            found["Machine cards"] = self._cards
        doubt = workspace.computed.doubt
        for one in doubt.monthly if doubt is not None else ():
            name = workspace.project.collector[one.collector].name
            found[f"Sticker: {name}"] = partial(self._sticker, one)
        return found

    def _papers(self, size: str) -> list[PaperPage]:
        from grey_current.build.papers import papers  # noqa: PLC0415
        from grey_current.build.phases import phase_facts  # noqa: PLC0415
        from grey_current.desk.papers.layout import pages  # noqa: PLC0415

        now = self.workspace.assessment.counted
        phases = phase_facts(now.project) if now.project.build.phases else ()
        return pages(papers(now, phases, self.workspace.computed.bill), size)

    def _plan(self, size: str) -> list[PaperPage]:
        from grey_current.build.papers import plan_alone  # noqa: PLC0415
        from grey_current.desk.papers.layout import pages  # noqa: PLC0415

        return pages(plan_alone(self.workspace.computed.bill), size)

    def _space(self, size: str) -> list[PaperPage]:
        from grey_current.desk.papers.space_page import space_page  # noqa: PLC0415

        assembly = self.workspace.computed.parts.assembly
        return [space_page(self.workspace.project, assembly, self.eye(), size)]

    def _steps(self, size: str) -> list[PaperPage] | None:
        from grey_current.desk.papers.step_pages import steps_on_paper  # noqa: PLC0415

        project = self.workspace.project
        if not self.workspace.computed.steps:
            raise RefusedEdit("the steps", "printing them without ducts", "lay the ducts first")
        return patiently(
            self.window, "Drawing the steps…", lambda told: steps_on_paper(project, size, told)
        )

    def _cards(self, size: str) -> list[PaperPage]:
        from grey_current.desk.papers.card_pages import card_pages  # noqa: PLC0415
        from grey_current.work.cards import cards  # noqa: PLC0415

        workspace = self.workspace
        made = cards(workspace.assessment.counted, workspace.space)
        return card_pages(made, workspace.project.name, datetime.date.today(), size)

    def _sticker(self, one: Monthly, size: str) -> list[PaperPage]:
        from grey_current.desk.papers.sticker_page import sticker_page  # noqa: PLC0415

        return [sticker_page(self.workspace.project, one, size)]

    def _attempt(self, dialog: PapersDialog, action: Callable[[], None]) -> None:
        try:
            action()
            dialog.complain("")
        except GreyCurrentError as problem:
            dialog.complain(str(problem))

    def _print(self, dialog: PapersDialog, pages: list[PaperPage]) -> None:
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter  # noqa: PLC0415

        from grey_current.desk.papers.painting import print_pages  # noqa: PLC0415

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        asking = QPrintDialog(printer, dialog)
        if asking.exec():
            print_pages(pages, printer)

    def _save(self, dialog: PapersDialog, pages: list[PaperPage], size: str) -> None:
        from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415

        chosen, _ = QFileDialog.getSaveFileName(
            dialog, "Save the papers", self.workspace.file_name("-papers.pdf"), "PDF (*.pdf)"
        )
        if chosen:
            self._tell(f"{save_pdf(pages, Path(chosen), self.workspace.project.name, size)}.")

    def save_all(self) -> None:
        """Ask for a folder and write drawings and lists into it. Raises `FileError`."""
        from grey_current.files.building_files import save_lists  # noqa: PLC0415

        chosen = QFileDialog.getExistingDirectory(
            self.window, "Save drawings and lists in a folder"
        )
        if chosen:
            made = save_lists(
                self.workspace.project, Path(chosen), {"svg", "dxf"}, self.workspace.computed.bill
            )
            self._tell(f"{len(made)} files saved in {chosen}.")

    def save_space(self) -> None:
        """Ask for a file and write the shop in space, as it is looked at. Raises `FileError`,
        `InputError` for a name with another ending.
        """
        from grey_current.build.solid.presets import preset  # noqa: PLC0415
        from grey_current.build.solid.shop_solids import shop_solids  # noqa: PLC0415
        from grey_current.files.space_files import SIZE, written  # noqa: PLC0415

        chosen, kind = QFileDialog.getSaveFileName(
            self.window,
            "Save the shop in space",
            self.workspace.file_name(".glb"),
            ";;".join(IN_SPACE),
        )
        if not chosen:
            return
        path = Path(chosen)
        if not path.suffix:
            path = path.with_name(path.name + IN_SPACE.get(kind, ".glb"))
        check_export(path)
        project = self.workspace.project
        solids = shop_solids(project, self.workspace.computed.parts.assembly)
        camera = self.eye() or preset(project, "corner", *SIZE)
        self._tell(f"{write_export(written(solids, camera, path.name), path)}.")

    def save_steps(self) -> None:
        """Ask for a file and write the pages of putting up. Raises `FileError`."""
        from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415

        project = self.workspace.project
        if not self.workspace.computed.steps:
            raise RefusedEdit("the steps", "printing them without ducts", "lay the ducts first")
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the steps", self.workspace.file_name("-steps.pdf"), "PDF (*.pdf)"
        )
        if not chosen:
            return
        check_export(Path(chosen))
        size = "Letter" if project.settings.units == "us" else "A4"
        pages = self._steps(size)
        if pages is not None:
            self._tell(f"{save_pdf(pages, Path(chosen), f'Steps of {project.name}', size)}.")

    def share(self) -> None:
        """Ask what is shared and write it on one page. Raises `FileError`."""
        from grey_current.desk.shell.share_dialog import ShareDialog  # noqa: PLC0415
        from grey_current.files.share_page import share_page  # noqa: PLC0415

        dialog = ShareDialog(self.window)
        if not dialog.exec():
            return
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the page", self.workspace.file_name(".html"), PAGE
        )
        if chosen:
            check_export(Path(chosen))
            computed = self.workspace.computed
            page = share_page(self.workspace.assessment, dialog.wanted, computed.bill)
            self._tell(f"{write_export(page, Path(chosen))}.")

    def save_drawing(self, template: str, figures: dict[str, float]) -> None:
        """Ask for a file and save the drawing of a thing to make. Raises `FileError`, `InputError`
        for bad figures.
        """
        from grey_current.build.made.templates import full_size, sheet  # noqa: PLC0415
        from grey_current.files.drawing_dxf import write_dxf  # noqa: PLC0415
        from grey_current.files.drawing_svg import svg  # noqa: PLC0415
        from grey_current.files.space_files import made_stl  # noqa: PLC0415

        display = Display(self.workspace.project.settings.units)
        drawing = sheet(template, figures, display)
        chosen, kind = QFileDialog.getSaveFileName(
            self.window, "Save the drawing", f"{template}.pdf", ";;".join(DRAWINGS)
        )
        if not chosen:
            return
        path = Path(chosen)
        check_export(path)
        # A name without an ending gets that of the kind that was chosen.
        if path.suffix.lower() not in DRAWINGS.values():
            path = path.with_name(path.name + DRAWINGS.get(kind, ".svg"))
        if path.suffix.lower() == ".pdf":
            self._tell(f"{self._save_full_size(template, figures, path)}.")
        elif path.suffix.lower() == ".dxf":
            self._tell(f"{write_dxf([full_size(template, figures, display)], path)}.")
        elif path.suffix.lower() == ".stl":
            content, words = made_stl(template, figures, display)
            self._tell(f"{write_export(content, path)}. {words}")
        else:
            self._tell(f"{write_export(svg(drawing), path)}.")

    def _save_full_size(self, template: str, figures: dict[str, float], path: Path) -> str:
        from grey_current.build.made.templates import full_size  # noqa: PLC0415
        from grey_current.desk.papers.full_size_pages import full_size_pages  # noqa: PLC0415
        from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415

        units = self.workspace.project.settings.units
        drawing = full_size(template, figures, Display(units))
        size = "Letter" if units == "us" else "A4"
        return save_pdf(full_size_pages(drawing, size), path, drawing.title, size)
