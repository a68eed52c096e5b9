"""Finds sections in memory: filters, words, and what fits a schedule.

Sections stand in one order, and a set of them is an integer whose bit *k* is the *k*-th section:
so a filter is one ``&`` and a count beside a filter's value one ``bit_count``.
"""
