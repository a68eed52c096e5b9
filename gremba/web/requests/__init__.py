"""What every request passes before its route: limits, turns, compression, headers."""
