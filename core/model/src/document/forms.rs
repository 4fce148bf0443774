//! Values with two ways of writing them.

use super::field::{Range, Rule, Shape};
use super::read::{Faults, Node, Read};
use super::things::{Direction, Efficiency, EfficiencyPoint, Gauge};

/// American wire gauge numbers that there are; 0000 is -3.
pub const AWG: (i64, i64) = (-3, 44);
/// Cross-sections that there are.
pub const CROSS_SECTION: Range = Range::above_zero(1000.0, "mm²");

impl Read for Gauge {
    const SHAPE: Shape = Shape::Object;

    fn read(node: &Node<'_>, _: &Rule, faults: &mut Faults) -> Option<Self> {
        node.object(faults, |o| {
            let awg = o.maybe("awg");
            let mm2 = o.maybe("mm2");
            match (awg, mm2) {
                (Some(awg), None) => awg.integer(AWG.0, AWG.1, o.faults).map(|number| Gauge::Awg(number as i32)),
                (None, Some(mm2)) => mm2.number(CROSS_SECTION, o.faults).map(Gauge::Mm2),
                _ => {
                    let path = o.path.clone();
                    o.faults.add(path, "a conductor needs exactly one size", "Give either `awg` or `mm2`");
                    None
                }
            }
        })
        .flatten()
    }

    fn empty(_: &Rule) -> Option<Self> {
        None
    }
}

impl Read for Efficiency {
    const SHAPE: Shape = Shape::Number;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        if !node.value.is_array() {
            return node.number(rule.range, faults).map(Efficiency::Constant);
        }
        let points: Vec<EfficiencyPoint> = node.list(MOST_POINTS, faults, |node, faults| EfficiencyPoint::read(&node, rule, faults))?;
        if points.is_empty() {
            faults.add(&node.path, "the table is empty", "Give at least one point, or one number");
        }
        for (index, pair) in points.windows(2).enumerate().filter(|(_, pair)| pair[1].vin_v <= pair[0].vin_v) {
            let path = format!("{}/{}/vin_v", node.path, index + 1);
            faults.add(path, format!("{} V is not above the point before", pair[1].vin_v), "List the points by rising voltage");
        }
        Some(Efficiency::Table(points))
    }

    // A linear regulator wastes the difference in voltage; it has no efficiency of its own to state.
    fn empty(rule: &Rule) -> Option<Self> {
        f64::empty(rule).map(Efficiency::Constant)
    }
}

/// Most points of an efficiency table.
const MOST_POINTS: usize = 100;

impl Read for Direction {
    const SHAPE: Shape = Shape::Number;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        let found = node.number(rule.range, faults)?;
        let way = [Direction::Away, Direction::Towards].into_iter().find(|way| way.sign() == found);
        if way.is_none() {
            faults.add(&node.path, "it runs one way or the other", "Give 1 or -1");
        }
        way
    }

    fn empty(_: &Rule) -> Option<Self> {
        Some(Direction::Away)
    }
}
