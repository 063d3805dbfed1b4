"""Receive settings: each tried on a file, on the command line and as a recipe."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from gondrel.cli.main import main
from gondrel.core.errors import UsageError
from gondrel.core.model.store import BlobStore
from gondrel.core.service.intake import receive_by
from gondrel.core.service.receive import measure_all
from gondrel.core.service.recipes import recipe_named, recipes, save_recipe, without_recipe
from gondrel.core.service.send import send
from gondrel.core.service.settings import receive_options_from, receive_settings_from, settings_from
from tests.builders import small_assembly


@pytest.fixture
def source(tmp_path: Path, store_folder: str) -> str:
    path = tmp_path / "small.stp"
    send(
        small_assembly(BlobStore(Path(store_folder))),
        str(path),
        "step-ap242",
        settings_from({}),
        store_folder,
    )
    return str(path)


def _volume(model, store: str) -> float:
    facts = measure_all(model.blobs(), store)
    return sum(facts[b.blob].volume for p in model.walk() for b in model.product(p.product).bodies)


def test_scale_and_unit(source, store_folder) -> None:
    whole = _volume(receive_by(source, store_folder, receive_options_from({})), store_folder)
    doubled = receive_by(source, store_folder, receive_options_from({"scale": "2"}))
    assert _volume(doubled, store_folder) == pytest.approx(8 * whole, rel=1e-9)
    places = [o.placement[3] for _, o in doubled.occurrences()]
    assert sorted(places) == [0.0, 40.0, 180.0]
    inches = receive_by(source, store_folder, receive_options_from({"unit": "inch"}))
    assert inches.units.key == "inch"
    assert _volume(inches, store_folder) == pytest.approx(25.4**3 * whole, rel=1e-9)
    assert any(n.code == "taken-by-settings" for n in inches.notes)


def test_layers_and_kinds(source, store_folder) -> None:
    taken = receive_by(source, store_folder, receive_options_from({"layers": "A"}))
    assert {p.name for p in taken.products} == {"Top", "Plate", "Pin"}
    assert not taken.product(taken.roots[0]).bodies  # its own body is on layer C
    none = receive_by(source, store_folder, receive_options_from({"kinds": "sheets,wires"}))
    assert not list(none.bodies()) and "3 solids" in none.notes[-1].text


def test_flat_and_parts(source, store_folder) -> None:
    whole = _volume(receive_by(source, store_folder, receive_options_from({})), store_folder)
    flat = receive_by(source, store_folder, receive_options_from({"structure": "flat"}))
    assert len(flat.products) == 1 and len(flat.products[0].bodies) == 4
    assert _volume(flat, store_folder) == pytest.approx(whole, rel=1e-9)
    parts = receive_by(source, store_folder, receive_options_from({"structure": "flat", "loose": "each"}))
    assert len(parts.products) == 5
    assert _volume(parts, store_folder) == pytest.approx(whole, rel=1e-9)


def test_colours_and_names(source, store_folder) -> None:
    plain = receive_by(source, store_folder, receive_options_from({"colours": "no", "names": "number"}))
    assert all(b.colour is None and not b.face_colours for _, b in plain.bodies())
    assert {p.name for p in plain.products} == {"T-1", "P-2", "P-3"}
    named = receive_by(source, store_folder, receive_options_from({"names": "file"}))
    assert named.product(named.roots[0]).name == "small"


def test_into_a_prepared_product(source, tmp_path, store_folder) -> None:
    model = receive_by(source, store_folder, receive_options_from({"into": f"{source}#P-3"}))
    pin = next(p for p in model.products if p.number == "P-3")
    assert pin.name == "Pin" and len(pin.bodies) == 2 and len(pin.occurrences) == 3
    with pytest.raises(UsageError, match="no product"):
        receive_by(source, store_folder, receive_options_from({"into": f"{source}#X"}))


@pytest.mark.parametrize(
    "values",
    [{"unit": "furlong"}, {"kinds": "solids,ghosts"}, {"scale": "-1"}, {"scale": "two"}, {"odd": "1"},
     {"structure": "some"}, {"colours": "perhaps"}, {"join": "much"}],
)  # fmt: skip
def test_senseless_settings_are_refused(values) -> None:
    with pytest.raises(UsageError):
        receive_settings_from(values)


def test_recipes_are_kept_and_dropped() -> None:
    save_recipe("Inch parts", "receive", {"unit": "inch"})
    save_recipe("For Tarnbeck", "send", {"unit": "mm"})
    save_recipe("Inch parts", "receive", {"unit": "inch", "colours": "no"})
    assert [r.name for r in recipes()] == ["For Tarnbeck", "Inch parts"]
    assert dict(recipe_named("Inch parts", "receive").values) == {"unit": "inch", "colours": "no"}
    without_recipe("Inch parts", "receive")
    with pytest.raises(UsageError, match="Inch parts"):
        recipe_named("Inch parts", "receive")


@pytest.mark.slow
def test_settings_and_recipes_on_the_command_line(source, tmp_path, capsys) -> None:
    save_recipe("Doubled", "receive", {"scale": "2", "structure": "flat"})
    assert main(["inspect", source, "--json", "--recipe", "Doubled", "--set", "colours=no"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert len(found["products"]) == 1 and found["products"][0]["bodies"][0]["colour"] is None
    assert main(["inspect", source, "--json"]) == 0
    plain = json.loads(capsys.readouterr().out)["totals"]["placed_volume"]
    assert found["totals"]["placed_volume"] == pytest.approx(8 * plain, rel=1e-9)

    out = str(tmp_path / "out.igs")
    call = ["send", source, "--out", out, "--as", "iges-solid", "--json", "--recipe", "Doubled"]
    assert main([*call, "--set", "receive.names=file", "--set", "author=Ada"]) == 0
    assert main(["inspect", out, "--json"]) == 0
    sent = json.loads(capsys.readouterr().out.splitlines()[-1])
    assert sent["products"][0]["name"] == "small" and sent["file"]["written_by"]["author"] == "Ada"
    assert main(["inspect", source, "--recipe", "Nothing"]) == 2
