"""Every shipped card against the stand-in with its limits: what the card says is what comes of the file."""

from __future__ import annotations

from dataclasses import replace
from functools import cache, partial
from pathlib import Path
from typing import Any

import pytest

from gondrel.core.kernel.derive import complexity_of, facts_of
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.card import Card, card_named
from gondrel.core.recipients.expecting import as_received_by
from gondrel.core.recipients.rehearsal import rehearse
from gondrel.core.recipients.results import Rehearsal
from gondrel.core.recipients.stand_ins.known import STAND_INS, stand_in
from gondrel.core.service.prove import deviations_of
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.core.work import SILENT
from tests.core.recipients.nasty import nasty

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def sending(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("pairs")
    store = BlobStore(folder / "store")
    model = nasty(store)

    @cache
    def sent(kind: str) -> Any:
        return send(model, str(folder / kind), kind, settings_from({}), str(store.folder))

    return store, model, sent


def rehearsed(sending: Any, card: Card, kind: str) -> Rehearsal:
    store, model, sent = sending
    facts = {blob: facts_of(store, blob) for blob in model.blobs()}
    forecast = as_received_by(
        card, model, facts, kind, settings_from({}), sent(kind).forecast, partial(complexity_of, store)
    )
    mate = next(each for each in STAND_INS if card_named(each.card).name == card.name)
    return rehearse(mate, sent(kind).path, model, facts, store, deviations_of(store), forecast)


def findings(rehearsal: Rehearsal) -> tuple[list[Any], list[Any]]:
    proof = rehearsal.proof
    return [c.item.key for c in proof.unannounced], [item.key for item in proof.false_alarms]


PAIRS = [
    (each.card, kind)
    for each in STAND_INS
    for kind in ("step-ap203", "step-ap214", "step-ap242", "xt-text")
    if kind in card_named(each.card).reads.kinds
]


@pytest.mark.parametrize(("key", "kind"), PAIRS)
def test_a_card_says_what_its_stand_in_does(sending: Any, key: str, kind: str) -> None:
    assert findings(rehearsed(sending, card_named(key), kind)) == ([], [])


@pytest.mark.parametrize(
    ("key", "kind", "broken"),
    [
        ("bell-founder", "step-ap242", lambda c: replace(c, limits=replace(c.limits, tolerance=0.5))),
        ("bell-founder", "step-ap242", lambda c: replace(c, limits=replace(c.limits, closed=False))),
        ("bell-founder", "step-ap242", lambda c: replace(c, limits=replace(c.limits, cavities=True))),
        ("gear-cutter", "xt-text", lambda c: replace(c, limits=replace(c.limits, degree=0))),
        ("gear-cutter", "xt-text", lambda c: replace(c, limits=replace(c.limits, xt=12000))),
        ("pattern-maker", "step-ap214", lambda c: replace(c, limits=replace(c.limits, surfaces=False))),
        ("rigger", "step-ap242", lambda c: replace(c, keeps=replace(c.keeps, structure=True))),
        ("rigger", "step-ap242", lambda c: replace(c, keeps=replace(c.keeps, name_length=60))),
        ("lock-keeper", "step-ap203", lambda c: replace(c, keeps=replace(c.keeps, names=False))),
        ("inch-foundry", "step-ap214", lambda c: replace(c, limits=replace(c.limits, trusts_unit=True))),
        ("gear-cutter", "xt-text", lambda c: replace(c, reads=replace(c.reads, kinds=("step-ap214",)))),
    ],
)
def test_a_broken_field_of_a_card_is_found(sending: Any, key: str, kind: str, broken: Any) -> None:
    unannounced, false = findings(rehearsed(sending, broken(card_named(key)), kind))
    assert unannounced or false


def test_what_a_stand_in_can_not_read_is_complained_of(sending: Any) -> None:
    store, _, sent = sending
    taken = stand_in("old-xt").take(sent("step-ap214").path, store, SILENT)
    assert not taken.model.products and "no Parasolid file" in taken.complaints[0]
    taken = stand_in("first-edition").take(sent("step-ap242").path, store, SILENT)
    assert not taken.model.products and "schema" in taken.complaints[0]
    newer = Path(sent("xt-text").path).with_name("newer")
    newer.write_bytes(Path(sent("xt-text").path).read_bytes().replace(b"_13006", b"_35100"))
    taken = stand_in("old-xt").take(str(newer), store, SILENT)
    assert not taken.model.products and "newer than 14000" in taken.complaints[0]
