"""What is planned (events of calendars, links of calls, whether the clerk goes), and how the time was used (airtime)."""
