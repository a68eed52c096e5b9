"""Whether a term is ready to be opened: a check list, with what is at fault in each line of it."""
