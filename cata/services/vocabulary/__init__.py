"""Words that players use: takes by a word, words as people use them, and what a search by a word finds."""
