"""What the registrar does so that students can register."""
