"""A college's tables, taken over from an exchange folder and written out as one."""
