"""The documents say what is true: every command, option, endpoint and screenshot."""

from __future__ import annotations

import json
import re
from pathlib import Path

import yaml

from sequor.cli import parser as command_line
from sequor.launch import serve, worker
from sequor.launch.outside import OPTIONS, PASSWORD
from sequor.launch.serve import _parser as start_line
from sequor.launch.worker import _parser as worker_line
from sequor.store.objects import KEY, SECRET

ROOT = Path(__file__).resolve().parents[2]
README = (ROOT / "README.md").read_text()


def test_readme_names_every_command_and_option() -> None:
    commands = next(action for action in command_line()._actions if action.choices).choices
    for name in commands or ():
        assert f"bin/sequor {name}" in README
    for action in start_line()._actions:
        for option in action.option_strings:
            assert option in README or option in ("-h", "--help")


def test_readme_links_every_screenshot_and_nothing_else() -> None:
    linked = set(re.findall(r"docs/screenshots/([a-z-]+\.png)", README))
    there = {path.name for path in (ROOT / "docs" / "screenshots").iterdir()}
    assert linked == there
    assert len(there) < 20


def test_links_lead_somewhere() -> None:
    for document in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for target in re.findall(r"\]\(([^)#:]+)\)", document.read_text()):
            assert (document.parent / target).exists(), (document.name, target)


def test_every_part_of_the_tree_is_described() -> None:
    described = (ROOT / "docs" / "architecture.md").read_text()
    for package in (ROOT / "src" / "sequor").iterdir():
        if package.is_dir() and package.name != "__pycache__":
            assert f"  {package.name}/" in described
    for module in (ROOT / "src" / "sequor" / "core").glob("[a-z]*.py"):
        assert module.name in described


def test_every_file_is_small_enough_to_be_kept_as_it_is() -> None:
    for path in (ROOT / "demo" / "photos").glob("*.jpg"):
        assert path.stat().st_size < 4_000_000


def test_demo_photos_have_their_truth() -> None:
    for path in (ROOT / "demo" / "photos").glob("*.jpg"):
        truth = json.loads(path.with_suffix(".json").read_text())
        assert {"roll_deg", "pitch_deg", "yaw_deg", "f_px", "lines", "distortion"} <= set(truth)
        assert len(truth["lines"]) >= 19


def test_containers_are_started_with_what_the_programs_take() -> None:
    """Parsed, not run: what the services are told is what the commands understand."""
    compose = yaml.safe_load((ROOT / "compose.yaml").read_text())["services"]
    start_line().parse_args(compose["web"]["command"][1:])
    worker_line().parse_args(compose["worker"]["command"][1:])
    assert compose["web"]["command"][0] == serve.__spec__.name
    assert compose["worker"]["command"][0] == worker.__spec__.name
    wanted = {*OPTIONS, PASSWORD, KEY, SECRET}
    assert all(set(compose[name]["environment"]) == wanted for name in ("web", "worker"))
    steps = [
        line.split()[0] for line in (ROOT / "Dockerfile").read_text().splitlines() if re.match("[A-Z]", line)
    ]
    assert set(steps) <= {"FROM", "WORKDIR", "COPY", "RUN", "USER", "VOLUME", "ENV", "ENTRYPOINT", "CMD"}
    for line in re.findall(r"^COPY (?!--)(.+) \S+$", (ROOT / "Dockerfile").read_text(), re.MULTILINE):
        assert all((ROOT / path).exists() for path in line.split())
