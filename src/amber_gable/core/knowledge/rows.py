"""The rows of the knowledge tables: what each column means and which values it takes."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class TableRow(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Substrate(TableRow):
    label: str
    # What decides which tests and rules apply.
    family: Literal["wood", "cement-board", "vinyl", "metal", "masonry", "roofing"]
    cladding: str
    # Of what may lie on brick or block as well as on a frame: its cladding there, and where it usually lies.
    cladding_on_masonry: str = ""
    usually_on: Literal["frame", "masonry"] = "frame"
    profile: str
    texture: str
    # Soft, or bound with lime: only what stays open to vapour, and no tool that tears its edges (handbook 5).
    is_soft: bool = False
    # Cement and bitumen products that held asbestos before the local ban (handbook 12).
    may_hold_asbestos: bool = False
    # Rows of stocks: under a film, and bare or stained; empty for what takes up no water.
    stock: str = ""
    stock_open: str = ""
    source: str


class Profile(TableRow):
    label: str
    # A key of profiles.SHAPES; `mm` has the dimensions that shape asks for.
    shape: str
    mm: dict[str, float] = Field(default_factory=dict)
    factor: float | None = Field(default=None, ge=1)
    source: str


class Texture(TableRow):
    label: str
    factor: float = Field(ge=1)
    # What a bare ground drinks is in the factor already.
    counts_suction: bool = False
    source: str


class OpeningKind(TableRow):
    label: str
    deducts: bool
    # It is a painted surface of its own.
    substrate: str | None = None
    # How many of its faces are painted when it is taken as a piece; 0 for frames and bars only.
    faces: int = Field(default=0, ge=0, le=2)
    factor: float = Field(default=1.0, ge=1)
    # Girth of frame and bars [mm], for what has panes.
    frame_mm: float = Field(default=0.0, ge=0)
    bar_mm: float = Field(default=0.0, ge=0)
    has_panes: bool = False
    moves: bool = False
    width_m: float = Field(gt=0)
    height_m: float = Field(gt=0)
    # Usual height of its sill above the foot of the wall.
    sill_m: float = Field(default=0.0, ge=0)
    panes_across: int = Field(default=1, ge=1)
    panes_up: int = Field(default=1, ge=1)
    source: str


class Size(TableRow):
    """A container and its price, in the contractor's money."""

    name: str = Field(min_length=1, max_length=60)
    litres: float = Field(gt=0, le=1500)
    price: float = Field(ge=0, le=100_000)


class Product(TableRow):
    """A coating's data sheet: what its label asks of weather, ground and time (at 25 °C, 50 %)."""

    name: str = Field(min_length=1, max_length=120)
    # Of the families of systems.
    family: str = "acrylic"
    kind: Literal["waterborne", "alkyd"]
    # What it is sold as: the better one lasts to the upper end of its years.
    grade: Literal["economy", "standard", "premium"] = "standard"
    volume_solids_pct: float = Field(gt=0, le=100)
    dry_film_um: float = Field(gt=0)
    # The label's own range on what is smooth and sound; 0 where it gives none.
    spread_low_m2_per_l: float = Field(default=0.0, ge=0, le=30)
    spread_high_m2_per_l: float = Field(default=0.0, ge=0, le=30)
    min_surface_temp_c: float
    max_surface_temp_c: float
    min_air_temp_c: float
    max_air_temp_c: float
    max_rel_humidity_pct: float = Field(gt=0, le=100)
    min_dew_margin_c: float = Field(ge=0)
    rain_free_h: float = Field(ge=0)
    hold_h: float = Field(ge=0)
    hold_min_surface_temp_c: float
    touch_h: float = Field(gt=0)
    recoat_h: float = Field(gt=0)
    cure_h: float = Field(default=336.0, ge=0)
    # Of what it goes on, by the meter for that material; pH of masonry.
    max_moisture_pct: float = Field(default=15.0, gt=0, le=100)
    max_ph: float = Field(default=14.0, ge=0, le=14)
    thinning: str = ""
    tips: str = ""
    sheen: str = ""
    voc_g_l: float = Field(default=0.0, ge=0)
    colours: str = "any"
    # Families of substrate it may go on; single substrates it may not; films it may go over.
    goes_on: tuple[str, ...] = ()
    not_on: tuple[str, ...] = ()
    over: tuple[Literal["none", "film", "stain", "mineral"], ...] = ("none", "film")
    # Families that may go over it; empty for its own.
    topped_by: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    sizes: tuple[Size, ...] = ()
    source: str = ""


class Sundry(TableRow):
    """A sundry that prepares or fills: cleaner, stripper, filler, caulk."""

    name: str = Field(min_length=1, max_length=120)
    family: str
    min_air_temp_c: float
    # Hours until the next step, by the law of the step that uses it; of what is mixed, until it sets in the pot.
    ready_h: float = Field(default=0.0, ge=0)
    pot_life_h: float = Field(default=0.0, ge=0)
    # Parts of water to one of concentrate, strongest and weakest; empty for what is used as it is.
    mix: tuple[float, ...] = ()
    mix_text: str = ""
    # Area wetted by a litre of the mix, and how long it stands.
    spread_m2_per_l: float = Field(default=0.0, ge=0)
    contact_min: float = Field(default=0.0, ge=0)
    section: str = ""
    rinse: str = ""
    neutralise: str = ""
    never_with: tuple[Literal["ammonia", "acid", "bleach", "caustic", "aluminium"], ...] = ()
    cautions: tuple[str, ...] = ()
    sizes: tuple[Size, ...] = ()
    source: str


class Limits(TableRow):
    max_rain_probability_pct: float
    after_application_h: float
    # A product that goes down to this is rated for the cold.
    cold_rated_c: float
    warm_in_sun_c: float
    trace_rain_mm: float
    # What a palm feels, as water on the face [mm].
    palm_damp_mm: float
    palm_wet_mm: float
    # Nobody goes up again before this time after the last thunder.
    thunder_h: float
    # From this chance on an hour counts as one with thunder [%].
    thunder_pct: float
    # Deep waterborne tints streak where dew or drizzle comes within this time (handbook 3).
    leaching_h: float
    # Below this reflectance a colour is deep; sun that reaches a fresh dark coat within these hours is a caution.
    deep_lrv_pct: float
    sun_soon_h: float
    moisture_tight_pct: float


class Spray(TableRow):
    """Wind limits of a sprayer, by what lies downwind (handbook 3)."""

    tight_m_s: float
    near_m_s: float
    free_m_s: float
    # How far to either side of its bearing property counts as downwind (our assumption).
    spread_deg: float
    # The fine part of the spray that drifts farthest.
    droplet_um: float
    # Droplets that most of the paint is in.
    coarse_um: float


class ErrorModel(TableRow):
    """Errors of a forecast: their size, growing with lead time, and their correlation."""

    air_c: float = Field(ge=0)
    air_c_per_h: float = Field(ge=0)
    dew_c: float = Field(ge=0)
    dew_c_per_h: float = Field(ge=0)
    # Of the logarithm of the wind.
    wind_frac: float = Field(ge=0)
    wind_frac_per_h: float = Field(ge=0)
    cloud_pct: float = Field(ge=0)
    cloud_pct_per_h: float = Field(ge=0)
    # What is left of an error an hour later; how much air and dew point err together.
    hold: float = Field(ge=0, lt=1)
    air_dew: float = Field(ge=-1, le=1)
    rain_hold: float = Field(ge=0, lt=1)
    # How heavy the tails of errors are, Tukey's h: 0 is normal. Most are small, some, where a front comes early or late, large.
    air_tail: float = Field(ge=0, lt=0.5)
    dew_tail: float = Field(ge=0, lt=0.5)
    wind_tail: float = Field(ge=0, lt=0.5)
    cloud_tail: float = Field(ge=0, lt=0.5)
    # Errors that stay at a site: its air less that which is told, and the logarithms of vapour pressure and wind over those told.
    site_air_c: float = Field(ge=0)
    site_vapour_frac: float = Field(ge=0)
    site_wind_frac: float = Field(ge=0)
    # By how much a single reading strays by itself, instrument and hour together; and how many are slips.
    reading_air_c: float = Field(gt=0)
    reading_vapour_frac: float = Field(gt=0)
    reading_surface_c: float = Field(gt=0)
    slips_frac: float = Field(gt=0, lt=1)
    source: str


class Tight(TableRow):
    temperature_c: float
    dew_margin_c: float
    humidity_pct: float
    wind_share: float
    rain_share: float


class Access(TableRow):
    label: str
    # Highest point of a wall that is worked at from it.
    reach_m: float = Field(gt=0)
    # Steepest ground it stands on.
    max_slope_pct: float = Field(ge=0)
    needs_firm_ground: bool
    max_wind_m_s: float
    # How far one works to either side of where it stands; how much longer work above the first storey takes from it.
    reach_side_m: float = Field(gt=0, le=20)
    upper_factor: float = Field(ge=1, le=5)
    # Painter-hours for each move, and once for putting it up and taking it down.
    set_h: float = Field(ge=0, le=8)
    erect_h: float = Field(ge=0, le=40)
    # What it costs where it is hired, and how many days ahead it must be reserved.
    hire_per_day: float = Field(ge=0, le=20_000)
    delivery: float = Field(ge=0, le=20_000)
    lead_days: int = Field(ge=0, le=365)
    # What is put up along the whole wall by those who hire it out: by its face, with so many weeks in it, and each week more.
    hire_per_m2: float = Field(default=0.0, ge=0, le=1000)
    hire_per_m2_week: float = Field(default=0.0, ge=0, le=1000)
    weeks_in: float = Field(default=4.0, ge=0, le=52)
    source: str


class HireRates(TableRow):
    """What hire usually costs in a country, in its own money; None where the first table speaks."""

    hire_per_day: float | None = Field(default=None, ge=0, le=20_000)
    delivery: float | None = Field(default=None, ge=0, le=20_000)
    hire_per_m2: float | None = Field(default=None, ge=0, le=1000)
    hire_per_m2_week: float | None = Field(default=None, ge=0, le=1000)


class Method(TableRow):
    label: str
    loss_pct: float = Field(ge=0, le=95)
    max_wind_m_s: float | None = None
    wind_pct: float = Field(default=0.0, ge=0, le=90)
    wear_pct: float = Field(default=0.0, ge=0, le=100)
    source: str


class ItemKind(TableRow):
    """A kind of trim that is measured by the run or the piece."""

    label: str
    # "run": length x girth; "piece": count x length x girth.
    measure: Literal["run", "piece"]
    girth_m: float = Field(gt=0)
    length_m: float = Field(default=1.0, gt=0)
    # Metres of joint to a metre of it that no wall counts with its sides, rakes and openings; and where no wall is painted.
    joints: float = Field(default=0.0, ge=0)
    joints_alone: float = Field(default=0.0, ge=0)
    substrate: str
    source: str


class OldCoating(TableRow):
    """Present coating of a surface."""

    label: str
    film: Literal["none", "film", "stain", "mineral"]
    source: str


class Condition(TableRow):
    """A kind of damage on a surface (handbook 5)."""

    label: str
    group: Literal["sound", "film", "wood", "masonry", "metal", "joint", "stain", "damage"]
    # Families of substrate it is found on; empty for all.
    families: tuple[str, ...] = ()
    # How deep or wide it is decides what is done.
    asks_depth: bool = False
    means: str
    source: str


class FindingExtent(TableRow):
    label: str
    share: float = Field(ge=0, le=1)


class FeatureKind(TableRow):
    """A kind of thing round a building."""

    label: str
    group: Literal["cover", "keep-clear", "damp", "people", "shade"]
    # Nearer than this is a fault [m]; 0 for no such distance.
    clearance_m: float = Field(default=0.0, ge=0)
    throws_shade: bool = False
    means: str
    source: str


class Ground(TableRow):
    label: str
    is_firm: bool


class Country(TableRow):
    """Years before which a building counts as holding a hazard (None where one must ask); units and money that are usual there."""

    label: str
    units: Literal["us", "metric"] = "metric"
    currency: str = Field(default="USD", pattern="[A-Z]{3}")
    locale: str = Field(default="en_US", min_length=2, max_length=20)
    lead_before_year: int | None = None
    asbestos_before_year: int | None = None
    # Usual hire of a way up, by its key; and from which height a wall is scaffolded there; None where towers and lifts are usual.
    hire: dict[str, HireRates] = Field(default_factory=dict)
    scaffold_from_m: float | None = Field(default=None, gt=0)
    source: str


class SiteTests(TableRow):
    """Thresholds of the tests on site, each with its unit in the name."""

    chalk_fail_below: float
    chalk_doubt_below: float
    water_soaks_s: float
    water_beads_s: float
    adhesion_pass: float
    adhesion_doubt: float
    wood_siding_moisture_pct: float
    wood_deck_moisture_pct: float
    masonry_moisture_pct: float
    moisture_doubt_pct: float
    crack_open_mm: float
    crack_hairline_mm: float
    masonry_ph_pass: float
    masonry_ph_doubt: float
    neutral_ph_low: float
    neutral_ph_high: float
    plastic_sheet_h: float
    lead_ppm: float
    lead_mg_cm2: float
    source: str
