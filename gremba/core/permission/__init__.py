"""Requests to people: what only somebody can say yes to, who that is, and what a yes may do.

Source of who decides: the college's policy. That an instructor may let in more than the limit, but not more
than the room holds, and that a late add needs the instructor's word, is common practice.
"""
