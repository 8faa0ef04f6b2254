"""Model makers: services elsewhere that make a model of a picture, for credits.

`adapter` says what Nebrel has to know of one, `practice` is that of the practice service that
ships. A true service needs one file beside it, with such an adapter, and a line in `SERVICES` of
`clerk`.
"""
