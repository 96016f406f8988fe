"""Opening the application: its database brought up to date, its clock, its weather service, the contractor it works for.

Not here: routes and pages (web).
"""

from amber_gable.services.app.app import App
from amber_gable.services.app.clock import Clock
from amber_gable.services.app.democlock import resume_clock
from amber_gable.services.app.machine.datafolder import open_database
from amber_gable.services.app.owners import home_of, open_books
from amber_gable.services.app.settings import Settings
from amber_gable.services.outlook.weather import address
from amber_gable.services.outlook.weather.client import WeatherClient


def open_app(settings: Settings) -> App:
    """Return one running application, its database brought up to date.

    Raises
    ------
    StartError
        If its data folder cannot be used as it is.
    ContractorError
        If it is not clear for which contractor it works.
    """
    app = _opened(settings)
    try:
        with app.reading() as session:
            app.home_id = home_of(session, settings.contractor)
    except BaseException:
        app.close()
        raise
    return app


def add_contractor(settings: Settings, name: str, units: str, painters: tuple[str, ...]) -> None:
    """Write the books of another contractor into the database of the settings.

    Raises
    ------
    StartError, ContractorError
    """
    app = _opened(settings)
    try:
        with app.writing() as session:
            open_books(session, name, units, painters)
    finally:
        app.close()


def _opened(settings: Settings) -> App:
    weather = WeatherClient(settings.weather_url, settings.weather_timeout_s)
    app = App(settings, open_database(settings), Clock(settings.now), weather)
    resume_clock(app)
    address.adopt(app)
    return app
