"""Pure computation: bytes and arrays in, bytes and arrays out. No database, no network, no paths."""
