"""The guide to a first shop, on top of the page of each stage that it leads through."""

from __future__ import annotations

from functools import partial

from grey_current.desk.inspector.fields import ActionField, ChoiceField, Fact, Item, Section
from grey_current.shop.catalogue import collector_model
from grey_current.shop.model import Project
from grey_current.shop.places import middle_of
from grey_current.spelling import localised
from grey_current.workspace import first_shop
from grey_current.workspace.placing import SHOP_THINGS, Placeable, copies_of, place_well, sized
from grey_current.workspace.workspace import Workspace

DOORS = ("door", "roll-up door", "window")
# What many have already, by model, with what they call it.
OWNED = {
    "Wet/dry vacuum, 2 1/2 in hose": "A shop vacuum",
    "1 hp single-stage, 4 in inlet": "A small collector on wheels",
    "1.5 hp single-stage, 5 in inlet": "A collector with a filter bag",
}


def guide_section(workspace: Workspace) -> Section | None:
    """The guide's step at this stage, or the offer of a guide on an empty floor; else None."""
    steps = [step.stage for step in first_shop.STEPS]
    if workspace.stage not in steps or workspace.selection is not None:
        return None
    if not workspace.guiding:
        return _offered(workspace)
    number = steps.index(workspace.stage)
    step = first_shop.STEPS[number]
    items: list[Item] = ITEMS[step.stage](workspace)
    # The last step says what to do until it is done.
    if number + 1 < len(steps) or workspace.waiting:
        items = [Fact("", step.says), *items]
    if number + 1 < len(steps):
        following = first_shop.STEPS[number + 1]
        items.append(
            ActionField(
                "guide/next",
                f"Next: {following.title.lower()}",
                step="",
                act=partial(workspace.go, following.stage),
                primary=True,
            )
        )
    items.append(ActionField("guide/end", "Close the guide", step="", act=workspace.end_guide))
    title = f"Guide, step {number + 1} of {len(steps)}: {step.title.lower()}"
    return Section(title, tuple(items), open_first=True)


def _offered(workspace: Workspace) -> Section | None:
    """An empty floor offers the guide once, where one begins."""
    if workspace.stage != "shop" or workspace.project.machines:
        return None
    begin = ActionField(
        "guide/begin",
        "Guide me through a first shop",
        step="",
        act=workspace.begin_guide,
        detail="the room, your machines, what pulls the dust, the ducts",
    )
    return Section("New here?", (begin,))


def _put(thing: Placeable, key: str, label: str, detail: str = "") -> ActionField:
    """A button that puts one more of a thing in, where it had better be."""

    def edit(project: Project) -> Project:
        ready = sized(thing, project.settings.units)
        return place_well(project, ready, *middle_of(project.rooms[0].outline))[0]

    return ActionField(f"guide/{key}", label, step=label, edit=edit, detail=detail)


def _room(workspace: Workspace) -> list[Item]:
    del workspace
    things = {thing.sort: thing for thing in SHOP_THINGS if thing.kind == "opening"}
    return [_put(things[sort], sort, f"Add a {things[sort].title.lower()}") for sort in DOORS]


def _machines(workspace: Workspace) -> list[Item]:
    work = first_shop.WORKS[workspace.work]
    kinds = tuple((name, kind.title) for name, kind in first_shop.WORKS.items())
    items: list[Item] = [
        ChoiceField(
            "guide/work", "I make", workspace.work, kinds, step="", act=workspace.choose_work
        ),
        Fact("", work.room),
    ]
    for name in work.machines:
        body = first_shop.body_of(name)
        thing = Placeable("machine", name, name, body=body)
        count = len(copies_of(workspace.project, thing))
        here = f"{count} here" if count else ""
        title = localised(name, workspace.project.settings.units)
        items.append(_put(thing, name, f"Add a {title[:1].lower()}{title[1:]}", here))
    return items


def _collector(workspace: Workspace) -> list[Item]:
    if workspace.project.collectors:
        names = ", ".join(collector.name for collector in workspace.project.collectors)
        return [Fact("", f"You have one: {names}. Drag it to where you want it, or go on.")]
    units = workspace.project.settings.units
    return [
        _put(
            Placeable("collector", model, collector_model(model).model),
            model,
            label,
            localised(model, units),
        )
        for model, label in OWNED.items()
    ]


def _ducts(workspace: Workspace) -> list[Item]:
    if not workspace.project.collectors:
        return [Fact("", "Put a collector in first: one step back.", "short")]
    if workspace.waiting:
        return [
            ActionField(
                "guide/lay",
                "Lay the ducts",
                step="",
                act=lambda: workspace.ask_for("ducts"),
                # Elsewhere the strip has the same button.
                primary=workspace.put_off,
            )
        ]
    return [Fact("", workspace.verdict), Fact("", "That is a whole design. Save it: Ctrl+S.")]


ITEMS = {"shop": _room, "machines": _machines, "collector": _collector, "air": _ducts}
