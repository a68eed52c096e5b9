"""What is kept: tables, migrations, and the way from rows to situations and back."""
