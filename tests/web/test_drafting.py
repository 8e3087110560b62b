"""A draft: what the user says of columns, sections and guesses, and what is kept of it."""

from __future__ import annotations

import io
import re
import zipfile

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.catalog.known import known_columns
from botin.store.models import CardRecord, DraftRecord, ProductRecord
from tests.web.test_pages import count, token

ROWS = "Rower;Stall;Which set;Nummer\n" + "".join(
    f"{name};{club};Base;{n}\n"
    for n, (name, club) in enumerate(
        [("Orla Thorsby", "Tarn"), ("Jorik Munro", "Eastmere"), ("Élise Ives", "Tarn"), ("Dov Quill", "Tarn"),
         ("Pia Fenwick", "Eastmere"), ("Koa Tamaki", "Tarn"), ("Noor Ferro", "Tarn")], 1)
)  # fmt: skip


def give(client: FlaskClient, key: str, name: str = "Oar 2026", **more: object) -> str:
    data = {
        "csrf_token": token(client), "client_key": key, "name": name, "formats": "Hobby: 24 packs of 8",
        "files": (io.BytesIO(ROWS.encode()), "rowers.csv"), **more,
    }  # fmt: skip
    answer = client.post("/library/add", data=data, content_type="multipart/form-data")
    assert answer.status_code == 303, answer.text
    return answer.headers["Location"]


def selected(page: str) -> dict[str, str]:
    """Return what the select of each column says."""
    found = re.findall(r'<select name="(column-\d+-\d+)".*?</select>', page, re.DOTALL)
    bodies = re.findall(r'<select name="column-\d+-\d+".*?</select>', page, re.DOTALL)
    chosen = [re.search(r'value="([^"]*)"\s+selected', body) for body in bodies]
    return {name: match[1] if match else "" for name, match in zip(found, chosen, strict=True)}


def test_a_guessed_column_is_asked_once_and_remembered(client: FlaskClient, session: Session) -> None:
    where = give(client, "one")
    page = client.get(where).text
    assert "guessed by what stands in it" in page
    assert sorted(selected(page).values()) == ["name", "number", "section", "team"]
    data = {"csrf_token": token(client), **selected(page)}
    page = client.post(f"{where}/columns", data=data, follow_redirects=True).text
    assert "guessed by what stands in it" not in page
    assert known_columns(session)["rower|stall|which set|nummer"][1] == "team"

    again = client.get(give(client, "two", "Oar 2027")).text
    assert "guessed by what stands in it" not in again
    assert "Every column was recognised" in again


def test_nothing_in_a_picture_is_offered_to_be_mended(client: FlaskClient) -> None:
    """A zip of a table and photos: their line says that they are not read, and has no link to type it anew."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as made:
        made.writestr("rowers.csv", ROWS)
        made.writestr("scan.png", b"\x89PNG")
    where = give(client, "zip", files=(io.BytesIO(packed.getvalue()), "season.zip"))
    page = client.get(f"{where}?show=all").text
    lines = re.findall(r"<li[^>]*>.*?</li>", page, re.DOTALL)
    picture = next(line for line in lines if "is not read: give what it says" in line)
    table = next(line for line in lines if "Orla Thorsby" in line and "mend" in line)
    assert "mend<span" in table
    assert "mend<span" not in picture


def test_another_field_for_a_column_changes_the_cards(client: FlaskClient) -> None:
    where = give(client, "one")
    told = selected(client.get(where).text)
    team = next(name for name, value in told.items() if value == "team")
    page = client.post(
        f"{where}/columns", data={"csrf_token": token(client), **told, team: "own"}, follow_redirects=True
    ).text
    lines = client.get(f"{where}?show=all").text
    assert "card 1 · Orla Thorsby" in lines
    assert "Orla Thorsby · Tarn" not in lines
    assert "passed over: Stall" in lines or "passed over: Stall" in page


def test_a_column_can_only_be_what_the_list_has(client: FlaskClient, session: Session) -> None:
    where = give(client, "one")
    answer = client.post(f"{where}/columns", data={"csrf_token": token(client), "column-0-1": "moon"})
    assert answer.status_code == 404
    assert known_columns(session) == {}


@pytest.mark.parametrize("line", ["2 autographs per box", "Signed 1:12"])
def test_the_kind_of_a_section_is_said_once(client: FlaskClient, line: str) -> None:
    text = "Base\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn\nNight Ink Rows\nX-1 Orla Thorsby - Tarn\n"
    where = give(client, "one", checklist=text, odds=line)
    assert "1 line is not understood" in client.get(where).text or "autograph" in client.get(where).text
    data = {"csrf_token": token(client), "section": "night-ink-rows", "kind": "insert"}
    page = client.post(f"{where}/kind", data=data, follow_redirects=True).text
    assert re.search(r'aria-label="Kind of Night Ink Rows".*?value="insert"\s+selected', page, re.DOTALL)
    bad = client.post(f"{where}/kind", data={**data, "kind": "planet"})
    assert bad.status_code == 404


def test_a_guess_is_confirmed_or_read_the_other_way(client: FlaskClient) -> None:
    text = "Base\n101 Orla Thorsby - Harrow Bay RC\n102 Dov Quill - Tarn\n"
    where = give(client, "one", checklist=text)
    page = client.get(f"{where}?show=guessed").text
    assert "RC marks a rookie" in page
    data = {"csrf_token": token(client), "sheet": "checklist", "line": "2"}
    client.post(f"{where}/reading", data={**data, "as": "101 Orla Thorsby - Harrow Bay (RC)"})
    assert "Orla Thorsby · Harrow Bay · rookie" in client.get(f"{where}?show=all").text
    client.post(f"{where}/reading", data={"csrf_token": token(client), "all": "yes"})
    page = client.get(f"{where}?show=all").text
    assert 'class="is-guessed"' not in page
    assert "so you said" in page


def test_a_file_is_added_and_one_that_cannot_be_read_changes_nothing(client: FlaskClient, session: Session) -> None:
    where = give(client, "one")
    more = {"csrf_token": token(client), "odds": "Copper parallel 1:4"}
    page = client.post(f"{where}/more", data=more, content_type="multipart/form-data", follow_redirects=True).text
    assert "Copper" in page
    before = session.get(DraftRecord, 1)
    kept = before.sources if before else ""
    broken = {"csrf_token": token(client), "files": (io.BytesIO(b"hello"), "book.xlsx")}
    page = client.post(f"{where}/more", data=broken, content_type="multipart/form-data", follow_redirects=True).text
    assert "cannot be opened as a workbook" in page
    session.expire_all()
    after = session.get(DraftRecord, 1)
    assert after is not None
    assert after.sources == kept


def test_names_that_are_nearly_known_are_offered(client: FlaskClient, session: Session) -> None:
    person = session.scalars(select(CardRecord.name).where(CardRecord.name.not_like("%;%"))).first()
    assert person
    near = person[:-1] + ("a" if person[-1] != "a" else "e")
    where = give(client, "near", checklist=f"Base\n900 {near} - Tarn\n901 Zzyx Qwortle - Tarn\n")
    page = client.get(where).text
    assert f"is {person}" in page
    assert "is Zzyx" not in page
    client.post(f"{where}/word", data={"csrf_token": token(client), "word": near, "known": person})
    client.get(where)
    page = client.get(f"{where}?show=all").text
    assert f"is {person}" not in page
    assert f"card 900 · {person}" in page


def test_like_another_product_takes_its_boxes_and_finishes(client: FlaskClient, session: Session) -> None:
    key = session.scalars(select(ProductRecord.key)).first()
    where = give(client, "like", formats="", like=key)
    page = client.get(where).text
    assert "boxed like" in page
    assert "finishes of Base, like" in page
    assert "Nobody says yet how it is boxed" not in page
    assert count(session, ProductRecord) > 0


PRICED = "Satz;Nr.;Erlös;Wann\nBase;1;2,50;2026-11-01\nBase;2;3,00;2026-11-02\n"


def send_prices(client: FlaskClient, **more: object) -> str:
    data = {"csrf_token": token(client), **more}
    answer = client.post("/prices/1/prices.csv", data=data, content_type="multipart/form-data", follow_redirects=True)
    return answer.text


def test_a_price_file_asks_for_its_column_once(client: FlaskClient, session: Session) -> None:
    page = send_prices(client, file=(io.BytesIO(PRICED.encode()), "verkauft.csv"))
    assert "Which column is what?" in page
    assert re.search(r'aria-label="Nr\.">.*?value="number"\s+selected', page, re.DOTALL)
    assert taken(page) == {"column-0": "section", "column-1": "number", "column-2": "price", "column-3": "sold_on"}
    shape = re.search(r'name="shape" value="([^"]+)"', page)
    assert shape
    told = {"column-0": "section", "column-1": "number", "column-2": "price", "column-3": "sold_on"}
    page = send_prices(client, carried=PRICED, carried_name="verkauft.csv", shape=shape[1], **told)
    assert "2 prices stored" in page
    assert known_columns(session)[shape[1]][2] == "price"

    page = send_prices(client, file=(io.BytesIO(PRICED.replace("2,50", "2,75").encode()), "next.csv"))
    assert "1 prices stored, 1 were known already" in page


def test_columns_that_are_told_wrong_are_asked_again_and_nothing_is_stored(
    client: FlaskClient, session: Session
) -> None:
    shape = "prices:satz|nr|erloes|wann"
    page = send_prices(client, carried=PRICED, carried_name="v.csv", shape=shape, **{"column-0": "section"})
    assert "Which column is what?" in page
    assert known_columns(session) == {}


LOGGED = "Paket;Nr;Sprinter;Farbe\n1;1;Junia Dovemark;\n1;2;;\n"


def send_log(client: FlaskClient, key: str, **more: object) -> str:
    page = client.get("/openings/import").text
    choice = re.search(r'<select[^>]*name="format_id".*?<option[^>]*value="(\d+)"', page, re.DOTALL)
    assert choice
    data = {
        "csrf_token": token(client), "client_key": key, "format_id": choice[1], "bought_on": "2026-11-20",
        "price": "100.00", "shipping": "0", "tax": "0", "text": LOGGED, **more,
    }  # fmt: skip
    answer = client.post("/openings/import", data=data, content_type="multipart/form-data", follow_redirects=True)
    return answer.text


def taken(page: str) -> dict[str, str]:
    """Return what each column of a log was taken for."""
    bodies = re.findall(r'name="(column-\d+)"(.*?)</select>', page, re.DOTALL)
    chosen = ((name, re.search(r'value="([^"]+)"\s+selected', body)) for name, body in bodies)
    return {name: match[1] for name, match in chosen if match}


def test_the_columns_of_a_log_are_remembered_once_it_is_stored(client: FlaskClient, session: Session) -> None:
    page = send_log(client, "log-1")
    assert "What its columns mean" in page
    assert taken(page).get("column-1") == "number"
    assert taken(page).get("column-0") is None
    told = {"column-0": "pack", "column-1": "number", "column-2": "name", "column-3": "parallel"}
    page = send_log(client, "log-2", step="store", **told)
    assert "rows are logged" in page
    assert known_columns(session)["openings:paket|nr|sprinter|farbe"][0] == "pack"
    assert taken(send_log(client, "log-3", text=LOGGED.replace(";2;", ";3;")))["column-0"] == "pack"


def test_a_known_name_is_written_where_the_whole_name_stands(client: FlaskClient) -> None:
    rows = (
        "Number;Name;Team;Section\n1;Ann Lee;Tarn;Base\n2;JoAnn Leeson;Tarnby;Base\n3;Ann Lee, Koa Ives;Tarn;Base\n"
    )
    where = give(client, "one", files=(io.BytesIO(rows.encode()), "rows.csv"))
    data = {"csrf_token": token(client), "word": "Ann Lee", "known": "Anna Lee"}
    page = client.post(f"{where}/word", data=data, follow_redirects=True).text
    assert "in 2 lines" in page
    lines = client.get(f"{where}?show=all").text
    assert "JoAnn Leeson" in lines
    assert "JoAnna" not in lines
    assert lines.count("Anna Lee") >= 2


def test_a_text_too_long_to_add_is_refused_and_not_cut(client: FlaskClient, session: Session) -> None:
    where = give(client, "one")
    before = session.scalars(select(DraftRecord.sources)).one()
    long = "8 Orla Thorsby, Tarn\n" * 100_001
    answer = client.post(f"{where}/more", data={"csrf_token": token(client), "checklist": long})
    assert answer.status_code == 422
    assert "2,000,000 characters" in answer.text
    session.expire_all()
    assert session.scalars(select(DraftRecord.sources)).one() == before


def test_what_was_pasted_stays_when_a_file_beside_it_cannot_be_read(client: FlaskClient) -> None:
    where = give(client, "one")
    data = {
        "csrf_token": token(client), "checklist": "9 Iska Glimhurst, Tarn", "odds": "Copper 1:4",
        "files": (io.BytesIO(b"\0\1\2" * 40), "photo.csv"),
    }  # fmt: skip
    answer = client.post(f"{where}/more", data=data, content_type="multipart/form-data")
    assert answer.status_code == 422
    assert "photo.csv is no text file" in answer.text
    assert "9 Iska Glimhurst, Tarn</textarea>" in answer.text
    assert "Copper 1:4</textarea>" in answer.text
    assert "Choose the files again" in answer.text


@pytest.mark.parametrize("field", ["name", "formats"])
def test_words_about_a_product_are_refused_and_not_cut(client: FlaskClient, field: str) -> None:
    data = {
        "csrf_token": token(client),
        "client_key": "long",
        "name": "Oar",
        "checklist": "1 Orla Thorsby",
        field: "x" * 4001,
    }
    answer = client.post("/library/add", data=data)
    assert answer.status_code == 422
    assert "4,000 characters" in answer.text
    assert "x" * 4001 in answer.text
    where = give(client, "short")
    again = client.post(f"{where}/about", data={"csrf_token": token(client), "formats": "", field: "x" * 4001})
    assert again.status_code == 422
    assert "4,000 characters" in again.text


def test_what_stands_twice_names_the_line_it_stood_on_first(client: FlaskClient) -> None:
    rows = b"Number,Name\n7,Orla\n7,Dov\n8,Pia\n"
    page = client.get(give(client, "one", files=(io.BytesIO(rows), "a.csv"))).text
    assert "“base 7” is on line 2 already" in page
    other = {"files": [(io.BytesIO(rows[:20]), "a.csv"), (io.BytesIO(b"Number,Name\n7,Koa\n9,Ives\n"), "b.csv")]}
    page = client.get(give(client, "two", **other)).text
    assert "“base 7” is on line 2 of a.csv already" in page


def test_two_columns_cannot_be_the_same_and_what_was_chosen_stays(client: FlaskClient, session: Session) -> None:
    where = give(client, "one")
    told = selected(client.get(where).text)
    section = next(name for name, value in told.items() if value == "section")
    told[section] = "number"
    answer = client.post(f"{where}/columns", data={"csrf_token": token(client), **told})
    assert answer.status_code == 422
    assert "Two columns cannot both be “number of the card”" in answer.text
    assert selected(answer.text) == told
    assert known_columns(session) == {}


def test_two_columns_of_names_are_told_as_two_people(client: FlaskClient) -> None:
    where = give(client, "one")
    told = selected(client.get(where).text)
    team = next(name for name, value in told.items() if value == "team")
    data = {"csrf_token": token(client), **told, team: "name"}
    client.post(f"{where}/columns", data=data)
    assert "Orla Thorsby; Tarn" in client.get(f"{where}?show=all").text


@pytest.mark.parametrize(
    "words", [{"word": "", "known": "A"}, {"word": "Tarn", "known": " "}, {"word": "Noone", "known": "A"}]
)
def test_a_word_is_never_written_away(client: FlaskClient, session: Session, words: dict[str, str]) -> None:
    where = give(client, "one")
    before = session.scalars(select(DraftRecord.sources)).one()
    page = client.post(f"{where}/word", data={"csrf_token": token(client), **words}, follow_redirects=True).text
    assert "Nothing was changed" in page
    session.expire_all()
    assert session.scalars(select(DraftRecord.sources)).one() == before
