"""The JSON interface for scripts and devices, `/api/v1`: bearer tokens with scopes, problems by RFC 9457."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import tempfile
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Depends, FastAPI, Header, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer
from pydantic import BaseModel, ConfigDict, Field
from starlette.exceptions import HTTPException

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank_spec import to_spec
from jarbloom.deeds import answer_job, api_tokens, exchange, log, look, probes, records
from jarbloom.deeds.log import FilledForm, Saved
from jarbloom.deeds.look import log_failure
from jarbloom.errors import AlreadyDone, JarBloomError, Refused
from jarbloom.formats import advice_json
from jarbloom.settings import MAX_BODY_BYTES
from jarbloom.web.deps import AtDesk, answer_of_the_first, keep_answer, known_by
from jarbloom.web.errors import asked, status_of
from jarbloom.web.render import environment

PREFIX = "/api/v1"
MOST_ENTRIES = 500
MOST_ID = 2**63 - 1
PROBLEM = "application/problem+json"


class Problem(BaseModel):
    """What went wrong, by RFC 9457. `field` names the part of the request that could not be taken."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    field: str | None = None
    model_config = ConfigDict(
        json_schema_extra={
            "example": {"type": "about:blank", "title": "Not taken", "status": 422, "detail": "“xq” is not understood.",
                        "field": "line"}
        }
    )  # fmt: skip


class TankRow(BaseModel):
    slug: str = Field(examples=["sunroom-112"])
    name: str = Field(examples=["Sunroom 112"])


class TankOut(TankRow):
    settings: dict[str, Any] = Field(description="as in tank.json of a bundle, docs/formats.md")


class ReadingOut(BaseModel):
    quantity: str = Field(examples=["ammonia"])
    typed: str = Field(examples=["0.25"])
    seen: float = Field(examples=[0.21], description="mg N/L, pH, dKH, deg C or g/kg")
    low: float
    high: float | None


class EntryOut(BaseModel):
    id: int
    kind: str = Field(examples=["test"])
    at: datetime
    zone: str = Field(examples=["Europe/Berlin"])
    who: str
    note: str
    state: str = Field(examples=["live"], description="live, superseded or void")
    supersedes: int | None
    words: str
    body: dict[str, Any]
    readings: list[ReadingOut]


class EntriesOut(BaseModel):
    entries: list[EntryOut]
    after: int | None = Field(description="`after` of the next page; null where this is the last")


class EntryIn(BaseModel):
    """Either `line`, as one types it, or `kind` with its `fields`; `readings` of a test as typed text."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {"line": "am 0.25 ni 0 ph 7.6"},
                {"kind": "test", "at": "2026-11-24T18:40:00+01:00", "readings": {"ammonia": "0.25", "nitrite": "0"}},
                {"kind": "change", "at": "2026-11-24T18:40:00+01:00", "fields": {"litres": 30}},
            ]
        },
    )
    line: str | None = Field(default=None, max_length=2000)
    kind: str | None = Field(default=None, max_length=40)
    at: datetime | None = Field(default=None, description="with its offset; now when not given")
    fields: dict[str, Any] = Field(default_factory=dict)
    readings: dict[str, str] = Field(default_factory=dict)
    note: str = Field(default="", max_length=10_000)
    anyway: bool = Field(default=False, description="although the same stands at that minute already")
    reason: str = Field(default="", max_length=1000, description="why animals come in against the gate")


class SavedOut(BaseModel):
    ids: list[int] = Field(examples=[[412]])
    sentence: str = Field(examples=["Test: ammonia 0.25, nitrite 0"])
    act: int


class ProbeIn(BaseModel):
    """What a device has measured; a value it lacks is left out."""

    model_config = ConfigDict(
        extra="forbid", allow_inf_nan=False, json_schema_extra={
            "example": {"at": "2026-11-24T18:40:00+01:00", "temp_c": 25.4, "ph": 7.62}}
    )  # fmt: skip
    at: datetime
    temp_c: float | None = None
    ph: float | None = None
    salinity_g_kg: float | None = None
    ammonia_mg_n_l: float | None = None


class StockOut(BaseModel):
    species: str = Field(examples=["harlequin_rasbora"])
    count: int = Field(examples=[8])


bearer = HTTPBearer(auto_error=False, description="a token made on the page Devices and tokens")


def may(scope: str) -> Callable[..., None]:
    """A dependency: the request brings a token with this scope."""

    def check(
        request: Request, desk: AtDesk, told: Annotated[HTTPAuthorizationCredentials | None, Depends(bearer)]
    ) -> None:
        token = api_tokens.known(desk.conn, told.credentials) if told else None
        if token is None:
            raise HTTPException(401, "A token is asked for: Authorization: Bearer jb_...")
        if scope not in token.scopes:
            raise HTTPException(403, f"This token may not {scope}.")
        request.state.token = token

    return check


Read, Write, Hand = (Depends(may(scope)) for scope in ("read", "write", "probe"))
Once = Annotated[str, Header(alias="Idempotency-Key", max_length=200, description="the same again is done once")]
router = APIRouter()


@router.get("/tanks", dependencies=[Read])
def tanks(desk: AtDesk) -> list[TankRow]:
    """All tanks on the bench."""
    return [TankRow(slug=slug, name=name) for slug, name in records.tank_names(desk)]


@router.get("/tanks/{slug}", dependencies=[Read])
def tank(desk: AtDesk, slug: str) -> TankOut:
    here = records.tank(desk, slug)
    return TankOut(slug=here.slug, name=here.name, settings=json.loads(json.dumps(to_spec(here), default=str)))


@router.get("/tanks/{slug}/advice", dependencies=[Read])
def advice(desk: AtDesk, slug: str) -> dict[str, Any]:
    """What the tank page says: state, verdict, jobs, gates, as `jarbloom advise --json` (docs/formats.md)."""
    return advice_json.advice(look.see(desk, slug))


@router.get("/tanks/{slug}/forecast", dependencies=[Read])
def forecast(desk: AtDesk, slug: str) -> dict[str, Any]:
    """Quantiles by day, readiness and batches, as `jarbloom forecast --json` (docs/formats.md)."""
    return advice_json.forecast(look.see(desk, slug).situation.forecast)


@router.get("/tanks/{slug}/stock", dependencies=[Read])
def stock(desk: AtDesk, slug: str) -> list[StockOut]:
    """Who lives there by the log."""
    here = records.tank(desk, slug)
    return [StockOut(species=a.species, count=a.count) for a in look.stock_of(desk.log(here.id), desk.now)]


@router.get("/tanks/{slug}/entries", dependencies=[Read])
def entries(
    desk: AtDesk, slug: str, after: Annotated[int, Query(ge=0, le=MOST_ID)] = 0,
    limit: Annotated[int, Query(ge=1, le=MOST_ENTRIES)] = 100, kind: str = "", struck: bool = False,
) -> EntriesOut:  # fmt: skip
    """In the order in which they were written; `after` the last id of the page before."""
    here = records.tank(desk, slug)
    found = sorted((e for e in records.journal_of(desk, here, struck) if e.id > after), key=lambda e: e.id)
    found = [e for e in found if not kind or e.kind == kind]
    page = found[:limit]
    return EntriesOut(entries=[_entry(e, desk) for e in page], after=page[-1].id if len(found) > limit else None)


def _entry(e: Entry, desk: AtDesk) -> EntryOut:
    return EntryOut(
        id=e.id, kind=e.kind, at=e.at, zone=e.zone, who=e.who, note=e.note, state=e.state, supersedes=e.supersedes,
        words=e.body.words(desk.reference.species, desk.preferences.units), body=e.body.to_json(),
        readings=[ReadingOut(quantity=r.quantity, typed=r.typed, seen=r.seen, low=r.low, high=r.high)
                  for r in e.readings],
    )  # fmt: skip


@router.post("/tanks/{slug}/entries", dependencies=[Write], status_code=201)
def add(request: Request, desk: AtDesk, slug: str, told: EntryIn, once: Once = "") -> SavedOut:
    """Log a line, or an entry by its kind. With an Idempotency-Key a retry is answered as the first was."""
    desk.conn.once = known_by(request, once, told.model_dump_json())
    if (told.line is None) == (told.kind is None):
        raise Refused("Either a line, or a kind with its fields.", "line")
    if told.line is not None:
        if told.at is not None or told.fields or told.readings or told.note:
            raise Refused("A line says everything itself; leave the other parts out.", "line")
        return _saved(request, log.log_line(desk, slug, told.line, told.anyway, told.reason))
    return _saved(request, log.log_entry(desk, slug, _filled(told, desk), told.anyway, told.reason))


@router.post("/tanks/{slug}/entries/{entry_id}/correct", dependencies=[Write], status_code=201)
def correct(request: Request, desk: AtDesk, slug: str, entry_id: int, told: EntryIn, once: Once = "") -> SavedOut:
    """A new entry in the place of an old one, which stays in the journal as superseded."""
    desk.conn.once = known_by(request, once, told.model_dump_json())
    if told.kind is None or told.line is not None:
        raise Refused("A correction names the kind and its fields.", "kind")
    return _saved(request, log.correct_entry(desk, slug, entry_id, _filled(told, desk)))


@router.post("/tanks/{slug}/entries/{entry_id}/void", dependencies=[Write], status_code=201)
def void(request: Request, desk: AtDesk, slug: str, entry_id: int, once: Once = "") -> SavedOut:
    desk.conn.once = known_by(request, once, str(entry_id))
    return _saved(request, log.void_entry(desk, slug, entry_id))


@router.post("/tanks/{slug}/acts/{act_id}/undo", dependencies=[Write], status_code=201)
def undo(request: Request, desk: AtDesk, slug: str, act_id: int, once: Once = "") -> SavedOut:
    desk.conn.once = known_by(request, once, str(act_id))
    return _saved(request, log.undo(desk, slug, act_id))


@router.post("/tanks/{slug}/jobs/{key}/tick", dependencies=[Write], status_code=201)
def tick(request: Request, desk: AtDesk, slug: str, key: str, once: Once = "") -> SavedOut:
    """Say that a job is done, by its key in the advice."""
    desk.conn.once = known_by(request, once, key)
    return _saved(request, answer_job.done(desk, slug, key))


def _filled(told: EntryIn, desk: AtDesk) -> FilledForm:
    if told.kind is None or told.kind not in KINDS or told.kind == Damaged.key:
        raise Refused(f"“{str(told.kind)[:40]}” is no kind of entry.", "kind")
    at = told.at or desk.now
    if at.tzinfo is None:
        raise Refused("A moment with its offset, as in 2026-11-24T18:40:00+01:00.", "at")
    return FilledForm(told.kind, at.astimezone(desk.now.tzinfo), told.fields, told.readings, told.note)


def _saved(request: Request, saved: Saved) -> SavedOut:
    found = SavedOut(ids=list(saved.entry_ids), sentence=saved.sentence, act=saved.act_id)
    if getattr(request.state, "once", ""):
        keep_answer(request, found.model_dump_json())
        request.state.once = ""
    return found


@router.post("/tanks/{slug}/probe", dependencies=[Hand], status_code=204)
def hand_in(desk: AtDesk, slug: str, told: ProbeIn) -> Response:
    """A device hands in what it has measured; each moment counts once."""
    probes.hand_in(desk, slug, told.model_dump_json())
    return Response(status_code=204)


@router.get("/tanks/{slug}/bundle.zip", dependencies=[Read], response_class=Response)
def bundle(desk: AtDesk, slug: str) -> Response:
    """The tank in the open format."""
    with exchange.export_zip(desk, slug) as packed:
        return Response(packed.read(), media_type="application/zip")


async def sent(request: Request) -> bytes:
    """The body as it came; what is done with it does not hold the other requests up."""
    return await request.body()


@router.post("/bundles", dependencies=[Write], status_code=201)
def bring_in(
    request: Request, desk: AtDesk, content: Annotated[bytes, Depends(sent)], once: Once = ""
) -> list[TankRow]:
    """A bundle or a house (a zip as the body) comes in as new tanks."""
    desk.conn.once = known_by(request, once, hashlib.sha256(content).hexdigest())
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bundle.zip"
        path.write_bytes(content)
        made = exchange.bring_in_any(desk, path)
    return [TankRow(slug=t.slug, name=t.name) for t in made]


def create_api() -> FastAPI:
    api = FastAPI(
        title="Jar Bloom", version="1", docs_url=None, redoc_url=None, max_body_size=MAX_BODY_BYTES,
        description="Tanks, log, forecast and advice of one house. All numbers in canonical units: mg N/L, deg C, L.",
        responses={code: {"model": Problem, "description": words} for code, words in (
            (401, "no token, or an unknown one"), (403, "the token may not do this"), (404, "there is no such thing"),
            (409, "it stands there already, or was changed meanwhile"), (422, "something in it cannot be taken"))},
    )  # fmt: skip
    api.include_router(router)

    @api.get("/docs", include_in_schema=False)
    def docs() -> Response:
        text = environment.get_template("api_docs.html").render(schema=api.openapi(), prefix=PREFIX, theme="light")
        return Response(text, media_type="text/html; charset=utf-8")

    @api.exception_handler(AlreadyDone)
    def again(request: Request, problem: AlreadyDone) -> Response:
        """A retry: answered as the first one was."""
        told = answer_of_the_first(request)
        if not told:
            return _problem(409, "It was done before; its answer is not at hand.")
        return Response(told, 200, media_type="application/json", headers={"Idempotent-Replay": "true"})

    @api.exception_handler(JarBloomError)
    def ours(request: Request, problem: JarBloomError) -> Response:
        return _problem(status_of(problem), problem.sentence, problem.field if isinstance(problem, Refused) else None)

    @api.exception_handler(HTTPException)
    def http(request: Request, problem: HTTPException) -> Response:
        answer = _problem(problem.status_code, str(problem.detail))
        if problem.status_code == 401:
            answer.headers["WWW-Authenticate"] = "Bearer"
        return answer

    @api.exception_handler(sqlite3.Error)
    def database(request: Request, problem: sqlite3.Error) -> Response:
        quote = log_failure(asked(request))
        return _problem(
            503, f"The database is busy, full or damaged: nothing was saved. In the program’s log: {quote}."
        )

    @api.exception_handler(OverflowError)
    def too_large(request: Request, problem: OverflowError) -> Response:
        return _problem(404, "There is no such thing: its number is too large.")

    @api.exception_handler(RequestValidationError)
    def invalid(request: Request, problem: RequestValidationError) -> Response:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part != "body")
        return _problem(422, f"{first['msg']}.", where or None)

    return api


TITLES = {401: "Who is it?", 403: "Not allowed", 404: "Not here", 409: "Stands already", 422: "Not taken"}


def _problem(status: int, detail: str, field: str | None = None) -> JSONResponse:
    told = Problem(title=TITLES.get(status, "Not done"), status=status, detail=detail, field=field)
    return JSONResponse(told.model_dump(exclude_none=True), status, media_type=PROBLEM)
