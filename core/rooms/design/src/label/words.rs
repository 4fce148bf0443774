//! The words and figures of a label, picked out one by one.

use orthavis_model::document::Chemistry;

/// A size of cell that is sold by itself.
#[derive(Clone, Copy, Debug)]
pub(super) struct CellSize {
    /// As people call it.
    pub name: &'static str,
    /// What it may be, with its usual capacity, Ah; the likeliest first.
    pub kinds: &'static [(Chemistry, f64)],
    /// Cells inside one.
    pub in_row: u32,
}

const fn size(name: &'static str, kinds: &'static [(Chemistry, f64)]) -> CellSize {
    CellSize { name, kinds, in_row: 1 }
}

use Chemistry::{Alkaline, LiIon, LithiumCoin, Nimh};
const SIZES: &[(&str, CellSize)] = &[
    ("aaa", size("AAA", &[(Alkaline, 1.1), (Nimh, 0.8)])),
    ("aa", size("AA", &[(Alkaline, 2.5), (Nimh, 2.0)])),
    ("c", size("C", &[(Alkaline, 7.0), (Nimh, 4.0)])),
    ("d", size("D", &[(Alkaline, 13.0), (Nimh, 8.0)])),
    ("pp3", CellSize { name: "9 V block", kinds: &[(Alkaline, 0.55)], in_row: 6 }),
    ("6lr61", CellSize { name: "9 V block", kinds: &[(Alkaline, 0.55)], in_row: 6 }),
    ("cr2032", size("CR2032", &[(LithiumCoin, 0.22)])),
    ("cr2025", size("CR2025", &[(LithiumCoin, 0.16)])),
    ("cr2016", size("CR2016", &[(LithiumCoin, 0.09)])),
    ("cr2450", size("CR2450", &[(LithiumCoin, 0.60)])),
    ("cr2477", size("CR2477", &[(LithiumCoin, 1.0)])),
    ("cr1632", size("CR1632", &[(LithiumCoin, 0.13)])),
    ("lr44", size("LR44", &[(Alkaline, 0.12)])),
    ("18650", size("18650", &[(LiIon, 2.6)])),
    ("21700", size("21700", &[(LiIon, 4.5)])),
    ("14500", size("14500", &[(LiIon, 0.8)])),
    ("26650", size("26650", &[(LiIon, 4.5)])),
];

/// Words for what is inside. Those that say more come first.
const CHEMISTRIES: &[(&str, Chemistry)] = &[
    ("lifepo4", Chemistry::Lifepo4),
    ("lifepo", Chemistry::Lifepo4),
    ("life", Chemistry::Lifepo4),
    ("lfp", Chemistry::Lifepo4),
    ("ironphosphate", Chemistry::Lifepo4),
    ("iron", Chemistry::Lifepo4),
    ("phosphate", Chemistry::Lifepo4),
    ("lipo", Chemistry::Lipo),
    ("lihv", Chemistry::Lipo),
    ("polymer", Chemistry::Lipo),
    ("liion", Chemistry::LiIon),
    ("lion", Chemistry::LiIon),
    ("ion", Chemistry::LiIon),
    ("inr", Chemistry::LiIon),
    ("icr", Chemistry::LiIon),
    ("nimh", Chemistry::Nimh),
    ("hydride", Chemistry::Nimh),
    ("nicd", Chemistry::Nimh),
    ("agm", Chemistry::LeadAgm),
    ("gel", Chemistry::LeadAgm),
    ("sla", Chemistry::LeadAgm),
    ("vrla", Chemistry::LeadAgm),
    ("sealed", Chemistry::LeadAgm),
    ("flooded", Chemistry::LeadFlooded),
    ("wet", Chemistry::LeadFlooded),
    ("starter", Chemistry::LeadFlooded),
    ("lead", Chemistry::LeadAgm),
    ("pb", Chemistry::LeadAgm),
    ("alkaline", Chemistry::Alkaline),
    ("coin", Chemistry::LithiumCoin),
];

/// Words of several that mean one thing, and what is left of them.
const JOINED: &[(&str, &str)] = &[
    ("li-ion", "liion"),
    ("li ion", "liion"),
    ("lithium ion", "liion"),
    ("lithium-ion", "liion"),
    ("li-po", "lipo"),
    ("li po", "lipo"),
    ("li-polymer", "lipo"),
    ("lithium polymer", "lipo"),
    ("lithium-polymer", "lipo"),
    ("life po4", "lifepo4"),
    ("life-po4", "lifepo4"),
    ("lifep04", "lifepo4"),
    ("lifepo-4", "lifepo4"),
    ("li-fe", "lifepo4"),
    ("lithium iron phosphate", "lifepo4"),
    ("lithium-iron", "lifepo4"),
    ("ni-mh", "nimh"),
    ("ni mh", "nimh"),
    ("ni-cd", "nicd"),
    ("lead-acid", "lead"),
    ("lead acid", "lead"),
    ("power bank", "powerbank"),
    ("power-bank", "powerbank"),
    ("9v block", "pp3"),
    ("9 v block", "pp3"),
    ("coin cell", "coin"),
    ("button cell", "coin"),
    ("in serie ", "in series "),
    ("amp hours", "ah"),
    ("amp-hours", "ah"),
    ("amp hour", "ah"),
    ("amp-hour", "ah"),
    ("watt hours", "wh"),
    ("watt-hours", "wh"),
    ("watthours", "wh"),
    ("milliamp", "ma"),
    ("a h", "ah"),
    ("m ah", "mah"),
    ("w h", "wh"),
];

/// What a label says, piece by piece.
#[derive(Clone, Debug, Default)]
pub(super) struct Said {
    pub volts: Option<f64>,
    pub ah: Option<f64>,
    pub wh: Option<f64>,
    pub amps: Option<f64>,
    pub watts: Option<f64>,
    /// Its current as a multiple of its capacity an hour.
    pub c_rate: Option<f64>,
    /// Over how many hours its capacity was measured.
    pub hours: Option<f64>,
    /// How many such batteries or cells.
    pub count: Option<u32>,
    pub series: Option<u32>,
    pub parallel: Option<u32>,
    pub series_words: bool,
    pub parallel_words: bool,
    pub usb: bool,
    /// It has cells of its own, and goes to sleep.
    pub bank: bool,
    regulator: bool,
    pub chemistry: Option<Chemistry>,
    pub cell: Option<CellSize>,
}

#[derive(Clone, Debug, PartialEq)]
enum Token {
    Number(f64),
    Word(String),
    Slash,
}

impl Said {
    /// Everything that is known in a text.
    pub fn of(text: &str) -> Said {
        let tokens = tokens(&tidy(text));
        let mut said = Said::default();
        let mut at = 0;
        while at < tokens.len() {
            at += said.take(&tokens, at);
        }
        said
    }

    /// Volts and amps without a charge, or words for an outlet.
    pub fn is_rail(&self) -> bool {
        let charged = self.ah.is_some() || self.wh.is_some() || self.chemistry.is_some() || self.series.is_some() || self.cell.is_some();
        self.usb || self.regulator || (self.volts.is_some() && self.amps.is_some() && !charged)
    }

    /// Takes what begins at a token; how many belonged to it.
    fn take(&mut self, tokens: &[Token], at: usize) -> usize {
        let word = |at: usize| match tokens.get(at) {
            Some(Token::Word(word)) => Some(word.as_str()),
            _ => None,
        };
        let number = |at: usize| match tokens.get(at) {
            Some(Token::Number(number)) => Some(*number),
            _ => None,
        };
        match &tokens[at] {
            Token::Number(value) => self.figure(*value, word(at + 1), number(at + 2), word(at + 3)),
            Token::Word(known) if known == "c" && (number(at + 1).is_some() || (tokens.get(at + 1) == Some(&Token::Slash) && number(at + 2).is_some())) => {
                // C20, C/20: the hours that its capacity was measured over.
                let slash = usize::from(number(at + 1).is_none());
                self.hours = number(at + 1 + slash);
                2 + slash
            }
            Token::Word(known) => {
                // One letter is the size of a cell where it is counted, or called one.
                let letter = known.len() == 1 && (self.count.is_some() || matches!(word(at + 1), Some("cell" | "cells")));
                match SIZES.iter().find(|(size, _)| letter && size == known) {
                    Some((_, size)) => self.cell = self.cell.or(Some(*size)),
                    None => self.word(known),
                }
                1
            }
            Token::Slash => 1,
        }
    }

    /// A number with the unit after it.
    fn figure(&mut self, value: f64, unit: Option<&str>, next: Option<f64>, after: Option<&str>) -> usize {
        let count = || (value >= 1.0 && value.fract() == 0.0 && value <= 400.0).then_some(value as u32);
        // A number may be the name of a cell: 18650.
        let name = format!("{value}");
        if let Some((_, size)) = SIZES.iter().find(|(known, _)| *known == name) {
            self.cell = self.cell.or(Some(*size));
            return 1;
        }
        let Some(unit) = unit else { return 1 };
        match unit {
            "v" | "volt" | "volts" | "vdc" | "vmax" => self.volts = self.volts.or(Some(value)),
            "ah" => self.ah = self.ah.or(Some(value)),
            "mah" => self.ah = self.ah.or(Some(value / 1000.0)),
            "wh" => self.wh = self.wh.or(Some(value)),
            "kwh" => self.wh = self.wh.or(Some(1000.0 * value)),
            "a" | "amp" | "amps" | "ampere" => self.amps = self.amps.or(Some(value)),
            "ma" => self.amps = self.amps.or(Some(value / 1000.0)),
            "w" | "watt" | "watts" => self.watts = self.watts.or(Some(value)),
            "c" if self.volts.is_some() || self.ah.is_some() || self.series.is_some() => self.c_rate = self.c_rate.or(Some(value)),
            "hr" | "h" | "hrs" | "hour" | "hours" => self.hours = self.hours.or(Some(value)),
            "s" | "cell" | "cells" if count().is_some() => {
                self.series = self.series.or(count());
                // 3S1P is one word.
                if let (Some(beside), Some("p")) = (next, after) {
                    self.parallel = Some(beside as u32);
                    return 4;
                }
            }
            "p" if count().is_some() => self.parallel = self.parallel.or(count()),
            "x" if count().is_some() => self.count = self.count.or(count()),
            other => {
                if let Some((_, size)) = SIZES.iter().find(|(known, _)| *known == other) {
                    (self.cell, self.count) = (Some(*size), self.count.or(count()));
                } else if other == "pcs" || other == "pieces" || other == "batteries" || other == "battery" {
                    self.count = self.count.or(count());
                } else {
                    // `4 NiMH cells`: the number counts what follows.
                    self.word(other);
                    if self.chemistry.is_some() && after.is_none() && next.is_none() && self.series.is_none() && count().is_some() {
                        self.series = count();
                    }
                }
            }
        }
        2
    }

    fn word(&mut self, word: &str) {
        match word {
            "usb" => self.usb = true,
            "powerbank" => (self.usb, self.bank) = (true, true),
            "bec" | "ubec" | "rail" | "regulator" | "regulated" | "adapter" | "outlet" => self.regulator = true,
            "series" | "serial" => self.series_words = true,
            "parallel" => self.parallel_words = true,
            _ => {
                if let Some((_, size)) = SIZES.iter().find(|(known, _)| *known == word && known.len() > 1) {
                    self.cell = self.cell.or(Some(*size));
                }
                let known = CHEMISTRIES.iter().find(|(known, _)| *known == word).map(|(_, chemistry)| *chemistry);
                // `sealed lead` and `lead, flooded`: the word that says more stays.
                if self.chemistry.is_none() || matches!(known, Some(Chemistry::LeadFlooded)) {
                    self.chemistry = known.or(self.chemistry);
                }
            }
        }
    }
}

/// Lower letters, points for decimals, one sign for times.
fn tidy(text: &str) -> String {
    let lower = text.to_lowercase();
    let letters: Vec<char> = lower.chars().collect();
    let mut plain = String::with_capacity(lower.len());
    for (at, letter) in letters.iter().enumerate() {
        let digit = |at: Option<usize>| at.and_then(|at| letters.get(at)).is_some_and(char::is_ascii_digit);
        let digits_after = letters[at + 1..].iter().take_while(|letter| letter.is_ascii_digit()).count();
        match letter {
            // 2,200 mAh groups its digits, 7,2 Ah has a fraction.
            ',' if digit(at.checked_sub(1)) && digits_after == 3 && thousands(&letters[at + 4..]) => {}
            ',' if digit(at.checked_sub(1)) && digits_after > 0 => plain.push('.'),
            ' ' | '\u{a0}' | '\u{202f}' if digit(at.checked_sub(1)) && digits_after == 3 && thousands(&letters[at + 4..]) => {}
            '×' | '✕' | '*' | '⨯' => plain.push_str(" x "),
            // 6xAA is three words.
            'x' if digit(at.checked_sub(1)) => plain.push_str(" x "),
            '\u{a0}' | '\u{202f}' | ',' | ';' | '(' | ')' | '=' | '~' | '≈' | '@' | '|' | ':' => plain.push(' '),
            other => plain.push(*other),
        }
    }
    for (words, one) in JOINED {
        plain = replaced(&plain, words, one);
    }
    plain
}

/// Whether what follows three digits is milliamp-hours: only those are grouped.
fn thousands(after: &[char]) -> bool {
    after.iter().collect::<String>().trim_start().starts_with("ma")
}

/// Words replaced where they stand by themselves.
fn replaced(text: &str, words: &str, one: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(words) {
        let (before, from) = rest.split_at(at);
        let after = &from[words.len()..];
        let free = |letter: Option<char>| letter.is_none_or(|letter| !letter.is_alphabetic());
        out.push_str(before);
        let stands = free(before.chars().next_back().or(out.chars().next_back())) && free(after.chars().next());
        out.push_str(if stands { one } else { words });
        rest = after;
    }
    out + rest
}

fn tokens(text: &str) -> Vec<Token> {
    let mut found = Vec::new();
    let letters: Vec<char> = text.chars().collect();
    let mut at = 0;
    while at < letters.len() {
        let run = |from: usize, belongs: &dyn Fn(char) -> bool| letters[from..].iter().take_while(|letter| belongs(**letter)).count();
        // Names of cells have letters and digits in one.
        let whole: String = letters[at..].iter().take_while(|letter| letter.is_ascii_alphanumeric()).collect();
        let named = SIZES.iter().map(|(name, _)| *name).chain(["lifepo4"]).find(|name| whole == *name && name.chars().any(char::is_alphabetic));
        if let Some(name) = named.filter(|name| name.len() > 1) {
            found.push(Token::Word(name.to_owned()));
            at += name.len();
        } else if letters[at].is_ascii_digit() {
            let long = run(at, &|letter| letter.is_ascii_digit() || letter == '.');
            let figure: String = letters[at..at + long].iter().collect();
            found.extend(figure.trim_end_matches('.').parse().ok().map(Token::Number));
            at += long;
        } else if letters[at].is_alphabetic() {
            let long = run(at, &char::is_alphabetic);
            found.push(Token::Word(letters[at..at + long].iter().collect()));
            at += long;
        } else {
            if letters[at] == '/' {
                found.push(Token::Slash);
            }
            at += 1;
        }
    }
    found
}
