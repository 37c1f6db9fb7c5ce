"""What the program costs and how right it is, measured in one run: `./run bench`."""
