"""Tests of registration windows."""
