"""What a lock can be read from: movies, timelines in their formats, loose clips."""
