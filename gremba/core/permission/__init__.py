"""Permission requests: who may decide them, and what an approval allows.

Source of who decides: the college's policy. That an instructor may let in more than the limit, but not more
than the room holds, and that a late add needs the instructor's word, is common practice.
"""
