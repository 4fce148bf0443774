//! Closed lists of words that documents and answers use.

/// An enum whose values have a word each in JSON, with the list of them; `called` is what a person reads, where it is
/// not the word itself.
#[macro_export]
macro_rules! words {
    ($(#[$meta:meta])* $name:ident { $($(#[$vmeta:meta])* $variant:ident = $word:literal $(called $called:literal)?),+ $(,)? }) => {
        $(#[$meta])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, ::serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[serde(rename_all = "snake_case")]
        pub enum $name { $($(#[$vmeta])* $variant),+ }

        impl $name {
            /// Every value with the word the document uses for it.
            pub const WORDS: &[(&'static str, $name)] = &[$(($word, $name::$variant)),+];

            /// What a person reads.
            pub const fn called(self) -> &'static str {
                match self { $($name::$variant => $crate::called!($word $(, $called)?)),+ }
            }

            /// The word the document uses.
            pub const fn word(self) -> &'static str {
                match self { $($name::$variant => $word),+ }
            }
        }

        impl<'de> ::serde::Deserialize<'de> for $name {
            fn deserialize<D: ::serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                let word = <::std::borrow::Cow<'de, str>>::deserialize(from)?;
                let known = $name::WORDS.iter().find(|(known, _)| *known == word).map(|(_, value)| *value);
                known.ok_or_else(|| ::serde::de::Error::unknown_variant(&word, &[$($word),+]))
            }
        }
    };
}

/// What is computed and handed out: plain data, as JSON and described by a schema.
#[macro_export]
macro_rules! data {
    ($($item:item)*) => { $(
        #[derive(Clone, Debug, PartialEq, ::serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $item
    )* };
}

/// What a person reads for a word: its own, or the word itself.
#[macro_export]
macro_rules! called {
    ($word:literal) => {
        $word
    };
    ($word:literal, $called:literal) => {
        $called
    };
}
