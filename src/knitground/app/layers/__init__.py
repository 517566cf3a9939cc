"""The layers of the ground at hand, in a column of small pictures."""
