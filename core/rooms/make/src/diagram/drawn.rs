//! The drawing: boxes, bars, wires and what is written on them, with their places.

use orthavis_model::words;
use serde::Serialize;

words! {
    /// What a box is.
    BoxKind {
        /// The battery or rail.
        Source = "source",
        /// A junction.
        Junction = "junction",
        /// A converter.
        Converter = "converter",
        /// A light.
        Light = "light",
        /// A small circuit.
        Circuit = "circuit",
        /// A controller.
        Controller = "controller",
    }
}

words! {
    /// What sits in a wire.
    SymbolKind {
        /// A fuse.
        Fuse = "fuse",
        /// A switch.
        Switch = "switch",
        /// A plug.
        Plug = "plug",
        /// The frame as the way back.
        Frame = "frame",
    }
}

/// A terminal of a box.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Terminal {
    /// As on the part: `IN+`, `OUT−`, `DIN`.
    pub name: &'static str,
    /// Place.
    pub x: f64,
    /// Place.
    pub y: f64,
}

/// A part.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DrawnBox {
    /// Its id.
    pub id: String,
    /// What it is.
    pub kind: BoxKind,
    /// What is written in it.
    pub lines: Vec<String>,
    /// Left.
    pub x: f64,
    /// Top.
    pub y: f64,
    /// Width.
    pub w: f64,
    /// Height.
    pub h: f64,
    /// Its terminals.
    pub terminals: Vec<Terminal>,
}

/// A conductor of a feed.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DrawnWire {
    /// The feed.
    pub feed: String,
    /// Whether it is plus.
    pub plus: bool,
    /// Colour of its insulation.
    pub colour: String,
    /// Its corners, from the supplier's bar on.
    pub points: Vec<[f64; 2]>,
    /// Where it jumps over another.
    pub jumps: Vec<[f64; 2]>,
}

/// A supplier's plus or minus, from which its feeds leave.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bar {
    /// The supplier.
    pub of: String,
    /// Whether it is plus.
    pub plus: bool,
    /// From its terminal to the bar, and along it.
    pub points: Vec<[f64; 2]>,
    /// Where feeds leave it.
    pub dots: Vec<[f64; 2]>,
}

/// Something in a wire.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Symbol {
    /// What.
    pub kind: SymbolKind,
    /// The feed.
    pub feed: String,
    /// Its middle.
    pub x: f64,
    /// Its middle.
    pub y: f64,
}

/// A text, with the room it takes.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DiagramText))]
pub struct Text {
    /// The feed that it is about.
    pub feed: String,
    /// What it says.
    pub text: String,
    /// Left.
    pub x: f64,
    /// Top.
    pub y: f64,
    /// Width.
    pub w: f64,
    /// Height.
    pub h: f64,
}

/// A window on the drawing that can be read on a sheet: a supplier with what it feeds.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DiagramPage))]
pub struct Page {
    /// The supplier.
    pub of: String,
    /// Left.
    pub left: f64,
    /// Right.
    pub right: f64,
    /// Top.
    pub top: f64,
    /// Bottom.
    pub bottom: f64,
    /// What it feeds that goes on on a page of its own.
    pub goes_on: Vec<String>,
}

/// The whole diagram.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Diagram {
    /// Width.
    pub width: f64,
    /// Height.
    pub height: f64,
    /// Parts.
    pub boxes: Vec<DrawnBox>,
    /// Bars beside suppliers.
    pub bars: Vec<Bar>,
    /// Conductors.
    pub wires: Vec<DrawnWire>,
    /// What sits in them.
    pub symbols: Vec<Symbol>,
    /// Names of conductors, at both ends.
    pub texts: Vec<Text>,
    /// How often conductors cross.
    pub crossings: usize,
    /// A page for each supplier, from the source on.
    pub pages: Vec<Page>,
}
