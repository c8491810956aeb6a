"""Tables and queries of a PostgreSQL server, fetched as files."""
