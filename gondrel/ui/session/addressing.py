"""Who a model is for, on screen: the recipient card, formats compared, rehearsals, the sending log.

No widgets.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.formats.settings import LINKED
from gondrel.core.model.verdicts import Verdict
from gondrel.core.recipients.card import Card, cards, save_card
from gondrel.core.recipients.learning import proposed_card
from gondrel.core.recipients.results import Choice, Rehearsal
from gondrel.core.service.messages import Sent
from gondrel.core.service.recipes import KIND, values_toward
from gondrel.core.service.sendings import Sending, changed_since, digests_of
from gondrel.core.work.files import sha256_of_file
from gondrel.ui.session.comparison import Comparison, comparison_with_rehearsed
from gondrel.ui.session.host import SessionHost

__all__ = ["Addressing"]

_RECIPIENTS = "gondrel.core.service.recipients"


class Addressing(QObject):
    """The recipient that is chosen, and what was found out toward them."""

    changed = Signal()
    cards_changed = Signal()
    beside_changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.card: Card | None = None
        self.choices: tuple[Choice, ...] = ()
        self.rehearsal: Rehearsal | None = None
        self.beside: Comparison | None = None
        session.model_changed.connect(self._forget)

    def _forget(self) -> None:
        self.choices, self.rehearsal, self.beside = (), None, None
        self.changed.emit()

    @property
    def indifferent(self) -> tuple[str, ...]:
        """Things that do not matter to the recipient."""
        return self.card.indifferent if self.card is not None else ()

    def all_cards(self) -> list[Card]:
        """Every card there is; none where one of them makes no sense, which is told."""
        try:
            return cards()
        except GondrelError as error:
            self.session.tell_error(error)
            return []

    def choose(self, key: str) -> None:
        """Choose whom it is for; an empty key for nobody in particular."""
        self.card = next((card for card in self.all_cards() if card.key == key), None)
        self._forget()
        if self.card is not None:
            self.session.take_sending(self._asked(self.card))
        else:
            self.session.ask_forecast()

    def _asked(self, card: Card) -> dict[str, str]:
        """What a recipient's card asks for of a send, on top of what is chosen."""
        values = self.session.sending_values()
        try:
            values |= values_toward(card, {})
        except GondrelError as error:  # its recipe is not here; the rest of the card holds
            self.session.tell_error(error)
        if values.get("files") in LINKED and not card.reads.external:
            del values["files"]
            self.session.notice.emit(f"{card.name} take no linked files: it goes as one")
        if card.reads.kinds and values[KIND] not in card.reads.kinds:
            values[KIND] = card.reads.kinds[0]
        return values

    def compare(self) -> None:
        """Try every format out for the recipient."""
        model = self.session.model
        if model is None:
            return

        def take(choices: tuple[Choice, ...]) -> None:
            if self.session.model is model:
                self.choices = choices
                self.changed.emit()

        args = (model, self.card, self.session.send_settings(), str(self.session.store.folder))
        self.session.run_job(f"{_RECIPIENTS}:rank_targets", args, "comparing formats", take)

    def rehearse(self, stand_in: str) -> None:
        """Let a stand-in take what would be sent."""
        model = self.session.model
        if model is None:
            return

        def take(rehearsal: Rehearsal) -> None:
            if self.session.model is model:
                self.rehearsal = rehearsal
                if rehearsal.taken.model.products:
                    self.beside = comparison_with_rehearsed(model, rehearsal)
                    self.session.compare(self.beside)
                self.changed.emit()
                self.beside_changed.emit()

        session = self.session
        settings = session.send_settings()
        args = (model, stand_in, self.card, session.choices.kind, settings, str(session.store.folder))
        session.run_job(f"{_RECIPIENTS}:rehearse_file", args, "rehearsing", take)

    # --- what came back ---------------------------------------------------------------------

    def prove_returned(self, path: str) -> None:
        """Compare a file that the recipient sent back with what was sent."""
        session, model = self.session, self.session.model
        if model is None:
            return

        def take(sent: Sent) -> None:
            if session.model is model:
                session.take_proof(sent)

        args = (
            model,
            path,
            session.choices.kind,
            session.send_settings(),
            str(session.store.folder),
            self.card,
        )
        session.run_job(f"{_RECIPIENTS}:prove_returned", args, f"comparing {Path(path).name}", take)

    def proposal(self) -> tuple[Card | None, tuple[str, ...]]:
        """The card as what came back speaks for, and why; none without a card or a proof."""
        sent = self.session.crossing.sent
        if self.card is None or sent is None:
            return None, ()
        return proposed_card(self.card, sent.proof)

    def learn(self) -> None:
        """Write what came back onto the card."""
        card, why = self.proposal()
        if card is not None and why:
            save_card(card)
            self.choose(card.key)
            self.cards_changed.emit()
            self.session.notice.emit(f"Wrote {len(why)} changes onto the card of {card.name}")

    def send_again(self, sending: Sending) -> None:
        """Choose what was chosen for a sending: recipient, kind and settings; and where it went."""
        self.card = next((card for card in self.all_cards() if card.key == sending.card), None)
        self._forget()
        self.session.take_sending({**dict(sending.settings), KIND: sending.kind})

    # --- log --------------------------------------------------------------------------------

    def note(self, sent: Sent) -> None:
        """Write a sending into the log of the crossing."""
        model = self.session.model
        if model is None:
            return
        fates = [item.verdict for entry in sent.proof.ledger.entries for item in entry.items]
        files = [sent.path, *(path for path, _ in sent.companions)]
        entry = Sending(
            datetime.now(UTC).astimezone().isoformat(timespec="seconds"),
            self.card.name if self.card is not None else "",
            self.card.key if self.card is not None else "",
            self.card.recipe if self.card is not None else "", sent.kind,
            tuple((path, sha256_of_file(path)) for path in files),
            fates.count(Verdict.CARRIED), fates.count(Verdict.ALTERED), fates.count(Verdict.LOST),
            len(sent.proof.unannounced), digests_of(model),
            tuple(self.session.sending_values().items()),
        )  # fmt: skip
        crossing = self.session.crossing
        self.session.crossing = replace(crossing, log=(*crossing.log, entry))
        self.session.touch()
        self.changed.emit()

    def changed_since(self, sending: Sending) -> frozenset[str]:
        """Ids of the products that are other than when something was sent."""
        model = self.session.model
        return changed_since(sending, model) if model is not None else frozenset()
