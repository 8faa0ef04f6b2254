"""`python -m nebrel` is the `nebrel` command."""

from nebrel.cli import main

raise SystemExit(main())
