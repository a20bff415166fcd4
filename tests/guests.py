"""People who sign in, for tests of the program as it is open to a network."""

from __future__ import annotations

from typing import Any

from apiflask import APIFlask
from clients import Page, finished

WORD, OTHER = "a long way over the moor", "another way over the moor"
SECRET = "Secret garden"


class Guest(Page):
    """A page in a browser of its own, with its cookies."""

    def sign_in(self, name: str, password: str = WORD) -> Any:
        answer = self("POST", "/api/sign-in", json={"name": name, "password": password})
        self.reload()
        return answer

    def reload(self) -> None:
        """Load the page anew, as the program's own does."""
        super().__init__(self.client)


def signed(app: APIFlask, name: str) -> Guest:
    """Somebody who has signed in."""
    page = Guest(app.test_client())
    assert page.sign_in(name).status_code == 204
    return page


def brought(page: Page, content: bytes, name: str = f"{SECRET}.jpg") -> dict[str, Any]:
    """A photo that was imported over HTTP."""
    job = page("POST", f"/api/imports?name={name}", data=content).get_json()
    done = finished(page, job)
    assert done["state"] == "done", done
    seen: dict[str, Any] = page("GET", f"/api/photos/{done['photo_id']}").get_json()
    return seen
