"""What belongs to the computer that the program runs on: memory available, pages, processors, sensors, processes."""
