"""As it runs on a server: not as root, in folders of its own, nothing that lets in in its logs."""

import logging
import os
import re
import shutil
import stat
import subprocess
from pathlib import Path

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage
from django.test import Client

from kyrtos.accounts import people
from kyrtos.config.logs import WithoutSecrets, without_secrets
from tests.codes import code_now
from tests.kyrtos import test_signing_in
from tests.kyrtos.test_keeping import plain
from tests.kyrtos.test_signing_in import STEPS, set_up, signed_in

isolde = test_signing_in.isolde
ROOT = Path(__file__).parents[2]
UNITS = sorted((ROOT / "deploy" / "systemd").glob("*.service"))


@pytest.mark.skipif(os.getuid() != 0, reason="only root is refused")
@pytest.mark.parametrize("what", ["serve", "work"])
def test_it_serves_nobody_as_root_and_says_what_to_do(what):
    env = {key: value for key, value in os.environ.items() if not key.startswith("KYRTOS")}
    done = subprocess.run(
        [ROOT / "run", what], capture_output=True, text=True, env=env, timeout=120
    )
    assert done.returncode == 1
    assert f"does not {what} as root" in done.stderr
    assert "runuser -u kyrtos" in done.stderr


@pytest.mark.parametrize("unit", UNITS, ids=lambda one: one.stem)
def test_the_units_of_systemd_are_sound_and_closed(unit, tmp_path):
    told = unit.read_text()
    for line in ("User=kyrtos", "UMask=0077", "StateDirectoryMode=0700", "NoNewPrivileges=true"):
        assert line in told, line
    # the readers of XLSX, PDF and a shop's ZIP limit themselves before they read
    assert not re.search(r"^SystemCallFilter=~.*@resources", told, re.M)
    written = re.search(r"^ReadWritePaths=(.*)$", told, re.M)[1].split()
    for name, place in re.findall(
        r"(KYRTOS_(?:FILES|BACKUP_FOLDER|STATIC_ROOT|CACHE))=(\S+)", told
    ):
        assert any(place.startswith(one) for one in written), name
    if shutil.which("systemd-analyze") is None:
        pytest.skip("there is no systemd-analyze here")
    here = tmp_path / unit.name  # with programs that there are, so that only the unit is judged
    here.write_text(told.replace("/opt/kyrtos/.venv/bin/python", "/usr/bin/python3"))
    done = subprocess.run(
        ["systemd-analyze", "verify", "--recursive-errors=no", here], capture_output=True, text=True
    )
    wrong = [line for line in done.stderr.splitlines() if unit.name in line]
    assert wrong == []
    judged = subprocess.run(
        ["systemd-analyze", "security", "--offline=true", "--threshold=30", here],
        capture_output=True,
        text=True,
    )
    assert judged.returncode == 0, judged.stdout[-400:]  # exposure under 3.0 of 10


def test_only_the_web_unit_migrates_and_collects():
    told = {one.stem: one.read_text() for one in UNITS}
    for word in ("migrate --noinput", "collectstatic --noinput"):
        assert f"ExecStartPre=/opt/kyrtos/.venv/bin/python manage.py {word}" in told["kyrtos-web"]
        assert word not in told["kyrtos-worker"]


def test_files_and_their_folders_are_for_one_account(tmp_path):
    store = FileSystemStorage(location=tmp_path / "files")
    name = store.save("shop-1/a.jpg", ContentFile(b"x"))
    for place, mode in ((name, 0o600), ("shop-1", 0o700), (".", 0o700)):
        assert stat.S_IMODE(os.stat(tmp_path / "files" / place).st_mode) == mode, place


@pytest.mark.parametrize(
    "line",
    ["/join/SECRET/", "/sign-in/password/new/a-SECRET/", "/address/SECRET/", "/held/SECRET:x/"],
)
def test_no_token_is_in_a_line_of_the_log(line):
    assert "SECRET" not in without_secrets(f"Gone: {line} by 10.0.0.1")


def test_a_link_that_was_used_leaves_no_token_in_the_log(shop, caplog):
    token = people.invite(shop, None, "viewer")
    people.still_open(shop).delete()
    kept = []

    class Kept(logging.Handler):
        def emit(self, record):
            kept.append(self.format(record))

    handler = Kept()
    handler.addFilter(WithoutSecrets())
    logging.getLogger("django.request").addHandler(handler)
    try:
        assert Client().get(f"/join/{token}/").status_code == 410
    finally:
        logging.getLogger("django.request").removeHandler(handler)
    assert any("/join/..." in line for line in kept)
    assert not any(token in line for line in kept)


def test_what_is_tested_is_what_runs():
    """One set of versions: the developers' lock keeps to the application's."""

    def pinned(name: str) -> dict[str, str]:
        text = (ROOT / "requirements" / f"{name}.txt").read_text()
        return dict(re.findall(r"^([a-z0-9._-]+)(?:\[[^\]]*\])?==(\S+)", text, re.M))

    app, dev = pinned("app"), pinned("dev")
    assert len(app) > 60
    assert {name: dev.get(name) for name in app} == app


def test_who_guesses_codes_at_one_address_locks_nobody_out_at_another(isolde):
    secret = set_up(signed_in())
    guesser = signed_in()
    said = ""
    for at in range(12):
        sent = {"code": f"{at:06}"}
        answer = guesser.post(f"{STEPS}/authenticate/", sent, REMOTE_ADDR="203.0.113.9")
        said = plain(answer)
        if "Too many" in said:
            break
    assert "Too many" in said
    right = signed_in()
    right.post(f"{STEPS}/authenticate/", {"code": code_now(secret)}, REMOTE_ADDR="198.51.100.4")
    assert right.get("/").status_code == 200
