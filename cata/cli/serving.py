"""Serving the application: serve, demo, and the description of its API."""

from __future__ import annotations

import gc
import json
import socket
import sys
import tempfile
import webbrowser
from pathlib import Path
from typing import Annotated, Any

import typer

from cata.cli.common import DataDir, Port, app, open_data, settings_from
from cata.demo.seed import is_seeded, seed
from cata.errors import Conflict, Refused
from cata.services.background import runner_for
from cata.services.workspace import Workspace, open_workspace
from cata.settings import LOOPBACK
from cata.store.database import DATABASE

Open = Annotated[bool, typer.Option("--open", help="Open the browser as well.")]


COLLECT_AFTER = (20_000, 20, 100)
"""Objects more than before, young collections, collections of the middle: after so many the next larger one."""


def _listening(port: int) -> socket.socket:
    """A socket on a port of this machine; Refused where another program has it."""
    # Named TCP, so that answers go out at once: else the second half of one waits 40 ms for the first's receipt.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((LOOPBACK, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise Refused(
            f"port {port} is taken: is Cata running already? Choose another with --port", "port_taken", port=port
        ) from error
    return listener


def run_server(workspace: Workspace, port: int, *, show: bool = False) -> None:
    """Serve until asked to stop."""
    listener = _listening(port)
    gc.disable()  # see cata.cli
    import uvicorn  # slow to load, and only a server needs it

    from cata.api.app import create_app

    application = create_app(workspace)

    class Server(uvicorn.Server):
        def handle_exit(self, sig: int, frame: Any) -> None:
            # Open event streams end first, or the server would wait for them. The signal is not raised again
            # afterwards, as the parent would: being asked to stop is no failure.
            application.state.stopping.set()
            self.force_exit = self.should_exit
            self.should_exit = True

    server = Server(uvicorn.Config(application, log_level="warning", timeout_graceful_shutdown=2, access_log=False))
    address = f"http://{LOOPBACK}:{port}"
    typer.echo(f"Cata: {address}  (data in {workspace.data_dir}; Ctrl+C stops)")
    # What is loaded stays: looked through with every full collection it would hold up each answer for 0.1 s.
    gc.freeze()
    # Nearly all that an answer makes goes as soon as it is given; what is kept of a large library takes 0.2 s to look
    # through, which every fourth page would wait for as these numbers usually are.
    gc.set_threshold(*COLLECT_AFTER)
    gc.enable()
    if show:
        webbrowser.open(address)
    server.run(sockets=[listener])
    if not server.started:
        raise typer.Exit(1)


@app.command()
def serve(port: Port = None, data_dir: DataDir = None, show: Open = False) -> None:
    """Serve the application on 127.0.0.1."""
    settings = settings_from(port, data_dir)
    run_server(open_data(settings), settings.port, show=show)


@app.command()
def demo(port: Port = None, data_dir: DataDir = None, show: Open = False) -> None:
    """Serve the application with the demo, in a folder of its own; your own data is not touched."""
    settings = settings_from(port, data_dir)
    if data_dir is None:
        settings = settings.model_copy(update={"data_dir": settings.demo_dir})
    _listening(settings.port).close()
    own = (settings.data_dir.expanduser() / DATABASE).exists()
    workspace = open_data(settings)
    if not is_seeded(workspace):
        if own:
            workspace.close()
            raise Conflict(f"{settings.data_dir} holds data of your own; the demo keeps to another folder", "own_data")

        def tell(done: int, total: int) -> None:
            typer.echo(f"\rPlaying the demo takes: {done} of {total}", nl=done == total)

        seed(workspace, tell)
        typer.echo("Reading the takes ...")
        runner_for(workspace).run_until_idle(lasting=False)
    run_server(workspace, settings.port, show=show)


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description, from which the front end's client is made."""
    from cata.api.app import create_app  # slow to load

    with tempfile.TemporaryDirectory() as folder:
        workspace = open_workspace(Path(folder))
        schema = create_app(workspace).openapi()
        workspace.close()
    json.dump(schema, sys.stdout, indent=1, sort_keys=True)
