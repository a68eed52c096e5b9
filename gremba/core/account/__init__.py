"""What a term costs, what is due when, and what becomes of seats that are not paid for."""
