"""Finding sections; setting up a term, its policies and its sections."""
