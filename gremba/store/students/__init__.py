"""People, holds, clearance and academic plans."""
