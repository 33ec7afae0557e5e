"""What comes after the sale, or beside it: takes no part in a sizing."""
