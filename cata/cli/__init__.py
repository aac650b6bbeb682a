"""The command line: demo, serve, measure, match, import, gear, flight, device, backup and more."""

import gc
import os

from cata.threads import one_each

one_each(os.environ)

# Nothing of what is loaded now is ever garbage; looking for some doubles the time it takes.
gc.disable()
from cata.cli import choosing, data, device, flights, published, serving, shown, sound, together  # noqa: E402, F401
from cata.cli.common import app  # noqa: E402

gc.enable()
__all__ = ["app"]
