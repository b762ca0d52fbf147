"""What commands ask of a window: its dialogs, its floor and its look."""

from __future__ import annotations

from typing import Literal, Protocol

from grey_current.workspace.workspace import Workspace


class Building(Protocol):
    """What is bought and cut with: prices and lists."""

    def save_prices(self) -> object:
        """Ask for a file and write the price list."""

    def read_pieces(self) -> object:
        """Ask for another shop's file and count its pieces as there already."""

    def read_prices(self) -> object:
        """Ask for a price list and read it."""

    def save_all(self) -> object:
        """Ask for a folder and write drawings and lists into it."""

    def save_steps(self) -> object:
        """Ask for a file and write the pages of putting up step by step."""

    def share(self) -> object:
        """Ask what is shared, and for a file, and write one page of HTML."""

    def save_space(self) -> object:
        """Ask for a file and write the shop in space, or a picture of it."""


class Working(Protocol):
    """What hangs in the shop: cards, chores, simulated switches."""

    def save_cards(self) -> object:
        """Ask for a file and write the machines' cards."""

    def save_chores(self) -> object:
        """Ask for a file and write the chores as a calendar."""

    def switch_panel(self) -> object:
        """Show the panel of simulated tools and switches."""


class Keeping(Protocol):
    """Readings and logbook as files."""

    def save_readings(self) -> object:
        """Ask for a file and write the readings."""

    def read_readings(self) -> object:
        """Ask for readings and read them."""

    def save_logbook(self) -> object:
        """Ask for a file and write the logbook."""

    def show_logbook(self) -> object:
        """Open the logbook."""


class Plans(Protocol):
    """The plan underneath."""

    def choose(self) -> object:
        """Ask for a plan and lay it under the drawing."""

    def begin_scale(self) -> object:
        """Scale the plan by two places."""

    def begin_move(self) -> object:
        """Take the plan underneath in hand, to be dragged."""

    def drop(self) -> object:
        """Delete the floor plan."""


# What the floor shows: the plan, the shop in space, or both side by side.
FloorView = Literal["plan", "space", "both"]


class Desk(Protocol):
    """What commands ask of the window: its dialogs, its floor and its look."""

    @property
    def workspace(self) -> Workspace:
        """What is open."""

    @property
    def building(self) -> Building:
        """What is bought and cut with: prices and lists."""

    @property
    def working(self) -> Working:
        """What hangs in the shop: cards, chores, simulated switches."""

    @property
    def keeping(self) -> Keeping:
        """Readings and logbook as files."""

    @property
    def underlays(self) -> Plans:
        """The plan underneath."""

    def show_recent(self) -> object:
        """Show the shops opened lately, to open one."""

    def ask_open(self) -> object:
        """Ask for a file and open it."""

    def new_window(self) -> object:
        """Open another window, with an empty shop."""

    def open_demo(self, name: str) -> object:
        """Open a demo shop."""

    def open_template(self, name: str) -> object:
        """Begin a new shop in one of the template rooms."""

    def save(self) -> object:
        """Save, asking for a name the first time."""

    def save_as(self) -> object:
        """Save under another name."""

    def close(self) -> object:
        """Close the window."""

    def cancel(self) -> object:
        """Let go of what is under way or in hand; returns whether there was anything."""

    def focus_floor(self) -> object:
        """Give the floor the keyboard."""

    def focus_strip(self) -> object:
        """Give the strip's rows the keyboard."""

    def fit(self) -> object:
        """Show the whole floor."""

    def show_manual(self, ident: str = "") -> object:
        """Show a page of the manual, or the one about what is looked at."""

    def show_preferences(self) -> object:
        """Show what can be set for all shops."""

    def show_view(self, name: FloorView) -> object:
        """Show the plan, the shop in space, or both side by side."""

    def toggle_before(self) -> object:
        """Show the design before on the left of a line, or hide it."""

    def zoom(self, factor: float) -> object:
        """Closer (factor above 1) or farther."""

    def toggle_pane(self, name: str) -> object:
        """Hide or show a pane beside the floor: "machines", "strip" or "page"."""

    def toggle_theme(self) -> object:
        """Light or dark."""

    def toggle_lanes(self) -> object:
        """Lanes of all machines, or of the chosen one."""

    def toggle_motion(self) -> object:
        """Moving air on or off."""

    def keep_machine(self) -> object:
        """Keep the selected machine in the library."""

    def forget_kept(self) -> object:
        """Ask which kept machine or collector is to be forgotten."""

    def keep_collector(self) -> object:
        """Keep the collector that is looked at in the library."""

    def read_curve(self) -> object:
        """Ask for a fan curve and read it."""

    def save_chart(self) -> object:
        """Ask where to save the match chart, and save it."""

    def show_papers(self) -> object:
        """Show the papers, to be printed or saved."""

    def connect_instrument(self) -> object:
        """Ask where an instrument listens, and take figures from it."""

    def guess(self) -> object:
        """Play the pressure game with the shop that is open."""

    def show_history(self) -> object:
        """Show the steps that were made, to go back or forward to one."""

    def show_about(self) -> object:
        """Show the version, and whose work stands in it."""

    def find_anything(self) -> object:
        """Ask what is looked for: a command, a thing, a problem, a part, a page."""

    def practise(self) -> object:
        """Ask which shop to practise in, and open it."""

    def merge_logbook(self) -> object:
        """Ask for another copy of the file and put its logbook in."""

    def at_machine(self) -> object:
        """Show a machine's card over the whole screen."""

    def show_keys(self) -> object:
        """Show keys and mouse."""

    def show_cautions(self) -> object:
        """Show the cautions."""
