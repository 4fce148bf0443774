//! A whole build, and how its parts hang together.

use super::field::{list, text, thing};
use super::limits::{MAX_LIST, MAX_SCENES};
use super::part::Part;
use super::record::record;
use super::things::*;

/// The value of `format` that this version reads and writes.
pub const FORMAT: &str = "orthavis.build/1";

record! {
    /// One build.
    pub struct Build {
        /// Always [`FORMAT`].
        pub format: String = text(40).only(FORMAT),
        /// What the person calls it.
        pub name: String = text(200).label("Name"),
        /// Free text.
        pub notes: String = text(100_000).or_word("").label("Notes"),
        /// What is lit.
        pub vehicle: Vehicle = thing(),
        /// Where the power comes from.
        pub source: Source = thing(),
        /// Points where one feed becomes several.
        pub junctions: Vec<Junction> = list(MAX_LIST),
        /// Converters.
        pub converters: Vec<Converter> = list(MAX_LIST),
        /// Small circuits that are soldered.
        #[serde(skip_serializing_if = "Vec::is_empty")]
        pub circuits: Vec<SmallCircuit> = list(MAX_LIST),
        /// What tells lights what to do.
        #[serde(skip_serializing_if = "Vec::is_empty")]
        pub controllers: Vec<Controller> = list(MAX_LIST),
        /// Lights.
        pub lights: Vec<Light> = list(MAX_LIST),
        /// What else lives on this battery.
        pub standing: Vec<Standing> = list(MAX_LIST),
        /// What is lit together.
        pub scenes: Vec<Scene> = list(MAX_SCENES),
        /// How it is used.
        pub usage: Usage = thing().or_blank(),
        /// What is on the battery now, where someone looked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub audit: Option<Audit> = thing(),
        /// How it is made, where the person said so.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub make: Option<Make> = thing(),
        /// Notes on places of the vehicle.
        #[serde(skip_serializing_if = "Vec::is_empty")]
        pub places: Vec<Place> = list(MAX_LIST),
        /// Parts of the person's own that this build uses.
        #[serde(skip_serializing_if = "Vec::is_empty")]
        pub parts: Vec<Part> = list(MAX_LIST),
    }
}

impl Build {
    /// The document as JSON, every field written out.
    pub fn to_value(&self) -> serde_json::Value {
        serde_json::to_value(self).unwrap_or(serde_json::Value::Null)
    }

    /// The document as text, ready for a file.
    pub fn print(&self) -> String {
        serde_json::to_string_pretty(self).unwrap_or_default() + "\n"
    }

    /// Ids of everything that is made and put somewhere: lights, converters, junctions, circuits, controllers.
    pub fn part_ids(&self) -> impl Iterator<Item = &String> {
        let lights = self.lights.iter().map(|one| &one.id).chain(self.converters.iter().map(|one| &one.id));
        let passing = self.junctions.iter().map(|one| &one.id).chain(self.circuits.iter().map(|one| &one.id));
        lights.chain(passing).chain(self.controllers.iter().map(|one| &one.id))
    }

    /// The document as text, as short as it goes.
    pub fn compact(&self) -> String {
        serde_json::to_string(self).unwrap_or_default()
    }

    /// Every feed with the id it is reported under and its consumer.
    pub fn feeds(&self) -> Vec<FeedRef<'_>> {
        let mut all = Vec::new();
        for (index, junction) in self.junctions.iter().enumerate() {
            all.push(FeedRef::new(&junction.id, 0, Consumer::Junction(index), &junction.feed));
        }
        for (index, converter) in self.converters.iter().enumerate() {
            all.push(FeedRef::new(&converter.id, 0, Consumer::Converter(index), &converter.feed));
        }
        for (index, light) in self.lights.iter().enumerate() {
            for (number, feed) in light.feeds.iter().enumerate() {
                all.push(FeedRef::new(&light.id, number, Consumer::Light(index), feed));
            }
        }
        for (index, circuit) in self.circuits.iter().enumerate() {
            all.push(FeedRef::new(&circuit.id, 0, Consumer::Circuit(index), &circuit.feed));
        }
        for (index, controller) in self.controllers.iter().enumerate() {
            all.push(FeedRef::new(&controller.id, 0, Consumer::Controller(index), &controller.feed));
        }
        all
    }

    /// The feed with this id, as it stands in [`Build::feeds`].
    pub fn feed(&self, id: &str) -> Option<FeedRef<'_>> {
        let (owner, number) = match id.rsplit_once('#') {
            Some((owner, number)) => (owner, number.parse::<usize>().ok().filter(|number| *number > 0)?),
            None => (id, 0),
        };
        let at = |consumer, feed| Some(FeedRef::new(owner, number, consumer, feed));
        let only = number == 0;
        if let Some(index) = self.junctions.iter().position(|junction| only && junction.id == owner) {
            return at(Consumer::Junction(index), &self.junctions[index].feed);
        }
        if let Some(index) = self.converters.iter().position(|converter| only && converter.id == owner) {
            return at(Consumer::Converter(index), &self.converters[index].feed);
        }
        if let Some(index) = self.circuits.iter().position(|circuit| only && circuit.id == owner) {
            return at(Consumer::Circuit(index), &self.circuits[index].feed);
        }
        if let Some(index) = self.controllers.iter().position(|controller| only && controller.id == owner) {
            return at(Consumer::Controller(index), &self.controllers[index].feed);
        }
        let index = self.lights.iter().position(|light| light.id == owner)?;
        at(Consumer::Light(index), self.lights[index].feeds.get(number)?)
    }

    /// The feeds that leave a supplier, in the order of [`Build::feeds`].
    pub fn feeds_from<'a>(&'a self, supplier: &'a str) -> impl Iterator<Item = FeedRef<'a>> {
        let junctions = self.junctions.iter().enumerate().map(|(index, junction)| (&junction.id, 0, Consumer::Junction(index), &junction.feed));
        let converters = self.converters.iter().enumerate().map(|(index, converter)| (&converter.id, 0, Consumer::Converter(index), &converter.feed));
        let lights = self.lights.iter().enumerate();
        let lights =
            lights.flat_map(|(index, light)| light.feeds.iter().enumerate().map(move |(number, feed)| (&light.id, number, Consumer::Light(index), feed)));
        let circuits = self.circuits.iter().enumerate().map(|(index, circuit)| (&circuit.id, 0, Consumer::Circuit(index), &circuit.feed));
        let controllers = self.controllers.iter().enumerate().map(|(index, one)| (&one.id, 0, Consumer::Controller(index), &one.feed));
        let all = junctions.chain(converters).chain(lights).chain(circuits).chain(controllers);
        all.filter(move |(.., feed)| feed.from == supplier).map(|(id, number, consumer, feed)| FeedRef::new(id, number, consumer, feed))
    }
}

impl FeedRef<'_> {
    /// Id of what it feeds.
    pub fn consumer_id<'b>(&self, build: &'b Build) -> &'b str {
        match self.consumer {
            Consumer::Junction(at) => &build.junctions[at].id,
            Consumer::Converter(at) => &build.converters[at].id,
            Consumer::Light(at) => &build.lights[at].id,
            Consumer::Circuit(at) => &build.circuits[at].id,
            Consumer::Controller(at) => &build.controllers[at].id,
        }
    }
}
