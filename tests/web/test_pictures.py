"""Pictures that a page still loads while what they show is taken, removed or brought: none is refused."""

from __future__ import annotations

from typing import Any

import pytest
from clients import Importer, Page, finished
from pictures import horizon_picture, jpeg_bytes, smooth_picture


@pytest.fixture
def photo(bring: Importer, own_page: Page) -> dict[str, Any]:
    """A fresh photo as the bench sees it."""
    return own_page(
        "GET", f"/api/photos/{bring(jpeg_bytes(horizon_picture(900, 600, 2.0))).photo_id}"
    ).get_json()


def test_of_a_photo_that_was_removed_meanwhile(own_page: Page, photo: dict[str, Any]) -> None:
    path = f"/api/photos/{photo['photo']['id']}"
    picture = f"{path}/thumbnail/{photo['photo']['revision']}.jpg"
    before = own_page("GET", picture)
    assert own_page("DELETE", path, 0).status_code == 204
    after = own_page("GET", picture)
    assert (before.status_code, after.status_code) == (200, 200) and after.data == before.data
    assert own_page("GET", f"{path}/thumbnail/999999.jpg").status_code == 404


def test_of_a_proposal_that_was_taken_meanwhile(own_page: Page, photo: dict[str, Any]) -> None:
    """On a walk the next photo is there at once: pictures of this one may come after it was taken."""
    path = f"/api/photos/{photo['photo']['id']}/review"
    found = own_page("GET", path).get_json()
    pictures = [one["picture"] for one in found["extents"]]
    before = [own_page("GET", one).data for one in pictures]
    assert len(set(before)) == len(pictures) > 1
    taken = {"extent": found["extents"][1]["extent"], "turn": 0}
    assert own_page("POST", path, photo["photo"]["version"], json=taken).status_code == 200
    after = [own_page("GET", one) for one in pictures]
    assert all(one.status_code == 200 for one in after) and [one.data for one in after] == before
    assert own_page("GET", pictures[0].replace("plain", "further")).status_code == 404


def test_of_a_file_that_has_become_a_photo(own_page: Page) -> None:
    """What a raw photo shows of itself is asked for just before the photo itself is there."""
    sent = own_page(
        "POST",
        "/api/imports?name=a.jpg",
        data=jpeg_bytes(smooth_picture(300, 200)),
        content_type="application/octet-stream",
    )
    job = finished(own_page, sent.get_json())
    look = own_page("GET", f"/api/jobs/{job['id']}/look.jpg")
    assert look.status_code == 302
    shown = own_page("GET", look.headers["Location"])
    assert shown.status_code == 200 and shown.data[:2] == b"\xff\xd8"
