"""Terms, courses and sections, their requisites, and how they are searched, checked and copied."""
