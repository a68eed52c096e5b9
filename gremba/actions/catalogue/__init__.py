"""Finding sections; preparing a term, its policies and sections."""
