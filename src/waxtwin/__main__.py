"""`python -m waxtwin` is the command line."""

from waxtwin.cli import main

main()
