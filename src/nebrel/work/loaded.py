"""What processes of lanes need, loaded: they are forked off one that imported this."""

from nebrel.work.run import ready

ready()
