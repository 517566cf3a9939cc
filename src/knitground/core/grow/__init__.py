"""Growing: laying by chance, always from a seed, always to be seen before it is accepted."""
