"""glTF and 3MF out: proved, read by another reader, and damaged files refused by name."""

from __future__ import annotations

import json
import random
import struct
from pathlib import Path

import pytest
import trimesh

from gondrel.core.errors import GondrelError, InputError, MalformedFile
from gondrel.core.formats.gltf.colours import from_linear, to_linear
from gondrel.core.model.body import BodyKind, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def sent_glb(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("glb")
    model = small_assembly(BlobStore(folder / "store"))
    send(model, str(folder / "small.glb"), "gltf", settings_from({"chord": "0.01"}), str(folder / "store"))
    return folder / "small.glb"


@pytest.mark.parametrize("kind", ["gltf", "3mf"])
@pytest.mark.parametrize("files", ["one", "each"])
def test_the_forecast_is_exact(kind: str, files: str, tmp_path: Path, store_folder: str) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    sent = send(model, str(tmp_path / "small"), kind, settings_from({"files": files}), store_folder)
    assert not sent.proof.unannounced and not sent.proof.false_alarms
    unit = sent.proof.ledger.of("units")
    assert (unit.before, unit.after) == ("mm", "m" if kind == "gltf" else "mm")
    forecast = forecast_for(model, kind, settings_from({}), store_folder)
    assert forecast.fate("units") == ("altered" if kind == "gltf" else "carried")


def test_another_reader_sees_the_same_solids(sent_glb: Path) -> None:
    """trimesh: in metres, y upward, as closed meshes of the volume that the model has."""
    store = str(sent_glb.parent / "store")
    model = small_assembly(BlobStore(Path(store)))
    facts = measure_all(model.blobs(), store)
    volume = sum(
        facts[body.blob].volume
        for place in model.walk()
        for body in model.product(place.product).bodies
        if body.kind is BodyKind.SOLID
    )
    seen = trimesh.load(sent_glb).to_mesh()
    assert seen.volume * 1e9 == pytest.approx(volume, rel=0.01)
    back = receive(str(sent_glb), store)
    boxes = [measure_all(back.blobs(), store)[b.blob].bbox for _, b in back.bodies()]
    ours = [min(b[n] for b in boxes) for n in range(3)] + [max(b[n + 3] for b in boxes) for n in range(3)]
    low, high = seen.bounds * 1000.0
    theirs = [low[0], -high[2], low[1], high[0], -low[2], high[1]]  # y upward to z upward
    assert theirs == pytest.approx(ours, abs=1e-3)


def test_colours_are_linear_in_the_file() -> None:
    """Check values of the sRGB transfer by IEC 61966-2-1: 0.5 is 0.21404 linear."""
    assert to_linear(Rgba(0.5, 0.0, 1.0))[:3] == pytest.approx([0.2140411, 0.0, 1.0], abs=1e-6)
    for colour in (Rgba(0.1, 0.55, 0.9), Rgba(0.01, 0.04, 0.0405, 0.25)):
        assert from_linear(to_linear(colour)) == colour


def _text(plain: object) -> bytes:
    text = json.dumps(plain).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<4sII", b"glTF", 2, 20 + len(text)) + struct.pack("<I4s", len(text), b"JSON") + text


@pytest.mark.parametrize(
    ("plain", "told"),
    [
        ({"asset": {"version": "1.0"}}, "no glTF of version 2"),
        (
            {"asset": {"version": "2.0"}, "nodes": [{"children": [0]}], "scenes": [{"nodes": [0]}]},
            "in itself",
        ),
        ({"asset": {"version": "2.0"}, "nodes": [{"mesh": 4}], "scenes": [{"nodes": [0]}]}, "meshes 4"),
        ({"asset": {"version": "2.0"}, "nodes": 3}, "no list"),
        ({"asset": {"version": "2.0"}}, "no triangle"),
    ],
)
def test_what_makes_no_sense_is_refused(
    plain: object, told: str, tmp_path: Path, store_folder: str
) -> None:
    path = tmp_path / "bad.glb"
    path.write_bytes(_text(plain))
    with pytest.raises(MalformedFile, match=told):
        receive(str(path), store_folder)


def test_data_outside_the_folder_are_not_read(tmp_path: Path, store_folder: str) -> None:
    (tmp_path / "secret.bin").write_bytes(bytes(64))
    inner = tmp_path / "in"
    inner.mkdir()
    plain = {
        "asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"byteLength": 64, "uri": "../secret.bin"}],
    }  # fmt: skip
    (inner / "x.gltf").write_text(json.dumps(plain))
    with pytest.raises(InputError, match="outside the folder"):
        receive(str(inner / "x.gltf"), store_folder)


def test_damaged_files_are_errors_or_models(sent_glb: Path, tmp_path: Path, store_folder: str) -> None:
    chance, data = random.Random(7), sent_glb.read_bytes()
    head = data.index(b"BIN\0")
    for number in range(300):
        damaged = bytearray(data)
        match number % 3:
            case 0:
                del damaged[chance.randrange(1, len(damaged)) :]
            case 1:
                for _ in range(chance.randrange(1, 6)):
                    damaged[chance.randrange(head)] = chance.randrange(32, 127)
            case _:
                at = chance.randrange(head)
                damaged[at : at + chance.randrange(1, 40)] = b""
        path = tmp_path / "damaged.glb"
        path.write_bytes(bytes(damaged))
        try:
            receive(str(path), store_folder)
        except GondrelError as error:
            assert error.message
