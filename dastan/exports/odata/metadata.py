"""What the entities are, for programs: CSDL as XML (OData 4.01)."""

from __future__ import annotations

from collections.abc import Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

from dastan.exports.odata.entities import ROW, Property

NAMESPACE = "Dastan"
_EDMX = "http://docs.oasis-open.org/odata/ns/edmx"
_EDM = "http://docs.oasis-open.org/odata/ns/edm"


def metadata_of(name: str, properties: Sequence[Property], description: str, aggregates: Sequence[str] = ()) -> bytes:
    """The metadata document of one entity set of that name. Args: `aggregates` are properties that are worked out anew
    for each group that is asked for."""
    root = Element("edmx:Edmx", {"xmlns:edmx": _EDMX, "Version": "4.01"})
    schema = SubElement(SubElement(root, "edmx:DataServices"), "Schema", {"xmlns": _EDM, "Namespace": NAMESPACE})
    entity = SubElement(schema, "EntityType", {"Name": name.removesuffix("s")})
    SubElement(SubElement(entity, "Key"), "PropertyRef", {"Name": ROW})
    for each in properties:
        told = {"Name": each.name, "Type": each.type}
        if each.name == ROW:
            told["Nullable"] = "false"
        if each.type == "Edm.Decimal":
            told["Scale"] = str(each.scale)
        own = SubElement(entity, "Property", told)
        if each.caption and each.caption != each.name:
            SubElement(own, "Annotation", {"Term": "Org.OData.Core.V1.Description", "String": _plain(each.caption)})
    container = SubElement(schema, "EntityContainer", {"Name": "Container"})
    found = SubElement(container, "EntitySet", {"Name": name, "EntityType": f"{NAMESPACE}.{name.removesuffix('s')}"})
    SubElement(found, "Annotation", {"Term": "Org.OData.Core.V1.Description", "String": _plain(description)})
    for aggregate in aggregates:
        own_told = {"Term": "Org.OData.Aggregation.V1.CustomAggregate", "Qualifier": aggregate, "String": "Edm.Double"}
        SubElement(found, "Annotation", own_told)
    return b'<?xml version="1.0" encoding="utf-8"?>\n' + bytes(tostring(root, encoding="utf-8"))


def _plain(text: str) -> str:
    """A text without the characters that XML does not take."""
    return "".join(each for each in text if each.isprintable())
