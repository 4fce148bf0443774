//! The diagram on paper, as a drawing.

use super::{Diagram, DrawnWire, JUMP, SymbolKind, TEXT};
use std::fmt::Write;

/// A colour of insulation, as it is drawn on paper.
fn ink(colour: &str) -> &'static str {
    match colour {
        "red" => "#c4221f",
        "black" => "#222222",
        "yellow" => "#b58900",
        "blue" => "#1d5fbf",
        "brown" => "#7a4a21",
        "white" => "#8a8a8a",
        "green" => "#1f7a3a",
        _ => "#555555",
    }
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

impl Diagram {
    /// As a drawing for paper (SVG 1.1).
    pub fn svg(&self, title: &str) -> String {
        let mut out = String::new();
        // Writing into a string does not fail.
        let _ = write!(
            out,
            r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {:.0} {:.0}" width="{:.0}" height="{:.0}" font-family="sans-serif" font-size="{TEXT}"><title>{}</title><rect width="100%" height="100%" fill="#ffffff"/>"##,
            self.width,
            self.height,
            self.width,
            self.height,
            escaped(title)
        );
        let path = |points: &[[f64; 2]]| -> String {
            points.iter().enumerate().map(|(index, [x, y])| format!("{}{x:.1} {y:.1}", if index == 0 { "M" } else { " L" })).collect()
        };
        for bar in &self.bars {
            let dash = if bar.plus { "" } else { r#" stroke-dasharray="9 3""# };
            let _ = write!(out, r##"<path d="{}" fill="none" stroke="#222222" stroke-width="2.5"{dash}/>"##, path(&bar.points));
            for [x, y] in &bar.dots {
                let _ = write!(out, r##"<circle cx="{x:.1}" cy="{y:.1}" r="3.5" fill="#222222"/>"##);
            }
        }
        for wire in &self.wires {
            let dash = if wire.plus { "" } else { r#" stroke-dasharray="9 3""# };
            let _ = write!(out, r#"<path d="{}" fill="none" stroke="{}" stroke-width="2"{dash}/>"#, wire.path(), ink(&wire.colour));
        }
        for symbol in &self.symbols {
            let _ = write!(
                out,
                r##"<g transform="translate({:.1} {:.1})" fill="#ffffff" stroke="#222222" stroke-width="1.5">{}</g>"##,
                symbol.x,
                symbol.y,
                drawn(symbol.kind)
            );
        }
        for part in &self.boxes {
            let _ = write!(
                out,
                r##"<rect x="{:.1}" y="{:.1}" width="{:.1}" height="{:.1}" rx="4" fill="#ffffff" stroke="#222222" stroke-width="1.5"/>"##,
                part.x, part.y, part.w, part.h
            );
            for (number, line) in part.lines.iter().enumerate() {
                let weight = if number == 0 { r#" font-weight="bold""# } else { "" };
                let _ = write!(
                    out,
                    r#"<text x="{:.1}" y="{:.1}" text-anchor="middle"{weight}>{}</text>"#,
                    part.x + part.w / 2.0,
                    part.y + 27.0 + 16.0 * number as f64,
                    escaped(line)
                );
            }
            for terminal in &part.terminals {
                let (x, anchor) = if terminal.name == "DIN" {
                    (terminal.x, "middle")
                } else if terminal.x <= part.x {
                    (terminal.x + 5.0, "start")
                } else {
                    (terminal.x - 5.0, "end")
                };
                let up = if terminal.name == "DIN" { -4.0 } else { 4.0 };
                let _ = write!(
                    out,
                    r##"<circle cx="{:.1}" cy="{:.1}" r="2.5" fill="#222222"/><text x="{x:.1}" y="{:.1}" text-anchor="{anchor}" font-size="9">{}</text>"##,
                    terminal.x,
                    terminal.y,
                    terminal.y + up,
                    terminal.name
                );
            }
        }
        for text in &self.texts {
            let _ = write!(
                out,
                r#"<text x="{:.1}" y="{:.1}" textLength="{:.0}" lengthAdjust="spacingAndGlyphs">{}</text>"#,
                text.x,
                text.y + TEXT - 2.0,
                text.w,
                escaped(&text.text)
            );
        }
        out + "</svg>\n"
    }
}

impl DrawnWire {
    /// Its way, with a bow over each crossing.
    pub fn path(&self) -> String {
        let ([x0, y], [x1, _]) = (self.points[0], self.points[self.points.len() - 1]);
        let bows: String = self.jumps.iter().map(|[x, _]| format!(" L{:.1} {y:.1} A{JUMP} {JUMP} 0 0 1 {:.1} {y:.1}", x - JUMP, x + JUMP)).collect();
        format!("M{x0:.1} {y:.1}{bows} L{x1:.1} {y:.1}")
    }
}

/// A symbol around its middle.
fn drawn(kind: SymbolKind) -> &'static str {
    match kind {
        SymbolKind::Fuse => r#"<rect x="-14" y="-5" width="28" height="10"/><path d="M-14 0 H14"/>"#,
        SymbolKind::Switch => {
            r#"<rect x="-14" y="-3" width="28" height="6" stroke="none"/><path d="M-14 0 L11 -11" fill="none"/><circle cx="-14" cy="0" r="2"/><circle cx="14" cy="0" r="2"/>"#
        }
        SymbolKind::Plug => {
            r#"<rect x="-9" y="-3" width="18" height="6" stroke="none"/><path d="M-9 0 H1" stroke-width="4"/><path d="M10 -7 A7 7 0 0 0 10 7" fill="none"/>"#
        }
        SymbolKind::Frame => r#"<path d="M0 0 V8 M-8 8 H8 M-8 8 l-4 6 M0 8 l-4 6 M8 8 l-4 6" fill="none"/>"#,
    }
}
