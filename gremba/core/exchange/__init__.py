"""The exchange folder: which tables it has, what stands in their cells, and what is wrong with one."""
