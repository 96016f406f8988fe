"""The Reckoner: its fields and lists in the reader's units, answers in words, and how reckonings are found."""
