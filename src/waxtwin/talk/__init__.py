"""The talk-through: drafting, cutting and editing scenes, their times, captions and voices. Knows no Qt."""
