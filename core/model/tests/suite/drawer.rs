//! The drawer goes out as a table and comes in equal; what cannot be read is named by its line.

use orthavis_model::document::Part;
use orthavis_model::drawer::{COLUMNS, Drawer, from_csv, to_csv};
use orthavis_model::parts;
use proptest::prelude::*;
use std::collections::BTreeMap;

/// Every part of the library as if it were a person's own.
fn mine() -> Vec<Part> {
    let mut all = parts::library().to_vec();
    for part in &mut all {
        part.id = format!("own-{}", part.id);
    }
    all
}

#[test]
fn every_kind_of_part_goes_out_and_comes_in_equal() {
    let mut parts = mine();
    parts[2].retired = true;
    let stock = BTreeMap::from([(parts[0].name.clone(), 2.0), ("cable tie, \"long\"".to_owned(), 80.5)]);
    let drawer = Drawer { parts, stock };
    let (read, bad) = from_csv(&to_csv(&drawer));
    assert!(bad.is_empty(), "{bad:?}");
    assert_eq!(read, drawer);
}

#[test]
fn bad_lines_are_named_and_good_ones_taken() {
    let head = COLUMNS.join(",");
    let what = r#""{""kind"":""switch"",""rating_a"":3}""#;
    let shipped = &parts::library()[0].id;
    let text = format!(
        "\u{feff}{head}\r\nown-a,A switch,2,measured,,,,,,,{what}\r\n,clip,three,,,,,,,,\r\nown-b,No such,1,,,,,,,,{{}}\r\n{shipped},Theirs,1,,,,,,,,{what}\r\n,,4,,,,,,,,\r\nown-c,Minus,1,,,,,-3,,,{what}\r\n,wire,\"2,5\",,,,,,,,\r\nown-d,Broken,1,,,,,,,,{{\r\n"
    );
    let (read, bad) = from_csv(&text);
    assert_eq!(read.parts.iter().map(|part| part.id.as_str()).collect::<Vec<_>>(), ["own-a"]);
    assert_eq!(read.stock, BTreeMap::from([("A switch".to_owned(), 2.0), ("wire".to_owned(), 2.5)]));
    let named: Vec<(usize, &str)> = bad.iter().map(|bad| (bad.line, bad.fault.pointer.as_str())).collect();
    assert_eq!(named, [(3, "/count"), (4, "/what/kind"), (5, "/id"), (6, "/name"), (7, "/mass_g"), (9, "/what")]);
    assert!(bad.iter().all(|bad| !bad.fault.remedy.is_empty()));
    let (none, bad) = from_csv("part,many\nclip,3\n");
    assert_eq!((none, bad[0].line, bad[0].fault.problem.as_str()), (Drawer::default(), 1, "its head is part, many"));
}

proptest! {
    #[test]
    fn counts_come_back_as_they_were(stock in prop::collection::btree_map("[a-zA-Zµ²,\" ]{0,20}[a-z]", 0f64..1e6, 0..30)) {
        let stock: BTreeMap<String, f64> = stock.into_iter().map(|(name, count)| (name.trim().to_owned(), count)).collect();
        let drawer = Drawer { parts: Vec::new(), stock };
        prop_assert_eq!(from_csv(&to_csv(&drawer)), (drawer, Vec::new()));
    }

    #[test]
    fn no_text_breaks_it(text in ".{0,200}") {
        let _ = from_csv(&text);
    }
}
