import pytest


def ask(client, **asked):
    return client.get("/which-pump/", asked)


def test_a_job_gets_its_family_and_the_reasons_against_the_others(estimator):
    text = ask(
        estimator, liquid="sewage", place="pit", feeds="gravity", solid="50 mm", lift="5 m"
    ).content.decode()
    assert "✓ solids-handling sewage" in text
    assert "nothing to blunt" in text
    assert text.index("solids-handling sewage</b>") < text.index("Why not another")


def test_lift_is_read_in_any_unit(estimator):
    near = ask(
        estimator, liquid="sewage", place="pit", feeds="gravity", solid="2 in", lift="16 ft"
    ).content.decode()
    far = ask(
        estimator, liquid="sewage", place="pit", feeds="gravity", solid="2 in", lift="80 ft"
    ).content.decode()
    assert "✓ solids-handling sewage" in near
    assert "✓ grinder" in far


@pytest.mark.parametrize(
    ("field", "text"),
    [("lift", "high"), ("solid", "3 gpm"), ("lift", "99999 m"), ("solid", "-5 mm")],
)
def test_nonsense_is_told_and_kept(estimator, field, text):
    answer = ask(
        estimator,
        liquid="ground",
        place="pit",
        feeds="gravity",
        **({"lift": "4 m", "solid": "5 mm"} | {field: text}),
    )
    assert answer.status_code == 422
    assert f'value="{text}"' in answer.content.decode()
    assert "▲" in answer.content.decode()


def test_a_job_that_no_family_does_says_so(estimator):
    text = ask(
        estimator, liquid="sewage", place="pit", feeds="taps", solid="50 mm", lift="5"
    ).content.decode()
    assert "No family does all of this" in text


def test_an_old_pump_by_what_is_seen(estimator):
    text = ask(estimator, cutter="yes").content.decode()
    assert "✓ grinder" in text
    assert "not with a cutter or blades at the inlet" in text


@pytest.mark.parametrize(
    "asked", [{"liquid": "treacle", "place": "pit", "feeds": "taps"}, {"cutter": "perhaps"}, {}]
)
def test_a_link_from_nowhere_breaks_nothing(estimator, asked):
    assert ask(estimator, **asked).status_code in (200, 422)


def test_an_unfinished_answer_is_answered_with_what_is_possible(estimator):
    text = ask(estimator, liquid="sewage", place="pit").content.decode()
    assert "Possible so far: solids-handling sewage, grinder" in text
    assert "Answer what it feeds too" in " ".join(text.split())


def test_where_no_family_fits_it_says_which_answer_rules_it_out(estimator):
    answer = ask(estimator, liquid="sewage", place="pit", feeds="jets", solid="50 mm", lift="5 m")
    text = " ".join(answer.content.decode().split())
    assert "Were it not for what it feeds: solids-handling sewage" in text


@pytest.mark.parametrize(
    ("feeds", "family"),
    [("fountain", "caged pond"), ("stir", "circulation"), ("fall", "caged pond")],
)
def test_fountains_and_circulation_are_among_what_it_feeds(estimator, feeds, family):
    lift = "0 m" if feeds == "stir" else "1 m"
    answer = ask(estimator, liquid="pond", place="pond", feeds=feeds, solid="2 mm", lift=lift)
    assert f"✓ {family}" in answer.content.decode()
