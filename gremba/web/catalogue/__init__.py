"""Routes of terms and sections."""
