"""Changes to a job document, and what comes from outside: by the questions of its kind."""
