"""Schools: what each sets, what it changes, and copies with the laboratory's own numbers."""

import os
import re
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryDirectory
from typing import Annotated, Any

from fastapi import APIRouter, Request
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.soil.contract.method import Method
from vadum.soil.contract.school import NAME, OWN, SchoolError, as_toml, read_school
from vadum.soil.register import METHODS, method
from vadum.soil.school_check import far_off, faults
from vadum.tape.codes import plain_text
from vadum.tape.runs import NotAllowed
from vadum.web.context import Me, Missing, TheShop, page
from vadum.web.views import schools as views
from vadum.web.views.words import words_of

router = APIRouter()


class CopyAsked(BaseModel):
    """A school of the laboratory's own: based on another, with changed numbers."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    based_on: str = Field(max_length=40)
    name: str = Field(max_length=40)
    title: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(plain_text)]
    about: Annotated[str, Field(min_length=1, max_length=600), AfterValidator(plain_text)]
    settings: dict[str, str] = Field(default_factory=dict, max_length=120)


def _method(name: str) -> Method:
    try:
        return method(name)
    except UnknownName as error:
        raise Missing(str(error)) from None


@router.get("/schools", include_in_schema=False)
def schools_page(request: Request, me: Me) -> Any:
    """Every method's schools, and the files among the laboratory's own that cannot be read."""
    return page(request, "schools.html", me, place="", methods=list(METHODS.values()))


@router.get("/schools/{name}/{school}", include_in_schema=False)
def school_page(request: Request, me: Me, name: str, school: str) -> Any:
    """One school: its settings, what it changes, and the form that makes a copy."""
    its = _method(name)
    if school not in its.schools:
        raise Missing(f"{its.title.lower()} has no school {school[:40]!r}")
    found = its.schools[school]
    base = views.base_of(its, found)
    return page(
        request,
        "school.html",
        me,
        place="",
        method=its,
        school=found,
        base=base,
        settings=views.settings(found, base),
        own=school in its.schools.own,
        may_copy=me.role == "manager" and OWN.folder is not None,
    )


def _whole(text: str, its: Method, name: str) -> Any:
    """The school that a file's text describes; raises FieldError that names the setting."""
    with TemporaryDirectory() as scratch:
        file = Path(scratch) / f"{name}.toml"
        file.write_text(text, "utf-8")
        try:
            return read_school(file, type(its.school()), {**its.schools.shipped, **its.schools.own})
        except SchoolError as error:
            raise FieldError(error.field, error.problem) from None


def _keep(file: Path, text: str) -> None:
    """Write a school's file whole, or nothing; raises FieldError when another was quicker with the name."""
    file.parent.mkdir(parents=True, exist_ok=True)
    with NamedTemporaryFile("w", dir=file.parent, suffix=".part", encoding="utf-8") as part:
        part.write(text)
        part.flush()
        try:
            os.link(part.name, file)
        except FileExistsError:
            raise FieldError("name", "there is a school of that name: give the copy its own") from None


@router.post("/api/v1/schools/{name}", tags=["schools"], status_code=201)
def copy_school(shop: TheShop, me: Me, name: str, asked: CopyAsked) -> dict[str, Any]:
    """Keep a school of the laboratory's own. It must pass the trials of a shipped one; old runs keep their own."""
    if me.role != "manager":
        raise NotAllowed("schools are the manager's to make")
    if OWN.folder is None:
        raise FieldError("name", "this laboratory has no folder for schools of its own")
    its = _method(name)
    if not re.fullmatch(NAME, asked.name):
        raise FieldError("name", "is 2 to 40 small letters, digits and _, a letter first")
    if asked.name in its.schools:
        raise FieldError("name", "there is a school of that name: give the copy its own")
    if asked.based_on not in its.schools:
        raise FieldError("based_on", f"is one of {', '.join(its.schools)}")
    base = its.schools[asked.based_on]
    changed = views.changed(base, asked.settings)
    if not changed:
        raise FieldError("settings", "change at least one: a copy that changes nothing is the same school")
    told = base.model_copy(update={"title": asked.title, "about": asked.about})
    text = as_toml(told, base, changed)
    whole = _whole(text, its, asked.name)
    for setting, words in far_off(its, whole).items():
        raise FieldError(setting, words)
    wrong = faults(its, whole)
    if wrong:
        raise FieldError("settings", f"no school to work by: {wrong[0]}")
    made = f"# Made by {me.initials} on {shop.now():%Y-%m-%d} from the page of {base.name}.\n{text}"
    _keep(OWN.folder / its.name / f"{asked.name}.toml", made)
    return {"go": f"/schools/{its.name}/{asked.name}"}


@router.get("/words", include_in_schema=False)
def words_page(request: Request, me: Me, method: str = next(iter(METHODS))) -> Any:
    """Every sentence that can be said of a method, in one place."""
    if method not in METHODS:
        raise Missing(f"there is no method {method[:20]!r}")
    return page(request, "words.html", me, methods=METHODS, chosen=METHODS[method], parts=words_of(method))
