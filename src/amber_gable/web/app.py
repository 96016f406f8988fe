"""The application: routes, static files, handlers, and a warm start of what imports slowly."""

import gc
import logging
import os
import sys
import threading
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import Response

from amber_gable.core.air.pvlibs import modules
from amber_gable.services.app.app import App
from amber_gable.services.app.calculator import Calculator
from amber_gable.services.app.keeper import SETTLES_S, Keeper
from amber_gable.services.app.machine.memory import hold_little
from amber_gable.services.app.machine.opening import open_app
from amber_gable.services.app.settings import Settings, read_settings
from amber_gable.web.door import faults, openapi
from amber_gable.web.door.desk import Desk
from amber_gable.web.door.gate import GateMiddleware
from amber_gable.web.door.intake import IntakeMiddleware
from amber_gable.web.door.security import Hosts, SecurityMiddleware
from amber_gable.web.routes import api, begin, demo, jobs, reckoner
from amber_gable.web.routes import settings as settings_page
from amber_gable.web.routes.office import bids, papers, price, takeoff, truck
from amber_gable.web.routes.plan import crew, hours, morning, plansearch, schedule, sky, stopline, windows
from amber_gable.web.routes.site import gauge, inspection, kit, live, logentries, phone, sitelog, today, work
from amber_gable.web.routes.specify import colours, shelf, systems
from amber_gable.web.routes.survey import around, blocks, findings, items, openings, survey, surveyfiles, walk
from amber_gable.web.templating import STATIC

_SWITCH_S = 0.0005
# A full collection of what a firm of thirty jobs holds stops every thread for a third of a second: what was there when the application
# had started is not looked through again, and the rest seldom. Young garbage is collected as ever.
_GARBAGE = (20_000, 25, 25)
# Pages that listen hold their connections open: the end does not wait for them longer [s], nor then for threads that compute.
_ENDS_S = 3
_LINGERS_S = 2.0
# A phone that asks every few seconds keeps its connection; one that closes between two questions costs a try.
_KEEPS_S = 75


class CachedStaticFiles(StaticFiles):
    """Static files whose address changes with their content may be kept for good."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        response = super().file_response(*args, **kwargs)
        response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response


def _warm(app: App) -> None:
    """Import what takes long while nobody waits for it; healthy means ready."""
    try:
        modules()
        gc.collect()
        gc.freeze()
    finally:
        app.is_ready = True


def create_app(settings: Settings | None = None, running: App | None = None) -> FastAPI:
    """Return the web application.

    Parameters
    ----------
    settings : Settings, optional
        From the environment where absent.
    running : App, optional
        What is opened already.
    """
    the_app = running or open_app(settings or read_settings())

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        if the_app.settings.prepares:
            # Not at once: the first page must not share the processor with imports that it does not need.
            the_app.is_ready = False
            warming = threading.Timer(SETTLES_S, _warm, (the_app,))
            warming.daemon = True
            warming.start()
            the_app.calculator = Calculator()
            the_app.keeper = Keeper(the_app)
            the_app.keeper.start()
        with the_app.serving(threading.get_ident()):
            yield
        the_app.close()

    app = FastAPI(title="Amber Gable", docs_url=None, redoc_url=None, openapi_url=None, lifespan=lifespan)
    app.state.running = the_app
    app.state.desk = Desk()
    for part in (
        morning,
        today,
        phone,
        live,
        kit,
        jobs,
        blocks,
        items,
        around,
        walk,
        surveyfiles,
        survey,
        openings,
        findings,
        systems,
        colours,
        shelf,
        takeoff,
        price,
        truck,
        papers,
        bids,
        windows,
        work,
        plansearch,
        hours,
        crew,
        stopline,
        schedule,
        sitelog,
        logentries,
        gauge,
        inspection,
        sky,
        reckoner,
        api,
        settings_page,
        begin,
        demo,
    ):
        app.include_router(part.router)
    app.mount("/static", CachedStaticFiles(directory=STATIC), name="static")
    app.add_middleware(GZipMiddleware, minimum_size=1500, compresslevel=5)
    app.add_middleware(IntakeMiddleware)
    app.add_middleware(GateMiddleware, desk=app.state.desk)
    app.add_middleware(SecurityMiddleware, hosts=Hosts(the_app.settings.hosts))
    openapi.install(app)
    faults.install(app)
    return app


def run_until_stopped(app: FastAPI, **given: Any) -> None:
    """Serve an application until SIGTERM or Ctrl-C."""
    import uvicorn

    hold_little()
    # A thread that computes gives way to the event loop and to pages sooner than by default (5 ms, for each thread again).
    sys.setswitchinterval(_SWITCH_S)
    gc.set_threshold(*_GARBAGE)
    # The event loop of the library: another that asks for the interpreter at each event waits for every thread that computes.
    uvicorn.run(app, loop="asyncio", log_level="warning", timeout_graceful_shutdown=_ENDS_S, timeout_keep_alive=_KEEPS_S, **given)


def end_process() -> None:
    """End the process if a request computes on that nobody waits for: what it saved is saved, the rest can be asked again."""
    others = [t for t in threading.enumerate() if t is not threading.current_thread() and not t.daemon]
    until = time.monotonic() + _LINGERS_S
    for thread in others:
        thread.join(max(until - time.monotonic(), 0))
    if any(thread.is_alive() for thread in others):
        logging.shutdown()
        sys.stderr.flush()
        os._exit(0)
