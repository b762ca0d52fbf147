"""Kept designs on the shop's page: keep this one, compare with one, bring one back."""

from __future__ import annotations

from grey_current.desk.inspector.fields import ActionField, Item, Section, TextField
from grey_current.shop import kept_designs
from grey_current.shop.model import KeptDesign
from grey_current.workspace.workspace import Workspace


def kept_designs_section(workspace: Workspace) -> Section:
    """Designs of this shop kept side by side."""
    items: list[Item] = [
        ActionField(
            "keep-design",
            "Keep this design",
            step="Keep this design",
            edit=lambda p: kept_designs.kept(p)[0],
            detail="to go back to, or to compare with",
        )
    ]
    for kept_design in workspace.project.kept_designs:
        items += _of_kept_design(workspace, kept_design)
    count = len(workspace.project.kept_designs)
    return Section("Designs kept", tuple(items), summary=str(count) if count else "none yet")


def _of_kept_design(workspace: Workspace, kept_design: KeptDesign) -> list[Item]:
    shown = workspace.compared == kept_design.id
    if shown:
        words = f"End the comparison with {kept_design.name}"
    else:
        words = f"Compare with {kept_design.name}"
    made: list[Item] = [
        TextField(
            f"{kept_design.id}/design-name",
            "Name",
            kept_design.name,
            step="Rename a design",
            read=str,
            edit=lambda p, v: kept_designs.renamed(p, kept_design.id, v),
        ),
        ActionField(
            f"{kept_design.id}/compare",
            words,
            step="",
            act=lambda: workspace.compare(None if shown else kept_design.id),
        ),
        ActionField(
            f"{kept_design.id}/bring-back",
            f"Bring {kept_design.name} back",
            step=f"Bring {kept_design.name} back",
            edit=lambda p: kept_designs.brought_back(p, kept_design.id),
            detail="what is drawn now is kept first",
        ),
        ActionField(
            f"{kept_design.id}/drop",
            f"Delete {kept_design.name}",
            step=f"Delete {kept_design.name}",
            edit=lambda p: kept_designs.dropped(p, kept_design.id),
        ),
    ]
    return made
