//! From a label or a wish to builds, and what builds are compared by.

use crate::{Answer, DocumentRequest, Refusal};
use orthavis_core::design::label::{self, LabelRead};
use orthavis_core::design::measures::{self, Measures};
use orthavis_core::design::search::{self, Designs};
use orthavis_core::design::wish::parse;
use serde::Deserialize;
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// A label as somebody types it off.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LabelRequest {
    /// What is printed on the battery.
    pub text: String,
}

/// A label longer than this is no label.
const MOST_LETTERS: usize = 300;

/// What a label says of a supply.
pub fn label(request: LabelRequest) -> Answer<LabelRead> {
    let refused = || {
        let detail =
            "No voltage and no kind of cells is to be seen in it. Type what is printed, for example 36 V 14 Ah, 3S 2200 mAh 30C, 6×AA or 5 V 2.1 A USB.";
        Refusal::new("label", "The label cannot be read", detail)
    };
    if request.text.len() > MOST_LETTERS {
        return Err(refused());
    }
    label::read(&request.text).map_err(|_| refused())
}

/// A wish.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WishRequest {
    /// `orthavis.wish/1`.
    #[cfg_attr(feature = "schema", schema(value_type = Object))]
    pub wish: Box<RawValue>,
}

/// Whole designs for a wish.
pub fn designs(request: WishRequest) -> Answer<Designs> {
    let wish = parse(request.wish.get()).map_err(|error| {
        let detail = error.to_string();
        Refusal { errors: error.faults, ..Refusal::new("wish", "The wish cannot be read", detail) }
    })?;
    Ok(search::designs(&wish)?)
}

/// What a build is compared by.
pub fn measured(request: DocumentRequest) -> Answer<Measures> {
    Ok(measures::measures(&request.build()?, &BTreeMap::new())?)
}
