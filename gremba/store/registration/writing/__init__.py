"""Writing what decisions say, a batch at a time: few statements, however many students."""
