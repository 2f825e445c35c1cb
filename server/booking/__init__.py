"""Times of a member's that somebody without an account can book."""
