"""The desktop: rooms, the seam, stages and plots. No arithmetic on motion happens here."""
