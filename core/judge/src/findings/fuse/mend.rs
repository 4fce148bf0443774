//! What mends a fuse: another, thicker wire behind it, one at the branch.

use super::super::case::*;
use super::{flies_by, rush_a};
use orthavis_model::document::{FeedRef, Fuse, FuseStyle, Gauge, Junction};
use orthavis_model::edit::{feed_mut, free_id, plain_feed};
use orthavis_model::laws::fuse::PROMPT_MULTIPLE;
use orthavis_model::practice::COLD_FILAMENT;
use orthavis_model::topology::Topology;
use orthavis_model::working::{counted, plain};
use orthavis_physics::protection::{fault_a, protected, seat};

/// Largest fuse that the wires and switches behind it allow, A.
fn ceiling(build: &Build, zone: &[FeedRef<'_>]) -> f64 {
    zone.iter()
        .map(|f| {
            let switch = f.feed.switch.as_ref().map_or(f64::MAX, |s| s.rating_a);
            let contact = f.feed.contact_rating_a.filter(|_| f.feed.contacts > 0).unwrap_or(f64::MAX);
            build.ampacity_a(f).min(switch).min(contact)
        })
        .fold(f64::MAX, f64::min)
}

/// Makes every wire of a zone thick enough for a fuse.
fn grow(build: &mut Build, zone: &[FeedRef<'_>], rating_a: f64) -> Option<()> {
    for wire in zone {
        let share = build.heat_share(wire.consumer);
        let feed = feed_mut(build, &wire.id)?;
        let carries = |gauge: &Gauge| within(rating_a, gauge.ampacity_a(feed.bundled) * share);
        if !carries(&feed.gauge) {
            feed.gauge = feed.gauge.thicker().into_iter().find(carries)?;
        }
    }
    Some(())
}

pub(super) fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if matches!(finding.code, "fuse.far" | "fuse.minus") {
        return super::seated::mend(case, finding);
    }
    if !finding.code.starts_with("fuse.") {
        return Vec::new();
    }
    let Some(wire) = case.graph.wire(&finding.subject) else { return Vec::new() };
    let feed = case.graph.feed(wire);
    if finding.code == "fuse.missing" && flies_by(case.build, feed) {
        return Vec::new();
    }
    let current = case.worst_current(&feed.id).map_or(0.0, |(current, _)| current);
    let zone = case.graph.named(protected(&case.graph, wire));
    let limit = ceiling(case.build, &zone);
    let style = feed.feed.fuse.as_ref().map_or(FuseStyle::Blade, |fuse| fuse.style);
    let fault = zone.iter().map(|f| fault_a(&case.graph, f.feed)).fold(f64::MAX, f64::min);
    let verb = if feed.feed.fuse.is_some() { "Use" } else { "Add" };
    let set = |build: &mut Build, style: FuseStyle, rating_a: f64| -> Option<()> {
        let fuse = &mut feed_mut(build, &feed.id)?.fuse;
        // Where it sits stays as it was.
        *fuse = Some(Fuse { style, rating_a, ..fuse.clone().unwrap_or_else(|| Fuse::of(style, rating_a)) });
        Some(())
    };

    let mut proposals = Vec::new();
    if finding.code == "fuse.inrush" {
        let cold = rush_a(case, wire);
        let holds = |rating_a: &f64| Fuse::of(style, *rating_a).opens_s(cold).is_none_or(|[soonest, _]| soonest >= COLD_FILAMENT.1);
        if let Some(rating) = style.ratings_a().iter().copied().find(holds) {
            let thicker = if rating > limit { ", and thicker wire" } else { "" };
            proposals.extend(propose(case.build, format!("Use a {} {}{thicker}", plain(rating, "A"), style.name()), |copy| {
                grow(copy, &zone, rating)?;
                set(copy, style, rating)
            }));
        }
        return proposals;
    }
    let seat = seat(&case.graph, feed.feed);
    // The style that is there, then what is usual at this place; never one that cannot do it.
    let present = feed.feed.fuse.as_ref().map(|fuse| fuse.style);
    let breaking = finding.code == "fuse.breaking";
    // What a style breaks is the same for every rating of it.
    let least = feed.feed.fuse.as_ref().map_or(0.0, |fuse| fuse.rating_a);
    let as_large = |style: FuseStyle| style.ratings_a().iter().copied().find(|rating| within(least, *rating));
    let fuses = seat.fuses(present, |style| if breaking { as_large(style) } else { style.smallest_for(current) });
    for Fuse { style, rating_a: rating, .. } in fuses.into_iter().filter(|fuse| !breaking || Some(fuse.style) != present) {
        let title = format!("{verb} a {} {}", plain(rating, "A"), style.name());
        if rating <= limit && fault >= PROMPT_MULTIPLE * rating {
            proposals.extend(propose(case.build, title.clone(), |copy| set(copy, style, rating)));
        } else if rating > limit {
            // No fuse fits the wires there are: they grow first.
            proposals.extend(propose(case.build, format!("{title}, and thicker wire"), |copy| {
                grow(copy, &zone, rating)?;
                set(copy, style, rating)
            }));
        } else {
            proposals.extend(propose(case.build, title, |copy| set(copy, style, rating)));
        }
    }
    if let ("fuse.above_wire", Some(fuse)) = (finding.code, &feed.feed.fuse) {
        proposals.extend(propose(case.build, format!("Use thicker wire behind the {} fuse", plain(fuse.rating_a, "A")), |copy| {
            grow(copy, &zone, fuse.rating_a)?;
            Some(())
        }));
        proposals.splice(0..0, branch_fuses(case, &zone, fuse.rating_a));
    }
    if finding.code == "fuse.slow" && feed.feed.from != "source" {
        // The converter's limit already keeps the fault below what the wires carry: a fuse adds only its own drop.
        proposals.extend(propose(case.build, "Leave the fuse out: the supply's limit protects these wires", |copy| {
            (fault <= limit).then_some(())?;
            feed_mut(copy, &feed.id)?.fuse = None;
            Some(())
        }));
    }
    if finding.code == "fuse.slow" {
        proposals.extend((1..=4).filter_map(|steps| {
            propose(case.build, format!("Use wire {steps} sizes thicker"), |copy| {
                for id in zone.iter().map(|f| f.id.clone()) {
                    let feed = feed_mut(copy, &id)?;
                    feed.gauge = feed.gauge.thicker().into_iter().take(steps).next_back()?;
                }
                Some(())
            })
        }));
    }
    if finding.code == "fuse.odd_rating" {
        let wanted = feed.feed.fuse.as_ref().map_or(current, |fuse| fuse.rating_a);
        let mut standard: Vec<f64> = style.ratings_a().to_vec();
        standard.sort_by(|a, b| (a - wanted).abs().total_cmp(&(b - wanted).abs()));
        proposals.splice(
            0..0,
            standard
                .into_iter()
                .take(2)
                .filter_map(|rating| propose(case.build, format!("Use a {} {}", plain(rating, "A"), style.name()), |copy| set(copy, style, rating))),
        );
    }
    proposals
}

/// One fused junction at the battery for all branches that have no fuse: one holder in place of many.
pub(super) fn one_junction(case: &Case<'_>, findings: &[&Finding]) -> Vec<Proposal> {
    let build = case.build;
    let all = build.feeds();
    let feeds: Vec<&FeedRef<'_>> = all.iter().filter(|feed| findings.iter().any(|finding| finding.subject == feed.id)).collect();
    if findings[0].code != "fuse.missing" || feeds.iter().any(|feed| feed.feed.from != "source") {
        return Vec::new();
    }
    // What they carry together at the same time.
    let together = case.worst_peak(|point| Some(feeds.iter().filter_map(|feed| point.feeds.get(&feed.id)).map(|feed| feed.current_a.abs()).sum()));
    let Some((current, _)) = together else { return Vec::new() };
    let proposal = propose(build, "", |copy| {
        let id = free_id(copy, "fuse-block");
        let mut trunk = plain_feed("source", 0.15, feeds[0].feed.gauge);
        let seat = seat(&Topology::of(copy), &trunk);
        let fuse = seat.best(current)?;
        let sizes = std::iter::once(trunk.gauge).chain(trunk.gauge.thicker());
        trunk.gauge = sizes.into_iter().find(|gauge| within(fuse.rating_a, gauge.ampacity_a(trunk.bundled)))?;
        trunk.fuse = Some(fuse.clone());
        for feed in &feeds {
            grow(copy, std::slice::from_ref(*feed), fuse.rating_a)?;
            feed_mut(copy, &feed.id)?.from.clone_from(&id);
        }
        copy.junctions.push(Junction { id, feed: trunk });
        Some(())
    });
    let Some(mut proposal) = proposal else { return Vec::new() };
    let rating = proposal.build.junctions.last().and_then(|j| j.feed.fuse.as_ref()).map_or(0.0, |fuse| fuse.rating_a);
    proposal.title = format!("One {} fuse for all {}, through one terminal block", plain(rating, "A"), counted(feeds.len() as f64, "wire"));
    vec![proposal]
}

/// A fuse of its own for every branch that is too thin for the fuse before it.
fn branch_fuses(case: &Case<'_>, zone: &[FeedRef<'_>], rating_a: f64) -> Option<Proposal> {
    let thin: Vec<_> = zone.iter().skip(1).filter(|f| case.build.ampacity_a(f) < rating_a).collect();
    let names: Vec<&str> = thin.iter().map(|f| f.id.as_str()).collect();
    propose(case.build, format!("Fuse {} at the branch", names.join(" and ")), |copy| {
        for feed in &thin {
            let current = case.worst_current(&feed.id)?.0;
            let ampacity = case.build.ampacity_a(feed);
            let rating_a = FuseStyle::Blade.smallest_for(current).filter(|rating| *rating <= ampacity)?;
            feed_mut(copy, &feed.id)?.fuse = Some(Fuse::of(FuseStyle::Blade, rating_a));
        }
        (!thin.is_empty()).then_some(())
    })
}
