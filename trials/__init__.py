"""The running place tried as bad luck and as an enemy would: ./run chaos, ./run fuzz."""
