"""Builds every timetable that works from the courses a student wants.

``question`` is what is asked; ``options`` turns wants into the ways each can be had, of which
``left_out`` has taken what the rules stop; ``instance`` says what goes with what, and counts;
``criteria`` and ``best`` put in order; ``key_sections`` and ``reasons`` explain; ``requested`` makes changes
of a timetable; ``answer`` is all of it.
"""
