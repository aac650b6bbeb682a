"""Serving the application: serve, demo, and the description of its API."""

from __future__ import annotations

import gc
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import typer

from cata.cli.common import DataDir, Port, app, open_data, settings_from
from cata.settings import LOOPBACK

if TYPE_CHECKING:
    from cata.services.workspace import Workspace


def run_server(workspace: Workspace, port: int) -> None:
    """Serve until asked to stop."""
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

    config = uvicorn.Config(
        application, host=LOOPBACK, port=port, log_level="warning", timeout_graceful_shutdown=5, access_log=False
    )
    server = Server(config)
    typer.echo(f"Cata: http://{LOOPBACK}:{port}  (data in {workspace.data_dir}; Ctrl+C stops)")
    # What is loaded stays: looked through with every full collection it would hold up each answer for 0.1 s.
    gc.freeze()
    gc.enable()
    server.run()
    if not server.started:
        raise typer.Exit(1)


@app.command()
def serve(port: Port = None, data_dir: DataDir = None) -> None:
    """Serve the application on 127.0.0.1."""
    settings = settings_from(port, data_dir)
    run_server(open_data(settings), settings.port)


@app.command()
def demo(port: Port = None, data_dir: DataDir = None) -> None:
    """Serve the application with the demo; a fresh data directory is filled first."""
    from cata.demo.seed import is_seeded, seed

    settings = settings_from(port, data_dir)
    workspace = open_data(settings)
    if not is_seeded(workspace):
        from cata.services.background import runner_for

        def tell(done: int, total: int) -> None:
            typer.echo(f"\rPlaying the demo takes: {done} of {total}", nl=done == total)

        seed(workspace, tell)
        typer.echo("Reading the takes ...")
        runner_for(workspace).run_until_idle(lasting=False)
    run_server(workspace, settings.port)


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description, from which the front end's client is made."""
    import tempfile

    from cata.api.app import create_app
    from cata.services.workspace import open_workspace

    with tempfile.TemporaryDirectory() as folder:
        schema = create_app(open_workspace(Path(folder))).openapi()
    json.dump(schema, sys.stdout, indent=1, sort_keys=True)
