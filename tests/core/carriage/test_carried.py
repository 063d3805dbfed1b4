"""What a model can hold goes through every format as the forecast says, and others find it in the file."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorTool, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send
from tests.builders import rich_assembly

pytestmark = pytest.mark.slow

TARGETS = {
    "step-ap242": ".stp", "step-ap214": ".stp", "step-ap203": ".stp",
    "xt-text": ".x_t", "xt-binary": ".x_b",
    "iges-solid": ".igs", "iges-surface": ".igs",
}  # fmt: skip


@pytest.fixture(scope="module")
def sent(tmp_path_factory):
    """The rich assembly sent to every target: the path of each file, and its proof."""
    folder = tmp_path_factory.mktemp("carried")
    store = BlobStore(folder / "store")
    model = rich_assembly(store)
    found = {}
    for kind, suffix in TARGETS.items():
        out = folder / f"{kind}{suffix}"
        found[kind] = out, send(model, str(out), kind, SendSettings(), str(folder / "store")).proof
    return found


@pytest.mark.parametrize("kind", TARGETS)
def test_all_goes_as_forecast(kind, sent) -> None:
    proof = sent[kind][1]
    assert not proof.unannounced
    assert not proof.false_alarms


@pytest.mark.parametrize(
    ("kind", "left"),
    [
        ("step-ap242", {"on layer A"}),
        ("step-ap214", {"on layer A", "face properties", "property finish#1", "property note#1", "axis A#1",
                        "plane PL#1", "point PT#1", "Checked#1"}),
        ("xt-text", {"length unit", "colours in this place of b-plate"}),
        ("xt-binary", {"length unit", "colours in this place of b-plate"}),
    ],
)  # fmt: skip
def test_what_does_not_go_is_all_there_is(kind, left, sent) -> None:
    proof = sent[kind][1]
    changed = {
        c.item.aspect
        for entry in proof.ledger.entries
        for c in entry.items
        if c.verdict in ("lost", "altered", "unproved")
    }
    assert changed == left


def _expanded(text: str) -> list[str]:
    """Every record with what it refers to written out in its place, by a reader of a few lines."""
    records = dict(re.findall(r"#(\d+)=(.*?);\n", text.replace(",\n", ","), re.DOTALL))

    def told(number: str, depth: int = 0) -> str:
        if depth > 5 or number not in records:
            return f"#{number}"
        return re.sub(r"#(\d+)", lambda m: told(m[1], depth + 1), records[number])

    return [told(number) for number in records]


@pytest.mark.parametrize(
    "pattern",
    [
        r"APPLIED_IDENTIFICATION_ASSIGNMENT\('OLD-1',IDENTIFICATION_ROLE\('alias',''\),\(PRODUCT\('P-2'",
        r"APPLIED_IDENTIFICATION_ASSIGNMENT\('OLD-2',.*an older one.*FORMATION",
        r"APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT\('S-9',.*EXTERNAL_SOURCE\(IDENTIFIER\('supplier'\)\)",
        r"NAME_ATTRIBUTE\('Platte 2',PRODUCT_DEFINITION\(",
        r"PRODUCT_RELATED_PRODUCT_CATEGORY\('raw','of bar',\(PRODUCT\('P-2'",
        r"APPLIED_CLASSIFICATION_ASSIGNMENT\(CLASS\('bearing'",
        r"APPLIED_GROUP_ASSIGNMENT\(GROUP\('cast'",
        r"APPLIED_DOCUMENT_REFERENCE\(DOCUMENT\('D-1','Sheet','',DOCUMENT_TYPE\('drawing'\)\)",
        r"PERSON_AND_ORGANIZATION\(PERSON\('7','Doe','Jo',\$,\$,\$\),ORGANIZATION\('o','Works',''\)\),"
        r"PERSON_AND_ORGANIZATION_ROLE\('creator'\)",
        r"APPLIED_ORGANIZATION_ASSIGNMENT\(ORGANIZATION\('o','Works',''\),ORGANIZATION_ROLE\('owner'\)",
        r"APPLIED_DATE_ASSIGNMENT\(CALENDAR_DATE\(2020,1,2\),DATE_ROLE\('created'\)",
        r"LOCAL_TIME\(3,4,5\.,COORDINATED_UNIVERSAL_TIME_OFFSET\(0,\$,\.AHEAD\.\)\)",
        r"APPLIED_APPROVAL_ASSIGNMENT\(APPROVAL\(APPROVAL_STATUS\('approved'\),'release'\)",
        r"SECURITY_CLASSIFICATION\('secret','why',SECURITY_CLASSIFICATION_LEVEL\('level'\)\)",
        r"CERTIFICATION\('3\.1','heat',CERTIFICATION_TYPE\('mill'\)\)",
        r"APPLIED_EFFECTIVITY_ASSIGNMENT\(SERIAL_NUMBERED_EFFECTIVITY\('e','100','200'\)",
        r"^PRODUCT_DEFINITION\('D7','as cast',PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE\('A',"
        r"'wider',PRODUCT\('P-2'.*\.BOUGHT\.\)",
        r"NEXT_ASSEMBLY_USAGE_OCCURRENCE\('N-7','pin left','the left one',.*'R1'\)",
        r"MEASURE_REPRESENTATION_ITEM\('travel',LENGTH_MEASURE\(2\.5\),\(CONVERSION_BASED_UNIT\('INCH'",
        r"MEASURE_REPRESENTATION_ITEM\('load',FORCE_MEASURE\(3\.\),\(FORCE_UNIT\(\).*KILO.*NEWTON",
        r"VALUE_REPRESENTATION_ITEM\('share',RATIO_MEASURE\(0\.5\)\)",
        r"GEOMETRIC_ITEM_SPECIFIC_USAGE\('','',SHAPE_ASPECT\(.*ADVANCED_FACE\('bore'",
        r"INVISIBILITY\(\(.*STYLED_ITEM\('color',.*MANIFOLD_SOLID_BREP\('Platte'",
        r"INVISIBILITY\(\(.*PRESENTATION_LAYER_ASSIGNMENT\('B'",
        r"PRESENTATION_LAYER_ASSIGNMENT\('A','first',\(MANIFOLD_SOLID_BREP\('Platte'",
        r"PRESENTATION_LAYER_ASSIGNMENT\('F','',\(ADVANCED_FACE\(",
        r"CONSTRUCTIVE_GEOMETRY_REPRESENTATION\('[^']*',\(AXIS2_PLACEMENT_3D\('CS'.*AXIS1_PLACEMENT\('A'.*"
        r"PLANE\('PL'.*CARTESIAN_POINT\('PT'",
        r"STYLED_ITEM\('color',\(PRESENTATION_STYLE_ASSIGNMENT\(\(CURVE_STYLE\('',.*COLOUR_RGB\('',1\.,0\.,0\.\)"
        r".*EDGE_CURVE\(",
        r"SURFACE_STYLE_USAGE\(\.POSITIVE\..*SURFACE_STYLE_USAGE\(\.NEGATIVE\.",
        r"REFLECTANCE_AMBIENT_DIFFUSE_SPECULAR\(0\.1,0\.7,0\.5,10\.,COLOUR_RGB\('',1\.,1\.,1\.\)\)",
        r"OVER_RIDING_STYLED_ITEM\('overriding color',\(PRESENTATION_STYLE_BY_CONTEXT\(.*ADVANCED_FACE\(",
        r"PERSON_AND_ORGANIZATION_ROLE\('classification_officer'\),\(SECURITY_CLASSIFICATION\('secret'",
        r"DATED_EFFECTIVITY\('d',CALENDAR_DATE\(2022,5,6\),CALENDAR_DATE\(2021,3,4\)\)",
        r"CALENDAR_DATE\(2,1\) DATE\(2020\) DATE_REPRESENTATION_ITEM\(\) REPRESENTATION_ITEM\('made on'\)",
        r"'Young modulus',PRESSURE_MEASURE\(210\.\),\(NAMED_UNIT\(\*\) PRESSURE_UNIT\(\).*GIGA.*PASCAL",
    ],
)
def test_ap242_says_it_in_the_standards_own_records(pattern, sent) -> None:
    told = _expanded(sent["step-ap242"][0].read_text("ascii"))
    assert any(re.search(pattern, each) for each in told)


@pytest.mark.parametrize(
    "pattern",
    [
        r"^CC_DESIGN_APPROVAL\(APPROVAL\(APPROVAL_STATUS\('approved'\)",
        r"^CC_DESIGN_PERSON_AND_ORGANIZATION_ASSIGNMENT\(.*'Doe'.*'creator'",
        r"^CC_DESIGN_SECURITY_CLASSIFICATION\(SECURITY_CLASSIFICATION\('secret'",
        r"^CC_DESIGN_SPECIFICATION_REFERENCE\(DOCUMENT\('D-1'",
        r"^CC_DESIGN_CERTIFICATION\(CERTIFICATION\('3\.1'",
        r"^CC_DESIGN_CONTRACT\(CONTRACT\('c'",
    ],
)
def test_ap203_says_it_in_records_of_its_own(pattern, sent) -> None:
    told = _expanded(sent["step-ap203"][0].read_text("ascii"))
    assert any(re.search(pattern, each) for each in told)


def _stock(path: Path) -> TDocStd_Document:
    storage = TCollection_ExtendedString("BinXCAF")
    document = TDocStd_Document(storage)
    XCAFApp_Application.GetApplication_s().NewDocument(storage, document)
    reader = STEPCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetLayerMode(True)
    assert reader.ReadFile(str(path)) == IFSelect_ReturnStatus.IFSelect_RetDone
    assert reader.Transfer(document)
    return document


@pytest.mark.parametrize("kind", ["step-ap242", "step-ap214"])
def test_the_kernels_stock_reader_finds_layers_and_what_is_hidden(kind, sent) -> None:
    document = _stock(sent[kind][0])
    layers = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
    names = LabelSequence()
    layers.GetLayerLabels(names)
    found = set()
    for place in range(1, names.Length() + 1):
        text = TCollection_ExtendedString()
        layers.GetLayer(names.Value(place), text)
        found.add(text.ToExtString())
    assert found == {"A", "B", "C", "F"}
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    every = LabelSequence()
    shapes.GetShapes(every)
    unseen = 0
    for place in range(1, every.Length() + 1):
        label: TDF_Label = every.Value(place)
        parts = LabelSequence()
        XCAFDoc_ShapeTool.GetComponents_s(label, parts, False)
        below = [parts.Value(i) for i in range(1, parts.Length() + 1)]
        unseen += sum(not XCAFDoc_ColorTool.IsVisible_s(each) for each in (label, *below))
    assert unseen >= 1
