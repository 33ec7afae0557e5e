"""What must hold for a pump to live, a file a topic; each check says what to do when it fails."""
