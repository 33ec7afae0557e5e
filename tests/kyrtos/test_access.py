"""Who gets what at every address: one table over (role, method, address, status)."""

import pytest
from django.test import Client
from django.urls import get_resolver

ROLES = ("owner", "estimator", "technician", "viewer", "stranger", "nobody")
SEE = (200, 200, 200, 200, 404, 302)
EDIT = (200, 200, 200, 403, 404, 302)
EDIT_UNREAD = (422, 422, 422, 403, 404, 302)
EDIT_REFUSED = (400, 400, 400, 403, 404, 302)
# (name, method, address with {job}, posted, statuses in the order of ROLES)
EDIT_GOES = (302, 302, 302, 403, 404, 302)
GONE = (404, 404, 404, 403, 404, 302)
NO_FILE = "/sites/files/5b1d2b0e-6f1a-4b43-9f5d-0a2a2a6f0f00/"
TABLE = [
    ("job-list", "get", "/", {}, (200, 200, 200, 200, 200, 302)),
    ("new-job", "get", "/jobs/new/", {}, (200, 200, 200, 403, 200, 302)),
    (
        "new-job",
        "post",
        "/jobs/new/",
        {"title": "", "kind": "sump"},
        (422, 422, 422, 403, 422, 302),
    ),
    ("recheck", "get", "/jobs/recheck/", {}, (200, 200, 200, 200, 200, 302)),
    ("recheck-now", "post", "/jobs/recheck/now/", {}, (302, 302, 302, 403, 302, 302)),
    ("told-job", "post", "/jobs/new/told/", {}, (422, 422, 422, 403, 422, 302)),
    ("upload-job", "post", "/jobs/upload/", {}, (422, 422, 422, 403, 422, 302)),
    ("worksheet", "get", "/jobs/{job}/", {}, SEE),
    ("change", "post", "/jobs/{job}/change/", {"path": "answers.rise", "value": "110 mm"}, EDIT),
    ("legs", "post", "/jobs/{job}/legs/add/", {}, EDIT),
    ("counter-sold", "get", "/counter/sold/", {}, (200, 200, 200, 403, 200, 302)),
    ("take-basin", "post", "/jobs/{job}/basin/", {"size": "?"}, (400, 400, 400, 403, 404, 302)),
    ("remedy", "post", "/jobs/{job}/remedy/", {"remedy": "none"}, (409, 409, 409, 403, 404, 302)),
    ("rows", "post", "/jobs/{job}/rows/add/", {"list": "none"}, EDIT_REFUSED),
    ("step", "post", "/jobs/{job}/undo/", {}, EDIT),
    ("dialog", "get", "/jobs/{job}/dialogs/methods/", {}, SEE),
    ("ground", "get", "/jobs/{job}/dialogs/survey/", {"leg": "a"}, SEE),
    ("take-weather", "post", "/jobs/{job}/weather/", {}, EDIT_UNREAD),
    ("take-log", "post", "/jobs/{job}/measured/", {}, EDIT_UNREAD),
    (
        "keep-calculation-review",
        "post",
        "/jobs/{job}/calculation-review/",
        {"do": "drop"},
        EDIT_GOES,
    ),
    ("survey", "post", "/jobs/{job}/survey/", {"leg": "a", "text": ""}, EDIT_UNREAD),
    ("tape-file", "get", "/jobs/{job}/paper/head.csv", {}, SEE),
    ("specification", "get", "/jobs/{job}/paper/wanted.txt", {}, SEE),
    ("picture-file", "get", "/jobs/{job}/paper/picture.svg", {}, SEE),
    ("basin-order", "get", "/jobs/{job}/paper/basin.svg", {}, SEE),
    ("run-file", "get", "/jobs/{job}/paper/run-wettest.csv", {}, SEE),
    ("job-file", "get", "/jobs/{job}/job.json", {}, SEE),
    ("sizing-file", "get", "/jobs/{job}/sizing.json", {}, SEE),
    ("following-job", "post", "/jobs/{job}/following/", {}, (400, 400, 400, 403, 404, 302)),
    ("copy-job", "post", "/jobs/{job}/copy/", {}, (302, 302, 302, 403, 404, 302)),
    (
        "issue-paper",
        "post",
        "/jobs/{job}/paper/issue/",
        {"revision": "999"},
        (302, 302, 403, 403, 404, 302),
    ),
    ("paper", "get", "/jobs/{job}/paper/7/", {}, (404, 404, 404, 404, 404, 302)),
    ("catalogue", "get", "/catalogue/", {}, (200, 200, 200, 200, 200, 302)),
    ("import-pumps", "get", "/catalogue/import/", {}, (200, 200, 403, 403, 200, 302)),
    ("import-pumps", "post", "/catalogue/import/", {}, (422, 422, 403, 403, 422, 302)),
    ("import", "get", "/catalogue/import/999999/", {}, (404, 404, 403, 403, 404, 302)),
    ("import", "post", "/catalogue/import/999999/", {}, (404, 404, 403, 403, 404, 302)),
    (
        "import-report",
        "get",
        "/catalogue/import/999999/report.csv",
        {},
        (404, 404, 403, 403, 404, 302),
    ),
    ("accept-pump", "post", "/catalogue/ondrath-k-11/accept/", {}, (302, 302, 403, 403, 302, 302)),
    (
        "archive-pump",
        "post",
        "/catalogue/ondrath-k-11/archive/",
        {},
        (302, 302, 403, 403, 404, 302),
    ),
    ("merge-pump", "get", "/catalogue/ondrath-k-11/merge/", {}, (200, 200, 403, 403, 404, 302)),
    ("merge-pump", "post", "/catalogue/ondrath-k-11/merge/", {}, (422, 422, 403, 403, 404, 302)),
    ("new-pump", "get", "/catalogue/new/", {}, (200, 200, 403, 403, 200, 302)),
    ("new-pump", "post", "/catalogue/new/", {}, (422, 422, 403, 403, 422, 302)),
    ("edit-pump", "get", "/catalogue/ondrath-k-11/edit/", {}, (200, 200, 403, 403, 404, 302)),
    ("edit-pump", "post", "/catalogue/ondrath-k-11/edit/", {}, (422, 422, 403, 403, 404, 302)),
    ("traces", "get", "/catalogue/trace/", {}, (200, 200, 403, 403, 200, 302)),
    ("traces", "post", "/catalogue/trace/", {}, (422, 422, 403, 403, 422, 302)),
    ("trace", "get", "/catalogue/trace/999999/", {}, (404, 404, 403, 403, 404, 302)),
    ("trace-image", "get", "/catalogue/trace/999999/image.png", {}, (404, 404, 403, 403, 404, 302)),
    ("trace-act", "post", "/catalogue/trace/999999/act/", {}, (404, 404, 403, 403, 404, 302)),
    ("trace-save", "post", "/catalogue/trace/999999/save/", {}, (404, 404, 403, 403, 404, 302)),
    ("export-xlsx", "get", "/catalogue/pumps.xlsx", {}, (200, 200, 403, 403, 200, 302)),
    ("export-pumps", "get", "/catalogue/pumps.csv", {}, (200, 200, 403, 403, 200, 302)),
    ("pump", "get", "/catalogue/ondrath-k-11/", {}, (200, 200, 200, 200, 404, 302)),
    ("customers", "get", "/customers/", {}, (200, 200, 200, 200, 200, 302)),
    ("new-customer", "get", "/customers/new/", {}, (200, 200, 200, 403, 200, 302)),
    ("new-customer", "post", "/customers/new/", {}, (422, 422, 422, 403, 422, 302)),
    ("import-customers", "get", "/customers/import/", {}, (200, 200, 403, 403, 200, 302)),
    ("import-customers", "post", "/customers/import/", {}, (422, 422, 403, 403, 422, 302)),
    ("export-customers", "get", "/customers.csv", {}, (200, 200, 403, 403, 200, 302)),
    ("export-customers", "get", "/customers.vcf", {}, (200, 200, 403, 403, 200, 302)),
    ("customer", "get", "/customers/{customer}/", {}, SEE),
    ("edit-customer", "get", "/customers/{customer}/edit/", {}, EDIT),
    ("edit-customer", "post", "/customers/{customer}/edit/", {}, EDIT_UNREAD),
    ("merge-customer", "get", "/customers/{customer}/merge/", {}, (200, 200, 403, 403, 404, 302)),
    ("merge-customer", "post", "/customers/{customer}/merge/", {}, (422, 422, 403, 403, 404, 302)),
    ("forget-customer", "get", "/customers/{customer}/forget/", {}, (200, 200, 403, 403, 404, 302)),
    (
        "forget-customer",
        "post",
        "/customers/{customer}/forget/",
        {},
        (422, 422, 403, 403, 404, 302),
    ),
    ("card", "get", "/customers/{customer}/card.vcf", {}, (200, 200, 403, 403, 404, 302)),
    ("new-site", "get", "/customers/{customer}/sites/new/", {}, EDIT),
    ("new-site", "post", "/customers/{customer}/sites/new/", {}, EDIT_UNREAD),
    ("site", "get", "/sites/{site}/", {}, SEE),
    ("edit-site", "get", "/sites/{site}/edit/", {}, EDIT),
    ("edit-site", "post", "/sites/{site}/edit/", {}, EDIT_UNREAD),
    ("merge-site", "get", "/sites/{site}/merge/", {}, (200, 200, 403, 403, 404, 302)),
    ("merge-site", "post", "/sites/{site}/merge/", {}, (422, 422, 403, 403, 404, 302)),
    ("undo-merge", "post", "/customers/merges/999/undo/", {}, (404, 404, 403, 403, 404, 302)),
    ("undo-pump-merge", "post", "/catalogue/merges/999/undo/", {}, (404, 404, 403, 403, 404, 302)),
    ("add-site-file", "post", "/sites/{site}/files/", {}, EDIT_UNREAD),
    ("site-file", "get", NO_FILE, {}, (404, 404, 404, 404, 404, 302)),
    ("held-file", "get", "/held/no-such-key/", {}, (404, 404, 404, 404, 404, 404)),
    ("remove-site-file", "post", f"{NO_FILE}remove/", {}, (404, 404, 404, 403, 404, 302)),
    ("installed-pumps", "get", "/pumps/", {}, (200, 200, 200, 200, 200, 302)),
    ("due", "get", "/pumps/due/", {}, (200, 200, 200, 200, 200, 302)),
    ("life", "get", "/pumps/life/", {}, (200, 200, 200, 200, 200, 302)),
    ("life-as-rule", "post", "/pumps/life/as-rule/", {}, (302, 403, 403, 403, 302, 302)),
    ("import-installed", "get", "/pumps/import/", {}, (200, 200, 200, 403, 200, 302)),
    ("import-installed", "post", "/pumps/import/", {}, (422, 422, 422, 403, 422, 302)),
    ("label-sheet", "get", "/pumps/labels.pdf?q=none", {}, (200, 200, 200, 200, 200, 302)),
    ("export-installed", "get", "/pumps.csv", {}, (200, 200, 200, 403, 200, 302)),
    ("export-installed", "get", "/pumps.xlsx", {}, (200, 200, 200, 403, 200, 302)),
    ("new-installed", "get", "/sites/{site}/pumps/new/", {}, EDIT),
    ("new-installed", "post", "/sites/{site}/pumps/new/", {}, EDIT_UNREAD),
    ("put-in", "get", "/jobs/{job}/put-in/", {}, EDIT),
    ("put-in", "post", "/jobs/{job}/put-in/", {}, EDIT_UNREAD),
    ("pump-worker", "get", "/p/worker.js", {}, (200,) * 6),
    ("installed-pump", "get", "/p/{code}/", {}, SEE),
    ("change-installed", "get", "/p/{code}/change/", {}, EDIT),
    ("change-installed", "post", "/p/{code}/change/", {}, EDIT_UNREAD),
    ("label", "get", "/p/{code}/label.pdf", {}, SEE),
    ("plate", "post", "/p/{code}/plate/", {}, EDIT_UNREAD),
    ("add-event", "post", "/p/{code}/events/", {}, EDIT_UNREAD),
    ("add-reminder", "post", "/p/{code}/reminders/", {}, EDIT_UNREAD),
    ("reminder-done", "post", "/p/{code}/reminders/999999/", {}, EDIT_GOES),
    ("take-back", "post", "/p/{code}/events/999999/back/", {}, EDIT_GOES),
    ("commission", "get", "/p/{code}/commission/", {}, SEE),
    ("commission", "post", "/p/{code}/commission/", {}, EDIT_UNREAD),
    ("old-readings", "get", "/p/{code}/readings/before/", {}, (200, 200, 200, 403, 404, 302)),
    ("old-readings", "post", "/p/{code}/readings/before/", {}, EDIT_UNREAD),
    ("readings", "get", "/p/{code}/readings/999999/", {}, (404, 404, 404, 404, 404, 302)),
    ("as-built", "post", "/p/{code}/readings/999999/as-built/", {}, GONE),
    ("counter", "get", "/counter/", {}, (200, 200, 200, 200, 200, 302)),
    ("counter", "get", "/counter/?volts=much", {}, (422, 422, 422, 422, 422, 302)),
    ("counter-size", "post", "/counter/size/", {}, (302, 302, 302, 403, 302, 302)),
    ("calculation-review", "get", "/calculation-review/", {}, (200, 200, 200, 200, 200, 302)),
    (
        "calculation-review-sheet",
        "post",
        "/calculation-review/sheet/",
        {},
        (422, 422, 422, 422, 422, 302),
    ),
    ("pipes-like", "get", "/pipes/?q=40+pe", {}, (200, 200, 200, 200, 200, 302)),
    ("which-pump", "get", "/which-pump/", {}, (200, 200, 200, 200, 200, 302)),
    ("settings", "get", "/settings/", {}, (200, 200, 200, 200, 200, 302)),
    ("shop-settings", "get", "/settings/shop/", {}, (200, 403, 403, 403, 200, 302)),
    ("shop-settings", "post", "/settings/shop/", {}, (422, 403, 403, 403, 422, 302)),
    ("ask-own-pump", "get", "/jobs/{job}/dialogs/own-pump/", {}, SEE),
    ("own-pump", "post", "/jobs/{job}/own-pump/", {"name": ""}, (422, 422, 422, 403, 404, 302)),
    ("archive-job", "post", "/jobs/{job}/archive/", {"do": "back"}, EDIT_GOES),
    ("job-notes", "post", "/jobs/{job}/notes/", {"text": ""}, EDIT_GOES),
    ("site-sheet", "get", "/jobs/{job}/paper/site-sheet.pdf", {}, (200, 200, 200, 200, 404, 302)),
    ("blank-site-sheet", "get", "/site-sheet/well.pdf", {}, (200, 200, 200, 200, 200, 302)),
    ("blank-site-sheet", "get", "/site-sheet/none.pdf", {}, (404, 404, 404, 404, 404, 302)),
    ("rules", "get", "/rules/", {}, (200, 200, 200, 200, 200, 302)),
    ("rule", "get", "/rules/CYC-01/", {}, (200, 200, 200, 200, 200, 302)),
    ("rule", "post", "/rules/CYC-01/", {"usual": "", "reason": ""}, (422, 403, 403, 403, 422, 302)),
    ("rule", "get", "/rules/NONE-01/", {}, (404, 404, 404, 404, 404, 302)),
    ("audit", "get", "/audit/", {}, (200, 403, 403, 403, 200, 302)),
    ("people", "get", "/people/", {}, (200, 403, 403, 403, 200, 302)),
    ("people", "post", "/people/", {}, (422, 403, 403, 403, 422, 302)),
    ("change-member", "post", "/people/999999/", {}, (404, 403, 403, 403, 404, 302)),
    ("withdraw", "post", "/people/link/999999/", {}, (302, 403, 403, 403, 302, 302)),
    ("withdraw-all", "post", "/people/links/withdraw/", {}, (302, 403, 403, 403, 302, 302)),
    ("join", "get", "/join/no-such-link/", {}, (410, 410, 410, 410, 410, 410)),
    ("password", "get", "/settings/password/", {}, (404, 404, 404, 404, 200, 302)),
    ("security", "get", "/settings/signing-in/", {}, (200, 200, 200, 200, 200, 302)),
    ("own-address", "get", "/settings/signing-in/address/", {}, (200, 200, 200, 200, 200, 302)),
    ("confirm-address", "get", "/address/no-such-key/", {}, (410, 410, 410, 410, 410, 410)),
    ("end-sessions", "get", "/settings/signing-in/end/", {}, (405, 405, 405, 405, 405, 405)),
    ("change-shop", "post", "/settings/in/999999/", {}, (404, 404, 404, 404, 404, 302)),
    ("own-data", "get", "/settings/signing-in/data.json", {}, (200, 200, 200, 200, 200, 302)),
    ("member-data", "get", "/people/999999/data.json", {}, (404, 403, 403, 403, 404, 302)),
    ("back-ups", "get", "/back-ups/", {}, (200, 403, 403, 403, 200, 302)),
    ("take-shop-file", "post", "/shop-file/", {}, (422, 403, 403, 403, 422, 302)),
    ("make-shop-file", "post", "/shop-file/new/", {}, (302, 403, 403, 403, 302, 302)),
    ("file", "get", "/shop-file/999999/", {}, (404, 404, 404, 404, 404, 302)),
    ("file-content", "get", "/shop-file/999999/content/", {}, (404, 404, 404, 404, 404, 302)),
    ("phone-now", "get", "/p/now/", {}, (200, 200, 200, 200, 200, 200)),
    ("begin", "get", "/begin/", {}, (404, 404, 404, 404, 404, 404)),
    ("account_login", "get", "/sign-in/", {}, (302, 302, 302, 302, 302, 200)),
    ("sign-in", "get", "/sign-in/", {}, (302, 302, 302, 302, 302, 200)),
    ("health-web", "get", "/health/web", {}, (200, 200, 200, 200, 200, 200)),
    ("health", "get", "/health", {}, (503, 503, 503, 503, 503, 503)),  # no worker runs here
    ("running", "get", "/running/", {}, (200, 403, 403, 403, 200, 302)),
    ("try-again", "post", "/running/999999/again/", {}, (404, 403, 403, 403, 404, 302)),
    ("may-send", "get", "/may-send", {}, (204, 204, 204, 204, 204, 401)),
    ("sign-in-first", "get", "/sign-in-first", {}, (302, 302, 302, 302, 302, 302)),
]
ELSEWHERE = {"demo-sign-in", "sign-in-over", "sign-out", "account_logout"}  # tested below
STEPS = "/settings/signing-in/steps"
# Pages of allauth: who is not signed in goes to the sign-in.
TABLE += [  # of the stranger, who has a password, it is asked once more where something may change
    (name, "get", address, {}, (*(found,) * 4, of_stranger, 302))
    for name, address, found, of_stranger in (
        ("mfa_index", f"{STEPS}/", 200, 200),
        ("mfa_activate_totp", f"{STEPS}/totp/activate/", 200, 200),
        ("mfa_deactivate_totp", f"{STEPS}/totp/deactivate/", 404, 404),
        ("mfa_view_recovery_codes", f"{STEPS}/recovery-codes/", 404, 404),
        ("mfa_download_recovery_codes", f"{STEPS}/recovery-codes/download/", 404, 404),
        ("mfa_generate_recovery_codes", f"{STEPS}/recovery-codes/generate/", 200, 200),
        ("mfa_list_webauthn", f"{STEPS}/webauthn/", 200, 200),
        ("mfa_add_webauthn", f"{STEPS}/webauthn/add/", 200, 200),
        ("mfa_remove_webauthn", f"{STEPS}/webauthn/keys/999999/remove/", 404, 404),
        ("mfa_edit_webauthn", f"{STEPS}/webauthn/keys/999999/edit/", 404, 404),
        ("mfa_reauthenticate", f"{STEPS}/reauthenticate/", 403, 302),
        ("mfa_reauthenticate_webauthn", f"{STEPS}/webauthn/reauthenticate/", 403, 302),
        ("mfa_authenticate", f"{STEPS}/authenticate/", 302, 302),
        ("mfa_login_webauthn", f"{STEPS}/webauthn/login/", 302, 302),
        ("account_reauthenticate", "/sign-in/again/", 403, 200),
    )
]
TABLE += [
    (name, "get", address, {}, (200,) * 6)
    for name, address in (
        ("account_reset_password", "/sign-in/password/"),
        ("account_reset_password_done", "/sign-in/password/sent/"),
        ("account_reset_password_from_key", "/sign-in/password/new/1-none/"),
        ("account_reset_password_from_key_done", "/sign-in/password/kept/"),
        ("account_inactive", "/sign-in/inactive/"),
    )
]


@pytest.mark.parametrize("role", ROLES)
def test_every_address_for(role, as_role, job, monkeypatch):
    monkeypatch.setattr("weasyprint.HTML.write_pdf", lambda *_, **__: b"%PDF-")  # slow to print
    client = as_role(role)
    pump = job.shop.installed.create(site=job.site_record, maker="Ondrath", model="K 11")
    at = {
        "job": job.pk,
        "customer": job.customer_record_id,
        "site": job.site_record_id,
        "code": pump.code,
    }
    got = {
        (method, address): getattr(client, method)(address.format(**at), posted).status_code
        for _, method, address, posted, _ in TABLE
    }
    assert got == {
        (method, address): statuses[ROLES.index(role)] for _, method, address, _, statuses in TABLE
    }


def _names(patterns):
    for pattern in patterns:
        if hasattr(pattern, "url_patterns"):
            yield from _names(pattern.url_patterns)
        elif pattern.name:
            yield pattern.name


def test_the_table_holds_every_address():
    assert set(_names(get_resolver().url_patterns)) == {row[0] for row in TABLE} | ELSEWHERE


def test_the_demo_click_works_on_loopback_in_demo_mode_only(shop, settings):
    assert Client(REMOTE_ADDR="127.0.0.1").post("/sign-in/demo/").status_code == 302
    assert Client(REMOTE_ADDR="10.0.0.7").post("/sign-in/demo/").status_code == 404
    assert (
        Client(REMOTE_ADDR="127.0.0.1", headers={"X-Forwarded-For": "10.0.0.7"})
        .post("/sign-in/demo/")
        .status_code
        == 404
    )
    owner = Client(REMOTE_ADDR="127.0.0.1")
    owner.post("/sign-in/demo/", {"who": "isolde"})
    assert b"Isolde Marrack" in owner.get("/").content
    shop.memberships.get(role="owner").user.set_password("x")
    settings.DEMO = False
    assert Client(REMOTE_ADDR="127.0.0.1").post("/sign-in/demo/").status_code == 404


def test_signing_in_with_a_password_and_out(shop, django_user_model):
    user = django_user_model.objects.get(username="isolde")
    user.set_password("weir-steps-nine")
    user.save()
    client = Client()
    assert (
        b"do not go together"
        in client.post("/sign-in/", {"username": "isolde", "password": "wrong"}).content
    )
    assert (
        client.post("/sign-in/", {"username": "isolde", "password": "weir-steps-nine"}).url == "/"
    )
    assert client.post("/sign-out/").status_code == 302
    assert client.get("/").status_code == 302


def test_a_person_without_a_shop_may_do_nothing(db, django_user_model):
    client = Client()
    client.force_login(django_user_model.objects.create(username="lost"))
    assert client.get("/").status_code == 403


def test_a_strict_policy_goes_with_every_page(estimator):
    policy = estimator.get("/").headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy


def test_forms_are_guarded_against_forged_requests(shop):
    client = Client(enforce_csrf_checks=True)
    client.force_login(shop.memberships.get(role="owner").user)
    assert client.post("/jobs/new/", {"title": "x"}).status_code == 403
