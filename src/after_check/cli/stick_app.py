"""The commands `stick …` and what they take."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from after_check.cli.shop_app import ShopOption

stick_app = typer.Typer(no_args_is_help=True, rich_markup_mode=None)

StickOption = Annotated[
    Path | None, typer.Option("--stick", help="Where the stick's partition AFTERCHECK shows up; left out, it is looked for.", metavar="DIR")
]


@stick_app.command()
def make(
    image: Annotated[Path, typer.Option("--image", help="The image to write.", metavar="F")],
    data: Annotated[str, typer.Option("--room", help="Room for jobs and results.", metavar="SIZE")] = "512M",
    key: Annotated[
        Path | None, typer.Option("--let-in", help="A public SSH key that may log in and test from the bench.", metavar="F")
    ] = None,
    serial: Annotated[bool, typer.Option("--serial", help="Talk on the first serial line as well.", hidden=True)] = False,
) -> None:
    """Make the image of a stick that boots. Needs root, and Debian's packages over the network."""
    from after_check.cli.stick import make_command

    raise typer.Exit(make_command(image, data, key, serial))


@stick_app.command()
def write(
    device: Annotated[Path, typer.Argument(help="The device of the stick, for instance /dev/sdc.", metavar="DEVICE")],
    image: Annotated[Path, typer.Option("--image", help="The image that stick make wrote.", metavar="F")],
) -> None:
    """Write the image to a removable device that is not mounted; its name and size are asked for first."""
    from after_check.cli.stick import write_command

    raise typer.Exit(write_command(device, image))


@stick_app.command()
def load(
    jobs: Annotated[list[str] | None, typer.Argument(help="Numbers of jobs.", metavar="[JOB]...")] = None,
    open_: Annotated[bool, typer.Option("--open", help="All jobs that are not handed back.")] = False,
    stick: StickOption = None,
    shop: ShopOption = None,
) -> None:
    """Put jobs, data sheets and what the shop wants of a test onto the stick."""
    from after_check.cli.stick import load_command

    raise typer.Exit(load_command(tuple(jobs or ()), open_, stick, shop))


@stick_app.command()
def collect(
    stick: StickOption = None,
    any_: Annotated[bool, typer.Option("--any", help="Also from a stick that another shop loaded.")] = False,
    shop: ShopOption = None,
) -> None:
    """Bring what the stick found into the shop; twice is once."""
    from after_check.cli.stick import collect_command

    raise typer.Exit(collect_command(stick, any_, shop))


@stick_app.command(hidden=True)
def run(
    stick: Annotated[Path, typer.Option("--stick", help="Where the stick's partition is mounted.", metavar="DIR")],
) -> None:
    """What the stick itself starts on the customer's machine."""
    from after_check.cli.stick import run_command

    raise typer.Exit(run_command(stick))
