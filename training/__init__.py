"""How the network that ships with Nebrel was made: pictures that are made up, and training."""
