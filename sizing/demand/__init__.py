"""Ways to the flow: one file each, plain SI numbers in, a frozen result out."""
