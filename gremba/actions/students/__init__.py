"""Advising, clearance, holds, and what the registrar does about a student."""
