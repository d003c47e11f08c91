"""Names within a library's folder, and words that its rows carry."""

DATABASE, CLIPS, BACKUPS, VOICES, SMALL = "library.sqlite", "clips", "backups", "voices", "small"
FILMS = "films"  # that workers made; a name begins with the keys of the throws that are shown
BLENDED = "blend_of"  # keys of the throws that a blend was made of
MADE_FROM, BLEND = "made_from", "blend"  # a sidecar says so, so that a blend stays known as one wherever it goes
