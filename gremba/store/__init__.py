"""The database: tables, migrations, and reading and writing rows."""
