"""The manual page and the shells' completion, made from the commands themselves."""

import re
from importlib.metadata import version

import click
from click.shell_completion import get_completion_class, shell_complete

from humble_courier.cli.app import LOADERS, build
from humble_courier.errors import BadInput

NAME, VARIABLE = "humble-courier", "_HUMBLE_COURIER_COMPLETE"
# Of the script in a clone: its own words first, and behind `run` those of the program.
_CLONE = r"""
_courier_clone_completion() {
    local reply one
    if [ "$COMP_CWORD" -le 1 ]; then
        COMPREPLY=($(compgen -W "demo run test trials" -- "${COMP_WORDS[1]}"))
    elif [ "${COMP_WORDS[1]}" = run ]; then
        reply=$(env COMP_WORDS="humble-courier ${COMP_WORDS[*]:2}" COMP_CWORD=$((COMP_CWORD - 1)) \
            _HUMBLE_COURIER_COMPLETE=bash_complete "$1" run)
        COMPREPLY=()
        while IFS=, read -r _ one; do COMPREPLY+=("$one"); done <<< "$reply"
    fi
}
complete -o nosort -o default -F _courier_clone_completion ./courier
"""
SHELLS = {
    "bash": "~/.local/share/bash-completion/completions/humble-courier",
    "zsh": "a folder of $fpath, as _humble-courier",
    "fish": "~/.config/fish/completions/humble-courier.fish",
}


def program() -> click.Group:
    """The command line, to be asked what it knows."""
    made = build(None)  # type: ignore[arg-type]  # the rooms are only asked when a command runs
    assert isinstance(made, click.Group), "the commands stand in a group"
    return made


def completion_of(shell: str) -> str:
    """The script for a shell. Raises BadInput for one that is not known."""
    found = get_completion_class(shell) if shell in SHELLS else None
    if found is None:
        raise BadInput(f"no completion for {shell}: known are {', '.join(SHELLS)}")
    script = found(program(), {}, NAME, VARIABLE)
    text = script.source_template % script.source_vars()
    clone = _CLONE if shell == "bash" else ""
    return f"# belongs into {SHELLS[shell]}\n{text}{clone}".rstrip()


def complete(instruction: str) -> int:
    """Answer the shell that asks how a line goes on; the exit code."""
    return shell_complete(program(), {}, NAME, VARIABLE, instruction)


def _roff(text: str) -> str:
    """Plain text as roff takes it (groff_man(7)): backslash, hyphen, a point or an apostrophe at the begin of a line."""
    text = text.replace("\\", r"\e").replace("-", r"\-")
    return re.sub(r"^([.'])", r"\&\1", text, flags=re.MULTILINE)


def man_page() -> str:
    """All commands with their options, as a page of section 1."""
    group = program()
    lines = [
        f'.TH HUMBLE\\-COURIER 1 "" "Humble Courier {version(NAME)}"', ".SH NAME",
        r"humble\-courier \- gets a computer talking to instruments, vehicles, radios and legacy devices", ".SH SYNOPSIS",
        r".B humble\-courier", r"[\-\-data DIR] [\-\-records URL] [COMMAND] [FILE]", ".SH DESCRIPTION",
        _roff((group.help or "").strip()),
        "Nothing is sent to a device before it is armed: every command that sends wants \\-\\-arm.",
        "Each command knows \\-\\-json for one document on standard output, and \\-\\-help.", ".SH COMMANDS",
    ]  # fmt: skip
    with click.Context(group, info_name=NAME) as context:
        for name in LOADERS:
            command = group.get_command(context, name)
            if command is not None:
                lines += _command(context, name, command)
    lines += [
        ".SH EXIT STATUS", "0: done.  1: no, or not found.  2: bad usage or input.  3: the machine refused.  "
        "70: a defect; a report was written.", ".SH FILES", r"$XDG_DATA_HOME/humble\-courier: records, own sheets, logs.",
        ".br", r"$XDG_CONFIG_HOME/humble\-courier/preferences.json: choices.",
    ]  # fmt: skip
    return "\n".join(lines)


def _command(context: click.Context, name: str, command: click.Command) -> list[str]:
    """A command and its options; those of a group one after the other."""
    with click.Context(command, info_name=name, parent=context) as inner:
        usage = " ".join(command.collect_usage_pieces(inner))
        lines = [".TP", f".B {_roff(name)} {_roff(usage)}", _roff((command.help or "").split("\n\n")[0].strip())]
        if isinstance(command, click.Group):
            for sub in command.list_commands(inner):
                found = command.get_command(inner, sub)
                lines += _command(inner, f"{name} {sub}", found) if found is not None else []
            return lines
        options = [record for one in command.get_params(inner) if (record := one.get_help_record(inner)) is not None]
        lines += [".RS"] if options else []
        for flags, told in options:
            lines += [".TP", f".I {_roff(flags)}", _roff(told) or "."]
        return [*lines, ".RE"] if options else lines
