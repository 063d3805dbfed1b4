"""What receiving, checking and persistence need of the session they belong to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, Protocol

from PySide6.QtCore import SignalInstance

from gondrel.core.arrange.properties import Edit
from gondrel.core.errors import GondrelError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model import BodyFacts, FileFacts, Model
from gondrel.core.model.cutting import Vector
from gondrel.core.model.findings import Mended
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Crossing
from gondrel.core.service.messages import Sent
from gondrel.ui.presenters.rows import Chain
from gondrel.ui.session.choices import SendChoices
from gondrel.ui.session.comparison import Comparison
from gondrel.ui.session.deferred import Deferred
from gondrel.ui.session.settings import SettingsStore
from gondrel.ui.session.stations import Station
from gondrel.ui.session.tasks import Tasks

__all__ = ["SessionHost"]


class TakingApart(Protocol):
    """What is known of a model that is taken apart on screen."""

    def shifts(self) -> dict[tuple[str, ...], Vector]:
        """By how much what is drawn is shifted, by path, mm."""
        ...


class SessionHost(Protocol):
    """A session: the open crossing, its store, and how its state is changed and told."""

    settings: SettingsStore
    deferred: Deferred
    store: BlobStore
    folder: str
    crossing: Crossing
    card: FileFacts | None
    loading: str
    is_preview: bool
    error: GondrelError | None
    hidden: set[Chain]
    selection: tuple[Chain, ...]
    facts: dict[str, BodyFacts]
    choices: SendChoices
    tasks: Tasks

    def sending_values(self) -> dict[str, str]:
        """What is chosen for a send, as settings by their keys."""

    def take_sending(self, values: Mapping[str, str]) -> None:
        """Choose what a recipe says of a send."""

    @property
    def model(self) -> Model | None:
        """The current model."""

    @property
    def card_changed(self) -> SignalInstance:
        """Told when another card is shown."""

    @property
    def model_changed(self) -> SignalInstance:
        """Told when the model is another."""

    @property
    def failed(self) -> SignalInstance:
        """Errors that are told, each a GondrelError."""
        ...

    @property
    def notice(self) -> SignalInstance:
        """Short notices."""

    def take_crossing(self, crossing: Crossing, path: Path | None, *, dirty: bool) -> None:
        """Make a crossing the open one."""

    def forget_loading(self) -> None:
        """Go back to the card of what is open."""

    def load_crossing(self, path: Path) -> None:
        """Open a saved crossing."""

    def touch(self) -> None:
        """Say that the crossing is not as it was saved."""

    def mesh(self, keys: tuple[str, ...]) -> None:
        """Have bodies tessellated."""

    @property
    def exploding(self) -> TakingApart:
        """How the model is taken apart on screen."""

    @property
    def comparison(self) -> Comparison | None:
        """What stands in the second pane."""

    def describe(self, keys: tuple[str, ...]) -> None:
        """Learn what faces and edges of bodies are."""

    def compare(self, comparison: Comparison) -> None:
        """Have the bodies of another model tessellated and compared."""

    def edit(
        self, make: Callable[[Model], Edit], mended: tuple[Mended, ...] = (), script: str = ""
    ) -> bool:
        """Make an edit the next step of the history."""

    def focus(self, products: frozenset[str], returned: frozenset[str] = frozenset()) -> None:
        """Mark products."""

    def send_settings(self) -> SendSettings:
        """The send settings chosen."""
        ...

    def take_proof(self, sent: Sent, said: str = "") -> None:
        """Show a proof."""

    def ask_forecast(self) -> None:
        """Have the forecast made anew."""

    def set_hidden(self, hidden: set[Chain], faint: set[Chain] | None = None) -> None:
        """Say which rows are hidden."""

    def go(self, station: Station) -> None:
        """Go to a station."""

    def preview(self, model: Model) -> None:
        """Show the structure of the file that is being read."""

    def end_preview(self) -> None:
        """Show nothing again."""

    def tell_error(self, error: GondrelError) -> None:
        """Show an error."""

    def selected_products(self) -> tuple[str, ...]:
        """Ids of the products of the selected rows."""
        ...

    def take_shapes(self, crossing: Crossing) -> None:
        """Show the crossing with shapes that were loaded."""

    def meshes_made(self, keys: Iterable[str]) -> None:
        """Say that meshes are in the store."""

    def run_job(
        self,
        function: str,
        args: tuple[Any, ...],
        doing: str,
        done: Callable[[Any], None],
        failed: Callable[[GondrelError], None] | None = None,
        partial: Callable[[Any], None] = ...,
        stopped: Callable[[], None] = ...,
        *,
        quiet: bool = False,
        beside: bool = False,
    ) -> None:
        """Run a service function aside."""
