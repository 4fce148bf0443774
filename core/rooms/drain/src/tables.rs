//! What the lights cost, as tables.

use super::audit::audit;
use super::discharge::followed;
use super::drain;
use super::what_if::{Pair, Tried};
use orthavis_model::document::Build;
use orthavis_model::table::{Cell, FIGURE, Table, figure};
use orthavis_model::working::Fact;
use orthavis_physics::points::PointError;

/// Every table of the drain, in the order of the job.
///
/// # Errors
/// The first scene and state without a steady solution.
pub fn tables(build: &Build) -> Result<Vec<Table>, PointError> {
    let mut tables = drained(build)?;
    tables.extend(audited(build)?);
    tables.push(discharges(build));
    Ok(tables)
}

fn drained(build: &Build) -> Result<Vec<Table>, PointError> {
    let drain = drain(build)?;
    let mut use_table = Table::new("use", "What the lights cost", &FIGURE);
    let shown = [&drain.conditions, &drain.outing, &drain.day, &drain.motion, &drain.mass];
    use_table.rows.extend(shown.into_iter().flatten().map(figure));
    let mut scenes = Table::new("scenes", "What each scene costs", &[&[("scene", "Scene", "")], &FIGURE[..]].concat());
    for scene in &drain.scenes {
        scenes.rows.extend(scene.facts.iter().map(|fact| [vec![scene.scene.as_str().into()], figure(fact)].concat()));
    }
    let mut parked = Table::new("parked", "A parked vehicle", &[&[("way", "Way to park", "")], &FIGURE[..]].concat());
    for way in &drain.parked {
        parked.rows.extend(way.facts.iter().map(|fact| [vec![way.way.into()], figure(fact)].concat()));
    }
    let columns = [
        ("light", "Light", ""),
        ("full_v", "On a full battery", "V"),
        ("charging_v", "While charging", "V"),
        ("full_output", "Brightness on a full battery", "1"),
        ("charging_output", "Brightness while charging", "1"),
        ("faults", "What is wrong then", ""),
    ];
    let mut charging = Table::new("charging", "The lights while the battery charges", &columns);
    for light in drain.charging.iter().flat_map(|charging| &charging.lights) {
        let figures = [light.full_v, light.charging_v, light.full_output, light.charging_output].map(Cell::from);
        charging.rows.push([vec![light.id.as_str().into()], figures.to_vec(), vec![light.faults.join("; ").as_str().into()]].concat());
    }
    Ok(vec![use_table, scenes, parked, charging])
}

fn audited(build: &Build) -> Result<Vec<Table>, PointError> {
    let Some(audit) = audit(build)? else { return Ok(Vec::new()) };
    let columns = [
        ("bulb", "Bulbs", ""),
        ("name", "What they are", ""),
        ("before_a", "One, now", "A"),
        ("before_ah", "A day, now", "Ah"),
        ("replacement", "Replaced by", ""),
        ("after_a", "One, then", "A"),
        ("after_ah", "A day, then", "Ah"),
        ("cost_eur", "Cost", "€"),
    ];
    let mut bulbs = Table::new("audit-bulbs", "Bulbs before and after", &columns);
    for line in &audit.lines {
        bulbs.rows.push(vec![
            line.id.as_str().into(),
            line.name.as_str().into(),
            line.before_a.value.into(),
            line.before_ah.into(),
            line.replacement.as_deref().into(),
            line.after_a.as_ref().map(|fact| fact.value).into(),
            line.after_ah.into(),
            line.cost_eur.into(),
        ]);
    }
    let columns = [
        ("case", "Load case", ""),
        ("before_a", "Now", "A"),
        ("measured_a", "Measured now", "A"),
        ("after_a", "Then", "A"),
        ("measured_after_a", "Measured then", "A"),
        ("ratio", "Then over now", "1"),
        ("remark", "Remark", ""),
    ];
    let mut cases = Table::new("audit-cases", "Load cases before and after", &columns);
    for case in &audit.cases {
        cases.rows.push(vec![
            case.title.into(),
            case.before_a.value.into(),
            case.measured_a.into(),
            case.after_a.value.into(),
            case.measured_after_a.into(),
            case.ratio.into(),
            case.remark.as_deref().into(),
        ]);
    }
    let columns = [("figure", "Figure", ""), ("label", "What it is", ""), ("before", "Now", ""), ("after", "Then", ""), ("unit", "Unit", "")];
    let mut outcomes = Table::new("audit-outcomes", "The day and the nights before and after", &columns);
    for outcome in &audit.outcomes {
        let value = |fact: &Option<Fact>| Cell::from(fact.as_ref().map(|fact| fact.value));
        let unit = outcome.before.as_ref().or(outcome.after.as_ref()).map(|fact| fact.unit);
        outcomes.rows.push(vec![outcome.key.into(), outcome.label.into(), value(&outcome.before), value(&outcome.after), unit.into()]);
    }
    Ok(vec![bulbs, cases, outcomes])
}

/// The plan and a change of it side by side.
pub fn what_if(tried: &Tried) -> Table {
    let columns = [
        ("figure", "Figure", ""),
        ("label", "What it is", ""),
        ("plan", "The plan", ""),
        ("changed", "Changed", ""),
        ("difference", "Difference", ""),
        ("unit", "Unit", ""),
    ];
    let mut table = Table::new("what-if", "The plan, and the change", &columns);
    for Pair { plan, changed, difference } in &tried.pairs {
        let value = |fact: &Option<Fact>| Cell::from(fact.as_ref().map(|fact| fact.value));
        let named = plan.as_ref().or(changed.as_ref()).map(|fact| [fact.key, fact.label, fact.unit]);
        let Some([key, label, unit]) = named else { continue };
        table.rows.push(vec![key.into(), label.into(), value(plan), value(changed), (*difference).into(), unit.into()]);
    }
    table
}

/// Every scene from full to its end, one line for each light that it turns on.
fn discharges(build: &Build) -> Table {
    let columns = [
        ("scene", "Scene", ""),
        ("time_h", "From full", "h"),
        ("soc", "State of charge", "1"),
        ("terminal_v", "At the terminals", "V"),
        ("current_a", "Mean current", "A"),
        ("light", "Light", ""),
        ("output", "Brightness", "1"),
    ];
    let mut table = Table::new("discharge", "From full to the end, over time", &columns);
    for curve in build.scenes.iter().filter_map(|scene| followed(build, &scene.id)) {
        for moment in &curve.moments {
            for (light, output) in curve.lights.iter().zip(&moment.outputs) {
                let figures = [moment.at_h, moment.soc, moment.terminal_v, moment.current_a].map(Cell::from);
                table.rows.push([vec![curve.scene.as_str().into()], figures.to_vec(), vec![light.as_str().into(), (*output).into()]].concat());
            }
        }
    }
    table
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_cannot_become_a_formula_and_commas_stay_words() {
        let mut table = Table::new("t", "T", &[("a", "A", ""), ("b", "B", "V"), ("c", "C", "")]);
        table.rows.push(vec!["=1+1".into(), 0.25.into(), "left, and \"right\"".into()]);
        table.rows.push(vec!["tail".into(), Cell::Empty, (-3.0).into()]);
        assert_eq!(table.csv(), "a,b,c\r\n'=1+1,0.25,\"left, and \"\"right\"\"\"\r\ntail,,-3\r\n");
    }
}
