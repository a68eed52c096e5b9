"""A student's transcript, clearance and academic plan."""
