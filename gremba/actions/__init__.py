"""What people do, one file each. An action owns its transaction."""
