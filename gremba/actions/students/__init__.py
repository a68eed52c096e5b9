"""Advising, clearance, holds, and the registrar's actions on a student."""
