"""``python -m botin``."""

from botin.main import main

main()
