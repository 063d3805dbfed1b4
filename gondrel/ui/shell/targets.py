"""What the search line of a window finds."""

from __future__ import annotations

from functools import partial

from gondrel.ui.presenters.rows import Chain, chain_of_product
from gondrel.ui.presenters.search import SearchText
from gondrel.ui.shell.host import Host
from gondrel.ui.shell.search import SearchTarget

__all__ = ["targets_of"]

_SETTINGS = (
    "Author", "Organisation", "Figures shown in mm or inch", "Decimal places", "Theme light or dark",
    "Larger type", "Our system",
)  # fmt: skip
_MOST_ITEMS = 5000


def targets_of(window: Host) -> list[SearchTarget]:
    """Every command, setting and item of a window."""
    targets = [
        SearchTarget(
            SearchText(c.title, c.keys[0] if c.keys else c.group, f"{c.group} {c.words}"),
            window.actions_by_key[c.key].trigger,
        )
        for c in window.commands
    ]
    targets += [SearchTarget(SearchText(name, "setting"), window.show_settings) for name in _SETTINGS]
    model = window.session.model
    for product in model.products[:_MOST_ITEMS] if model is not None else ():
        chain = chain_of_product(product.id)
        text = SearchText(product.label, product.number or "item", f"{product.number} {product.revision}")
        targets.append(SearchTarget(text, partial(_go_to, window, chain)))
    return targets


def _go_to(window: Host, chain: Chain) -> None:
    window.session.select((chain,))
    if window.stage is not None:
        window.stage.fit()
