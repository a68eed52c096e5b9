"""How a decision is made, step by step; ``decision`` beside it begins."""
