"""What goes to the customer: the paper, frozen when issued."""
