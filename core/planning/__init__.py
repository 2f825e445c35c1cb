"""What is planned, and how the time was used: airtime."""
