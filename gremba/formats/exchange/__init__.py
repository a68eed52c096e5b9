"""The exchange folder as files: read from a folder, an archive or a workbook, and written as one."""
