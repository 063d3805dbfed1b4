"""Units of STEP files, written by hand as senders write them.

Expected sizes: SI brochure (prefixes); NIST SP 811 appendix B (inch, foot, yard, mile, mil, pound,
ounce: exact by definition). Record shapes: ISO 10303-41.
"""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.units import (
    angle_unit,
    context_unit,
    length_units,
    measure_value,
    unit_factor,
)

SI = "( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT({prefix},.METRE.) )"
CONVERTED = "( CONVERSION_BASED_UNIT('{name}',#20) LENGTH_UNIT() NAMED_UNIT(#30) )"
MASS = "( MASS_UNIT() NAMED_UNIT(*) SI_UNIT({prefix},.GRAM.) )"


def records(tmp_path: Path, *lines: str) -> Records:
    body = "\n".join(f"{line};" for line in lines)
    path = tmp_path / "units.stp"
    path.write_text(f"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n{body}\nENDSEC;\nEND-ISO-10303-21;\n")
    return Records(path)


@pytest.mark.parametrize(
    ("prefix", "size"),
    [("$", 1000.0), (".MILLI.", 1.0), (".CENTI.", 10.0), (".DECI.", 100.0), (".MICRO.", 1e-3), (".NANO.",
     1e-6),
     (".KILO.", 1e6), (".MEGA.", 1e9), (".HECTO.", 1e5), (".DECA.", 1e4)],
)  # fmt: skip
def test_si_lengths(prefix, size, tmp_path) -> None:
    assert unit_factor(records(tmp_path, f"#10={SI.format(prefix=prefix)}"), 10) == pytest.approx(size)


@pytest.mark.parametrize(
    ("name", "metres"),
    [("INCH", 0.0254), ("FOOT", 0.3048), ("YARD", 0.9144), ("MILE", 1609.344), ("MIL", 2.54e-5)],
)
@pytest.mark.parametrize("base", ["$", ".MILLI."])
def test_units_by_conversion_from_metre_or_millimetre(name, metres, base, tmp_path) -> None:
    number = metres if base == "$" else metres * 1000
    found = records(
        tmp_path, f"#10={CONVERTED.format(name=name)}",
        f"#20=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE({number!r}),#40)",
        "#30=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.)", f"#40={SI.format(prefix=base)}",
    )  # fmt: skip
    assert unit_factor(found, 10) == pytest.approx(metres * 1000)


def test_a_conversion_of_a_conversion_and_one_in_a_ring(tmp_path) -> None:
    """A foot of twelve inches; and a unit that is given in itself, which has no size."""
    found = records(
        tmp_path, "#10=( CONVERSION_BASED_UNIT('FOOT',#11) LENGTH_UNIT() NAMED_UNIT(#30) )",
        "#11=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(12.),#12)",
        "#12=( CONVERSION_BASED_UNIT('INCH',#13) LENGTH_UNIT() NAMED_UNIT(#30) )",
        "#13=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#40)",
        f"#40={SI.format(prefix='.MILLI.')}", "#30=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.)",
        "#50=( CONVERSION_BASED_UNIT('RING',#51) LENGTH_UNIT() NAMED_UNIT(#30) )",
        "#51=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(2.),#50)",
    )  # fmt: skip
    assert unit_factor(found, 10) == pytest.approx(304.8)
    assert unit_factor(found, 50) is None and unit_factor(found, 999) is None


def test_derived_units_are_products_of_powers(tmp_path) -> None:
    """Gram by cubic centimetre, in kg/mm3: 1e-6; cubic metres: 1e9 mm3."""
    found = records(
        tmp_path, "#1=DERIVED_UNIT((#2,#3))", "#2=DERIVED_UNIT_ELEMENT(#4,1.)",
        "#3=DERIVED_UNIT_ELEMENT(#5,-3.)", f"#4={MASS.format(prefix='$')}",
        f"#5={SI.format(prefix='.CENTI.')}",
        "#6=DERIVED_UNIT((#7))", "#7=DERIVED_UNIT_ELEMENT(#8,3.)", f"#8={SI.format(prefix='$')}",
        "#9=DERIVED_UNIT((#10))", "#10=DERIVED_UNIT_ELEMENT(#99,1.)",
    )  # fmt: skip
    assert unit_factor(found, 1) == pytest.approx(1e-6)
    assert unit_factor(found, 6) == pytest.approx(1e9)
    assert unit_factor(found, 9) is None


CONTEXT = (
    "#{n}=( GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNIT_ASSIGNED_CONTEXT((#{length},#{angle}))"
    " REPRESENTATION_CONTEXT('','') )"
)
RADIAN = "( NAMED_UNIT(*) PLANE_ANGLE_UNIT() SI_UNIT($,.RADIAN.) )"


def test_the_units_of_contexts_are_counted(tmp_path) -> None:
    found = records(
        tmp_path, CONTEXT.format(n=1, length=40, angle=50), CONTEXT.format(n=2, length=40, angle=50),
        CONTEXT.format(n=3, length=10, angle=50), f"#40={SI.format(prefix='.MILLI.')}", f"#50={RADIAN}",
        f"#10={CONVERTED.format(name='INCH')}",
        "#20=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#40)",
        "#30=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.)",
    )  # fmt: skip
    counted = {unit.key: count for unit, count in length_units(found).items()}
    assert counted == {"mm": 2, "inch": 1}
    assert context_unit(found, 1) == 1.0 and context_unit(found, 3) == pytest.approx(25.4)
    assert context_unit(found, 40) is None and context_unit(found, 77) is None
    assert angle_unit(found) == "radian"


def test_degrees_are_told(tmp_path) -> None:
    found = records(
        tmp_path, CONTEXT.format(n=1, length=40, angle=50), f"#40={SI.format(prefix='.MILLI.')}",
        "#50=( CONVERSION_BASED_UNIT('DEGREE',#51) NAMED_UNIT(#53) PLANE_ANGLE_UNIT() )",
        "#51=PLANE_ANGLE_MEASURE_WITH_UNIT(PLANE_ANGLE_MEASURE(0.0174532925),#52)", f"#52={RADIAN}",
        "#53=DIMENSIONAL_EXPONENTS(0.,0.,0.,0.,0.,0.,0.)",
    )  # fmt: skip
    assert angle_unit(found) == "degree"
    assert unit_factor(found, 50) == pytest.approx(0.0174532925)


def test_numbers_inside_measures() -> None:
    from gondrel.core.formats.step.tokens import Typed

    assert measure_value(3) == 3.0 and measure_value(2.5) == 2.5
    assert measure_value(Typed("LENGTH_MEASURE", (7.0,))) == 7.0
    assert measure_value(True) is None and measure_value("12") is None
    assert measure_value(Typed("PAIR", (1.0, 2.0))) is None
