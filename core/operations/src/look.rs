//! Look: what a build looks like.

use crate::{Answer, Refusal, word_of};
use orthavis_core::document::{Air, Around, Build, VehicleKind, parse};
use orthavis_core::look::body::{self, Body};
use orthavis_core::look::eye::{Sky, Viewpoint};
use orthavis_core::look::figures::{self, Lights, LookError, Moment};
use orthavis_core::look::night::{Falling, Glow, Scenery, Sight};
use orthavis_core::look::shade::Blocks;
use orthavis_core::pixels_over_time::Show;
use orthavis_core::points::PointReport;
use orthavis_core::show::play::most_speed;
use orthavis_core::states::State as SourceState;
use orthavis_core::vehicle::{self, VehicleView};
use serde::Deserialize;
use serde_json::value::RawValue;
use std::cell::RefCell;
use std::rc::Rc;

impl From<LookError> for Refusal {
    fn from(error: LookError) -> Self {
        match error {
            LookError::NoScene(detail) => Refusal::new("scene", "No such scene", detail),
            LookError::NoState(detail) => Refusal::new("state", "No such state", detail),
            LookError::Unsolved(error) => error.into(),
        }
    }
}

/// When and where a build is looked at.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LookRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene; the first by default.
    pub scene: Option<String>,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// What surrounds it; what the build says by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<Around>))]
    pub around: Option<String>,
    /// How clear the air is; clear by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<Air>))]
    pub air: Option<String>,
}

impl LookRequest {
    fn moment(&self) -> Answer<Moment<'_>> {
        Ok(Moment {
            scene: self.scene.as_deref(),
            state: self.state.as_deref().map(|word| word_of("state", word, SourceState::WORDS)).transpose()?,
            around: self.around.as_deref().map(|word| word_of("around", word, Around::WORDS)).transpose()?,
            air: self.air.as_deref().map(|word| word_of("air", word, Air::WORDS)).transpose()?,
        })
    }
}

/// Which vehicle is drawn.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DrawingsRequest {
    /// Its kind.
    #[cfg_attr(feature = "schema", schema(value_type = VehicleKind))]
    pub kind: String,
    /// Its form; the first by default.
    pub variant: Option<String>,
}

/// A vehicle from beside, behind and above: first from where its places are seen best.
pub fn drawings(request: DrawingsRequest) -> Answer<Vec<VehicleView>> {
    let kind = word_of("kind", &request.kind, VehicleKind::WORDS)?;
    if let Some(named) = request.variant.as_deref().filter(|named| !vehicle::variants(kind).iter().any(|known| known.id == *named)) {
        let known: Vec<&str> = vehicle::variants(kind).iter().map(|known| known.id.as_str()).collect();
        return Err(Refusal::new("variant", "No such form", format!("`{named}` is not a form of this vehicle. Name one of {}.", known.join(", "))));
    }
    Ok(vehicle::form(kind, request.variant.as_deref()).map(|form| form.views.clone()).unwrap_or_default())
}

/// Light in figures.
pub fn lights(request: LookRequest) -> Answer<Lights> {
    Ok(figures::figures(&parse(request.document.get())?, &request.moment()?)?)
}

/// Light in figures, with words and workings.
pub fn look(request: LookRequest) -> Answer<figures::BuildLook> {
    Ok(figures::look(&parse(request.document.get())?, &request.moment()?)?)
}

/// A picture of the night at a moment.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NightRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// From where.
    #[cfg_attr(feature = "schema", schema(value_type = Viewpoint))]
    pub from: String,
    /// Pixels across the picture, at most 1920.
    pub wide: usize,
    /// Pixels down, at most 1200.
    pub high: usize,
    /// Scene; the first by default.
    pub scene: Option<String>,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// What light there is beside the build's; by what surrounds it by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<Sky>))]
    pub sky: Option<String>,
    /// When in the show, s; its beginning by default.
    pub t_s: Option<f64>,
    /// As if every light got all that is asked for it.
    #[serde(default)]
    pub asked: bool,
}

/// The light of a moment, and whether it moves.
#[derive(serde::Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Night {
    /// The light.
    #[serde(flatten)]
    pub falling: Falling,
    /// What light there is beside it.
    pub sky: Sky,
    /// Whether the scene moves.
    pub moves: bool,
    /// How many times its speed it may be shown at, so that nothing flashes more than three times a second.
    pub most_speed: f64,
}

/// Most pixels across and down.
const MOST_PIXELS: [usize; 2] = [1920, 1200];
/// Fewest of either.
const LEAST_PIXELS: usize = 32;

fn size_of(wide: usize, high: usize) -> Answer<[usize; 2]> {
    for (name, pixels, most) in [("wide", wide, MOST_PIXELS[0]), ("high", high, MOST_PIXELS[1])] {
        if !(LEAST_PIXELS..=most).contains(&pixels) {
            return Err(Refusal::new(name, "No picture of that size", format!("`{name}` is {pixels}. Ask for {LEAST_PIXELS} to {most} pixels.")));
        }
    }
    Ok([wide, high])
}

/// A form of a kind of vehicle, and what of it stands in light's way.
type KeptBody = (VehicleKind, String, Rc<(Body, Blocks)>);

/// What was put together for the last picture, since the next is likely of the same: a show asks thirty times a second.
#[derive(Default)]
struct Kept {
    text: Box<str>,
    build: Option<Rc<Build>>,
    body: Option<KeptBody>,
    sight: Option<(Viewpoint, Rc<Sight>)>,
    points: Vec<(String, Option<SourceState>, Rc<PointReport>)>,
}

thread_local! {
    static KEPT: RefCell<Kept> = RefCell::default();
}

/// Points of one build that are kept: two are compared, and a third is on its way.
const POINTS: usize = 3;

impl Kept {
    fn build(&mut self, text: &str) -> Answer<Rc<Build>> {
        if let Some(build) = self.build.as_ref().filter(|_| *self.text == *text) {
            return Ok(build.clone());
        }
        let build = Rc::new(parse(text)?);
        self.text = text.into();
        self.points.clear();
        Ok(self.build.insert(build).clone())
    }

    fn body(&mut self, build: &Build) -> Answer<Rc<(Body, Blocks)>> {
        let kind = build.vehicle.kind;
        let form = build.form().map(|form| form.id.clone()).unwrap_or_default();
        if let Some((_, _, body)) = self.body.as_ref().filter(|(known, name, _)| *known == kind && *name == form) {
            return Ok(body.clone());
        }
        let none = || Refusal::new("document", "No such vehicle", format!("There is no form `{form}` of this vehicle. Choose one at Battery."));
        let body = body::body(kind, &form).ok_or_else(none)?;
        let blocks = Blocks::of(&body.mesh);
        let body = Rc::new((body, blocks));
        self.sight = None;
        self.body = Some((kind, form, body.clone()));
        Ok(body)
    }

    fn sight(&mut self, build: &Build, from: Viewpoint, size: [usize; 2]) -> Answer<Rc<Sight>> {
        let known = self.body(build)?;
        let (body, blocks) = &*known;
        if let Some((_, sight)) = self.sight.as_ref().filter(|(known, sight)| *known == from && sight.still_shows(build, body, size)) {
            return Ok(sight.clone());
        }
        let sight = Rc::new(Sight::of(build, body, blocks, from, size));
        self.sight = Some((from, sight.clone()));
        Ok(sight)
    }

    fn point(&mut self, build: &Build, moment: &Moment<'_>) -> Answer<Rc<PointReport>> {
        let scene = moment.scene.unwrap_or_default();
        if let Some((_, _, point)) = self.points.iter().find(|(known, state, _)| known == scene && *state == moment.state) {
            return Ok(point.clone());
        }
        let point = Rc::new(figures::point(build, moment)?);
        self.points.truncate(POINTS - 1);
        self.points.insert(0, (scene.to_owned(), moment.state, point.clone()));
        Ok(point)
    }
}

/// What stands in a picture of the night, whatever shines: of what is asked only the vehicle, the viewpoint and the size count.
pub fn scenery(request: NightRequest) -> Answer<Scenery> {
    let (size, from) = (size_of(request.wide, request.high)?, word_of("from", &request.from, Viewpoint::WORDS)?);
    KEPT.with_borrow_mut(|kept| {
        let build = kept.build(request.document.get())?;
        Ok(kept.sight(&build, from, size)?.scenery())
    })
}

/// The light of a moment in it.
pub fn night(request: NightRequest) -> Answer<Night> {
    let (size, from) = (size_of(request.wide, request.high)?, word_of("from", &request.from, Viewpoint::WORDS)?);
    let asked = request.sky.as_deref().map(|word| word_of("sky", word, Sky::WORDS)).transpose()?;
    let state = request.state.as_deref().map(|word| word_of("state", word, SourceState::WORDS)).transpose()?;
    KEPT.with_borrow_mut(|kept| {
        let build = kept.build(request.document.get())?;
        let point = kept.point(&build, &Moment { scene: request.scene.as_deref(), state, around: None, air: None })?;
        let sight = kept.sight(&build, from, size)?;
        let sky = asked.unwrap_or_else(|| Sky::of(build.usage.around()));
        let glow = Glow::of(&build, &point, request.t_s.unwrap_or(0.0), request.asked);
        let scene = build.scenes.iter().find(|scene| scene.id == point.scene);
        let moves = scene.is_some_and(|scene| Show::of(&build, scene).period_s() > 0.0);
        let most_speed = scene.map_or(1.0, |scene| most_speed(&build, scene));
        Ok(Night { falling: sight.falling(&build, &glow, sky), sky, moves, most_speed })
    })
}
