"""Demo jobs that ship with the program, as job files."""

from importlib import resources


def job_file(name: str) -> bytes:
    """The job file of a demo job."""
    return resources.files(__package__).joinpath(f"{name}.json").read_bytes()


def errands() -> bytes:
    """The demo's errands, as what a person would tell of each."""
    return resources.files(__package__).joinpath("errands.json").read_bytes()
