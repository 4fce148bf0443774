//! Stages of a command: each says what it does, how long that usually takes and how far it is. What the programs beneath
//! print is kept, and shown whole only when one fails.

use std::fmt::Write as _;
use std::io::{BufReader, IsTerminal, Read, Write};
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

/// How often a log that nobody overwrites hears how far a stage is.
const WORD: Duration = Duration::from_secs(60);
/// How often a terminal does.
const TICK: Duration = Duration::from_millis(200);
/// Characters of a bar.
const BAR: usize = 24;

/// What is under way, in the order in which it began.
static UNDER_WAY: Mutex<Vec<Arc<Stage>>> = Mutex::new(Vec::new());

/// The programs of all stages, so that what runs beside a server can end with it.
static CHILDREN: Mutex<Vec<Arc<Mutex<Child>>>> = Mutex::new(Vec::new());

/// Set once everything is to end.
static ENDED: AtomicBool = AtomicBool::new(false);

/// [`run`] or [`run_beside`].
pub type Run = fn(&str, u64, &mut Command) -> Result<(), String>;

struct Stage {
    what: String,
    usual: u64,
    began: Instant,
    far: Mutex<Far>,
    over: Condvar,
}

/// How far a stage is.
#[derive(Default)]
struct Far {
    /// Of how many, where whoever works counts.
    count: Option<(usize, usize)>,
    /// What it is at.
    at: String,
    over: bool,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// As in `45 s` or `4 min 5 s`.
pub fn span(seconds: u64) -> String {
    match (seconds / 60, seconds % 60) {
        (0, seconds) => format!("{seconds} s"),
        (minutes, 0) => format!("{minutes} min"),
        (minutes, seconds) => format!("{minutes} min {seconds} s"),
    }
}

impl Stage {
    fn line(&self) -> String {
        let far = lock(&self.far);
        let mut line = self.what.clone();
        if let Some((done, all)) = far.count {
            let full = BAR * done / all.max(1);
            let _ = write!(line, " [{}{}] {done} of {all}", "=".repeat(full), " ".repeat(BAR - full));
        }
        if !far.at.is_empty() {
            let _ = write!(line, " {}", far.at);
        }
        let _ = write!(line, ", {} of usually {}", span(self.began.elapsed().as_secs()), span(self.usual));
        line
    }
}

/// The line at the foot of a terminal, which the next overwrites.
fn draw(stages: &[Arc<Stage>]) {
    let text = stages.iter().map(|stage| stage.line()).collect::<Vec<_>>().join("  ·  ");
    let width = std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok()).unwrap_or(120_usize);
    let shown: String = text.chars().take(width.saturating_sub(1)).collect();
    let mut out = std::io::stderr().lock();
    let _ = write!(out, "\r\x1b[2K{shown}").and_then(|()| out.flush());
}

fn say(line: &str) {
    let under_way = lock(&UNDER_WAY);
    if std::io::stderr().is_terminal() {
        eprintln!("\r\x1b[2K{line}");
        if !under_way.is_empty() {
            draw(&under_way);
        }
    } else {
        eprintln!("{line}");
    }
}

/// What a line of Cargo's says of how far it is: `Building [===>   ] 12/217: serde, axum`.
fn counted(line: &str) -> Option<(usize, usize)> {
    let (_, after) = line.rsplit_once("] ")?;
    let (done, rest) = after.split_once('/')?;
    let all = rest.split(|letter: char| !letter.is_ascii_digit()).next()?;
    Some((done.trim().parse().ok()?, all.parse().ok()?))
}

/// What a line says of what is worked at: a program of tests that begins.
fn begun(line: &str) -> Option<&str> {
    let name = line.trim().strip_prefix("Running ")?;
    Some(name.split(" (").next().unwrap_or(name))
}

fn listen(from: impl Read, stage: &Stage, kept: &Mutex<Vec<u8>>) {
    let mut from = BufReader::new(from);
    let mut piece = Vec::new();
    // A bar is drawn over itself: its pieces end with a carriage return, a log's with a line feed.
    let mut next = [0];
    while matches!(from.read(&mut next), Ok(1)) {
        piece.push(next[0]);
        if next[0] != b'\n' && next[0] != b'\r' {
            continue;
        }
        let text = String::from_utf8_lossy(&piece).into_owned();
        if let Some(count) = counted(&text) {
            lock(&stage.far).count = Some(count);
        } else {
            if let Some(name) = begun(&text) {
                lock(&stage.far).at = name.to_owned();
            }
            lock(kept).extend_from_slice(&piece);
        }
        piece.clear();
    }
    lock(kept).extend_from_slice(&piece);
}

/// Runs one command as a stage: `what` it does and how many seconds that `usual`ly takes on two cores.
///
/// # Errors
/// All that the command printed, when it fails.
pub fn run(what: &str, usual: u64, command: &mut Command) -> Result<(), String> {
    run_as(what, usual, command, true)
}

/// The same beside something else that speaks: says when it begins and when it is over, and nothing between.
///
/// # Errors
/// As [`run`].
pub fn run_beside(what: &str, usual: u64, command: &mut Command) -> Result<(), String> {
    run_as(what, usual, command, false)
}

fn run_as(what: &str, usual: u64, command: &mut Command, drawn: bool) -> Result<(), String> {
    if ENDED.load(Ordering::Relaxed) {
        return Err(format!("{what}: not begun, since something else failed"));
    }
    let stage = Arc::new(Stage { what: what.to_owned(), usual, began: Instant::now(), far: Mutex::default(), over: Condvar::new() });
    say(&format!("· {what}, usually {}", span(usual)));
    let beat = drawn.then(|| {
        lock(&UNDER_WAY).push(stage.clone());
        let stage = stage.clone();
        std::thread::spawn(move || keep_saying(&stage))
    });
    let outcome = listened(command, &stage);
    lock(&stage.far).over = true;
    stage.over.notify_all();
    lock(&UNDER_WAY).retain(|other| !Arc::ptr_eq(other, &stage));
    drop(beat.map(std::thread::JoinHandle::join));
    let took = span(stage.began.elapsed().as_secs());
    match outcome {
        Ok(()) => {
            say(&format!("  done in {took}: {what}"));
            Ok(())
        }
        Err(said) => {
            say(&format!("  failed after {took}: {what}"));
            Err(format!("{what}: this command failed\n\n{said}"))
        }
    }
}

/// Ends every stage that is under way; none begins after it.
pub fn end_all() {
    ENDED.store(true, Ordering::Relaxed);
    for child in lock(&CHILDREN).iter() {
        // One that is just over is as good as ended.
        drop(lock(child).kill());
    }
}

fn keep_saying(stage: &Stage) {
    let drawn = std::io::stderr().is_terminal();
    let mut far = lock(&stage.far);
    while !far.over {
        let (after, waited) = stage.over.wait_timeout(far, if drawn { TICK } else { WORD }).unwrap_or_else(PoisonError::into_inner);
        far = after;
        if far.over || !waited.timed_out() {
            continue;
        }
        drop(far);
        if drawn {
            draw(&lock(&UNDER_WAY));
        } else {
            eprintln!("  {}", stage.line());
        }
        far = lock(&stage.far);
    }
}

fn listened(command: &mut Command, stage: &Stage) -> Result<(), String> {
    let line = format!("{command:?}");
    // Cargo draws its bar for terminals only, unless it is told how wide one would be.
    command.env("CARGO_TERM_PROGRESS_WHEN", "always").env("CARGO_TERM_PROGRESS_WIDTH", "100");
    let spawned = command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn();
    let mut child = spawned.map_err(|error| format!("{line}\n{error}. Install it and try again."))?;
    let kept = Mutex::new(Vec::new());
    let (out, err) = (child.stdout.take(), child.stderr.take());
    let child = Arc::new(Mutex::new(child));
    lock(&CHILDREN).push(child.clone());
    std::thread::scope(|scope| {
        scope.spawn(|| out.map(|out| listen(out, stage, &kept)));
        scope.spawn(|| err.map(|err| listen(err, stage, &kept)));
    });
    // Both its mouths are shut: it is over, or will be at once.
    let status = lock(&child).wait();
    lock(&CHILDREN).retain(|other| !Arc::ptr_eq(other, &child));
    let status = status.map_err(|error| format!("{line}\n{error}"))?;
    let said = kept.into_inner().unwrap_or_else(PoisonError::into_inner);
    if status.success() { Ok(()) } else { Err(format!("{}\n\n{line}: {status}", String::from_utf8_lossy(&said))) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn spans_read_as_people_say_them() {
        for (seconds, words) in [(0, "0 s"), (59, "59 s"), (60, "1 min"), (425, "7 min 5 s")] {
            assert_eq!(span(seconds), words);
        }
    }

    #[test]
    fn a_bar_of_the_compiler_is_read() {
        for (line, count) in [
            ("    Building [=====>        ] 12/217: serde, axum\r", Some((12, 217))),
            ("    Building [=============>] 216/217: orthavis(bin)", Some((216, 217))),
            ("   Compiling axum v0.8.9", None),
            ("warning: unused import [see] a/b", None),
        ] {
            assert_eq!(counted(line), count, "{line}");
        }
        assert_eq!(begun("     Running tests/browser.rs (target/debug/deps/browser-1)\n"), Some("tests/browser.rs"));
        assert_eq!(begun("test result: ok"), None);
    }

    #[test]
    fn what_fails_says_all_and_what_does_not_says_nothing() {
        let shell = |script: &str| run("a shell", 1, Command::new("sh").args(["-c", script]));
        assert_eq!(shell("echo fine; echo odd >&2"), Ok(()));
        let said = shell("echo first; echo second >&2; exit 3").unwrap_err();
        assert!(said.contains("first") && said.contains("second") && said.contains('3'), "{said}");
        let missing = run("nobody", 1, &mut Command::new("no-such-program-anywhere")).unwrap_err();
        assert!(missing.contains("Install it"), "{missing}");
    }
}
