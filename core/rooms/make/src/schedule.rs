//! When the steps are done: over the evenings that a person has, with glue and paint curing in between. A list schedule by
//! longest path, waiting included, then improved by exchanging steps.
//!
//! Times are minutes from the midnight with which the first day begins.

use crate::steps::Step;
use orthavis_model::document::{Build, Session, Weekday};
use orthavis_model::moment::{date_of, day_of};
use serde::Serialize;
use std::cmp::Ordering;
use std::collections::{BTreeMap, BinaryHeap};

const DAY: f64 = 1440.0;
const WEEK: f64 = 7.0 * DAY;
/// Orders that are tried after the first, and steps placed for all of them together: very many steps are laid once.
const TRIES: usize = 400;
const MOST_PLACED: usize = 25_000;
/// Nobody looks further ahead than this, weeks.
const MOST_WEEKS: f64 = 520.0;

/// One stretch of work at a step.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stretch {
    /// From, min.
    pub from: f64,
    /// To, min.
    pub to: f64,
}

/// A step in its place.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Placed {
    /// The step's id.
    pub step: String,
    /// Who does it, from 0.
    pub person: usize,
    /// When: more than one stretch where it is longer than any evening.
    pub at: Vec<Stretch>,
    /// When what follows may begin, min.
    pub ready: f64,
}

/// Something that has to be ordered in time.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OrderBy {
    /// Last day, as in `2026-11-27`.
    pub date: String,
    /// The first step that needs it.
    pub step: String,
    /// What.
    pub what: String,
}

/// A plan of the work.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WorkPlan))]
pub struct Plan {
    /// First day.
    pub begins: String,
    /// Minutes of the week, Monday's midnight first, of the evenings that it is laid over.
    pub evenings: Vec<[u32; 2]>,
    /// Whether those are the usual ones, because the person named none.
    pub usual: bool,
    /// How many people.
    pub people: usize,
    /// Steps in the order of their beginning.
    pub placed: Vec<Placed>,
    /// When the last step is done and nothing waits any more, min.
    pub ends: f64,
    /// Work in all, min.
    pub work: f64,
    /// What has to be ordered by when.
    pub order_by: Vec<OrderBy>,
}

/// What is known of the work: where it stands.
#[derive(Clone, Debug, Default)]
pub struct Standing {
    /// First day, where the build does not say; days from 1970-01-01.
    pub begins: i64,
    /// Now, min from its midnight.
    pub now: f64,
    /// Steps that are done, with when, min.
    pub done: BTreeMap<String, f64>,
}

/// A Friday evening, a Saturday and a Sunday: what people plan with who named nothing.
pub fn usual_sessions() -> Vec<Session> {
    let one = |weekday: Weekday, start: &str, minutes: u32| Session { weekday, start: start.into(), minutes };
    vec![
        one(Weekday::Friday, "18:30", 180),
        one(Weekday::Saturday, "10:00", 180),
        one(Weekday::Saturday, "14:00", 240),
        one(Weekday::Sunday, "10:00", 180),
        one(Weekday::Sunday, "14:00", 180),
    ]
}

/// The evenings, laid over the weeks from the first day on.
struct Evenings {
    /// Begin and end within the week, from the first day's midnight on, in order.
    spans: Vec<(f64, f64)>,
}

impl Evenings {
    fn new(sessions: &[Session], first_day: i64) -> Self {
        // 1970-01-01 was a Thursday, the fourth day.
        let offset = DAY * (first_day + 3).rem_euclid(7) as f64;
        let mut spans: Vec<(f64, f64)> = sessions
            .iter()
            .map(|session| {
                let (begins, ends) = session.span();
                let from = (f64::from(begins) - offset).rem_euclid(WEEK);
                (from, from + f64::from(ends - begins))
            })
            .collect();
        spans.sort_by(|a, b| a.0.total_cmp(&b.0));
        Evenings { spans }
    }

    fn longest(&self) -> f64 {
        self.spans.iter().map(|(from, to)| to - from).fold(0.0, f64::max)
    }

    /// Every evening that ends after a time, in order.
    fn after(&self, time: f64) -> impl Iterator<Item = (f64, f64)> + '_ {
        let week = ((time / WEEK).floor() - 1.0).max(0.0);
        (0..)
            .map(move |index| week + (index / self.spans.len()) as f64)
            .take_while(|week| *week < MOST_WEEKS)
            .enumerate()
            .map(move |(index, week)| {
                let (from, to) = self.spans[index % self.spans.len()];
                (week * WEEK + from, week * WEEK + to)
            })
            .filter(move |(_, to)| *to > time)
    }
}

/// A step as the schedule sees it.
struct Task {
    minutes: f64,
    wait: f64,
    after: Vec<usize>,
    /// Not before, min.
    from: f64,
}

/// One way of laying all tasks.
#[derive(Clone)]
struct Laid {
    /// Person, stretches and ready, by task.
    tasks: Vec<(usize, Vec<Stretch>, f64)>,
    ends: f64,
    sum: f64,
}

impl Laid {
    fn better(&self, other: &Laid) -> bool {
        self.ends < other.ends - 1e-6 || (self.ends < other.ends + 1e-6 && self.sum < other.sum - 1e-6)
    }
}

/// A task that may be laid: by priority, of two alike the earlier.
#[derive(PartialEq)]
struct Open(f64, usize);

impl Eq for Open {}

impl Ord for Open {
    fn cmp(&self, other: &Self) -> Ordering {
        self.0.total_cmp(&other.0).then(other.1.cmp(&self.1))
    }
}

impl PartialOrd for Open {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// Lays tasks one after another, each as early as its people and evenings allow.
fn lay(tasks: &[Task], evenings: &Evenings, people: usize, priority: &[f64]) -> Laid {
    let mut busy: Vec<Vec<(f64, f64)>> = vec![Vec::new(); people];
    let mut laid: Vec<Option<(usize, Vec<Stretch>, f64)>> = vec![None; tasks.len()];
    let (mut ends, mut sum) = (0.0f64, 0.0);
    let mut follows: Vec<Vec<usize>> = vec![Vec::new(); tasks.len()];
    for (index, task) in tasks.iter().enumerate() {
        for before in &task.after {
            follows[*before].push(index);
        }
    }
    let mut missing: Vec<usize> = tasks.iter().map(|task| task.after.len()).collect();
    let mut open: BinaryHeap<Open> = (0..tasks.len()).filter(|index| missing[*index] == 0).map(|index| Open(priority[index], index)).collect();
    while let Some(Open(_, next)) = open.pop() {
        let task = &tasks[next];
        let ready = task.after.iter().filter_map(|before| laid[*before].as_ref().map(|(.., ready)| *ready)).fold(task.from, f64::max);
        let best = (0..people).map(|person| (slot(&busy[person], evenings, ready, task.minutes), person)).min_by(|a, b| {
            let end = |at: &[Stretch]| at.last().map_or(f64::INFINITY, |last| last.to);
            end(&a.0).total_cmp(&end(&b.0)).then(a.1.cmp(&b.1))
        });
        let Some((at, person)) = best else { break };
        for stretch in &at {
            let place = busy[person].partition_point(|(from, _)| *from < stretch.from);
            busy[person].insert(place, (stretch.from, stretch.to));
        }
        let done = at.last().map_or(ready, |last| last.to);
        ends = ends.max(done + task.wait);
        sum += done;
        laid[next] = Some((person, at, done + task.wait));
        for after in &follows[next] {
            missing[*after] -= 1;
            if missing[*after] == 0 {
                open.push(Open(priority[*after], *after));
            }
        }
    }
    Laid { tasks: laid.into_iter().flatten().collect(), ends, sum }
}

/// The earliest free time of one person; a task longer than any evening goes on in the next ones.
fn slot(busy: &[(f64, f64)], evenings: &Evenings, ready: f64, minutes: f64) -> Vec<Stretch> {
    let whole = minutes <= evenings.longest();
    let mut left = minutes;
    let mut at = Vec::new();
    for (from, to) in evenings.after(ready) {
        let open = from.max(ready);
        let mut free = open;
        // They are in order and apart.
        let first = busy.partition_point(|(_, ends)| *ends <= open);
        let taken = busy[first..].iter().take_while(|(begins, _)| *begins < to);
        for (begins, ends) in taken.copied().chain([(to, to)]) {
            let room = begins.min(to) - free;
            if whole && room >= minutes - 1e-9 {
                return vec![Stretch { from: free, to: free + minutes }];
            }
            if !whole && room > 1e-9 {
                let part = room.min(left);
                at.push(Stretch { from: free, to: free + part });
                left -= part;
                if left <= 1e-9 {
                    return at;
                }
            }
            free = free.max(ends);
        }
    }
    at
}

/// How long the way from each task to the end is, its own work and all waiting included.
fn lengths(tasks: &[Task]) -> Vec<f64> {
    let mut long = vec![0.0f64; tasks.len()];
    // Every step stands after all that it waits for.
    for index in (0..tasks.len()).rev() {
        long[index] += tasks[index].minutes + tasks[index].wait;
        for before in &tasks[index].after {
            long[*before] = long[*before].max(long[index]);
        }
    }
    long
}

/// The best order that is found: longest way first, then whatever exchange of two makes it end sooner.
fn best(tasks: &[Task], evenings: &Evenings, people: usize) -> Laid {
    let mut priority = lengths(tasks);
    let mut found = lay(tasks, evenings, people, &priority);
    let mut bits = 0x9e37_79b9_7f4a_7c15u64;
    let mut pick = |below: usize| {
        bits ^= bits << 13;
        bits ^= bits >> 7;
        bits ^= bits << 17;
        (bits % below.max(1) as u64) as usize
    };
    if tasks.len() < 2 {
        return found;
    }
    for _ in 0..TRIES.min(MOST_PLACED / tasks.len()) {
        let (a, b) = (pick(tasks.len()), pick(tasks.len()));
        if a == b {
            continue;
        }
        priority.swap(a, b);
        let tried = lay(tasks, evenings, people, &priority);
        if tried.better(&found) {
            found = tried;
        } else if found.better(&tried) {
            priority.swap(a, b);
        }
    }
    found
}

/// Lays the steps that are not done over the evenings of a build.
pub fn plan(build: &Build, steps: &[Step], standing: &Standing) -> Plan {
    let make = build.make.clone().unwrap_or_default();
    let usual = make.sessions.is_empty();
    let sessions = if usual { usual_sessions() } else { make.sessions.clone() };
    let first = make.begins.as_deref().and_then(day_of).unwrap_or(standing.begins);
    let people = make.people.unwrap_or(1) as usize;
    let evenings = Evenings::new(&sessions, first);
    let open: Vec<&Step> = steps.iter().filter(|step| !standing.done.contains_key(&step.id)).collect();
    let place: BTreeMap<&str, usize> = open.iter().enumerate().map(|(index, step)| (step.id.as_str(), index)).collect();
    let by_id: BTreeMap<&str, &Step> = steps.iter().map(|step| (step.id.as_str(), step)).collect();
    let waits = |step: &Step| step.wait.as_ref().map_or(0.0, |wait| wait.minutes);
    let tasks: Vec<Task> = open
        .iter()
        .map(|step| {
            // What was done still cures from when it was done.
            let cured = step.after.iter().filter_map(|before| Some(standing.done.get(before)? + waits(by_id.get(before.as_str())?)));
            Task {
                minutes: step.minutes,
                wait: waits(step),
                after: step.after.iter().filter_map(|before| place.get(before.as_str()).copied()).collect(),
                from: cured.fold(standing.now.max(0.0), f64::max),
            }
        })
        .collect();
    let laid = best(&tasks, &evenings, people);
    let mut placed: Vec<Placed> = open.iter().zip(laid.tasks).map(|(step, (person, at, ready))| Placed { step: step.id.clone(), person, at, ready }).collect();
    placed.sort_by(|a, b| {
        let begins = |one: &Placed| one.at.first().map_or(0.0, |first| first.from);
        begins(a).total_cmp(&begins(b)).then(a.person.cmp(&b.person))
    });
    let mut order_by = orders(&placed, &by_id, first, i64::from(make.delivery_days.unwrap_or(5)));
    // What should have been ordered already is ordered today.
    let today = date_of(standing.begins);
    order_by.iter_mut().filter(|one| one.date < today).for_each(|one| one.date.clone_from(&today));
    let mut spans: Vec<[u32; 2]> = sessions.iter().map(|session| session.span()).map(|(from, to)| [from, to]).collect();
    spans.sort_unstable();
    Plan {
        begins: date_of(first),
        evenings: spans,
        usual,
        people,
        ends: placed.iter().map(|one| one.ready).fold(0.0, f64::max),
        work: open.iter().map(|step| step.minutes).sum(),
        placed,
        order_by,
    }
}

/// For each material the first step that needs it, and the last day to order it.
fn orders(placed: &[Placed], by_id: &BTreeMap<&str, &Step>, first_day: i64, delivery: i64) -> Vec<OrderBy> {
    let mut seen = std::collections::BTreeSet::new();
    let mut all = Vec::new();
    for one in placed {
        let (Some(step), Some(begins)) = (by_id.get(one.step.as_str()), one.at.first()) else { continue };
        let day = first_day + (begins.from / DAY).floor() as i64;
        for what in &step.materials {
            if seen.insert(what.clone()) {
                all.push(OrderBy { date: date_of(day - delivery), step: one.step.clone(), what: what.clone() });
            }
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every order that is allowed, each laid as early as it goes.
    fn exact(tasks: &[Task], evenings: &Evenings, people: usize) -> f64 {
        fn walk(order: &mut Vec<usize>, tasks: &[Task], evenings: &Evenings, people: usize, best: &mut f64) {
            if order.len() == tasks.len() {
                let mut priority = vec![0.0; tasks.len()];
                for (rank, index) in order.iter().enumerate() {
                    priority[*index] = -(rank as f64);
                }
                *best = best.min(lay(tasks, evenings, people, &priority).ends);
                return;
            }
            for index in 0..tasks.len() {
                if !order.contains(&index) && tasks[index].after.iter().all(|before| order.contains(before)) {
                    order.push(index);
                    walk(order, tasks, evenings, people, best);
                    order.pop();
                }
            }
        }
        let mut best = f64::INFINITY;
        walk(&mut Vec::new(), tasks, evenings, people, &mut best);
        best
    }

    #[test]
    fn small_plans_are_within_a_twentieth_of_the_best_of_all_orders() {
        let evenings = Evenings::new(&usual_sessions(), 20_784);
        let mut bits = 7u64;
        let mut pick = |below: u64| {
            bits ^= bits << 13;
            bits ^= bits >> 7;
            bits ^= bits << 17;
            bits % below
        };
        let (mut worst, mut same) = (1.0f64, 0);
        for case in 0..60 {
            let count = 4 + case % 4;
            let tasks: Vec<Task> = (0..count)
                .map(|index| Task {
                    minutes: 10.0 + pick(150) as f64,
                    wait: [0.0, 0.0, 60.0, 360.0, 1440.0][pick(5) as usize],
                    after: (0..index).filter(|_| pick(3) == 0).collect(),
                    from: 0.0,
                })
                .collect();
            let people = 1 + case % 2;
            let (ours, theirs) = (best(&tasks, &evenings, people).ends, exact(&tasks, &evenings, people));
            worst = worst.max(ours / theirs);
            same += usize::from(ours <= theirs + 1e-6);
        }
        println!("worst {worst:.4}, {same} of 60 as good as the best");
        assert!(worst <= 1.05, "{worst}");
        assert!(same >= 55);
    }

    #[test]
    fn evenings_come_in_the_order_of_the_days() {
        // 2026-11-27 is a Friday.
        let evenings = Evenings::new(&usual_sessions(), day_of("2026-11-27").expect("a day"));
        let first: Vec<(f64, f64)> = evenings.after(0.0).take(6).collect();
        assert_eq!(first[0], (18.5 * 60.0, 21.5 * 60.0));
        assert_eq!(first[1], (DAY + 600.0, DAY + 780.0));
        assert_eq!(first[5], (7.0 * DAY + 18.5 * 60.0, 7.0 * DAY + 21.5 * 60.0));
        assert_eq!(evenings.after(DAY).next(), Some(first[1]));
    }
}
