"""What holds water between the inflow and the pump."""
