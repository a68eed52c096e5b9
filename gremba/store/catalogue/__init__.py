"""Terms and sections as kept, read into memory and followed."""
