"""The house's own limits and promises.

Sizes of files, docs that are true, nothing fetched from outside.
"""

from __future__ import annotations

import json
import re
import subprocess
from pathlib import Path

import pytest

from kyrtos.worksheet.dialogs import dialogs
from sizing.document import job
from sizing.kinds import kinds

ROOT = Path(__file__).parents[1]
NOT_OURS = {
    ".git",
    ".venv",
    ".tool",
    "node_modules",
    "staticfiles",
    "__pycache__",
    ".mypy_cache",
    ".ruff_cache",
    ".pytest_cache",
    ".hypothesis",
}
FILES = [
    path
    for path in sorted(ROOT.rglob("*"))
    if path.is_file() and not NOT_OURS & set(path.relative_to(ROOT).parts)
]
OWN = [path for path in FILES if "vendor" not in path.parts and "migrations" not in path.parts]


def lines(path: Path) -> int:
    return sum(1 for line in path.read_text(errors="ignore").splitlines() if line.strip())


@pytest.mark.parametrize(
    ("suffix", "most"), [(".py", 400), (".html", 100), (".js", 300), (".scss", 200)]
)
def test_no_file_of_ours_grows_too_long(suffix, most):
    assert [
        f"{path.name} {lines(path)}"
        for path in OWN
        if path.suffix == suffix and "tests" not in path.parts and lines(path) > most
    ] == []


def test_no_page_or_style_asks_for_anything_outside():
    outside = re.compile(r"""(src|href|url\()\s*=?\s*["']?https?://""")
    assert [
        path.name
        for path in OWN
        if path.suffix in (".html", ".js", ".css", ".scss", ".svg")
        and outside.search(path.read_text())
    ] == []


def test_every_utility_class_of_the_templates_is_compiled():
    """Bootstrap is compiled with what is used only: a class that it lacks does nothing, unseen."""
    css = (ROOT / "kyrtos/static/kyrtos/kyrtos.css").read_text()
    pages = [path.read_text() for path in (ROOT / "kyrtos").rglob("*.html")]
    used = {
        name
        for page in pages
        for told in re.findall(r'class="([^"{]*)', page)
        for name in told.split()
        if re.fullmatch(r"(?:d|flex|gap|[mp][tbsexy]?|align|justify|text|fw)-[a-z0-9-]+", name)
    }
    assert "d-flex" in used
    assert [name for name in sorted(used) if not re.search(rf"\.{name}\b", css)] == []


def test_no_file_names_a_registry():
    names = (
        "pypi" + ".org",
        "pythonhosted" + ".org",
        "registry.npmjs" + ".org",
        "deb.debian" + ".org",
    )
    assert [
        path.name
        for path in FILES
        if path.suffix not in (".png", ".woff2", ".ttf")
        and any(name in path.read_text(errors="ignore") for name in names)
    ] == []


def test_the_published_schema_is_the_schema():
    text = (ROOT / "docs" / "job-file.md").read_text()
    assert json.loads(text.split("```json")[1].split("```")[0]) == job.schema()


def test_every_picture_is_linked_and_every_link_leads_somewhere():
    readme = (ROOT / "README.md").read_text()
    shots = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert shots == set(re.findall(r"screenshots/([\w-]+\.png)", readme))
    assert len(shots) < 20
    for page in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]:
        for link in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            assert (page.parent / link).exists(), f"{page.name}: {link}"


def test_every_command_in_the_docs_exists():
    known = set(
        re.findall(
            r"^  (\w+)",
            subprocess.run(
                ["./run", "help"], cwd=ROOT, capture_output=True, text=True, check=True
            ).stdout,
            re.M,
        )
    )
    for page in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]:
        assert set(re.findall(r"\./run (\w+)", page.read_text())) <= known, page.name


def test_the_readme_lists_the_key_of_every_dialog():
    listed = re.findall(r"^\| `(.)` \| (.+) \|$", (ROOT / "README.md").read_text(), re.M)
    assert sorted(listed) == sorted((one.key, one.tells) for one in dialogs().values())


def test_every_module_that_the_docs_name_exists():
    rooms = [ROOT, ROOT / "sizing", ROOT / "kyrtos", *(ROOT / "kyrtos").iterdir()]
    rooms += [room for room in (ROOT / "sizing").rglob("*") if room.is_dir()]
    for page in (ROOT / "docs").glob("*.md"):
        for name in re.findall(r"`([\w/.]+\.(?:py|csv|js))`", page.read_text()):
            scripts = list((ROOT / "kyrtos" / "static").rglob(name))
            assert scripts or any((room / name).exists() for room in rooms), f"{page.name}: {name}"


def test_templates_keep_to_120_columns_and_nothing_is_packed():
    assert [
        f"{path.name}:{number}"
        for path in OWN
        if path.suffix == ".html"
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > 120
    ] == []
    # ruff lets lines with a pragma be longer
    assert [
        f"{path.name}:{number}"
        for path in OWN
        if path.suffix == ".py"
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > 100
    ] == []
    skip = "fmt:" + " skip"
    assert [path.name for path in OWN if path.suffix == ".py" and skip in path.read_text()] == []


def test_the_size_command_of_the_readme_works():
    command = next(
        line.strip()
        for line in (ROOT / "README.md").read_text().splitlines()
        if line.startswith("    ./run size")
    )
    done = subprocess.run(command.split(), cwd=ROOT, capture_output=True, text=True, check=True)
    assert json.loads(done.stdout)["chosen"]["pump"] == "vessmar-tarn-80"


def test_an_unknown_command_is_told():
    done = subprocess.run(["./run", "fly"], cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "no command 'fly'" in done.stderr


def test_a_taken_port_is_told_in_a_sentence():
    import socket

    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        done = subprocess.run(
            ["./run", "demo"],
            cwd=ROOT,
            env={"PATH": "/usr/bin:/bin", "KYRTOS_PORT": str(port)},
            capture_output=True,
            text=True,
            check=False,
            timeout=60,
        )
    assert done.returncode == 1
    assert f"port {port} is taken by another program" in done.stderr
    assert "Traceback" not in done.stderr


def test_a_new_kind_is_one_new_file(tmp_path):
    """What docs/architecture.md promises, tried: a file put beside the others is a kind."""
    source = (ROOT / "sizing" / "kinds" / "sump.py").read_text()
    code = (
        source.replace('code = "sump"', 'code = "cistern"')
        .replace("class Sump(PitKind)", "class Cistern(PitKind)")
        .replace("KIND = Sump()", "KIND = Cistern()")
    )
    (tmp_path / "cistern.py").write_text(code)
    probe = (
        f"import sizing.kinds as k; k.__path__.append({str(tmp_path)!r});"
        "from sizing.document.job import JobDocument; from sizing.size import size;"
        "from sizing.pump.catalogue import EMPTY;"
        "print(sorted(k.kinds()), size(JobDocument(kind='cistern',"
        " legs=k.kind('cistern').default_legs), EMPTY).missing[0].path)"
    )
    done = subprocess.run(
        [str(ROOT / ".venv" / "bin" / "python"), "-c", probe],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.strip() == f"{sorted([*kinds(), 'cistern'])} answers.rise"
    assert "cistern" not in kinds()
