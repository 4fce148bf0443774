//! Lines of SCPI-1999 with the common commands of IEEE 488.2: strict, and small enough to be read whole.
//!
//! ```text
//! line    = unit *( ";" unit )
//! unit    = header [ space parameter *( "," parameter ) ]
//! header  = "*" word [ "?" ]  |  [ ":" ] node *( ":" node ) [ "?" ]
//! node    = letter *( letter | digit )      short or long form, in any case
//! parameter = number [ unit ]  |  word  |  "text"  |  'text'
//! ```
//! A header without a leading colon goes on below the one before it in the line.

use std::fmt;

/// Longest line, without its end, bytes.
pub const LONGEST: usize = 4096;

/// What an instrument did not do: number and words as `SYSTem:ERRor?` tells them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trouble {
    /// Below 0 as SCPI numbers them; above 0 the instrument's own.
    pub code: i32,
    /// What, and the remedy.
    pub words: String,
}

impl Trouble {
    /// From its number and words.
    pub fn new(code: i32, words: impl Into<String>) -> Self {
        Trouble { code, words: words.into() }
    }
}

impl fmt::Display for Trouble {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{},\"{}\"", self.code, self.words.replace('"', "'").replace(['\r', '\n'], " "))
    }
}

/// A parameter.
#[derive(Clone, Debug, PartialEq)]
pub enum Parameter {
    /// A number, its unit taken in.
    Number(f64),
    /// A bare word.
    Word(String),
    /// Words in quotes.
    Text(String),
}

impl Parameter {
    /// As a number within limits.
    pub fn number(&self, what: &str, low: f64, high: f64) -> Result<f64, Trouble> {
        match self {
            Parameter::Number(value) if (low..=high).contains(value) => Ok(*value),
            Parameter::Number(value) => Err(Trouble::new(-222, format!("Data out of range; {what} {value}: give {low} to {high}"))),
            _ => Err(Trouble::new(-104, format!("Data type error; {what} is a number from {low} to {high}"))),
        }
    }

    /// As words, quoted or one bare word.
    pub fn text(&self) -> Result<&str, Trouble> {
        match self {
            Parameter::Text(text) | Parameter::Word(text) => Ok(text),
            Parameter::Number(_) => Err(Trouble::new(-104, "Data type error; give it in quotes")),
        }
    }

    /// As on or off.
    pub fn switch(&self) -> Result<bool, Trouble> {
        match self {
            Parameter::Number(value) if *value == 0.0 || *value == 1.0 => Ok(*value == 1.0),
            Parameter::Word(word) if word.eq_ignore_ascii_case("ON") => Ok(true),
            Parameter::Word(word) if word.eq_ignore_ascii_case("OFF") => Ok(false),
            _ => Err(Trouble::new(-224, "Illegal parameter value; give ON or OFF")),
        }
    }
}

/// One command of a line.
#[derive(Clone, Debug, PartialEq)]
pub struct Unit {
    /// Its nodes from the root, upper case; of a common command the one with its star.
    pub path: Vec<String>,
    /// It asks.
    pub query: bool,
    /// What it is given.
    pub parameters: Vec<Parameter>,
}

impl Unit {
    /// How it was written, for messages.
    pub fn header(&self) -> String {
        self.path.join(":") + if self.query { "?" } else { "" }
    }
}

/// The commands of a line. What cannot be read ends it: nothing after it is done.
pub fn units(line: &str) -> Vec<Result<Unit, Trouble>> {
    let mut found = Vec::new();
    let mut above: Vec<String> = Vec::new();
    for text in split(line, ';') {
        let text = text.trim();
        if text.is_empty() {
            continue;
        }
        match unit(text, &above) {
            Ok(unit) => {
                if !unit.path[0].starts_with('*') {
                    above = unit.path[..unit.path.len() - 1].to_vec();
                }
                found.push(Ok(unit));
            }
            Err(trouble) => {
                found.push(Err(trouble));
                break;
            }
        }
    }
    found
}

/// Parts between separators that stand outside quotes.
fn split(text: &str, separator: char) -> Vec<&str> {
    let (mut parts, mut start, mut quote) = (Vec::new(), 0, None);
    for (at, letter) in text.char_indices() {
        match quote {
            Some(open) if letter == open => quote = None,
            Some(_) => {}
            None if letter == '"' || letter == '\'' => quote = Some(letter),
            None if letter == separator => {
                parts.push(&text[start..at]);
                start = at + letter.len_utf8();
            }
            None => {}
        }
    }
    parts.push(&text[start..]);
    parts
}

fn unit(text: &str, above: &[String]) -> Result<Unit, Trouble> {
    let end = text.find(char::is_whitespace).unwrap_or(text.len());
    let (header, rest) = text.split_at(end);
    let (header, query) = header.strip_suffix('?').map_or((header, false), |header| (header, true));
    let word = |node: &str| {
        let mut letters = node.chars();
        letters.next().is_some_and(|first| first.is_ascii_alphabetic()) && letters.all(|letter| letter.is_ascii_alphanumeric() || letter == '_')
    };
    let path = if let Some(common) = header.strip_prefix('*') {
        if !word(common) {
            return Err(Trouble::new(-101, format!("Invalid character; {}", shortened(text))));
        }
        vec![format!("*{}", common.to_ascii_uppercase())]
    } else {
        let (rooted, header) = header.strip_prefix(':').map_or((false, header), |header| (true, header));
        let nodes: Vec<String> = header.split(':').map(str::to_ascii_uppercase).collect();
        if !nodes.iter().all(|node| word(node)) {
            return Err(Trouble::new(-101, format!("Invalid character; {}", shortened(text))));
        }
        if rooted { nodes } else { above.iter().cloned().chain(nodes).collect() }
    };
    let rest = rest.trim();
    let parameters = if rest.is_empty() { Vec::new() } else { split(rest, ',').into_iter().map(|part| parameter(part.trim())).collect::<Result<_, _>>()? };
    Ok(Unit { path, query, parameters })
}

/// The beginning of what was sent.
fn shortened(text: &str) -> String {
    text.chars().take(40).map(|letter| if letter.is_control() { ' ' } else { letter }).collect()
}

fn parameter(text: &str) -> Result<Parameter, Trouble> {
    for quote in ['"', '\''] {
        if let Some(inner) = text.strip_prefix(quote) {
            let inner = inner.strip_suffix(quote).filter(|inner| !inner.contains(quote));
            return inner.map(|inner| Parameter::Text(inner.to_owned())).ok_or_else(|| Trouble::new(-151, "Invalid string data; close the quote"));
        }
    }
    let Some(first) = text.chars().next() else { return Err(Trouble::new(-109, "Missing parameter; nothing stands between two commas")) };
    if first.is_ascii_alphabetic() {
        if !text.chars().all(|letter| letter.is_ascii_alphanumeric() || letter == '_' || letter == '-') {
            return Err(Trouble::new(-141, format!("Invalid character data; put {} in quotes", shortened(text))));
        }
        return Ok(Parameter::Word(text.to_owned()));
    }
    // An exponent belongs to the number, what comes after it is a unit.
    let letters = |from: usize| text[from..].find(|letter: char| letter.is_alphabetic() || letter.is_whitespace()).map(|at| from + at);
    let mut end = letters(0).unwrap_or(text.len());
    if text[end..].starts_with(['e', 'E']) && text[end + 1..].starts_with(|letter: char| letter.is_ascii_digit() || letter == '+' || letter == '-') {
        end = letters(end + 1).unwrap_or(text.len());
    }
    let value: f64 = text[..end].parse().map_err(|_| Trouble::new(-120, format!("Numeric data error; {}", shortened(text))))?;
    let factor = match text[end..].trim() {
        "" | "V" | "A" | "S" => 1.0,
        "mV" | "MV" | "mA" | "MA" | "mS" | "MS" => 1e-3,
        other => return Err(Trouble::new(-131, format!("Invalid suffix; {}: use V, mV, A, mA or S", shortened(other)))),
    };
    if value.is_finite() { Ok(Parameter::Number(value * factor)) } else { Err(Trouble::new(-120, "Numeric data error; it is too large")) }
}

/// Whether a path is what a pattern means: `MEASure[:SCALar]:VOLTage[:DC]`, capitals being the short form, nodes in
/// brackets left out at will.
pub fn means(pattern: &str, path: &[String]) -> bool {
    let mut nodes: Vec<(&str, bool)> = Vec::new();
    let mut rest = pattern;
    while !rest.is_empty() {
        let optional = rest.starts_with('[');
        let text = rest.trim_start_matches('[').trim_start_matches(':');
        let end = text.find([':', '[', ']']).unwrap_or(text.len());
        nodes.push((&text[..end], optional));
        rest = text[end..].trim_start_matches(']').trim_start_matches(':');
    }
    fits(&nodes, path)
}

fn fits(nodes: &[(&str, bool)], path: &[String]) -> bool {
    let Some(((node, optional), rest)) = nodes.split_first() else { return path.is_empty() };
    let here = path.split_first().is_some_and(|(word, below)| is(node, word) && fits(rest, below));
    here || (*optional && fits(rest, path))
}

/// Short or long form.
fn is(node: &str, word: &str) -> bool {
    let short: String = node.chars().filter(|letter| !letter.is_ascii_lowercase()).collect();
    word.eq_ignore_ascii_case(node) || word.eq_ignore_ascii_case(&short)
}

/// Stands for what cannot be shown, as SCPI has it.
pub const INFINITE: f64 = 9.9e37;

/// A number as instruments send it (NR3), as `+1.234000E+01`.
pub fn nr3(value: f64) -> String {
    let text = format!("{value:+.6E}");
    let (digits, exponent) = text.split_once('E').unwrap_or((&text, "0"));
    let power: i32 = exponent.parse().unwrap_or(0);
    format!("{digits}E{}{:02}", if power < 0 { '-' } else { '+' }, power.abs())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn one(line: &str) -> Unit {
        units(line).remove(0).unwrap_or_else(|trouble| panic!("{line}: {trouble}"))
    }

    #[test]
    fn patterns_have_short_and_long_forms_and_nodes_to_leave_out() {
        let table = [
            ("MEASure[:SCALar]:VOLTage[:DC]", "MEAS:VOLT?", true),
            ("MEASure[:SCALar]:VOLTage[:DC]", "measure:scalar:voltage:dc?", true),
            ("MEASure[:SCALar]:VOLTage[:DC]", "MEASU:VOLT?", false),
            ("MEASure[:SCALar]:VOLTage[:DC]", "MEAS:VOLT:AC?", false),
            ("MEASure[:SCALar]:VOLTage[:DC]", "MEAS?", false),
            ("[SOURce]:VOLTage[:LEVel]", "VOLT 3", true),
            ("[SOURce]:VOLTage[:LEVel]", "SOUR:VOLT:LEV 3", true),
            ("*IDN", "*idn?", true),
        ];
        for (pattern, line, fits) in table {
            assert_eq!(means(pattern, &one(line).path), fits, "{pattern} {line}");
        }
    }

    #[test]
    fn parameters_are_numbers_with_units_words_and_texts() {
        let given = one("X 12,-1.5e-3, 500 mA ,2.5V,'a;b,c',\"tail:to+\",ON,1E3").parameters;
        let num = Parameter::Number;
        let quoted = |text: &str| Parameter::Text(text.to_owned());
        assert_eq!(given, vec![num(12.0), num(-0.0015), num(0.5), num(2.5), quoted("a;b,c"), quoted("tail:to+"), Parameter::Word("ON".into()), num(1000.0)]);
        for (line, code) in [("X 1x", -131), ("X \"a", -151), ("X 1,,2", -109), ("X a+b", -141), ("X 1e999", -120), ("&", -101), ("A::B", -101), ("*", -101)] {
            assert_eq!(units(line)[0].clone().expect_err(line).code, code, "{line}");
        }
    }

    #[test]
    fn a_header_goes_on_below_the_one_before() {
        let paths: Vec<String> = units("ROUT:PROB \"a\",\"b\";INS 'c';*OPC?;:MEAS:VOLT?").into_iter().map(|unit| unit.expect("a unit").header()).collect();
        assert_eq!(paths, ["ROUT:PROB", "ROUT:INS", "*OPC?", "MEAS:VOLT?"]);
        assert!(units("A;;B?;").len() == 2 && units("A ;& ;B").len() == 2);
    }

    #[test]
    fn numbers_are_sent_as_instruments_send_them() {
        for (value, text) in [(12.34, "+1.234000E+01"), (-0.005, "-5.000000E-03"), (0.0, "+0.000000E+00"), (INFINITE, "+9.900000E+37")] {
            assert_eq!(nr3(value), text);
            assert_eq!(text.parse::<f64>().expect("a number"), value);
        }
    }

    proptest! {
        /// Whatever comes: units or a trouble with a number of SCPI's, never a panic.
        #[test]
        fn anything_is_read_or_refused(line in "[ -~]{0,60}|\\PC{0,40}") {
            for unit in units(&line) {
                match unit {
                    Ok(unit) => prop_assert!(!unit.path.is_empty()),
                    Err(trouble) => prop_assert!((-199..=-100).contains(&trouble.code), "{trouble}"),
                }
            }
        }

        #[test]
        fn numbers_come_back(value in -1e30f64..1e30) {
            let back: f64 = nr3(value).parse().expect("a number");
            prop_assert!((back - value).abs() <= 5e-7 * value.abs());
        }
    }
}
