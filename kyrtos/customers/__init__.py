"""Who the shop works for, and where: customers, their sites, what was photographed there."""
