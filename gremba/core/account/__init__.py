"""Charges, due dates and drops for nonpayment."""
