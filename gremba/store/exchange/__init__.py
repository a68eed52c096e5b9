"""The exchange folder's tables in the database: staged, compared with what is kept, and merged into it."""
