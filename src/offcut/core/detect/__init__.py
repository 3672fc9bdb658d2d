"""Finding seams: measure (pictures to signals), judge (signals to seams with reasons)."""
