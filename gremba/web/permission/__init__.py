"""Routes of requests for permission."""
