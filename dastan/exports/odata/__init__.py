"""Answers as OData 4.01 (OASIS): an entity set that programs describe, filter, order and page through."""
