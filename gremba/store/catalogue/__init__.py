"""Terms and sections: stored, loaded into memory and followed."""
