"""Kept designs on the shop's page: keep this one, compare with one, bring one back."""

from __future__ import annotations

from grey_current.desk.inspector.fields import ActionField, Item, Section, TextField
from grey_current.shop import kept_designs as variants
from grey_current.shop.model import Variant
from grey_current.workspace.workspace import Edit, Workspace


def variants_section(workspace: Workspace) -> Section:
    """Designs of this shop kept side by side."""
    items: list[Item] = [
        ActionField(
            "keep-variant", "Keep this design", "Keep this design", lambda: lambda p: variants.kept(p)[0],
            "to go back to, or to compare with",
        )
    ]  # fmt: skip
    for variant in workspace.project.variants:
        items += _of_variant(workspace, variant)
    return Section("Designs kept", tuple(items))


def _of_variant(workspace: Workspace, variant: Variant) -> list[Item]:
    shown = workspace.compared == variant.id
    words = f"End the comparison with {variant.name}" if shown else f"Compare with {variant.name}"
    made: list[Item] = [
        TextField(
            f"{variant.id}/variant-name", "Name", variant.name, "Rename a design",
            lambda text: _renamed(variant.id, text),
        ),
        ActionField(
            f"{variant.id}/compare", words, "", lambda: workspace.compare(None if shown else variant.id),
        ),
        ActionField(
            f"{variant.id}/bring-back", f"Bring {variant.name} back", f"Bring {variant.name} back",
            lambda: lambda p: variants.brought_back(p, variant.id), "what is drawn now is kept first",
        ),
        ActionField(
            f"{variant.id}/drop", f"Take {variant.name} away", f"Take {variant.name} away",
            lambda: lambda p: variants.dropped(p, variant.id),
        ),
    ]  # fmt: skip
    return made


def _renamed(variant: str, text: str) -> Edit:
    return lambda project: variants.renamed(project, variant, text)
