"""The ledger, payments, rates and drops for nonpayment."""
