"""What worker processes do, wherever they are: no database, no request, no screen."""
