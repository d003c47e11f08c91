"""Films of made-up, clothed people who throw, to judge what a clip alone can give. Never shipped with the program."""
