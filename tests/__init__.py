"""Tests: of each part by itself, of the server, and of the screens."""

import os

# Two processes of tests keep two cores busy: more threads would only wait for each other. Said
# before anything is loaded that asks for it, and heard by whatever a test begins.
for _counted in ("OMP", "OPENBLAS", "NUMBA"):
    os.environ.setdefault(f"{_counted}_NUM_THREADS", "1")
os.environ.setdefault("OPENCV_FOR_THREADS_NUM", "1")
