//! Look: what a build looks like.

use crate::{Answer, Refusal, word_of};
#[cfg(feature = "schema")]
use orthavis_core::document::Build;
use orthavis_core::document::{Air, Around, VehicleKind, parse};
use orthavis_core::look::figures::{self, Lights, LookError, Moment};
use orthavis_core::states::State as SourceState;
use orthavis_core::vehicle::{self, VehicleView};
use serde::Deserialize;
use serde_json::value::RawValue;

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
