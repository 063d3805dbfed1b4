"""A STEP file of some items of another, with nothing else in it."""

from __future__ import annotations

import re
from collections.abc import Sequence

from gondrel.core.formats.step.records import Records

__all__ = ["excerpt"]

_REFERENCE = re.compile(rb"#(\d+)")
_HEAD = b"""ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('','',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));
ENDSEC;
DATA;
"""
_PRODUCT = """#{a}=APPLICATION_CONTEXT('');
#{b}=PRODUCT_CONTEXT('',#{a},'mechanical');
#{c}=PRODUCT('','','',(#{b}));
#{d}=PRODUCT_DEFINITION_FORMATION('','',#{c});
#{e}=PRODUCT_DEFINITION_CONTEXT('part definition',#{a},'design');
#{f}=PRODUCT_DEFINITION('','',#{d},#{e});
#{g}=PRODUCT_DEFINITION_SHAPE('','',#{f});
#{h}=SHAPE_REPRESENTATION('',({items}),#{context});
#{i}=SHAPE_DEFINITION_REPRESENTATION(#{g},#{h});
ENDSEC;
END-ISO-10303-21;
"""


def excerpt(records: Records, items: Sequence[int], context: int) -> tuple[bytes, list[int]]:
    """A file of one product whose shape is some items, in a context of the same file.

    Returns: the file, and the numbers of its records in order, by which they are also called.
    """
    wanted: set[int] = set()
    stack = [*items, context]
    while stack:
        number = stack.pop()
        if number in wanted or not records.ordinal(number):
            continue
        wanted.add(number)
        stack += [int(n) for n in _REFERENCE.findall(records.text_of(number))]
    numbers = sorted(wanted)
    lines = [b"#%d=%s;\n" % (number, records.text_of(number)) for number in numbers]
    after = numbers[-1] + 1 if numbers else 1
    names = {letter: after + place for place, letter in enumerate("abcdefghi")}
    listed = ",".join(f"#{item}" for item in items)
    tail = _PRODUCT.format(**names, items=listed, context=context)
    return _HEAD + b"".join(lines) + tail.encode("ascii"), numbers
