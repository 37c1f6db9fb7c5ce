"""The demo scenario: Harrow & Tide, an invented maker of things for the coast house."""
