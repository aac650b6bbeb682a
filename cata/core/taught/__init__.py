"""What a flight taught, in sentences: how contenders differ in a test, and over all of them. Plain Python, no numpy."""
