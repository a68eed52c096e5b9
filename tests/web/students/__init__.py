"""Tests of students and the offices about them."""
