"""What can be measured on a piece before it looks bad: stems, collisions."""
