"""The Talk room: a talk-through in scenes, and the film of it."""
