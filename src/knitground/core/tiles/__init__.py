"""What a tile is: its identity, its orientation, and what the artist says of it."""
