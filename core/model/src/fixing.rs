//! What holds a part where it is: what speaks for each way, what against it, and how long it takes to cure
//! (representative figures of the trade; cold doubles the times).

use crate::document::{Build, Fixing, Ground, Surface, Trait, VehicleKind};
use crate::words;
use serde::Serialize;

words! {
    /// What protects a light, a module or a wire.
    Protection {
        /// Nothing more than its fixing.
        Nothing = "nothing",
        /// Heat-shrink tubing.
        HeatShrink = "heat_shrink" called "heat-shrink",
        /// Heat-shrink with glue in it.
        GlueShrink = "glue_shrink" called "heat-shrink with glue",
        /// A braided or split sleeve.
        Sleeve = "sleeve",
        /// Conformal coat.
        ConformalCoat = "conformal_coat" called "conformal coat",
        /// Potting.
        Potting = "potting",
    }
}

/// How long a way of fixing takes, min: until it holds, until it may be loaded, until it is as strong as it gets.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Curing {
    /// Until it holds by itself.
    pub holds_min: f64,
    /// Until it may be loaded or worked on.
    pub load_min: f64,
    /// Until it is as strong as it gets.
    pub full_min: f64,
}

const HOUR: f64 = 60.0;
const DAY: f64 = 24.0 * HOUR;
/// Below this it is cold, °C, and everything that cures takes this much longer.
const COLD: (f64, f64) = (10.0, 2.0);
/// Heavier than this is heavy for glue and tape alone, g.
const HEAVY_G: f64 = 150.0;

/// How long a way of fixing takes at a temperature.
pub fn curing(fixing: Fixing, workshop_c: f64) -> Curing {
    let (holds, load, full) = match fixing {
        Fixing::HotGlue => (3.0, 3.0, 3.0),
        Fixing::QuickEpoxy => (5.0, HOUR, DAY),
        Fixing::SlowEpoxy => (6.0 * HOUR, 6.0 * HOUR, DAY),
        Fixing::Superglue => (1.0, 10.0, DAY),
        Fixing::ContactAdhesive => (20.0, 20.0, DAY),
        Fixing::Silicone => (2.0 * HOUR, DAY, DAY),
        Fixing::FoamTape => (0.0, 0.0, 3.0 * DAY),
        Fixing::ClothTape | Fixing::Ties | Fixing::Clamps | Fixing::Clips | Fixing::Screws => (0.0, 0.0, 0.0),
    };
    let factor = if workshop_c < COLD.0 { COLD.1 } else { 1.0 };
    Curing { holds_min: factor * holds, load_min: factor * load, full_min: factor * full }
}

/// A coat of paint, min: two of them, one after the other.
pub fn coat_min(workshop_c: f64) -> f64 {
    if workshop_c < COLD.0 { COLD.1 * DAY } else { DAY }
}

/// Where something is fixed.
#[derive(Clone, Debug, PartialEq)]
pub struct Site {
    /// What the place does to it.
    pub traits: Vec<Trait>,
    /// On what.
    pub surface: Surface,
    /// Cells are right behind it.
    pub near_cells: bool,
    /// A medical device, which nothing is drilled into.
    pub medical: bool,
    /// Mass, g.
    pub mass_g: f64,
}

impl Site {
    /// What the person said that a part of a build is fixed on: of it, or of its place.
    pub fn noted(build: &Build, part: &str) -> Option<Surface> {
        let decided = build.make.as_ref().and_then(|make| make.fixed(part)?.surface);
        let place = || build.lights.iter().find(|light| light.id == part).map(|light| &light.place);
        decided.or_else(|| build.places.iter().find(|known| Some(&known.name) == place())?.surface.map(Ground::as_surface))
    }

    /// Where a part of a build is fixed.
    pub fn of(build: &Build, part: &str) -> Site {
        let light = build.lights.iter().find(|light| light.id == part);
        let place = light.map_or("", |light| light.place.as_str());
        let converter = build.converters.iter().find(|known| known.id == part);
        let usual = match build.vehicle.kind {
            VehicleKind::Bicycle | VehicleKind::Wheelchair => Surface::PaintedMetal,
            VehicleKind::Skateboard | VehicleKind::Rv => Surface::Wood,
            VehicleKind::RcModel | VehicleKind::Drone | VehicleKind::Other => Surface::Abs,
        };
        Site {
            traits: build.traits_of(place),
            surface: Site::noted(build, part).unwrap_or(usual),
            near_cells: place.contains("battery") || place.contains("pack"),
            medical: build.vehicle.kind == VehicleKind::Wheelchair,
            mass_g: light.map(|light| light.mass_g).or(converter.map(|known| known.mass_g)).unwrap_or(10.0),
        }
    }

    fn has(&self, one: Trait) -> bool {
        self.traits.contains(&one)
    }
}

words! {
    /// Why a way of fixing is none at a site.
    Against {
        /// It fogs what is clear.
        Fogs = "fogs",
        /// It goes soft, or lets go.
        LetsGo = "lets_go",
        /// It reaches cells.
        NearCells = "near_cells",
        /// It comes off in the wet.
        TapeWet = "tape_wet",
        /// It wants a hole where none may be.
        Drilled = "drilled",
        /// It never comes off again.
        ForGood = "for_good",
    }
}

/// Something that speaks against a way of fixing at a site.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Objection {
    /// What.
    pub against: Against,
    /// In words.
    pub words: &'static str,
}

/// What rules a way out at a site.
pub fn objections(fixing: Fixing, site: &Site) -> Vec<Objection> {
    let mut all = Vec::new();
    let mut say = |on: bool, against: Against, words: &'static str| {
        if on {
            all.push(Objection { against, words });
        }
    };
    let glued_for_good = matches!(fixing, Fixing::QuickEpoxy | Fixing::SlowEpoxy | Fixing::Superglue | Fixing::ContactAdhesive | Fixing::Silicone);
    say(fixing == Fixing::Superglue && site.surface == Surface::ClearPlastic, Against::Fogs, "superglue fogs clear plastic");
    say(
        fixing == Fixing::HotGlue && (site.has(Trait::Hot) || (site.has(Trait::Wet) && site.has(Trait::Moving))),
        Against::LetsGo,
        "hot glue goes soft in heat, and lets go in the cold where something flexes",
    );
    say(fixing == Fixing::Screws && site.near_cells, Against::NearCells, "a screw that reaches a cell sets it on fire");
    say(matches!(fixing, Fixing::FoamTape | Fixing::ClothTape) && site.has(Trait::Wet), Against::TapeWet, "tape alone comes off in the wet");
    say(fixing == Fixing::Screws && (site.has(Trait::NoDrill) || site.medical), Against::Drilled, "no holes here");
    say(glued_for_good && site.has(Trait::Removable), Against::ForGood, "what must come off again cannot be glued for good");
    all
}

/// A way of fixing, with what speaks for and against it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranked {
    /// With what.
    pub fixing: Fixing,
    /// What speaks for it.
    pub pro: Vec<&'static str>,
    /// What speaks against it.
    pub con: Vec<&'static str>,
    /// Whether something rules it out.
    pub ruled_out: bool,
    /// How long it takes.
    pub curing: Curing,
    #[serde(skip)]
    score: i32,
}

/// Every way, best first.
pub fn ranked(site: &Site, workshop_c: f64) -> Vec<Ranked> {
    let mut all: Vec<Ranked> = Fixing::WORDS.iter().map(|(_, fixing)| weighed(*fixing, site, workshop_c)).collect();
    all.sort_by_key(|one| (one.ruled_out, -one.score, one.fixing));
    all
}

fn weighed(fixing: Fixing, site: &Site, workshop_c: f64) -> Ranked {
    let out = objections(fixing, site);
    let (mut pro, mut con, mut score) = (Vec::new(), Vec::new(), 0);
    con.extend(out.iter().map(|one| one.words));
    let glue = matches!(
        fixing,
        Fixing::HotGlue | Fixing::QuickEpoxy | Fixing::SlowEpoxy | Fixing::Superglue | Fixing::ContactAdhesive | Fixing::Silicone | Fixing::FoamTape
    );
    let around = matches!(fixing, Fixing::Ties | Fixing::Clamps | Fixing::ClothTape);
    let mut weigh = |on: bool, points: i32, words: &'static str| {
        if on {
            score += points;
            if points > 0 { pro.push(words) } else { con.push(words) }
        }
    };
    let tube = site.surface == Surface::PaintedMetal || site.surface == Surface::BareMetal;
    weigh(around && tube, 3, "holds on a tube without marks");
    weigh(around && !tube, -3, "there is nothing to go around");
    weigh(around && site.has(Trait::NoDrill), 2, "needs no hole");
    weigh(matches!(fixing, Fixing::Ties | Fixing::Clamps | Fixing::Clips | Fixing::Screws) && site.has(Trait::Removable), 3, "comes off again");
    weigh(fixing == Fixing::Clamps && site.mass_g > HEAVY_G, 2, "carries weight");
    weigh(fixing == Fixing::Clamps && site.mass_g <= HEAVY_G, -1, "more than so light a part needs");
    weigh(fixing == Fixing::Ties && site.mass_g > HEAVY_G, -2, "too little for its weight");
    weigh(fixing == Fixing::Clips && matches!(site.surface, Surface::Wood | Surface::Abs), 2, "sits on a flat surface and lets go when it should");
    weigh(fixing == Fixing::Clips && tube, -2, "wants a flat surface");
    weigh(fixing == Fixing::Screws && site.surface == Surface::Wood, 3, "wood holds screws well");
    weigh(fixing == Fixing::Screws && site.surface != Surface::Wood, -2, "wants a hole that was not there");
    weigh(
        fixing == Fixing::FoamTape && matches!(site.surface, Surface::PaintedMetal | Surface::Abs | Surface::BareMetal),
        2,
        "takes up small bumps, and holds at once",
    );
    weigh(fixing == Fixing::FoamTape && matches!(site.surface, Surface::Foam | Surface::Fabric | Surface::Wood), -2, "wants something smooth and clean");
    weigh(fixing == Fixing::Silicone && site.has(Trait::Wet), 3, "keeps water out and stays soft");
    weigh(fixing == Fixing::Silicone && !site.has(Trait::Wet), -1, "takes a day");
    weigh(fixing == Fixing::SlowEpoxy, 1, "the strongest bond, and time to put things straight");
    weigh(fixing == Fixing::QuickEpoxy, 1, "strong, and set while you hold it");
    weigh(matches!(fixing, Fixing::SlowEpoxy | Fixing::QuickEpoxy) && site.has(Trait::Moving), -2, "brittle where something flexes");
    weigh(fixing == Fixing::HotGlue && matches!(site.surface, Surface::Foam | Surface::Abs), 2, "quick, light, and comes off with alcohol");
    weigh(fixing == Fixing::HotGlue && tube, -2, "does not grip cold metal");
    weigh(fixing == Fixing::ContactAdhesive && matches!(site.surface, Surface::Fabric | Surface::Foam), 2, "stays flexible");
    weigh(fixing == Fixing::ContactAdhesive && site.surface == Surface::Foam, -1, "some eat foam: try it on a scrap");
    weigh(fixing == Fixing::Superglue, -2, "brittle, and no second try");
    weigh(glue && site.mass_g > HEAVY_G, -2, "a heavy part wants something that cannot peel off");
    weigh(fixing == Fixing::ClothTape, -2, "leaves its glue behind after a summer");
    Ranked { fixing, pro, con, ruled_out: !out.is_empty(), curing: curing(fixing, workshop_c), score }
}

/// What protects what sits at a site, and why.
pub fn protection(site: &Site) -> (Protection, &'static str) {
    match (site.has(Trait::Wet), site.has(Trait::Moving), site.has(Trait::Hot)) {
        (true, _, true) => (Protection::ConformalCoat, "wet and warm: a coat lets heat out and keeps water off; tubing would do neither"),
        (true, ..) => (Protection::GlueShrink, "water creeps along a wire: the glue inside stops it"),
        (false, true, _) => (Protection::Sleeve, "it rubs where something moves"),
        (false, false, _) => (Protection::HeatShrink, "bare metal is covered, and nothing more is needed"),
    }
}

/// How a part of a build is fixed: as the person decided, else the best that there is.
pub fn chosen(build: &Build, part: &str) -> Fixing {
    let decided = build.make.as_ref().and_then(|make| make.fixed(part)?.fixing);
    decided.unwrap_or_else(|| ranked(&Site::of(build, part), workshop_c(build)).first().map_or(Fixing::Ties, |best| best.fixing))
}

/// How warm the workshop is, °C.
pub fn workshop_c(build: &Build) -> f64 {
    build.make.as_ref().and_then(|make| make.workshop_c).unwrap_or(20.0)
}
