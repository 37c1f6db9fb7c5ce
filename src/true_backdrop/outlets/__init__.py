"""Where pictures go: folder and archive, with a report."""
