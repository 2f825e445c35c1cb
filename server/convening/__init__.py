"""What is done with a meeting itself: who it is with, what it is called, who sees it, whether it is there. Its rows are `server.meetings`."""
