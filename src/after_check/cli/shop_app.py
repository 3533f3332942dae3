"""The commands of `after-check shop` and what they take, and the option that every command with a shop has."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer


def _in_either_place(context: typer.Context, value: str | None) -> str | None:
    """Return what `--shop` names, whether it is before the command or behind it."""
    outer: str | None = context.find_root().params.get("shop")
    return value if value is not None else outer


ShopOption = Annotated[
    str | None,
    typer.Option(
        "--shop",
        help="Where the jobs are kept: a file, or postgresql://USER@HOST/NAME.",
        metavar="WHERE",
        callback=_in_either_place,
    ),
]

shop_app = typer.Typer(no_args_is_help=True, rich_markup_mode=None)


@shop_app.command(name="check")
def shop_check(
    shop: ShopOption = None,
    save: Annotated[Path | None, typer.Option("--save", help="Back up what can still be read.", metavar="F")] = None,
) -> None:
    """Look through the whole shop: exit 0 sound, 1 not."""
    from after_check.cli.shop import check_command

    raise typer.Exit(check_command(shop, save))


@shop_app.command(name="backup")
def shop_backup(file: Annotated[Path, typer.Argument(help="The file to write (zip).", metavar="F")], shop: ShopOption = None) -> None:
    """Write all jobs, cards and names of makers into one file."""
    from after_check.cli.shop import backup_command

    raise typer.Exit(backup_command(file, shop))


@shop_app.command(name="restore")
def shop_restore(file: Annotated[Path, typer.Argument(help="A backup.", metavar="F")], shop: ShopOption = None) -> None:
    """Bring a backup into a shop; what is here already is not doubled."""
    from after_check.cli.shop import restore_command

    raise typer.Exit(restore_command(file, shop))


@shop_app.command(name="move")
def shop_move(
    target: Annotated[str, typer.Argument(help="The other store: a file or an address.", metavar="WHERE")], shop: ShopOption = None
) -> None:
    """Copy the shop into another store, and check that nothing is missing.

    For instance:  after-check shop move postgresql://bench@server/skarrow        and back:  … move shop.db --shop postgresql://…
    """
    from after_check.cli.shop import move_command

    raise typer.Exit(move_command(target, shop))


@shop_app.command(name="hand-out")
def shop_hand_out(
    job: Annotated[str, typer.Argument(help="The number of the job.", metavar="JOB")],
    file: Annotated[Path, typer.Argument(help="The job file to write (zip).", metavar="F")],
    shop: ShopOption = None,
) -> None:
    """Write a whole job with its evidence into one file."""
    from after_check.cli.shop import hand_out_command

    raise typer.Exit(hand_out_command(job, file, shop))


@shop_app.command(name="bring-in")
def shop_bring_in(
    files: Annotated[list[Path], typer.Argument(help="Job files.", metavar="F...")],
    take: Annotated[
        list[str] | None,
        typer.Option("--take", help="Of a word that both benches wrote take the file's.", metavar="WORD"),
    ] = None,
    keep: Annotated[list[str] | None, typer.Option("--keep", help="Of such a word keep what is here.", metavar="WORD")] = None,
    shop: ShopOption = None,
) -> None:
    """Bring job files of another bench in; nothing is lost or doubled, and what both benches wrote is asked."""
    from after_check.cli.shop import bring_in_command

    raise typer.Exit(bring_in_command(files, take or [], keep or [], shop))
