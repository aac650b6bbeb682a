"""Commands on flights: the order of takes, the audit, the verdict."""

from __future__ import annotations

import json
from typing import Annotated

import typer

from cata.cli.common import AsJson, DataDir, app, opened
from cata.core.plan.schedule import MIN_SESSION_S
from cata.errors import Invalid
from cata.services.background import runner_for
from cata.services.match.findings import told_findings
from cata.services.plan.cells import OrderIn
from cata.services.plan.ordering import IMPROVE, make_order
from cata.services.plan.sheet import get_order
from cata.services.verdict.teaching import get_verdict
from cata.tasks.runner import Runner

flight_app = typer.Typer(help="Flights from the command line.", no_args_is_help=True)
app.add_typer(flight_app, name="flight")
Flight = Annotated[int, typer.Argument(help="Number of the flight.")]


@flight_app.command("verdict")
def flight_verdict(flight: Flight, as_json: AsJson = False, data_dir: DataDir = None) -> None:
    """What a flight taught, in at most ten sentences; takes that wait are read first."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        verdict = get_verdict(workspace, flight)
    if as_json:
        typer.echo(verdict.model_dump_json(indent=2))
        return
    typer.echo(f"{verdict.flight_name}: {verdict.heading}")
    for number, one in enumerate(verdict.sentences, start=1):
        typer.echo(f"{number:3d}. {one.said.words}")


@flight_app.command("audit")
def flight_audit(flight: Flight, as_json: AsJson = False, data_dir: DataDir = None) -> None:
    """What the audit found: the take, the rule, how grave and how sure it is, and why; what waits is read first."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        found = told_findings(workspace, flight)
    if as_json:
        typer.echo(json.dumps([one.model_dump() for one in found], indent=2))
        return
    typer.echo(f"{len(found)} findings" if found else "Nothing found: every take stands for its contender.")
    for one in found:
        typer.echo(f"  {one.severity:5s}  {one.contender} / {one.test}: {one.text} {one.advice} {one.why}")


@flight_app.command("order")
def flight_order(
    flight: Flight,
    as_json: AsJson = False,
    anchors: Annotated[bool, typer.Option(help="Play one take again in the middle and at the end.")] = True,
    session_minutes: Annotated[float | None, typer.Option(help="Split the work into sessions of this length.")] = None,
    data_dir: DataDir = None,
) -> None:
    """Order the takes of a flight for the least change-over time, and keep that order."""
    if session_minutes is not None and session_minutes < MIN_SESSION_S / 60:
        raise Invalid(
            f"a session lasts at least {MIN_SESSION_S // 60} minutes, got {session_minutes:g}", "short_session"
        )
    with opened(data_dir) as workspace:
        make_order(workspace, flight, OrderIn(anchors=anchors, session_limit_min=session_minutes))
        Runner(workspace, (IMPROVE,)).run_until_idle()
        order = get_order(workspace, flight)
    if as_json:
        typer.echo(order.model_dump_json(indent=2))
        return
    for step in order.steps:
        anchor = f" [anchor {step.anchor}]" if step.anchor else ""
        typer.echo(f"{step.number:3d}  {step.contender} / {step.test}{anchor}")
        for change in step.changes if step is not order.steps[0] else []:
            typer.echo(f"       {change}")
    best = "the least possible" if order.best else f"at most {order.gap_percent} % over the least possible"
    typer.echo(f"Change-overs {order.change_s / 60:.0f} min ({best}); all together {order.total_s / 60:.0f} min")
