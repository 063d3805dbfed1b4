"""A file with a change planted in it, held against the file as it was."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from gondrel.core.carriage.ledger import Proof
from gondrel.core.model import BodyFacts, Model
from gondrel.core.service.prove import prove_against
from gondrel.core.service.receive import measure_all, receive
from tests.builders import rich_assembly, written

__all__ = ["Original", "original"]


@dataclass(frozen=True)
class Original:
    """A file and what it says."""

    data: bytes
    suffix: str
    meant: Model
    facts: dict[str, BodyFacts]
    folder: Path

    def proof(self, changed: bytes) -> Proof:
        """The proof of a changed file against this one."""
        path = self.folder / f"changed{self.suffix}"
        path.write_bytes(changed)
        store = str(self.folder / "store")
        return prove_against(self.meant, self.facts, [str(path)], store, None, other_reader=False)[1]

    def tells(self, changed: bytes, thing: str, verdict: str) -> None:
        """Assert that a change is told in the cell of its thing, and that the proof says so."""
        assert changed != self.data
        proof = self.proof(changed)
        told = {c.verdict for c in proof.ledger.of(thing).items}
        every = [
            (c.item.thing, c.item.aspect, c.verdict)
            for e in proof.ledger.entries
            for c in e.items
            if c.verdict != "carried"
        ]
        assert verdict in told, every
        if thing not in ("validation", "remainder"):
            assert proof.verdict != "carried"


def original(kind: str, suffix: str, folder: Path) -> Original:
    """The rich assembly as a file of a kind, read back."""
    data = written(kind, folder / "made", rich_assembly)
    path = folder / f"original{suffix}"
    path.write_bytes(data)
    store = str(folder / "store")
    meant = receive(str(path), store)
    return Original(data, suffix, meant, measure_all(meant.blobs(), store), folder)
