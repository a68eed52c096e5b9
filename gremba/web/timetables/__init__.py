"""Routes of timetables and their drafts."""
