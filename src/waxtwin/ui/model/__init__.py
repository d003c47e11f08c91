"""What the screens show, without Qt: the desk's state, wording and units."""
