"""Routes of the account, payments and the cashier."""
