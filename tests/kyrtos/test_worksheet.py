import io
import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from pypdf import PdfReader

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.paper.services import freeze
from sizing.document import job as document
from tests.kyrtos.conftest import change, walk
from tests.kyrtos.reading import text_of
from tests.thin import some


def test_the_page_and_the_fragment_are_the_same_sheet(estimator, job):
    page = estimator.get(f"/jobs/{job.pk}/")
    fragment = estimator.get(f"/jobs/{job.pk}/", headers={"HX-Request": "true"})
    assert page.headers["Vary"].count("HX-Request") == 1
    assert b"<html" in page.content
    assert b"<html" not in fragment.content
    for part in (b'id="verdict"', b"Vessmar Tarn 80", b"<svg", b'id="total-head"'):
        assert part in page.content
        assert part in fragment.content


def test_an_edit_saves_sizes_and_answers_with_the_sheet(estimator, job):
    answer = change(estimator, job, "answers.rise", "4 in")
    assert answer.status_code == 200
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "4 in"
    assert job.revisions.count() == 2
    assert f'data-revision="{job.current_revision}"' in text_of(answer)


def test_nonsense_is_told_beside_the_field_and_survives_a_reload(estimator, job):
    change(estimator, job, "answers.rise", "<b>lots</b>")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert 'value="&lt;b&gt;lots&lt;/b&gt;"' in text
    assert "holds no number that can be read" in text
    assert "shown with the last good value of: Rise with the pump off" in text
    assert "Ondrath K 11" in text


@pytest.mark.parametrize(
    "value",
    some(["", "-5 m", "99999 km", "5 bananas", "nan", "1e999 m", "x" * 5000, "½ in", "0"], 3),
)
@pytest.mark.parametrize(
    "path",
    some(
        [
            "answers.rise",
            "answers.pit_diameter",
            "answers.margin",
            "legs.a.length",
            "legs.a.ends_at",
            "legs.a.pipe",
            "legs.a.fittings",
            "pump",
            "title",
        ],
        4,
    ),
)
def test_no_value_in_any_field_breaks_the_sheet(estimator, job, path, value):
    assert change(estimator, job, path, value).status_code == 200
    assert estimator.get(f"/jobs/{job.pk}/").status_code == 200


def test_a_broken_form_gets_a_plain_answer(estimator, job):
    assert change(estimator, job, "answers.colour", "red").status_code == 400
    assert estimator.post(f"/jobs/{job.pk}/legs/remove/", {"leg": "zz"}).status_code == 409


def test_undo_takes_a_row_of_typing_as_one_step_and_redo_brings_it_back(estimator, job):
    for text in ("1", "11", "110 mm"):
        job.refresh_from_db()
        change(estimator, job, "answers.rise", text)
    walk(estimator, job, "undo")
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "102 mm"
    assert services.steps(job) == services.Steps(back=False, forward=True)
    walk(estimator, job, "redo")
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "110 mm"


def test_nobody_takes_back_what_somebody_else_did_unseen(estimator, job):
    change(estimator, job, "answers.rise", "110 mm", page="one")
    seen = job.current_revision
    change(estimator, job, "answers.margin", "2", page="two")
    answer = estimator.post(
        f"/jobs/{job.pk}/undo/", {"revision": seen}, headers={"HX-Request": "true"}
    )
    assert "Nothing was undone" in text_of(answer)
    job.refresh_from_db()
    assert services.current(job).answers["margin"].text == "2 ×"


def test_a_change_after_undo_starts_a_new_line_and_loses_no_revision(estimator, job):
    change(estimator, job, "answers.rise", "110 mm")
    walk(estimator, job, "undo")
    job.refresh_from_db()
    change(estimator, job, "answers.margin", "2")
    job.refresh_from_db()
    assert (job.current_revision, job.revisions.count()) == (3, 3)
    assert job.revisions.get(number=3).parent == 1
    assert services.redo(job, job.current_revision) is False


def test_nothing_before_the_first_revision(job):
    assert services.undo(job, job.current_revision) is False


def test_two_pages_on_different_fields_both_win(estimator, job):
    change(estimator, job, "answers.rise", "110 mm", revision=1, page="one")
    answer = change(estimator, job, "answers.margin", "2", revision=1, page="two")
    assert "changed this field meanwhile" not in text_of(answer)
    job.refresh_from_db()
    held = services.current(job).answers
    assert (held["rise"].text, held["margin"].text) == ("110 mm", "2 ×")


def test_two_pages_on_one_field_the_second_sees_both_and_chooses(estimator, job):
    change(estimator, job, "answers.rise", "110 mm", revision=1, page="one")
    answer = change(estimator, job, "answers.rise", "120 mm", revision=1, page="two")
    assert "Wenna Polreath changed this field meanwhile to “110 mm”; you typed “120 mm”" in text_of(
        answer
    )
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "110 mm"
    change(estimator, job, "answers.rise", "120 mm", revision=1, page="two", keep="mine")
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "120 mm"


@pytest.mark.parametrize(
    ("path", "theirs", "shown"),
    [
        ("legs.a.pipe", "PE100 SDR 11 63 mm", "PE100 SDR 11 63 mm"),
        ("legs.a.fittings", "check, elbow", "check, elbow"),
        ("legs.a.length", "3 m", "3 m"),
        ("title", "Crypt", "Crypt"),
    ],
)
def test_every_sort_of_field_can_be_in_conflict(estimator, job, path, theirs, shown):
    change(estimator, job, path, theirs, revision=1, page="one")
    answer = change(estimator, job, path, "PVC-U PN10 63 mm", revision=1, page="two")
    assert f"changed this field meanwhile to “{shown}”" in text_of(answer)


def test_the_same_edit_sent_twice_changes_nothing_more(estimator, job):
    change(estimator, job, "answers.rise", "110 mm", revision=1)
    answer = change(estimator, job, "answers.rise", "110 mm", revision=1)
    job.refresh_from_db()
    assert job.revisions.count() == 2
    assert "changed this field" not in text_of(answer)


def test_one_page_typing_on_is_no_conflict_with_itself(estimator, job):
    change(estimator, job, "answers.rise", "110 mm", revision=1)
    change(estimator, job, "answers.rise", "115 mm", revision=1)
    job.refresh_from_db()
    assert services.current(job).answers["rise"].text == "115 mm"


def test_picking_a_pump_and_giving_it_back_to_the_rules(estimator, job):
    assert (
        b"The Tiddan Linnet 12 will run"
        in change(estimator, job, "pump", "tiddan-linnet-12").content
    )
    job.refresh_from_db()
    assert job.pump == "Tiddan Linnet 12"
    assert b"The Vessmar Tarn 80 will run" in change(estimator, job, "pump", "").content


def test_a_leg_too_short_for_its_climb_is_refused_beside_its_field(estimator, job):
    answer = change(estimator, job, "legs.b.length", "1 m").content.decode()
    said = re.search(r'id="say-leg-b">(.*?)</div>', answer, re.S)[1]
    assert "the yard is too short: 1.00\u00a0m long, and it has to climb 3.70\u00a0m" in said
    field = re.search(r'<input[^>]*data-path="legs.b.length"[^>]*>', answer)[0]
    assert 'value="1 m"' in field
    assert 'aria-invalid="true"' in field
    job.refresh_from_db()
    assert job.verdict == "bad"


def test_the_verdict_is_one_word_on_worksheet_list_and_in_files(estimator, job):
    for path, text, word in (
        ("answers.time_to_come", "2 min", "good"),
        ("answers.time_to_come", "3 h", "watch"),
        ("answers.start_level", "180 mm", "bad"),
    ):
        shown = change(estimator, job, path, text).content.decode()
        assert f'<span class="verdict-word {word}' in " ".join(shown.split())
        job.refresh_from_db()
        assert job.verdict == word
        listed = " ".join(estimator.get("/").content.decode().split())
        assert f'class="verdict-word {word}"' in listed
        result = estimator.get(f"/jobs/{job.pk}/sizing.json").json()
        assert result["verdict"]["state"] == word


def test_when_nothing_fits_the_cures_that_were_tried_stand_beside_the_best_try(estimator, job):
    shown = change(estimator, job, "answers.voltage", "100 V").content.decode()
    assert "What would help, tried:" in shown
    assert "a supply of 230" in shown
    assert "which comes nearest" in shown


def test_one_click_takes_what_helps_and_one_undo_takes_it_back(estimator, job):
    shown = change(estimator, job, "answers.voltage", "100 V").content.decode()
    (key,) = re.findall(r'data-remedy="(supply-[^"]+)"', shown)
    assert "What would help: a supply of 230" in shown  # the headline says the best
    job.refresh_from_db()
    gone = estimator.post(f"/jobs/{job.pk}/remedy/", {"remedy": "start-1"})
    assert gone.status_code == 409
    assert "changed since" in gone.text
    taken = estimator.post(
        f"/jobs/{job.pk}/remedy/", {"remedy": key}, headers={"HX-Request": "true"}
    )
    assert "data-remedy" not in taken.text
    job.refresh_from_db()
    answers = services.current(job).answers
    assert (answers["voltage"].value, answers["phases"]) == (230, "1")
    assert estimator.post(f"/jobs/{job.pk}/remedy/", {"remedy": key}).status_code == 409  # twice
    walk(estimator, job, "undo")
    job.refresh_from_db()
    assert services.current(job).answers["voltage"].value == 100


def test_a_basin_is_taken_whole_and_one_undo_takes_it_back(estimator, job):
    shown = estimator.get(f"/jobs/{job.pk}/dialogs/basins/").text
    sizes = re.findall(r'data-basin="([^"]+)"', shown)
    assert sizes
    before = services.current(job).answers
    head = {"HX-Request": "true"}
    taken = estimator.post(f"/jobs/{job.pk}/basin/", {"size": sizes[-1]}, headers=head)
    assert taken.status_code == 200
    job.refresh_from_db()
    after = services.current(job).answers
    diameter, depth = re.findall(r"\d+", sizes[-1])
    assert after["pit_diameter"].value == float(diameter)
    assert after["pit_depth"].value == float(depth)
    assert len([key for key in after if after[key] != before.get(key)]) >= 5
    walk(estimator, job, "undo")
    job.refresh_from_db()
    assert services.current(job).answers == before
    wrong = estimator.post(f"/jobs/{job.pk}/basin/", {"size": "huge"})
    assert wrong.status_code == 400


def test_the_wanted_basin_is_drawn_and_what_fails_stands_on_its_order(estimator, job):
    at = f"/jobs/{job.pk}/dialogs/basins/"
    shown = estimator.get(at, {"wish": "450 x 900 mm", "drew": "", "show": "here"}).text
    assert '<option value="wish" selected' in shown
    (query,) = set(re.findall(r'basin\.pdf\?([^"]+)"', shown))
    assert "too low over its alarm" in text_of(estimator.get(at, {"wish": "450 x 900 mm"}))
    order = estimator.get(f"/jobs/{job.pk}/paper/basin.pdf?{query.replace('&amp;', '&')}")
    words = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(order.content)).pages)
    assert "too low over its alarm" in " ".join(words.split())


def test_the_state_in_the_list_follows_the_sizing(estimator, job):
    assert job.state == "sized"
    change(estimator, job, "answers.rise", "400 mm")
    job.refresh_from_db()
    assert (job.state, job.pump) == ("no_fit", "")
    change(estimator, job, "answers.flow_from", "rain")
    job.refresh_from_db()
    assert job.state == "open"


def test_a_viewer_sees_and_cannot_type(as_role, job):
    text = as_role("viewer").get(f"/jobs/{job.pk}/").content.decode()
    assert "Issue the paper" not in text
    assert 'data-may-edit="0"' in text
    sheet = text[text.index('id="stages"') :]
    fields = re.findall(r"<(?:input|select)[^>]*data-path[^>]*>", sheet)
    assert len(fields) > 30
    assert all("disabled" in field for field in fields)


def test_downloaded_and_uploaded_a_job_is_the_same(estimator, job):
    content = estimator.get(f"/jobs/{job.pk}/job.json").content
    from django.core.files.uploadedfile import SimpleUploadedFile

    answer = estimator.post("/jobs/upload/", {"file": SimpleUploadedFile("job.json", content)})
    made = Job.objects.get(pk=answer.url.strip("/").split("/")[-1])
    assert services.current(made) == services.current(job)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"{", "not JSON"),
        (b'{"format": "kyrtos-job/1", "kind": "x"}', "no kind of job"),
        (b" " * 2_000_000, "larger than 1 MB"),
    ],
)
def test_a_bad_job_file_is_told(estimator, content, says):
    from django.core.files.uploadedfile import SimpleUploadedFile

    answer = estimator.post("/jobs/upload/", {"file": SimpleUploadedFile("job.json", content)})
    assert answer.status_code == 422
    assert says in text_of(answer)


def test_the_result_as_json_is_what_the_command_line_prints(estimator, job):
    found = json.loads(estimator.get(f"/jobs/{job.pk}/sizing.json").content)
    assert found["chosen"]["pump"] == "vessmar-tarn-80"


def test_a_copy_has_the_same_facts_and_its_own_life(estimator, job):
    answer = estimator.post(f"/jobs/{job.pk}/copy/")
    made = Job.objects.get(pk=answer.url.strip("/").split("/")[-1])
    assert made.title == "Bookbinder's cellar (copy)"
    assert services.current(made).answers == services.current(job).answers


def test_house_rules_of_the_shop_reach_the_sheet(estimator, job, shop):
    shop.house_rules.create(rule_id="CYC-01", value_si=1 / 3600, reason="the last three burnt out")
    assert "Starts an hour: watch" in text_of(estimator.get(f"/jobs/{job.pk}/"))


def test_queries_do_not_grow_with_the_revisions(estimator, job, django_assert_max_num_queries):
    for number in range(12):
        job.refresh_from_db()
        change(estimator, job, "answers.margin", f"1.{number + 10}", page=f"p{number}")
    with django_assert_max_num_queries(16):
        estimator.get(f"/jobs/{job.pk}/")


def test_each_document_ever_held_can_still_be_read(estimator, job):
    change(estimator, job, "answers.rise", "110 mm")
    for revision in job.revisions.all():
        assert document.load(revision.document).kind == "sump"


def doubtful(job):
    """The job's file with a length that is one thing and says another."""
    content = document.dump(services.current(job))
    content["legs"][0]["length"] = {"value": 4.0, "unit": "m", "text": "120 m"}
    return content


def test_no_paper_states_a_length_that_it_did_not_use(estimator, job, shop):
    sent = SimpleUploadedFile("job.json", json.dumps(doubtful(job)).encode())
    made = estimator.post("/jobs/upload/", {"file": sent}, follow=True)
    assert "it says &#x27;120 m&#x27;, but is reckoned with 4 m" in made.content.decode()
    assert (
        services.current(shop.jobs.get(pk=made.redirect_chain[0][0].split("/")[2]))
        .legs[0]
        .length.shown()
        == "4 m"
    )


def test_a_copy_or_paper_of_a_job_of_an_older_program_says_what_it_reckons_with(
    estimator, job, shop
):
    job.revisions.filter(number=job.current_revision).update(document=doubtful(job))
    copied = estimator.post(f"/jobs/{job.pk}/copy/").url.split("/")[2]
    assert services.current(shop.jobs.get(pk=copied)).legs[0].length.shown() == "4 m"
    assert freeze(job).document.legs[0].length.shown() == "4 m"


def test_an_edit_to_what_is_gone_is_told_and_breaks_nothing(estimator, job):
    estimator.post(f"/jobs/{job.pk}/legs/remove/", {"leg": "b"}, headers={"HX-Request": "true"})
    answer = change(estimator, job, "legs.b.length", "14 m")
    assert (answer.status_code, text_of(answer)) == (
        409,
        "This leg was taken out of the job meanwhile.",
    )


def test_a_script_is_told_of_the_end_of_a_session_and_of_a_lesser_role(as_role, job):
    assert change(as_role("nobody"), job, "answers.rise", "1 m").status_code == 401
    refused = change(as_role("viewer"), job, "answers.rise", "1 m")
    assert (refused.status_code, refused.content.decode()) == (
        403,
        "Your role does not allow this. Ask the owner of the shop.",
    )


def test_signing_in_over_a_page(shop, django_user_model, client):
    user = django_user_model.objects.get(username="isolde")
    user.set_password("weir-steps-nine")
    user.save()
    assert (
        client.post("/sign-in/over/", {"username": "isolde", "password": "no"}).status_code == 422
    )
    assert (
        client.post(
            "/sign-in/over/", {"username": "isolde", "password": "weir-steps-nine"}
        ).status_code
        == 204
    )
    assert client.get("/").status_code == 200


def test_an_open_tank_leaves_a_booster_that_is_made_once_and_linked(estimator, shop):
    job = shop.jobs.get(title="Plant nursery and cottage")
    page = estimator.get(f"/jobs/{job.pk}/").text
    assert "Linked jobs" not in page
    change(estimator, job, "answers.fills", "open")
    page = estimator.get(f"/jobs/{job.pk}/").text
    assert "Make that job" in page
    made = estimator.post(f"/jobs/{job.pk}/following/").url
    assert estimator.post(f"/jobs/{job.pk}/following/").url == made
    booster = job.followed_by.get()
    assert made == f"/jobs/{booster.pk}/"
    assert (booster.kind, booster.customer) == ("booster", job.customer)
    assert made in estimator.get(f"/jobs/{job.pk}/").text
    assert f"/jobs/{job.pk}/" in estimator.get(made).text


def test_a_pipe_that_several_families_fit_is_asked_for_and_no_other_takes_its_place(estimator, job):
    change(estimator, job, "legs.a.pipe", "40 mm PE")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "Still needed: pipe of the riser" in text
    assert "shown with the last good value" not in text
    assert 'value="40 mm PE"' in text
    for label in ("PE100 SDR 11 40 mm", "PE100 SDR 13.6 40 mm", "PE100 SDR 17 40 mm"):
        assert f'data-value="{label}"' in text
    change(estimator, job, "legs.a.pipe", "PE100 SDR 17 40 mm")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "Still needed" not in text
    assert services.current(Job.objects.get(pk=job.pk)).leg("a").series == "pe100_sdr17"


@pytest.mark.parametrize(
    ("typed", "first"), [("40 pe", "PE100 SDR 11 40 mm"), ('1.5" pvc', "PVC Sch 40 1-1/2 in")]
)
def test_pipes_are_suggested_by_size_and_material(estimator, typed, first):
    answer = estimator.get("/pipes/", {"q": typed})
    assert answer.json()["pipes"][0] == first
    assert len(answer.json()["pipes"]) <= 8
    assert estimator.get("/pipes/", {"q": "x" * 10_000}).json() == {"pipes": []}


def test_a_doubtful_figure_says_how_it_was_read_and_offers_the_other_reading(estimator, job):
    change(estimator, job, "answers.stated_flow", "1,250 l/h")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "read as 1 250 l/h" in text
    assert 'data-value="1.250 l/h"' in text
    change(estimator, job, "answers.stated_flow", "1250 l/h")
    assert "read as 1" not in text_of(estimator.get(f"/jobs/{job.pk}/"))


@pytest.mark.parametrize("path", ["legs.b.length", "answers.stated_flow"])
def test_a_figure_with_the_other_decimal_mark_is_offered_as_it_was_meant(estimator, job, path):
    unit = "m" if path.startswith("legs") else "m3/h"
    change(estimator, job, path, f"12,5 {unit}")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert f'data-take="{path}" data-value="12.5 {unit}"' in text
    job.refresh_from_db()
    change(estimator, job, path, "banana 12,5,5")
    assert f'data-take="{path}"' not in text_of(estimator.get(f"/jobs/{job.pk}/"))


def test_where_there_never_was_a_value_none_is_said_to_count(estimator, job):
    """A blank field with nonsense typed into it has no last good value."""
    text = change(estimator, job, "answers.frost_depth", "abc").content.decode()
    assert "holds no number" in text
    assert "last good value" not in text
    change(estimator, job, "answers.frost_depth", "0.8 m")
    text = change(estimator, job, "answers.frost_depth", "abc").content.decode()
    assert "The last good value still counts" in text
    assert "shown with the last good value of: Depth of frost" in " ".join(text.split())
