"""Imports and exports a college as an exchange folder."""
