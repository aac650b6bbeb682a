"""The words players use of a sound: what they stand for, in notes and searches, and as people use them."""
