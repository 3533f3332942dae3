"""The commands and what they take. Each command's work is in a file of its own, imported when it is asked for."""

from __future__ import annotations

import io
import os
import sys
from copy import copy
from pathlib import Path
from typing import Annotated

import typer
from typer.exceptions import TyperException

from after_check.cli.exit_codes import EXIT_BAD_INPUT, EXIT_SOFTWARE, EXIT_STOPPED, EXIT_STORE, EXIT_USAGE
from after_check.cli.shop_app import ShopOption, shop_app
from after_check.cli.stick_app import stick_app

app = typer.Typer(
    name="after-check",
    help="After a memory upgrade: is it all there, at the promised pace, and can it be trusted?",
    add_completion=True,
    no_args_is_help=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


_MOST_MINUTES = 366 * 24 * 60.0
OnOption = Annotated[str | None, typer.Option("--on", help="Do it on the machine at this address.", metavar="ssh://USER@HOST")]
OnOptions = Annotated[
    list[str] | None, typer.Option("--on", help="Do it on the machine at this address; many times for many.", metavar="ssh://USER@HOST")
]
BringOption = Annotated[bool, typer.Option("--bring", help="Bring After Check along where it is not there, and take it away after.")]
KeyOption = Annotated[Path | None, typer.Option("--key", help="Key file for ssh://.", metavar="F")]
AcceptOption = Annotated[str | None, typer.Option("--accept", help="Accept this host key.", metavar="FINGERPRINT")]
PasswordOption = Annotated[bool, typer.Option("--password", help="Ask for a password, or read it from standard input.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON document and nothing else.")]


@app.callback(invoke_without_command=True)
def bench(
    context: typer.Context,
    shop: ShopOption = None,
    version: Annotated[bool, typer.Option("--version", "-V", help="Print the version.")] = False,
) -> None:
    """Open the bench."""
    if version:
        from after_check import __version__

        print(f"after-check {__version__}")
        raise typer.Exit(0)
    if context.invoked_subcommand is None:
        from after_check.cli.bench import open_bench

        raise typer.Exit(open_bench(shop))


@app.command()
def demo(
    fresh: Annotated[bool, typer.Option("--fresh", help="Begin the demo shop again.")] = False,
    shop: ShopOption = None,
) -> None:
    """Open the bench with the demo shop, in a store of its own."""
    from after_check.cli.bench import open_demo

    raise typer.Exit(open_demo(shop, fresh))


@app.command()
def read(
    source: Annotated[
        str | None,
        typer.Argument(
            help="A folder (a copied /sys and /proc), a file (firmware table, saved reading) or a line in the short form.",
            metavar="[SOURCE]",
        ),
    ] = None,
    out: Annotated[Path | None, typer.Option("--out", help="Save the reading, with its raw evidence.", metavar="F")] = None,
    json: JsonOption = False,
    on: OnOption = None,
    key: Annotated[Path | None, typer.Option("--key", help="Key file for ssh://.", metavar="F")] = None,
    accept: Annotated[str | None, typer.Option("--accept", help="Accept this host key or certificate.", metavar="FINGERPRINT")] = None,
    password: Annotated[bool, typer.Option("--password", help="Ask for a password, or read it from standard input.")] = False,
    remember: Annotated[bool, typer.Option("--remember", help="Keep the password in the system's keyring.")] = False,
    jump: Annotated[str | None, typer.Option("--jump", "-J", help="Go through this machine.", metavar="USER@HOST[:PORT]")] = None,
) -> None:
    """Take a reading; without SOURCE, of this machine.

    SOURCE may be ssh://USER@HOST[:PORT] or redfish+https://USER@HOST[:PORT] as well.
    """
    from after_check.cli.read import read_command

    raise typer.Exit(read_command(on or source, out, json, key, accept, password, remember, jump))


@app.command()
def collector(
    shell: Annotated[str, typer.Option("--for", help="Where it is to run: sh or powershell.", metavar="sh|powershell")],
) -> None:
    """Print a script that gathers a reading on a machine without After Check; `read` takes the file that it writes."""
    from after_check.sources.collection import collector as script_for

    print(script_for(shell), end="")


@app.command(name="stand-in")
def stand_in(
    what: Annotated[str, typer.Argument(help="list, or serve.", metavar="list|serve")],
    machine: Annotated[str | None, typer.Argument(help="The machine to serve, by its job's number.")] = None,
    port: Annotated[int, typer.Option("--port", min=0, max=65_535, help="The port on 127.0.0.1; 0 takes a free one.")] = 0,
    password: Annotated[str | None, typer.Option("--password", help="The password of user bench; left out, one is made up.")] = None,
) -> None:
    """Simulated machines of the demo, to try readings over the network on."""
    from after_check.cli.stand_in import stand_in_command

    raise typer.Exit(stand_in_command(what, machine, port, password))


@app.command()
def judge(
    after: Annotated[str, typer.Option("--after", help="The reading now: a file, a folder, or the short form.", metavar="X")],
    before: Annotated[str | None, typer.Option("--before", help="The reading on arrival.", metavar="X")] = None,
    promise: Annotated[str | None, typer.Option("--promise", help="What was promised, in the short form.", metavar="X")] = None,
    card: Annotated[Path | None, typer.Option("--card", help="What is known of the machine's model (TOML).", metavar="F")] = None,
    json: JsonOption = False,
    batch: Annotated[
        bool, typer.Option("--batch", help="Many machines: X is a folder with a reading of each, or a list of sources, one a line.")
    ] = False,
    pdf: Annotated[Path | None, typer.Option("--pdf", help="With many machines: write one summary sheet.", metavar="F")] = None,
    csv: Annotated[Path | None, typer.Option("--csv", help="With many machines: write the table.", metavar="F")] = None,
    key: Annotated[Path | None, typer.Option("--key", help="Key file for ssh:// in a list.", metavar="F")] = None,
    password: Annotated[bool, typer.Option("--password", help="Ask for one password for all of a list.")] = False,
) -> None:
    """Judge a machine, or a batch of them: exit 0 ready, 1 not ready, 2 can't tell.

    For instance:  after-check judge --after "2x16G DDR4-2933; run 2933; dual" --promise "2x16G DDR4-2933; dual"

    A batch:  after-check judge --after readings/ --promise "2x16G DDR4-3200; dual" --pdf batch.pdf
    """
    from after_check.cli.judge import judge_command
    from after_check.sources.many import is_batch

    if batch or is_batch(Path(after)):
        from after_check.cli.access import AccessWords
        from after_check.cli.batch import BatchOutputs, batch_command
        from after_check.sources.card_file import read_card_file
        from after_check.sources.open_source import take_promise

        promised = take_promise(promise) if promise else None
        known = read_card_file(card) if card else None
        access = AccessWords(key, None, password)
        raise typer.Exit(
            batch_command(Path(after), Path(before) if before else None, promised, known, BatchOutputs(pdf, csv, json), access)
        )
    raise typer.Exit(judge_command(after, before, promise, card, json))


@app.command()
def explain(
    text: Annotated[
        list[str], typer.Argument(help="A label, a module class, a rate, a week, the short form, or plain words; - reads them.")
    ],
    json: JsonOption = False,
    promise: Annotated[bool, typer.Option("--promise", help="The words promise something.")] = False,
    before: Annotated[str | None, typer.Option("--before", help="The reading on arrival, for words that need it.", metavar="X")] = None,
) -> None:
    """Explain a label, PC4-23400, 1467MHz, 2021-W11, a line in the short form or plain words."""
    from after_check.cli.explain import explain_command

    raise typer.Exit(explain_command(" ".join(text), json, promise, before))


@app.command()
def soak(
    plan: Annotated[str, typer.Option("--plan", help="short, full or overnight (until stopped).")] = "short",
    minutes: Annotated[
        float | None, typer.Option("--minutes", min=0.05, max=_MOST_MINUTES, help="Repeat the plan and end after so many minutes.")
    ] = None,
    within: Annotated[
        float | None, typer.Option("--within", min=0.05, max=1440, help="Choose what finds most in so many minutes, and end by then.")
    ] = None,
    memory: Annotated[str | None, typer.Option("--memory", help="Test so much; left out, all but the reserve.", metavar="SIZE")] = None,
    reserve: Annotated[str | None, typer.Option("--reserve", help="Leave so much to the system.", metavar="SIZE")] = None,
    threads: Annotated[int | None, typer.Option("--threads", min=1, max=1024, help="Threads; left out, one a core.")] = None,
    program: Annotated[list[str] | None, typer.Option("--program", help="A march program: a name, or {⇕(w0); ⇑(r0,w1)}.")] = None,
    background: Annotated[list[str] | None, typer.Option("--background", help="A data background for --program.")] = None,
    coverage: Annotated[bool, typer.Option("--coverage", help="Test nothing; tell which faults the programs find.")] = False,
    record: Annotated[Path | None, typer.Option("--record", help="Where the record is kept while it runs.", metavar="F")] = None,
    go_on: Annotated[bool, typer.Option("--continue", help="Take a soak up again that was interrupted.")] = False,
    at: Annotated[
        str | None, typer.Option("--at", help="Let an appliance test itself over its service.", metavar="http://HOST:PORT")
    ] = None,
    on: OnOptions = None,
    bring: BringOption = False,
    key: KeyOption = None,
    accept: AcceptOption = None,
    password: PasswordOption = False,
    json: JsonOption = False,
) -> None:
    """Test this machine's memory, or that of machines behind addresses: exit 0 clean, 1 errors, 2 not covered as asked.

    For instance:  after-check soak --within 8        after-check soak --coverage --program "March C-"
    """
    from after_check.cli.soak import SoakWords, coverage_command, soak_command

    if coverage:
        raise typer.Exit(coverage_command(tuple(program or ()), json))
    if within is not None and (minutes is not None or program):
        raise typer.BadParameter("it chooses programs and end itself: leave --minutes and --program out", param_hint="--within")
    asked = SoakWords(
        plan, tuple(program or ()), tuple(background or ()), minutes, within, memory, reserve, threads, record, go_on, at, json
    )
    if on:
        from after_check.cli.access import AccessWords
        from after_check.cli.remote import soaks_on

        raise typer.Exit(soaks_on(tuple(on), asked, AccessWords(key, accept, password), bring))
    raise typer.Exit(soak_command(asked))


@app.command()
def benchmark(
    short: Annotated[bool, typer.Option("--short", help="Fewer working sets and runs.")] = False,
    out: Annotated[Path | None, typer.Option("--out", help="Keep the benchmark in a file.", metavar="F")] = None,
    before: Annotated[Path | None, typer.Option("--before", help="Compare with an earlier benchmark from a file.", metavar="F")] = None,
    go_on: Annotated[Path | None, typer.Option("--continue", help="Take a stopped benchmark up again, from its file.", metavar="F")] = None,
    svg: Annotated[Path | None, typer.Option("--svg", help="Write the charts, as SVG and as PDF, into a folder.", metavar="DIR")] = None,
    on: OnOption = None,
    bring: BringOption = False,
    follow: Annotated[bool, typer.Option("--follow", help="Follow a benchmark that was started with --on before.")] = False,
    key: KeyOption = None,
    accept: AcceptOption = None,
    password: PasswordOption = False,
    json: JsonOption = False,
) -> None:
    """Measure this machine's memory: bandwidth and latency; exit 0 when everything was measured.

    For instance:  after-check benchmark --out before.json     and after fitting:  after-check benchmark --before before.json
    """
    from after_check.cli.benchmark import benchmark_command

    if on is None:
        raise typer.Exit(benchmark_command(short, out, before, json, go_on, svg))
    from after_check.cli.access import AccessWords
    from after_check.cli.benchmark import tell_benchmark
    from after_check.cli.remote import benchmark_on

    record = benchmark_on(on, short, AccessWords(key, accept, password), bring, follow)
    raise typer.Exit(tell_benchmark(record, out, before, json, svg))


@app.command()
def demand(
    source: Annotated[str | None, typer.Argument(help="ssh://USER@HOST[:PORT]; left out, this machine.", metavar="[SOURCE]")] = None,
    on: OnOption = None,
    minutes: Annotated[
        float | None, typer.Option("--minutes", min=0.01, max=_MOST_MINUTES, help="Watch for so long; left out, until stopped.")
    ] = None,
    old: Annotated[str | None, typer.Option("--old", help="The total before the upgrade.", metavar="SIZE")] = None,
    rehearse: Annotated[str | None, typer.Option("--trial-load", help="Hold a load that grows to this size.", metavar="SIZE")] = None,
    key: Annotated[Path | None, typer.Option("--key", help="Key file for ssh://.", metavar="F")] = None,
    accept: Annotated[str | None, typer.Option("--accept", help="Accept this host key.", metavar="FINGERPRINT")] = None,
    password: Annotated[bool, typer.Option("--password", help="Ask for a password, or read it from standard input.")] = False,
    json: JsonOption = False,
) -> None:
    """Watch how much memory the work on this machine takes, against the total before; or on one behind an address.

    For instance:  after-check demand --old 16G     while the customer's work runs; ctrl+c ends the watch
    """
    from after_check.cli.access import AccessWords
    from after_check.cli.demand import demand_command

    raise typer.Exit(demand_command(on or source, minutes, old, rehearse, json, AccessWords(key, accept, password)))


@app.command()
def tries(
    file: Annotated[Path, typer.Argument(help="What was tried (TOML).", metavar="FILE")],
    json: JsonOption = False,
) -> None:
    """Weigh what was tried: who is to blame, and which arrangement to try next.

    FILE names modules, slots and [[try]] entries; docs/file-formats.md has an example.
    """
    from after_check.cli.tries import tries_command

    raise typer.Exit(tries_command(file, json))


@app.command()
def handback(
    job: Annotated[str, typer.Argument(help="The number of the job.", metavar="JOB")],
    pdf: Annotated[Path | None, typer.Option("--pdf", help="Write the sheet.", metavar="F")] = None,
    svg: Annotated[Path | None, typer.Option("--svg", help="Write the drawings, as SVG and as PDF, into a folder.", metavar="DIR")] = None,
    csv: Annotated[Path | None, typer.Option("--csv", help="Write the tables into a folder.", metavar="DIR")] = None,
    json: Annotated[Path | None, typer.Option("--json", help="Write the whole job as a JSON document.", metavar="F")] = None,
    paper: Annotated[str | None, typer.Option("--paper", help="A4 or Letter; left out, as the settings say.")] = None,
    grey: Annotated[bool, typer.Option("--grey", help="For paper in black and white.")] = False,
    shop: ShopOption = None,
    demo: Annotated[bool, typer.Option("--demo", help="Take the job from the demo shop.")] = False,
) -> None:
    """Print the sheet that goes with the machine: a page for the customer, and the record.

    For instance:  after-check handback 0417 --pdf sheet.pdf --svg drawings --csv tables
    """
    from dataclasses import replace

    from after_check.cli.handback import handback_command
    from after_check.handback.content import look_of
    from after_check.local.settings import PAPERS, load_settings

    look = look_of(load_settings())
    if paper is not None and paper.casefold() not in {size.casefold() for size in PAPERS}:
        raise typer.BadParameter(f"{paper!r} is no paper; known: {', '.join(PAPERS)}")
    chosen = next((size for size in PAPERS if paper is not None and size.casefold() == paper.casefold()), look.paper)
    look = replace(look, paper=chosen, colour=look.colour and not grey)
    raise typer.Exit(handback_command(job, pdf, svg, csv, json, shop, demo, look))


app.add_typer(stick_app, name="stick", help="A stick that boots on the customer's machine: make, write, load and collect it.")
app.add_typer(shop_app, name="shop", help="Where the jobs are kept: check, back up, restore, move, hand out and bring in.")


def _for(arguments: list[str]) -> typer.Typer:
    """Return the application with the one command that is asked for: to make the options of all takes longer than many a command."""
    commands = [info for info in app.registered_commands if arguments[:1] == [info.name or getattr(info.callback, "__name__", "")]]
    groups = [info for info in app.registered_groups if arguments[:1] == [info.name]]
    if not commands and not groups:
        return app
    small = copy(app)
    small.registered_commands, small.registered_groups = commands, groups
    return small


def run(arguments: list[str]) -> int:
    """Run the command line and return its exit code; errors become sentences on standard error."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # A terminal that cannot show a sign shows another one, and the rest.
    try:
        result = _for(arguments)(arguments, standalone_mode=False, prog_name="after-check")
    except TyperException as error:
        print(f"after-check: {error.format_message()}\nTry after-check --help.", file=sys.stderr)
        return EXIT_USAGE
    except (typer.Abort, KeyboardInterrupt):
        print("after-check: stopped", file=sys.stderr)
        return EXIT_STOPPED
    except BrokenPipeError:
        # Whoever read our output has closed it (`after-check read | head`); writing more would fail again at exit.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        return _known_failure(error)
    return result if isinstance(result, int) else 0


def _known_failure(error: Exception) -> int:
    """Say what is wrong in a sentence; anything that is no known failure is a bug, and its traceback goes into the log file."""
    from after_check.files.errors import SourceError

    if isinstance(error, SourceError):
        print(f"after-check: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT
    if isinstance(error, UnicodeEncodeError):
        print("after-check: a name or a number in this command is no text in UTF-8", file=sys.stderr)
        return EXIT_USAGE
    if isinstance(error, OSError):
        print(f"after-check: {error.strerror or error} ({error.filename or 'input and output'})", file=sys.stderr)
        return EXIT_STORE
    from after_check.shop.errors import ShopError

    if isinstance(error, ShopError):
        from after_check.local.log import logger

        logger().error("%s", error)
        print(f"after-check: {error}", file=sys.stderr)
        return EXIT_STORE
    from after_check.local.log import logger
    from after_check.local.paths import log_path

    logger().exception("a failure that nobody thought of", exc_info=error)
    print(f"after-check: a failure that nobody thought of ({type(error).__name__}); {log_path()} has the details", file=sys.stderr)
    return EXIT_SOFTWARE
