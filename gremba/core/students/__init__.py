"""What is known of a student: transcript, clearance, academic plan."""
