"""Routes of registration windows."""
