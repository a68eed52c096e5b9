"""Routes of imports and exports."""
