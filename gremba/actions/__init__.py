"""What people do. Each file is one action or a few that belong together; an action owns its transaction."""
