"""A studio without hardware, in a process of its own: pictures from rendered light, spoken to as a device would be."""
