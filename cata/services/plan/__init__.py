"""The plan: chains, house rules, tests, the order of takes."""
