"""Statements, payments, due dates, drops for nonpayment, the cashier."""
