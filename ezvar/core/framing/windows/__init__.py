"""Windows: their geometry, the paths between keyframes, what room they have."""
