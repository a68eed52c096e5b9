"""Files of the exchange folder: reads a folder, an archive or a workbook, and writes one."""
