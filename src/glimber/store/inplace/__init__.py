"""Changes set where they belong: in the files and settings that programs read."""
