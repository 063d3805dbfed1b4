# ruff: noqa: E501
"""Kinds of content put into a STEP file as text, one each.

Source of the entities and the order of their attributes: ISO 10303-41 to -47, -55, -105 and the
application protocols 203, 214 and 242 (long forms), from memory. {pd} is a product definition, {pds} its
shape, {product} and {formation} of the same product, {rep} its shape representation, {context} that one's
context, {solid} its body, {face} a face of it, {edge} an edge curve, {usage} a component, {styled} the
style of the body, {mm} the length unit; N1 to N9 are numbers that are free.
"""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["CONTENTS", "Content"]


@dataclass(frozen=True)
class Content:
    """Records to add, and the types that must stand in the remainder by name; none where they are read."""

    name: str
    text: str
    remains: tuple[str, ...]


def _(name: str, text: str, *remains: str) -> Content:
    return Content(name, text, remains)


_STYLE = (
    "N2=COLOUR_RGB('',0.1,0.7,0.3);N3=CURVE_STYLE('',$,POSITIVE_LENGTH_MEASURE(0.1),N2);"
    "N4=PRESENTATION_STYLE_ASSIGNMENT((N3));"
)
_SURFACE = (
    "N2=COLOUR_RGB('',0.11,0.72,0.33);N3=FILL_AREA_STYLE_COLOUR('',N2);N4=FILL_AREA_STYLE('',(N3));"
    "N5=SURFACE_STYLE_FILL_AREA(N4);N6=SURFACE_SIDE_STYLE('',(N5));N7=SURFACE_STYLE_USAGE(.BOTH.,N6);"
    "N8=PRESENTATION_STYLE_ASSIGNMENT((N7));"
)
_POINT = "N1=CARTESIAN_POINT('',(1.,2.,3.));"
_AXIS = (
    _POINT + "N2=DIRECTION('',(0.,0.,1.));N3=DIRECTION('',(1.,0.,0.));N4=AXIS2_PLACEMENT_3D('CS',N1,N2,N3);"
)
_NOTE_LENGTH = "N2=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(2.5),{mm});"

CONTENTS = (
    # --- looks
    _("colour of an edge", _STYLE + "N1=STYLED_ITEM('',(N4),{edge});"),
    _("second colour of an edge", _STYLE + "N1=STYLED_ITEM('',(N4),{edge});N5=COLOUR_RGB('',0.9,0.1,0.1);"
      "N6=CURVE_STYLE('',$,POSITIVE_LENGTH_MEASURE(0.1),N5);N7=PRESENTATION_STYLE_ASSIGNMENT((N6));"
      "N8=STYLED_ITEM('',(N7),{edge});", "STYLED_ITEM"),
    _("colour of the back of a face", _SURFACE.replace("BOTH", "POSITIVE").replace("(N7)", "(N7,#900013)")
      + "#900010=FILL_AREA_STYLE_COLOUR('',N9);N9=COLOUR_RGB('',0.5,0.,0.);#900011=FILL_AREA_STYLE('',(#900010));"
      "#900012=SURFACE_SIDE_STYLE('',(#900014));#900014=SURFACE_STYLE_FILL_AREA(#900011);"
      "#900013=SURFACE_STYLE_USAGE(.NEGATIVE.,#900012);N1=OVER_RIDING_STYLED_ITEM('',(N8),{face},{styled});"),
    _("how a face throws light back", "N1=COLOUR_RGB('',0.11,0.72,0.33);N2=COLOUR_RGB('',1.,1.,1.);"
      "N3=SURFACE_STYLE_REFLECTANCE_AMBIENT_DIFFUSE_SPECULAR(0.2,0.8,0.5,10.,N2);"
      "N4=SURFACE_STYLE_RENDERING_WITH_PROPERTIES(.NORMAL_SHADING.,N1,(N3));N5=SURFACE_SIDE_STYLE('',(N4));"
      "N6=SURFACE_STYLE_USAGE(.BOTH.,N5);N7=PRESENTATION_STYLE_ASSIGNMENT((N6));"
      "N8=OVER_RIDING_STYLED_ITEM('',(N7),{face},{styled});"),
    _("colour of a face in one place", _SURFACE + "N9=SHAPE_REPRESENTATION('',(),{context});"
      "#900010=PRODUCT_DEFINITION_SHAPE('','',{usage});#900011=SHAPE_DEFINITION_REPRESENTATION(#900010,N9);"
      "#900012=PRESENTATION_STYLE_BY_CONTEXT((N7),N9);"
      "N1=OVER_RIDING_STYLED_ITEM('',(#900012),{face},{styled});", "PRESENTATION_STYLE_ASSIGNMENT"),
    _("colour of a point", _POINT + "N2=COLOUR_RGB('',1.,0.,0.);N3=POINT_STYLE('',PRE_DEFINED_MARKER('dot'),"
      "POSITIVE_LENGTH_MEASURE(1.),N2);N4=PRESENTATION_STYLE_ASSIGNMENT((N3));N5=STYLED_ITEM('',(N4),N1);",
      "STYLED_ITEM", "POINT_STYLE"),
    _("colour of a representation", _SURFACE + "N1=STYLED_ITEM('',(N8),{rep});", "STYLED_ITEM"),
    _("second style of a body that is not shown", _SURFACE + "N1=STYLED_ITEM('',(N8),{solid});", "STYLED_ITEM"),
    _("hidden body", "N1=INVISIBILITY(({styled}));"),
    _("hidden item that is none", "N1=INVISIBILITY(({face}));", "INVISIBILITY"),
    _("hidden layer", "N1=PRESENTATION_LAYER_ASSIGNMENT('X','',({face}));N2=INVISIBILITY((N1));"),
    _("layer of a face", "N1=PRESENTATION_LAYER_ASSIGNMENT('FACES','of the top',({face}));"),
    _("layer of a component", "N1=PRESENTATION_LAYER_ASSIGNMENT('PARTS','',({usage}));"),
    _("light", "N1=COLOUR_RGB('',1.,1.,1.);N2=LIGHT_SOURCE_AMBIENT('sun',N1);", "LIGHT_SOURCE_AMBIENT"),
    _("colour nothing uses", "N1=COLOUR_RGB('spare',1.,1.,0.);", "COLOUR_RGB"),
    # --- views and annotations
    _("camera", _AXIS + "N5=VIEW_VOLUME(.PARALLEL.,N1,1.,1.,.F.,1.,.F.,.F.,N6);N6=PLANAR_BOX('',1.,1.,N4);"
      "N7=CAMERA_MODEL_D3('front',N4,N5);", "CAMERA_MODEL_D3", "VIEW_VOLUME"),
    _("view with a draughting model", "N1=DRAUGHTING_MODEL('views',({rep}),{context});", "DRAUGHTING_MODEL"),
    _("size", "N1=SHAPE_ASPECT('hole','',{pds},.T.);N2=DIMENSIONAL_SIZE(N1,'diameter');",
      "DIMENSIONAL_SIZE", "SHAPE_ASPECT"),
    _("location", "N1=SHAPE_ASPECT('a','',{pds},.T.);N2=SHAPE_ASPECT('b','',{pds},.T.);"
      "N3=DIMENSIONAL_LOCATION('linear distance','',N1,N2);", "DIMENSIONAL_LOCATION"),
    _("flatness", "N1=SHAPE_ASPECT('top','',{pds},.T.);" + _NOTE_LENGTH
      + "N3=FLATNESS_TOLERANCE('flat','',N2,N1);", "FLATNESS_TOLERANCE"),
    _("position with a datum", "N1=DATUM('','',{pds},.F.,'A');" + _NOTE_LENGTH
      + "N3=(GEOMETRIC_TOLERANCE('p','',N2,N1)GEOMETRIC_TOLERANCE_WITH_DATUM_REFERENCE((N4))"
      "POSITION_TOLERANCE());N4=DATUM_REFERENCE(1,N1);",
      "DATUM", "GEOMETRIC_TOLERANCE+GEOMETRIC_TOLERANCE_WITH_DATUM_REFERENCE+POSITION_TOLERANCE"),
    _("plus minus tolerance", "N1=SHAPE_ASPECT('h','',{pds},.T.);N2=DIMENSIONAL_SIZE(N1,'d');"
      "N3=PLUS_MINUS_TOLERANCE(N4,N2);N4=LIMITS_AND_FITS('H','','7','');",
      "PLUS_MINUS_TOLERANCE", "LIMITS_AND_FITS"),
    _("text note", _AXIS + "N5=TEXT_LITERAL_WITH_EXTENT('note','deburr',N4,'left',.RIGHT.,N6,N7);"
      "N6=DRAUGHTING_PRE_DEFINED_TEXT_FONT('default');N7=PLANAR_EXTENT('',1.,1.);", "TEXT_LITERAL_WITH_EXTENT"),
    _("annotation in a plane", _POINT + "N2=POLYLINE('',(N1,N3));N3=CARTESIAN_POINT('',(9.,9.,9.));"
      "N4=GEOMETRIC_CURVE_SET('note',(N2));N5=DRAUGHTING_ANNOTATION_OCCURRENCE('note',(),N4);",
      "DRAUGHTING_ANNOTATION_OCCURRENCE"),
    _("callout", "N1=DRAUGHTING_CALLOUT('c',({styled}));", "DRAUGHTING_CALLOUT"),
    _("surface texture", "N1=SHAPE_ASPECT('f','',{pds},.T.);N2=SURFACE_TEXTURE_REPRESENTATION('Ra',(N3),{context});"
      "N3=DESCRIPTIVE_REPRESENTATION_ITEM('Ra','0.8');", "SURFACE_TEXTURE_REPRESENTATION"),
    _("feature by aspect", "N1=INSTANCED_FEATURE('slot','',{pds},.T.);", "INSTANCED_FEATURE"),
    # --- people and administration
    _("approval", "N1=APPROVAL_STATUS('approved');N2=APPROVAL(N1,'release');"
      "N3=APPLIED_APPROVAL_ASSIGNMENT(N2,({pd}));"),
    _("approval with its approver", "N1=APPROVAL_STATUS('approved');N2=APPROVAL(N1,'release');"
      "N3=CC_DESIGN_APPROVAL(N2,({formation}));N4=PERSON('7','Doe','Jo',$,$,$);N5=ORGANIZATION('o','Works','');"
      "N6=PERSON_AND_ORGANIZATION(N4,N5);N7=APPROVAL_ROLE('approver');N8=APPROVAL_PERSON_ORGANIZATION(N6,N2,N7);"
      "#900011=CALENDAR_DATE(1999,1,1);#900012=COORDINATED_UNIVERSAL_TIME_OFFSET(0,$,.AHEAD.);"
      "#900013=LOCAL_TIME(1,2,3.,#900012);#900014=DATE_AND_TIME(#900011,#900013);#900015=APPROVAL_DATE_TIME(#900014,N2);"),
    _("approval of nothing", "N1=APPROVAL_STATUS('approved');N2=APPROVAL(N1,'release');", "APPROVAL"),
    _("person", "N1=PERSON('7','Doe','Jo',$,$,$);N2=ORGANIZATION('o','Works','');"
      "N3=PERSON_AND_ORGANIZATION(N1,N2);N4=PERSON_AND_ORGANIZATION_ROLE('creator');"
      "N5=APPLIED_PERSON_AND_ORGANIZATION_ASSIGNMENT(N3,N4,({pd}));"),
    _("organisation", "N1=ORGANIZATION('o','Works','');N2=ORGANIZATION_ROLE('owner');"
      "N3=APPLIED_ORGANIZATION_ASSIGNMENT(N1,N2,({product}));"),
    _("address", "N1=PERSON('7','Doe','Jo',$,$,$);N2=PERSONAL_ADDRESS($,'Lock Lane',$,$,$,$,$,$,$,$,$,$,(N1),'home');",
      "PERSONAL_ADDRESS", "PERSON"),
    _("date", "N1=CALENDAR_DATE(2020,1,2);N2=DATE_ROLE('creation date');N3=APPLIED_DATE_ASSIGNMENT(N1,N2,({pd}));"),
    _("moment", "N1=CALENDAR_DATE(2020,1,2);N2=COORDINATED_UNIVERSAL_TIME_OFFSET(1,30,.AHEAD.);"
      "N3=LOCAL_TIME(12,30,15.5,N2);N4=DATE_AND_TIME(N1,N3);N5=DATE_TIME_ROLE('release');"
      "N6=APPLIED_DATE_AND_TIME_ASSIGNMENT(N4,N5,({formation}));"),
    _("security classification", "N1=SECURITY_CLASSIFICATION_LEVEL('secret');"
      "N2=SECURITY_CLASSIFICATION('c','why',N1);N3=APPLIED_SECURITY_CLASSIFICATION_ASSIGNMENT(N2,({formation}));"),
    _("who classified", "N1=SECURITY_CLASSIFICATION_LEVEL('secret');"
      "N2=SECURITY_CLASSIFICATION('c','why',N1);N3=APPLIED_SECURITY_CLASSIFICATION_ASSIGNMENT(N2,({formation}));"
      "N4=PERSON('7','Doe','Jo',$,$,$);N5=ORGANIZATION('o','Works','');N6=PERSON_AND_ORGANIZATION(N4,N5);"
      "N7=PERSON_AND_ORGANIZATION_ROLE('classification_officer');"
      "N8=CC_DESIGN_PERSON_AND_ORGANIZATION_ASSIGNMENT(N6,N7,(N2));"),
    _("certification", "N1=CERTIFICATION_TYPE('mill');N2=CERTIFICATION('3.1','heat',N1);"
      "N3=APPLIED_CERTIFICATION_ASSIGNMENT(N2,({product}));"),
    _("certification of nothing", "N1=CERTIFICATION_TYPE('mill');N2=CERTIFICATION('3.1','heat',N1);", "CERTIFICATION"),
    _("contract", "N1=CONTRACT_TYPE('frame');N2=CONTRACT('c1','purpose',N1);"
      "N3=APPLIED_CONTRACT_ASSIGNMENT(N2,({product}));"),
    _("work request", "N1=VERSIONED_ACTION_REQUEST('17','1','widen it','');", "VERSIONED_ACTION_REQUEST"),
    _("event", "N1=EVENT_OCCURRENCE('e','start','');", "EVENT_OCCURRENCE"),
    # --- documents, numbers, categories
    _("document", "N1=DOCUMENT_TYPE('drawing');N2=DOCUMENT('D-1','Sheet','',N1);"
      "N3=APPLIED_DOCUMENT_REFERENCE(N2,'',({pd}));"),
    _("document nothing refers to", "N1=DOCUMENT_TYPE('drawing');N2=DOCUMENT('D-2','Sheet','',N1);",
      "DOCUMENT", "DOCUMENT_TYPE"),
    _("alias number", "N1=IDENTIFICATION_ROLE('alias','');"
      "N2=APPLIED_IDENTIFICATION_ASSIGNMENT('OLD-4711',N1,({product}));"),
    _("supplier's number", "N1=EXTERNAL_SOURCE(IDENTIFIER('supplier'));N2=IDENTIFICATION_ROLE('order number','');"
      "N3=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('S-9',N2,N1,({product}));"),
    _("name attribute", "N1=NAME_ATTRIBUTE('second name',{pd});"),
    _("category", "N1=PRODUCT_RELATED_PRODUCT_CATEGORY('raw material','',({product}));"),
    _("classification", "N1=CLASS('bearing','');N2=CLASSIFICATION_ROLE('class','');"
      "N3=APPLIED_CLASSIFICATION_ASSIGNMENT(N1,N2,({product}));"),
    _("group", "N1=GROUP('cast parts','');N2=APPLIED_GROUP_ASSIGNMENT(N1,({pd}));"),
    _("make or buy", "N1=MAKE_FROM_USAGE_OPTION('1','from bar','',{pd},{pd},1,'',N2);" + _NOTE_LENGTH,
      "MAKE_FROM_USAGE_OPTION"),
    # --- structure
    _("alternate product", "N1=PRODUCT('ALT','Alt','',());N2=ALTERNATE_PRODUCT_RELATIONSHIP('a','',N1,{product},'');",
      "ALTERNATE_PRODUCT_RELATIONSHIP", "PRODUCT"),
    _("substitute component", "N1=ASSEMBLY_COMPONENT_USAGE_SUBSTITUTE('s','',{usage},{usage});",
      "ASSEMBLY_COMPONENT_USAGE_SUBSTITUTE"),
    _("revision without definition", "N1=PRODUCT_DEFINITION_FORMATION('Z','newest',{product});",
      "PRODUCT_DEFINITION_FORMATION"),
    _("succession of revisions", "N1=PRODUCT_DEFINITION_FORMATION_RELATIONSHIP('1','next','',{formation},{formation});",
      "PRODUCT_DEFINITION_FORMATION_RELATIONSHIP"),
    _("effectivity", "N1=SERIAL_NUMBERED_EFFECTIVITY('e','100',$);N2=APPLIED_EFFECTIVITY_ASSIGNMENT(N1,({pd}));"),
    _("effectivity by dates", "N1=DATED_EFFECTIVITY('e',$,N2);N2=CALENDAR_DATE(2020,1,2);"
      "N3=APPLIED_EFFECTIVITY_ASSIGNMENT(N1,({pd}));"),
    _("effectivity of nothing", "N1=DATED_EFFECTIVITY('e',$,N2);N2=CALENDAR_DATE(2020,1,2);", "DATED_EFFECTIVITY"),
    _("configuration", "N1=PRODUCT_CONCEPT('c','Gate','',$);N2=CONFIGURATION_ITEM('i','Gate','',N1,'');",
      "CONFIGURATION_ITEM", "PRODUCT_CONCEPT"),
    _("specified higher usage", "N1=SPECIFIED_HIGHER_USAGE_OCCURRENCE('1','x','',{pd},{pd},$,{usage},{usage});",
      "SPECIFIED_HIGHER_USAGE_OCCURRENCE"),
    # --- properties
    _("property of a face", "N1=SHAPE_ASPECT('f','',{pds},.T.);N2=PROPERTY_DEFINITION('hardness','',N1);"
      "N3=REPRESENTATION('',(N4),{context});N4=DESCRIPTIVE_REPRESENTATION_ITEM('hardness','58 HRC');"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);N6=GEOMETRIC_ITEM_SPECIFIC_USAGE('','',N1,{rep},{face});"),
    _("property of a body", "N1=SHAPE_ASPECT('f','',{pds},.T.);N2=PROPERTY_DEFINITION('mass','',N1);"
      "N3=REPRESENTATION('',(N4),{context});N4=MEASURE_REPRESENTATION_ITEM('mass',MASS_MEASURE(2.5),N7);"
      "N7=(MASS_UNIT()NAMED_UNIT(*)SI_UNIT(.KILO.,.GRAM.));"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);N6=GEOMETRIC_ITEM_SPECIFIC_USAGE('','',N1,{rep},{solid});"),
    _("property of an aspect", "N1=SHAPE_ASPECT('f','',{pds},.T.);N2=PROPERTY_DEFINITION('hardness','',N1);"
      "N3=REPRESENTATION('',(N4),{context});N4=DESCRIPTIVE_REPRESENTATION_ITEM('hardness','58 HRC');"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);", "DESCRIPTIVE_REPRESENTATION_ITEM", "PROPERTY_DEFINITION"),
    _("property that is a date", "N2=PROPERTY_DEFINITION('made','',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=(CALENDAR_DATE(2,1)DATE(2020)DATE_REPRESENTATION_ITEM()REPRESENTATION_ITEM('made'));"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("property of a kind that is not read", "N2=PROPERTY_DEFINITION('made','',{pd});"
      "N3=REPRESENTATION('',(N4),{context});N4=DATE_REPRESENTATION_ITEM('made');"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);", "DATE_REPRESENTATION_ITEM"),
    _("property without a value", "N1=PROPERTY_DEFINITION('grade','',{pd});", "PROPERTY_DEFINITION"),
    _("property with a unit", "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});"
      "N3=REPRESENTATION('',(N4),{context});N4=MEASURE_REPRESENTATION_ITEM('travel',LENGTH_MEASURE(2.5),{mm});"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("ratio", "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=VALUE_REPRESENTATION_ITEM('share',RATIO_MEASURE(0.25));N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("measure in parts", "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=(LENGTH_MEASURE_WITH_UNIT()MEASURE_REPRESENTATION_ITEM()MEASURE_WITH_UNIT(LENGTH_MEASURE(2.5),{mm})"
      "REPRESENTATION_ITEM('travel'));N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("property with a derived unit", "N1=(MASS_UNIT()NAMED_UNIT(*)SI_UNIT(.KILO.,.GRAM.));"
      "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=MEASURE_REPRESENTATION_ITEM('weight per length',POSITIVE_RATIO_MEASURE(7.5),N6);"
      "N6=DERIVED_UNIT((N7,N8));N7=DERIVED_UNIT_ELEMENT(N1,1.);N8=DERIVED_UNIT_ELEMENT({mm},-1.);"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("property with a unit without a symbol", "N1=CONTEXT_DEPENDENT_UNIT(N7,'BOX');N7=DIMENSIONAL_EXPONENTS(0.,0.,0.,0.,0.,0.,0.);"
      "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=MEASURE_REPRESENTATION_ITEM('packed',NUMERIC_MEASURE(12.),N1);"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);", "measure_with_unit.unit_component"),
    _("further property of a material", "N1=(NAMED_UNIT(*)PRESSURE_UNIT()SI_UNIT(.GIGA.,.PASCAL.));"
      "N2=PROPERTY_DEFINITION('material property','Young modulus',{pd});N3=REPRESENTATION('',(N4),{context});"
      "N4=MEASURE_REPRESENTATION_ITEM('Young modulus',PRESSURE_MEASURE(210.),N1);"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("text property", "N2=PROPERTY_DEFINITION('user defined attribute','',{pd});"
      "N3=REPRESENTATION('',(N4),{context});N4=DESCRIPTIVE_REPRESENTATION_ITEM('grade','fine');"
      "N5=PROPERTY_DEFINITION_REPRESENTATION(N2,N3);"),
    _("general property", "N1=GENERAL_PROPERTY('g','mass','');", "GENERAL_PROPERTY"),
    _("material property of the kernel's own", "N1=MATERIAL_DESIGNATION('Steel S235',({pd}));"),
    # --- shape
    _("second solid not listed", "N1=MANIFOLD_SOLID_BREP('spare',N2);N2=CLOSED_SHELL('',());", "MANIFOLD_SOLID_BREP"),
    _("coordinate system", _AXIS + "N5=SHAPE_REPRESENTATION('systems',(N4),{context});"
      "N6=SHAPE_REPRESENTATION_RELATIONSHIP('','',{rep},N5);"),
    _("coordinate system of nothing", _AXIS, "AXIS2_PLACEMENT_3D"),
    _("axis", _POINT + "N2=DIRECTION('',(0.,0.,1.));N3=AXIS1_PLACEMENT('A',N1,N2);", "AXIS1_PLACEMENT"),
    _("plane nothing uses", _AXIS + "N5=PLANE('datum',N4);", "PLANE"),
    _("construction", _AXIS + "N5=PLANE('datum',N4);N6=CONSTRUCTIVE_GEOMETRY_REPRESENTATION('c',(N5,N9),{context});"
      "N7=CONSTRUCTIVE_GEOMETRY_REPRESENTATION_RELATIONSHIP('','',{rep},N6);N9=AXIS1_PLACEMENT('A',N1,N2);"),
    _("block", _AXIS + "N5=BLOCK('b',N4,1.,2.,3.);N6=CSG_SOLID('csg',N5);", "CSG_SOLID", "BLOCK"),
    _("difference", _AXIS + "N5=BLOCK('b',N4,1.,2.,3.);N6=SPHERE('s',1.,N1);"
      "N7=BOOLEAN_RESULT('d',.DIFFERENCE.,N5,N6);N8=CSG_SOLID('csg',N7);", "BOOLEAN_RESULT", "SPHERE"),
    _("extruded solid", "N1=DIRECTION('',(0.,0.,1.));N2=EXTRUDED_AREA_SOLID('e',$,N1,5.);", "EXTRUDED_AREA_SOLID"),
    _("tessellation beside", "N1=COORDINATES_LIST('',3,((0.,0.,0.),(1.,0.,0.),(0.,1.,0.)));"
      "N2=TRIANGULATED_FACE('',N1,3,((0.,0.,1.)),$,(1,2,3),((1,2,3)));N3=TESSELLATED_SOLID('t',(N2),{solid});",
      "TESSELLATED_SOLID", "COORDINATES_LIST", "TRIANGULATED_FACE"),
    _("loose curve", _POINT + "N2=DIRECTION('',(1.,0.,0.));N3=VECTOR('',N2,1.);N4=LINE('',N1,N3);", "LINE"),
    # --- motion and other kinds
    _("kinematics", "N1=KINEMATIC_JOINT('j',N2,N3);N2=KINEMATIC_LINK('a');N3=KINEMATIC_LINK('b');"
      "N4=MECHANISM('m');", "KINEMATIC_JOINT", "KINEMATIC_LINK", "MECHANISM"),
    _("process plan", "N1=PROCESS_OPERATION('mill','',{pd});", "PROCESS_OPERATION"),
    _("composite layup", "N1=COMPOSITE_SHEET_REPRESENTATION('ply',(),{context});",
      "COMPOSITE_SHEET_REPRESENTATION"),
    _("unheard of", "N1=NEVER_HEARD_OF('x',{pd});", "NEVER_HEARD_OF"),
    _("unheard of in parts", "N1=(NEVER_HEARD_A('x')NEVER_HEARD_B({solid}));", "NEVER_HEARD_A+NEVER_HEARD_B"),
    _("variable", "N1=MODEL_PARAMETER('length','',25.);", "MODEL_PARAMETER"),
    _("requirement", "N1=REQUIREMENT_ASSIGNED_OBJECT('r','',{pd});", "REQUIREMENT_ASSIGNED_OBJECT"),
)  # fmt: skip
