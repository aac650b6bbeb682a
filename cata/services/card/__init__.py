"""Decision cards: a choice made into one page, kept, and held against what is known today."""
