"""What a piece could become: each use with its needs, and one function that fits them."""
