"""Documents as text: YAML and JSON in and out, JSON Schemas, and faults with their place in the file."""
